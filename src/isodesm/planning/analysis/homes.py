"""What stands for a class in the signatures of its users."""

from __future__ import annotations

from pathlib import PurePosixPath
from typing import Any

import msgspec

from isodesm.facts.records import DeclaredType, Member
from isodesm.planning.language import Need, Typed

NEW, CONCRETE = -1, -2
"""Numbers of abstractions that are no type of the tree: yet to be extracted; none, so that the class itself is asked for."""


class Abstraction(msgspec.Struct, frozen=True):
    """What stands for a target in signatures: a type of the tree (`number`), one to be extracted, or the class itself.

    `beside` is the type whose folder it lives in, `members` what it declares, by (type that declares it, member).
    """

    name: str
    home: str
    number: int
    beside: int = -1
    members: tuple[tuple[int, Member], ...] = ()
    users: int = 0
    path: str = ""
    member: str = ""
    """What its module hands it out as, where that is another name."""
    lacks: bool = False
    """Whether it is a type of the tree that has to be given its `members` first."""

    @property
    def typed(self) -> Typed:
        return Typed(
            self.name,
            (Need(self.name.partition("<")[0].partition(".")[0], self.home, member=self.member),) if self.home else (),
        )


def only_declares(declared: DeclaredType) -> bool:
    """Whether no method of a class does anything, so that it is an abstraction in a language that marks none."""
    methods = [member for member in declared.members if member.kind == "method"]
    return bool(methods) and all(member.body != (0, 0) and not member.statements for member in methods)


def unit_of(shop: Any, number: int) -> str:
    """The part of the tree that is built by itself and holds a type: where its packages begin, else the topmost folder."""
    path, package = PurePosixPath(shop.path(number)), shop.symbols.files[shop.symbols.file_of[number]].package
    inner = package.replace(".", "/") if shop.language(number) == "java" else ""
    folder = str(path.parent)
    if inner and (folder == inner or folder.endswith(f"/{inner}")):
        return folder[: len(folder) - len(inner)].rstrip("/")
    return path.parts[0] if len(path.parts) > 1 else ""


def module_home(shop: Any, target: int, home: str, path: str) -> str:
    """Where a new type beside a target is imported from: its own module, in languages that go by modules."""
    if home.startswith("/"):
        return "/" + path.removesuffix(".ts")
    if shop.symbols.dialect(target).style != "modules":
        return home
    package = home.rpartition(".")[0] if not shop.path(target).endswith("__init__.py") else home
    return f"{package}.{path.rpartition('/')[2].removesuffix('.py')}".lstrip(".")
