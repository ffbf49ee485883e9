"""What steps write beside a class so that another can take it: adapters, holders of data, interfaces of factories."""

from __future__ import annotations

import msgspec

from isodesm.facts.records import Member
from isodesm.planning.model.abstraction import Abstraction
from isodesm.planning.model.code import AdapterMember, Need, Signature


class StaticGateway(msgspec.Struct, frozen=True):
    """What stands for the static members of a type: an abstraction, and the class that passes on, with its file.

    `written` are the names of states that somebody sets through it.
    """

    abstraction: Abstraction
    adapter: str
    adapter_path: str
    written: frozenset[str]
    existing: int = -1
    """The class that passes on where the tree has one already."""


class OutsideCall(msgspec.Struct, frozen=True):
    """One call of something outside: where its head ends in code (`head` bytes behind its start), and the member of the
    gateway that it becomes."""

    span: tuple[int, int]
    head: int
    passing: AdapterMember
    needs: tuple[Need, ...]
    result_needs: tuple[Need, ...]
    library: str = ""
    """What is called, by its qualified name: two modules may have a function of one name."""


class ExternalGateway(msgspec.Struct, frozen=True):
    """A gateway around what a class calls outside: its interface, the class that does it, and the calls that it is for."""

    number: int
    abstraction: Abstraction
    adapter: str
    adapter_path: str
    adapter_home: str
    effect: str
    calls: tuple[OutsideCall, ...]


class DataHolder(msgspec.Struct, frozen=True):
    """A class that keeps the data of another (`number`): its name, where it lives, and what it keeps, as code."""

    number: int
    name: str
    path: str
    home: str
    member: Member
    value: str
    needs: tuple[Need, ...]

    @property
    def effect(self) -> str:
        """What tells it apart from others of its class."""
        return f"data of {self.member.name}"


class FactoryInterface(msgspec.Struct, frozen=True):
    """An interface whose one method makes an object of a class (`number`): its name, where it lives, the method."""

    number: int
    name: str
    path: str
    home: str
    signature: Signature
    needs: tuple[Need, ...]

    @property
    def effect(self) -> str:
        """What tells it apart from others of its class."""
        return "maker"
