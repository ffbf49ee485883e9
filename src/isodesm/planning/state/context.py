"""What all techniques share while a plan is made: the codebase, the draft so far, who creates whom, and the abstractions."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Callable, Iterator
from copy import copy
from functools import cached_property
from typing import TYPE_CHECKING, Any

from isodesm.codebase.model import Codebase
from isodesm.facts import typetext
from isodesm.facts.records import Member
from isodesm.linking.bonds import KIND_NUMBER
from isodesm.linking.symbols import simple_name
from isodesm.planning.analysis.creators import Creator, creators_of
from isodesm.planning.analysis.decisions import spot_of
from isodesm.planning.analysis.homes import module_home, only_declares, unit_of
from isodesm.planning.analysis.interface_names import Habit, interface_name, measure_habit, usual_home
from isodesm.planning.analysis.member_use import AskedBy, asked_members
from isodesm.planning.analysis.names_in_code import home_of, need_of_type
from isodesm.planning.analysis.signatures import visible
from isodesm.planning.analysis.visibility import is_named_elsewhere
from isodesm.planning.model.abstraction import CONCRETE, NEW, Abstraction
from isodesm.planning.model.decision import Decision, Place
from isodesm.planning.state.constructors import Draft

if TYPE_CHECKING:
    from isodesm.planning.model.proposal import Proposal

_NOTED = ("extracted", "told", "gateways", "taken", "around", "new_ids", "aliases", "fed", "made_for_container", "makers")
"""What a workshop notes while steps are planned."""
_OFFERED = {"csharp": ("method", "property", "field"), "python": ("method", "property")}
"""Kinds of members that an abstraction can have; automatic properties are read as fields with brackets behind them."""


class PlanContext:
    """Mutable only in its draft and in the abstractions that were planned so far."""

    def __init__(
        self, codebase: Codebase, decisions: list[Decision], *, all_members: bool = False, no_new: bool = False
    ) -> None:
        self.codebase, self.symbols = codebase, codebase.symbols
        self.draft = Draft(codebase)
        self.all_members, self.no_new = all_members, no_new
        self.habits: dict[str, Habit] = {}
        self.extracted: dict[int, Abstraction] = {}
        self.gateways: dict[int, Any] = {}
        """Target to the object that stands for its static members, where a step has written one."""
        self.creators = creators_of(codebase)
        self.asked: dict[int, set[str]] = defaultdict(set)
        """Target to the names that decisions on it ask for."""
        self.asked_by = AskedBy()
        self.unseen: set[int] = set()
        """Classes of which the composition roots can't name what they are handed."""
        self.taken: dict[tuple[int, str], Proposal] = {}
        """Class and name of what it is handed to the proposal that led to it."""
        self.outside: dict[int, list[Decision]] = defaultdict(list)
        """Class to the decisions on what lies outside the tree."""
        self.around: set[tuple[int, str]] = set()  # class and effect of the gateways around that which steps have written
        self.new_ids: dict[int, str] = {}
        """Class to the id under which a step has defined it."""
        self.aliases: set[str] = set()
        """Names of interfaces under which steps have made services known."""
        self.fed: set[tuple[int, str]] = set()
        """Class and name of what its container hands in, for it has been told."""
        self.makers: dict[int, Any] = {}
        """Class to the interface by which it is made, where a step has written one."""
        self.made_for_container: set[int] = set()
        """Classes for which a step has written a maker that their definitions name."""
        self.told: set[int] = set()
        """Classes that a container has been told of by a step."""
        self.spans: set[tuple[int, int, int]] = set()
        """File, start and end of every place that is decided on."""
        self._note_sites()
        for decision in decisions:
            self.consider(decision)

    def checkpoint(self) -> Callable[[], None]:
        """What brings the workshop back to how it is now."""
        draft, kept = self.draft.checkpoint(), {name: copy(getattr(self, name)) for name in _NOTED}

        def restore() -> None:
            draft()
            for name, value in kept.items():
                setattr(self, name, value)

        return restore

    def consider(self, decision: Decision) -> None:
        """Take note of what a decision asks its target for, so that one abstraction serves all."""
        self.spans.update((place.file, *place.span) for place in decision.places)
        if decision.target >= 0 and decision.kind in ("static-effect", "ambient-state"):
            self.asked_by[decision] = None
        elif decision.target < 0:
            self.outside[decision.source].append(decision)
        else:
            asked = self.asked_by[decision] = asked_members(self.draft, decision)
            self.asked[decision.target] |= asked or set()

    def _note_sites(self) -> None:
        wanted = {"root_sites": lambda each, _: each.root, "test_sites": lambda each, _: each.test, "own_sites": self._is_own}
        for name, fits in wanted.items():
            sites = {
                target: [(each.file, each.site) for each in creators if fits(each, target) and each.site >= 0]
                for target, creators in self.creators.items()
            }
            setattr(self.draft, name, sites)

    def _is_own(self, maker: Creator, target: int) -> bool:
        """Whether a class makes an object of itself in static code, as one that hands out its one object does."""
        spot = spot_of(self.codebase, maker.row) if maker.source == target and not maker.root else None
        return spot is not None and spot.member is not None and spot.member.is_static

    @cached_property
    def static_users(self) -> dict[int, set[int]]:
        """Type to those that use static members of it."""
        table, found = self.codebase.bonds, defaultdict(set)
        for row in table.rows_of_kind("static-call", "static-field"):
            found[table.target[row]].add(table.source[row])
        return found

    @cached_property
    def constructor_marks(self) -> dict[str, Counter[str]]:
        """Language to the annotations by which containers know the constructors to call, with how often each is used."""
        injections, found = self.codebase.wiring.injections, defaultdict(Counter)
        for number, declared in enumerate(self.symbols.types):
            markers = injections.markers(number)
            for member in declared.members:
                if member.kind == "constructor":
                    found[self.language(number)].update(
                        mark.name for mark in member.modifiers.annotations if simple_name(mark.name) in markers
                    )
        return found

    def taken_places(self, number: int) -> Iterator[Place]:
        """The places of a class that steps have put something handed in for."""
        known = (self.taken.get((number, each.name)) for each in self.draft.handed.get(number, ()))
        return (place for each in known if each is not None for place in each.decision.places)

    # --- names ----------------------------------------------------------------------------

    def name(self, number: int) -> str:
        """Simple name of a type."""
        return self.symbols.types[number].name

    def path(self, number: int) -> str:
        """Path of the file that declares a type."""
        return self.symbols.path(number)

    def language(self, number: int) -> str:
        """Language of a type."""
        return self.symbols.files[self.symbols.file_of[number]].language

    def habit(self, number: int) -> Habit:
        """How interfaces are named in the language of a type."""
        language = self.language(number)
        if language not in self.habits:
            self.habits[language] = measure_habit(self.codebase, language)
        return self.habits[language]

    # --- abstractions ---------------------------------------------------------------------

    @cached_property
    def _calls(self) -> dict[int, dict[str, set[int]]]:
        """Type to the names called on objects of it, and who calls them, tests left out."""
        table, call = self.codebase.bonds, KIND_NUMBER["call"]
        found: dict[int, dict[str, set[int]]] = defaultdict(lambda: defaultdict(set))
        names = table.names.strings
        for kind, source, target, callee in zip(table.kind, table.source, table.target, table.callee, strict=True):
            if kind == call and target >= 0 and source != target and self.codebase.roles.name(source) != "test":
                found[target][names[callee]].add(source)
        return found

    def used_members(self, target: int) -> tuple[tuple[tuple[int, Member], ...], int]:
        """Methods and properties that others ask a class for, in order of declaration, with the types that declare them; and
        how many ask.

        Inherited ones are found in the bases of the tree.
        """
        calls = self._calls.get(target, {})
        wanted = set(calls) | self.asked[target]
        users = {user for name in wanted for user in calls.get(name, ())}
        found: dict[str, tuple[int, Member]] = {}
        for each in self.codebase.roles.ancestors(target):
            for member in self.symbols.types[each].members:
                asked = member.name in wanted or (self.all_members and each == target and "public" in member.modifiers.words)
                kinds = _OFFERED.get(self.language(target), ("method",))
                if (
                    member.kind in kinds
                    and asked
                    and not member.is_static
                    and not member.is_private
                    and self._has_accessors(each, member)
                ):
                    found.setdefault(member.name, (each, member))
        own = [(number, member) for number, member in found.values()]
        overloads = [
            (target, m)
            for m in self.symbols.types[target].members
            if (target, m) not in own
            and m.name in calls
            and m.kind == "method"
            and m.name in found
            and not m.is_private
            and not m.is_static
        ]
        return tuple(sorted([*own, *overloads], key=lambda each: (each[0] != target, each[1].whole))), max(len(users), 1)

    def _has_accessors(self, number: int, member: Member) -> bool:
        """Whether what is read as a field is a property, or an event."""
        if member.kind != "field" or "event" in member.modifiers.words:
            return True
        text = self.codebase.text(self.symbols.file_of[self.symbols.part_of_member(number, member)])
        return b"{" in text[slice(*member.whole)].partition(b"=")[0]

    def callers(self, target: int, name: str) -> set[int]:
        """Who calls a member on objects of a class, tests left out."""
        return self._calls.get(target, {}).get(name, set())

    def concrete(self, target: int) -> Abstraction:
        """The class itself in the place of an abstraction."""
        declared = self.symbols.types[target]
        need = need_of_type(self.codebase, target)
        return Abstraction(declared.path, need.home, CONCRETE, member=need.member)

    def abstraction(self, decision: Decision, held_as: str = "") -> Abstraction:
        """What the source of a decision should ask for in the place of its target.

        That is what it declares already, else an interface that offers all that is asked for, else a new one; the class
        itself where the source passes it on, or nothing is asked of it. A new one lives with its users where the target is in
        an outer layer, so that the dependency turns round; otherwise beside the target, or where such things live here.
        """
        target = decision.target
        declared = self.symbols.types[target]
        if declared.kind == "interface" or declared.is_abstract or only_declares(declared):
            need = need_of_type(self.codebase, target)
            return Abstraction(declared.path, need.home, target, member=need.member)
        if held_as and held_as != declared.name:
            for base in self.codebase.roles.ancestors(target)[1:]:
                if self.symbols.types[base].name == held_as:
                    need = need_of_type(self.codebase, base)
                    return Abstraction(held_as, need.home, base, member=need.member)
            return self.concrete(target)
        asked = self.asked_by.get(decision)
        if self.language(target) == "typescript" and decision.source in self.codebase.wiring.managed:
            return self.concrete(target)  # containers of this language go by classes
        if asked is None or not self.draft.writer(target).typed or declared.generics:
            return self.concrete(target)
        for base in self.codebase.roles.ancestors(target)[1:]:
            kind = self.symbols.types[base]
            offered = {m.name for each in self.codebase.roles.ancestors(base) for m in self.symbols.types[each].members}
            if (
                (kind.kind == "interface" or "abstract" in kind.modifiers.words)
                and asked
                and asked <= offered
                and self._agrees(base, target, asked)
            ):
                need = need_of_type(self.codebase, base)
                return Abstraction(kind.path, need.home, base, member=need.member)
        if extended := self._nearly_fitting(target):
            return extended
        if target in self.extracted:
            return (
                self.extracted[target]
                if asked <= {m.name for _, m in self.extracted[target].members}
                else self.concrete(target)
            )
        return self._new(decision, asked)

    def _agrees(self, base: int, target: int, asked: frozenset[str]) -> bool:
        """Whether a base declares what is asked of a class with the results that the class gives, rather than wider ones."""

        def results(number: int, name: str) -> set[str]:
            found = self.symbols.members(number).get(name, ())
            return {
                simple_name(typetext.head(member.type)) + member.type.partition("<")[2]
                for _, member in found
                if member.type and not member.is_private  # a field may have the name of a method
            }

        lines = [self.codebase.roles.ancestors(each) for each in (base, target)]
        for name in asked:
            wide, own = (next((found for each in line if (found := results(each, name))), set()) for line in lines)
            if wide and own and not own <= wide:
                return False
        return True

    def _nearly_fitting(self, target: int) -> Abstraction | None:
        """An interface of the tree that lacks one member of all that is asked of a class, and that nobody else implements."""
        members, users = self.used_members(target)
        if self.no_new or self.language(target) == "typescript":  # there, anything of the right shape is an implementer
            return None
        for base in self.codebase.roles.ancestors(target)[1:]:
            declared = self.symbols.types[base]
            offered = {m.name for each in self.codebase.roles.ancestors(base) for m in self.symbols.types[each].members}
            lacking = tuple((number, member) for number, member in members if member.name not in offered)
            one_method = self.language(target) == "java" and len(declared.members) < 2  # a lambda may implement it
            alone = self.subclasses(base) == [target] and not declared.generics
            if (
                declared.kind == "interface"
                and alone
                and not one_method
                and len(lacking) == 1
                and lacking[0][0] == target
                and visible(self.draft, *lacking[0])
            ):
                return Abstraction(
                    declared.path, need_of_type(self.codebase, base).home, base, base, lacking, users, declared.path, lacks=True
                )
        return None

    def planned_names(self) -> set[str]:
        """Names of the abstractions that steps have written."""
        written = [*self.extracted.values(), *(each.abstraction for each in self.gateways.values())]
        return {each.name for each in written if each.number == NEW}

    def _is_overridden(self, target: int, name: str) -> bool:
        """Whether a class below declares a member anew, which would have to become public with it."""
        return any(name in self.symbols.members(each) for each in self.subclasses(target))

    def _stays_inside(self, target: int, members: tuple[tuple[int, Member], ...]) -> bool:
        """Whether a public class keeps a member to its own assembly for what that names, so that it can't become public."""
        if "public" not in self.symbols.types[target].modifiers.words:
            return False
        inner = (member for _, member in members if "public" not in member.modifiers.words)
        return any(
            self.draft.is_internal(
                target, set(re.findall(r"[A-Z]\w*", " ".join([m.type, *(each.type for each in m.parameters)])))
            )
            for m in inner
        )

    def _new(self, decision: Decision, asked: frozenset[str]) -> Abstraction:
        target = decision.target
        members, users = self.used_members(target)
        known = {member.name for _, member in members}
        hidden = any(
            not visible(self.draft, number, member) and (number != target or self._is_overridden(target, member.name))
            for number, member in members
        )
        if self.no_new or not members or not asked <= known or hidden or self._stays_inside(target, members):
            return self.concrete(target)
        outward = self.codebase.layers.crossing(decision.source, target)
        beside = decision.source if outward and unit_of(self, decision.source) == unit_of(self, target) else target
        home = home_of(self.codebase, beside)
        usual, there = usual_home(
            self.codebase, self.codebase.layers.name(beside), self.language(target), lambda each: home_of(self.codebase, each)
        )
        if there >= 0 and not home.startswith("/") and unit_of(self, there) == unit_of(self, target) == unit_of(self, beside):
            home, beside = usual, there
        name = interface_name(self.codebase, target, self.habit(target), home, self.planned_names())
        folder = self.path(beside).rpartition("/")[0]
        writer = self.draft.writer(target)
        file_name = writer.file_name(name)
        stem = self.path(target).rpartition("/")[2].partition(".")[0]
        if self.language(target) == "typescript" and stem == self.name(target):
            file_name = f"{name}.ts"
        path = f"{folder}/{file_name}".lstrip("/")
        home = module_home(self, beside, home, path)
        return Abstraction(name, home, NEW, beside, members, users, path)

    # --- constructors ---------------------------------------------------------------------

    def must_bridge(self, number: int, *, served: bool = False) -> bool:
        """Whether callers can't all change in the same step: some are no composition root, or a subclass or host calls.

        A host that is a container needs no old constructor where it can serve what the new one takes (`served`).
        """
        creators = self.creators.get(number, ())
        constructor = self.draft.constructor(number)
        optional = constructor is not None and any(each.default or each.variadic for each in constructor.parameters)
        optional = optional and not self.draft.writer(number).overloads or self.has_default_fields(number)
        return (
            self.draft.inherited(number) is not None
            or self.draft.has_several_constructors(number)
            or (not creators and not served)
            or any(not each.root for each in creators)
            or bool(self.subclasses(number))
            or optional
            or (not self.draft.writer(number).overloads and is_named_elsewhere(self, number))
        )

    def has_default_fields(self, number: int) -> bool:
        """Whether a class made of its fields has some with a default, behind which none without can stand."""
        text = self.codebase.text(self.symbols.file_of[number])
        fields = [
            m
            for each in self.codebase.roles.ancestors(number)
            for m in self.symbols.types[each].members
            if m.kind == "field" and m.whole != (0, 0)
        ]
        return self.draft.is_made_of_fields(number) and any(b"=" in text[slice(*each.whole)] for each in fields)

    def subclasses(self, number: int) -> list[int]:
        """Types that extend or implement another, over any number of steps, sorted."""
        return self.codebase.roles.implementers.get(number, [])
