"""Counts over all bonds that several cases ask for."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable
from typing import Any

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.hard_bonds.adapters import Adapters
from isodesm.diagnosis.hard_bonds.behind import Behind
from isodesm.diagnosis.hard_bonds.devices import Devices
from isodesm.diagnosis.hard_bonds.purity import Purity
from isodesm.diagnosis.hard_bonds.roots import Roots
from isodesm.diagnosis.hard_bonds.states import States
from isodesm.facts.records import Member
from isodesm.inference.shared_state import FIXED, Touch
from isodesm.linking.bonds import CONTEXTS, KIND_NUMBER
from isodesm.linking.remembering import remembered

AT_TOP = frozenset(CONTEXTS.index(each) for each in ("module", "field-initializer", "static-initializer"))
"""Contexts of what is made while a module is loaded."""
MANY_CONSTANTS = 5
"""Static fields of one type, each given once, from which they are constants."""
MANY_NAMED = 4
"""Variables of modules that hold objects of one type, from which they may be values under names."""


class lazy:
    """An attribute worked out when it is first asked for; without the lock that the standard one of Python 3.11 takes."""

    def __init__(self, work_out: Callable[[Any], Any]) -> None:
        self.work_out, self.name = work_out, work_out.__name__
        self.__doc__ = work_out.__doc__

    def __get__(self, case: Any, owner: type | None = None) -> Any:
        value = case.__dict__[self.name] = self.work_out(case)
        return value


def _is_fixed(member: Member) -> bool:
    return member.is_static and bool(member.name.isupper() or FIXED.intersection(member.modifiers.words))


def _named_by(touch: Touch) -> frozenset[str]:
    return touch.changes | touch.reads


class Usage:
    """Counts over all bonds that several cases ask for."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase = codebase
        self.creators: dict[int, set[int]] = defaultdict(set)
        """Type to the production classes that create it."""
        self.made_elsewhere: set[int] = set()
        """Types that are created, or whose subclasses are, outside the file that declares them."""
        self.behind: Behind | None = None
        """What static members come to, once somebody asked."""
        self.shared_instances: dict[tuple[str, int, str], bool] = {}
        """(kind of bond, type, static member) to whether that hands out a shared object, as far as somebody asked."""
        self.places: dict[int, int] = defaultdict(int)
        """Type to the number of production places that create it."""
        table, roles = codebase.bonds, codebase.roles
        creation = KIND_NUMBER["creation"]
        for kind, source, target in zip(table.kind, table.source, table.target, strict=True):
            if kind == creation and target >= 0 and roles.name(source) != "test":
                self.creators[target].add(source)
                self.places[target] += 1
                if codebase.symbols.file_of[source] != codebase.symbols.file_of[target]:
                    self.made_elsewhere.update(roles.ancestors(target))

    @remembered
    def kinds_of_places(self, number: int) -> int:
        """The number of production places that create a type, where all that fill the one object it keeps count as one."""
        shared, roles = self.codebase.shared, self.codebase.roles
        members = self.codebase.symbols.types[number].members
        fixed = {m.name.lstrip("$#") for m in members if m.is_static and FIXED.intersection(m.modifiers.words)}
        kept = shared.own_instances(number) - fixed  # a constant is one of many
        filling = [
            index
            for index, target in roles.creations(number)
            if target == number
            and index >= 0
            and (members[index].name.lstrip("$#") in kept or kept & _named_by(shared.touch((number, index))))
        ]
        return self.places[number] - max(len(filling) - 1, 0)

    @lazy
    def _kept_only(self) -> tuple[dict[int, list[int]], set[int]]:
        """Types that something makes and keeps in a variable for everybody, at which rows, and those that something makes
        otherwise."""
        table, symbols, wanted = self.codebase.bonds, self.codebase.symbols, KIND_NUMBER["creation"]
        kept: dict[int, list[int]] = defaultdict(list)
        other: set[int] = set()
        for row, kind in enumerate(table.kind):
            target = table.target[row]
            if kind != wanted or target < 0 or self.codebase.roles.name(table.source[row]) == "test":
                continue
            at_top = table.context[row] in AT_TOP and symbols.is_module(table.source[row])
            if at_top:
                kept[target].append(row)
            else:
                other.add(target)
        return kept, other

    def is_always_kept(self, number: int) -> bool:
        """Whether each object of a class is made at the top of a module, for everybody, and none anywhere else. Where
        there are many, each given a text, they are values under names."""
        kept, other = self._kept_only
        if number not in kept or number in other:
            return False
        return len(kept[number]) < MANY_NAMED or not all(map(self._is_given_text, kept[number]))

    def _is_given_text(self, row: int) -> bool:
        """Whether the first that a new object is given is a text."""
        table = self.codebase.bonds
        site = table.site[row]
        given = self.codebase.content(table.file[row]).sites[site].arguments if site >= 0 else ""
        return given.lstrip().startswith(('"', "'", "`"))

    def is_constant(self, member: Member, held: int) -> bool:
        """Whether a static field that is given once is one of many that hold an object of the same type."""
        return _is_fixed(member) and self._fixed_fields[held] >= MANY_CONSTANTS

    @lazy
    def _fixed_fields(self) -> Counter[int]:
        """Type to the number of static fields of it that are given once."""
        table, types, wanted = self.codebase.bonds, self.codebase.symbols.types, KIND_NUMBER["field"]
        columns = zip(table.kind, table.source, table.source_member, table.target, strict=True)
        return Counter(
            target
            for kind, source, index, target in columns
            if kind == wanted and target >= 0 and index >= 0 and _is_fixed(types[source].members[index])
        )

    @lazy
    def states(self) -> States:
        """The shared states, with their users."""
        return States(self.codebase)

    @lazy
    def roots(self) -> Roots:
        """Places where the program is put together."""
        return Roots(self.codebase)

    @lazy
    def collected(self) -> dict[int, int]:
        """Type to the number of arrays and collections of it that declarations speak of."""
        return self.codebase.roles.kept_together

    @lazy
    def purity(self) -> Purity:
        """What is pure, proven."""
        return Purity(self.codebase)

    @lazy
    def devices(self) -> Devices:
        """Classes whose job an effect is."""
        return Devices(self.codebase)

    @lazy
    def adapters(self) -> Adapters:
        """Classes that only pass on what they are asked."""
        return Adapters(self.codebase)

    @lazy
    def kinds_made(self) -> dict[tuple[int, int], int]:
        """(class, abstraction) to the number of its implementations that the class creates: a choice, or kinds of a thing."""
        found: dict[tuple[int, int], int] = defaultdict(int)
        roles = self.codebase.roles
        for target, sources in self.creators.items():
            for source in sources:
                for base in roles.ancestors(target)[1:]:
                    found[source, base] += self._is_kind_of(target, base)
        return found

    def _is_kind_of(self, number: int, base: int) -> bool:
        """Whether a class does in its own way what a base of it declares; what tells of events, say, is no kind of that."""
        symbols = self.codebase.symbols
        own = {m.name for m in symbols.types[number].members if m.kind != "constructor"}
        return symbols.types[base].is_abstract or not own.isdisjoint(
            m.name for m in symbols.types[base].members if m.kind in ("method", "property")
        )

    @remembered
    def meant(self, target: int, callee: str) -> tuple[tuple[int, int], ...]:
        """The members that a static use means, those of the nearest type of the line that declares one."""
        return tuple(self.codebase.effects.declared(target, callee))

    @remembered
    def is_named_constructor(self, target: int, callee: str) -> bool:
        """Whether a static member makes an object of its own class, or says to."""
        roles = self.codebase.roles
        own = {target, *roles.implementers.get(target, ())}
        meant = self.meant(target, callee)
        types, shared = self.codebase.symbols.types, self.codebase.shared
        # without a word of what is wanted, what it hands out was there before; and is no constant where it changes
        reads = any(not types[node[0]].members[node[1]].parameters and shared.touch(node).reads for node in meant)
        if (reads or shared.is_accessor(target, callee)) and self.codebase.own_changes.of(target):
            return False
        makes = any(own.intersection(roles.made_in(number, index)) for number, index in meant)
        return makes or self.codebase.effects.hands_out_itself(target, callee)

    @remembered
    def shared_type(self, target: int, callee: str, language: str, is_field: bool) -> int:
        """The type of the object that a static member hands out, where it is declared in the tree; else -1."""
        symbols, effects, shared = self.codebase.symbols, self.codebase.effects, self.codebase.shared
        if symbols.catalogues.is_value(self.codebase.target_name(target), language):
            return -1
        if is_field:
            held = effects.type_of_static(target, callee)
            return target if held < 0 and self.is_module_instance(target, callee) else held
        if target >= 0 and any(shared.touch(node).hands_out for node in self.meant(target, callee)):
            if (handed := effects.type_handed_out(target, callee)) >= 0:
                return handed
        return target if shared.is_accessor(target, callee) or effects.hands_out_itself(target, callee) else -1

    def is_module_instance(self, target: int, callee: str) -> bool:
        """Whether what is read is no member of the target, but a variable of a module that holds an object of it."""
        symbols = self.codebase.symbols
        if target < 0 or symbols.dialect(target).style != "modules":
            return False
        return not any(symbols.members(each).get(callee) for each in self.codebase.roles.ancestors(target))

    @remembered
    def is_bare(self, number: int) -> bool:
        """Whether a class has no object state and no collaborator."""
        roles, types = self.codebase.roles, self.codebase.symbols.types
        line = roles.ancestors(number)
        if any(m.kind in ("field", "component") and not m.is_static for each in line for m in types[each].members):
            return False
        return not roles.collaborators(number) and not any(roles.external_bases.get(each) for each in line)

    def prepare(self) -> None:
        """Work out what many cases share, so that forked workers find it ready."""
        _ = self.states.rows, self.kinds_made, self.collected, self.roots, self.devices, self.purity, self.adapters
