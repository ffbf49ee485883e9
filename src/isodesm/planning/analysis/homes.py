"""What stands for a class in the signatures of its users."""

from __future__ import annotations

from pathlib import PurePosixPath
from typing import Any

from isodesm.facts.records import DeclaredType


def only_declares(declared: DeclaredType) -> bool:
    """Whether no method of a class does anything, so that it is an abstraction in a language that marks none."""
    methods = [member for member in declared.members if member.kind == "method"]
    return bool(methods) and all(member.body != (0, 0) and not member.statements for member in methods)


def unit_of(context: Any, number: int) -> str:
    """The part of the tree that is built by itself and holds a type: where its packages begin, else the topmost folder."""
    path, package = PurePosixPath(context.path(number)), context.symbols.files[context.symbols.file_of[number]].package
    inner = package.replace(".", "/") if context.language(number) == "java" else ""
    folder = str(path.parent)
    if inner and (folder == inner or folder.endswith(f"/{inner}")):
        return folder[: len(folder) - len(inner)].rstrip("/")
    return path.parts[0] if len(path.parts) > 1 else ""


def module_home(context: Any, target: int, home: str, path: str) -> str:
    """Where a new type beside a target is imported from: its own module, in languages that go by modules."""
    if home.startswith("/"):
        return "/" + path.removesuffix(".ts")
    if context.symbols.dialect(target).style != "modules":
        return home
    package = home.rpartition(".")[0] if not context.path(target).endswith("__init__.py") else home
    return f"{package}.{path.rpartition('/')[2].removesuffix('.py')}".lstrip(".")
