"""What stands for a class in the signatures of its users."""

from __future__ import annotations

from pathlib import PurePosixPath

from isodesm.facts.records import DeclaredType
from isodesm.planning.analysis.sources import Sources


def only_declares(declared: DeclaredType) -> bool:
    """Whether no method of a class does anything, so that it is an abstraction in a language that marks none."""
    methods = [member for member in declared.members if member.kind == "method"]
    return bool(methods) and all(member.body != (0, 0) and not member.statements for member in methods)


def unit_of(sources: Sources, number: int) -> str:
    """The part of the tree that is built by itself and holds a type: where its packages begin, else the topmost folder."""
    path, package = PurePosixPath(sources.path(number)), sources.symbols.files[sources.symbols.file_of[number]].package
    inner = package.replace(".", "/") if sources.language(number).packages_are_folders else ""
    folder = str(path.parent)
    if inner and (folder == inner or folder.endswith(f"/{inner}")):
        return folder[: len(folder) - len(inner)].rstrip("/")
    return path.parts[0] if len(path.parts) > 1 else ""


def module_home(sources: Sources, target: int, home: str, path: str) -> str:
    """Where a new type beside a target is imported from: its own module, in languages that go by modules."""
    if home.startswith("/"):
        return "/" + path.removesuffix(".ts")
    if sources.symbols.dialect(target).style != "modules":
        return home
    package = home.rpartition(".")[0] if not sources.path(target).endswith("__init__.py") else home
    return f"{package}.{path.rpartition('/')[2].removesuffix('.py')}".lstrip(".")
