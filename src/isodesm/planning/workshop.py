"""What all techniques share while a plan is made: the codebase, who creates whom, and how far each class has come."""

from __future__ import annotations

from collections import defaultdict

import msgspec

from isodesm.codebase.bonds import KIND_NUMBER
from isodesm.codebase.model import Codebase
from isodesm.facts.records import Member, Parameter
from isodesm.planning.naming import Habit, interface_name, measure_habit, variable_name
from isodesm.planning.pairs import Pair, delegates
from isodesm.planning.signatures import creation_text

NEW, OUTSIDE = -1, -2
"""Numbers of abstractions that are no type of the tree: yet to be extracted, or declared in a library."""


class Abstraction(msgspec.Struct, frozen=True):
    """What stands for a target in signatures: a type of the tree (`number`), one to be extracted, or a library's."""

    name: str
    package: str
    number: int
    members: tuple[Member, ...] = ()
    users: int = 0


class Injected(msgspec.Struct, frozen=True):
    """A dependency that a class takes through its constructor after its step."""

    type_name: str
    parameter: str
    creation: str
    target: int


class Creator(msgspec.Struct, frozen=True):
    """A place that creates a class; `root` says that this is its job."""

    source: int
    file: int
    line: int
    site: int
    root: bool
    test: bool


class Workshop:
    """Mutable only in what has been planned so far: `injected`, `extracted`, `bridged`."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase, self.symbols = codebase, codebase.symbols
        self.habit: Habit = measure_habit(codebase)
        self.injected: dict[int, list[Injected]] = defaultdict(list)
        self.extracted: dict[int, Abstraction] = {}
        self.bridged: set[int] = set()
        self.creators: dict[int, list[Creator]] = defaultdict(list)
        self._collect_creators()

    def _collect_creators(self) -> None:
        table, roles = self.codebase.bonds, self.codebase.roles
        for row in table.rows_of_kind("creation"):
            source, target, member = table.source[row], table.target[row], table.source_member[row]
            if target < 0:
                continue
            declared = self.symbols.types[source]
            starts = member >= 0 and declared.members[member].name == "main" and declared.members[member].is_static
            role = roles.name(source)
            self.creators[target].append(Creator(
                source=source, file=table.file[row], line=table.line[row], site=table.site[row],
                root=role == "composition-root" or (starts and role != "test"), test=role == "test",
            ))  # fmt: skip

    # --- names ----------------------------------------------------------------------------

    def name(self, number: int) -> str:
        """Simple name of a type."""
        return self.symbols.types[number].name

    def package(self, number: int) -> str:
        return self.symbols.files[self.symbols.file_of[number]].package

    def file(self, number: int) -> str:
        return self.symbols.path(number)

    # --- abstractions ---------------------------------------------------------------------

    def used_members(self, target: int) -> tuple[list[Member], int]:
        """Public methods of a class that other production classes call, in order of declaration; and how many do."""
        table = self.codebase.bonds
        names, users = set(), set()
        call = KIND_NUMBER["call"]
        for row, kind in enumerate(table.kind):
            if kind == call and table.target[row] == target and self.codebase.roles.name(table.source[row]) != "test":
                names.add(table.text_of("callee", row))
                users.add(table.source[row])
        members = [
            member for member in self.symbols.types[target].members
            if member.kind == "method" and member.name in names and not member.is_static and not member.is_private
        ]  # fmt: skip
        return members, len(users)

    def abstraction(self, target: int, consumer: int, held_as: str = "") -> Abstraction:
        """The abstraction of a target: what the consumer holds it as, an interface that offers all its users call, or a new one.

        `held_as` is the declared type of the field it is kept in ('' for none). A new one lives with the consumer where
        the target is in an outer layer, so that the dependency turns round; otherwise beside the target.
        """
        members, users = self.used_members(target)
        if held_as and held_as != self.name(target):
            return self._as_held(held_as, target, tuple(members), users)
        if target in self.extracted:
            return self.extracted[target]
        wanted = {member.name for member in members}
        for base in self.codebase.roles.ancestors(target)[1:]:
            declared = self.symbols.types[base]
            offered = {m.name for each in self.codebase.roles.ancestors(base) for m in self.symbols.types[each].members}
            if declared.kind == "interface" and wanted <= offered:
                return Abstraction(declared.name, self.package(base), base, tuple(members), users)
        outward = self.codebase.layers.crossing(consumer, target)
        package = self.package(consumer) if outward else self.package(target)
        return Abstraction(interface_name(self.codebase, target, self.habit, package), package, NEW, tuple(members), users)

    def _as_held(self, name: str, target: int, members: tuple[Member, ...], users: int) -> Abstraction:
        """The base of a target that a field names already."""
        for base in self.codebase.roles.ancestors(target)[1:]:
            if self.symbols.types[base].name == name:
                return Abstraction(name, self.package(base), base, members, users)
        return Abstraction(name, "", OUTSIDE, members, users)

    # --- constructors ---------------------------------------------------------------------

    def primary_constructor(self, number: int) -> Member | None:
        """The constructor that sets the fields; None where it is not written out."""
        own = [member for member in self.symbols.types[number].members if member.kind == "constructor"]
        return next((member for member in own if not delegates(self.codebase, number, member)), None)

    def parameters(self, number: int) -> list[tuple[str, str]]:
        """(type, name) of the constructor's parameters as the plan has them so far."""
        constructor = self.primary_constructor(number)
        own: tuple[Parameter, ...] = constructor.parameters if constructor else ()
        given = [(each.type_name, each.parameter) for each in self.injected[number]]
        return [*((each.type, each.name) for each in own), *given]

    def must_bridge(self, number: int) -> bool:
        """Whether callers can't all change in the same step: some are no composition root, or a host or subclass calls."""
        creators = self.creators.get(number, ())
        return not creators or any(not each.root for each in creators) or bool(self.subclasses(number))

    def subclasses(self, number: int) -> list[int]:
        """Types that extend a class."""
        return self.codebase.roles.implementers.get(number, [])

    def new_dependency(self, pair: Pair, abstraction: Abstraction) -> Injected:
        """The dependency that a pair becomes, named after the field it fills or the abstraction."""
        first = pair.places[0]
        taken = {name for _, name in self.parameters(pair.source)}
        fields = {member.name for member in self.symbols.types[pair.source].members if member.kind == "field"}
        field = next((place.field for place in pair.places if place.field), "")
        name = field if field and field not in taken else variable_name(abstraction.name, taken | fields)
        file = self.symbols.file_of[pair.source]
        creation = creation_text(self.codebase, file, first.site.place.start, first.site.place.end)
        return Injected(abstraction.name, name, creation, pair.target)
