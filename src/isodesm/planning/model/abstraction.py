"""What stands for a class in the signatures of its users."""

from __future__ import annotations

from enum import IntEnum

import msgspec

from isodesm.facts.records import Member
from isodesm.planning.model.code import Need, Typed


class NoType(IntEnum):
    """What stands for the number of an abstraction that is no type of the tree."""

    NEW = -1
    """It is yet to be extracted."""
    CONCRETE = -2
    """There is none: the class itself is asked for."""


NEW, CONCRETE = NoType


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
            (Need(self.name.partition("<")[0].partition(".")[0], self.home, member=self.member),),
        )
