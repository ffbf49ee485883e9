"""Registrations put together: which type of the tree serves which, and for how long."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from functools import cached_property
from typing import NamedTuple

from msgspec import structs

from isodesm.facts.definitions import Definition
from isodesm.inference.injection import Injection, Injections
from isodesm.inference.registrations import Registration
from isodesm.linking.hierarchy import UNKNOWN
from isodesm.linking.symbols import Symbols

LIFETIMES = ("transient", "scoped", "singleton")
"""From the shortest to the longest."""


class Service(NamedTuple):
    """A registration with its types: `abstraction` and `implementation` are type numbers, -1 where they are none of the
    tree."""

    registration: Registration
    abstraction: int
    implementation: int

    @property
    def lifetime(self) -> str:
        return self.registration.lifetime


class Wiring:
    """What containers make of a tree. `injections` answers what each class asks for."""

    def __init__(
        self,
        symbols: Symbols,
        injections: Injections,
        registrations: tuple[Registration, ...],
        definitions: tuple[Definition, ...],
        ancestors: Callable[[int], tuple[int, ...]],
    ) -> None:
        self.symbols, self.injections, self.definitions, self._ancestors = symbols, injections, definitions, ancestors
        self.file_numbers = {facts.path: number for number, facts in enumerate(symbols.files)}
        self.by_id = {each.id: each for each in definitions}
        self.services = self._as_meant(tuple(self._service(each) for each in registrations))
        self.by_abstraction: dict[int, list[Service]] = defaultdict(list)
        self.by_implementation: dict[int, list[Service]] = defaultdict(list)
        for service in self.services:
            if service.abstraction >= 0:
                self.by_abstraction[service.abstraction].append(service)
            if service.implementation >= 0:
                self.by_implementation[service.implementation].append(service)

    def _service(self, registration: Registration) -> Service:
        asker = self.file_numbers.get(registration.file, -1)
        abstraction = self.type_named(registration.abstraction, asker)
        implementation = self.type_named(self.class_of(registration.implementation), asker)
        if (
            implementation < 0 <= abstraction
            and not self.symbols.types[abstraction].is_abstract
            and not registration.implementation
        ):
            implementation = abstraction
        if implementation >= 0 and self.symbols.types[implementation].is_abstract:
            implementation = -1  # an object that stands behind a variable: what it is, nothing says
        return Service(registration, abstraction, implementation)

    @staticmethod
    def _as_meant(services: tuple[Service, ...]) -> tuple[Service, ...]:
        """Aliases with the lifetime of what they stand for; without marks that only allow what a call says."""
        told = {each.abstraction: each for each in services if not each.registration.alias and each.registration.how == "call"}
        made = {each.implementation for each in told.values()}
        found = []
        for each in services:
            registration, behind = each.registration, told.get(each.implementation)
            if registration.alias and behind is not None:
                each = each._replace(registration=structs.replace(registration, lifetime=behind.lifetime))
            only_allows = registration.how == "annotation" and registration.lifetime == LIFETIMES[0]
            if not (only_allows and each.implementation >= 0 and each.implementation in made):
                found.append(each)
        return tuple(found)

    def class_of(self, name: str) -> str:
        """The class behind an id of a definition file, over aliases."""
        for _ in range(len(self.by_id)):
            definition = self.by_id.get(name.removeprefix("@"))
            if definition is None or (definition.type or definition.alias or name) == name:
                break
            name = definition.alias or definition.type
        return name

    def type_named(self, name: str, asker: int = -1) -> int:
        """The type of a qualified name, as a file sees it or in any language; -1 if there is none."""
        if not name:
            return -1
        if asker >= 0:
            return self.symbols.find(name, asker)[0]
        name = name.lstrip("\\")
        for language in sorted(self.symbols.by_language):
            table = self.symbols.by_language[language]
            found = table.get(name) or table.get(name.lower())
            if found:
                return found[0]
        return -1

    @cached_property
    def scopes(self) -> dict[str, list[Service]]:
        """Scope (a class or module that holds registrations for a part of the program) to what it registers."""
        found: dict[str, list[Service]] = defaultdict(list)
        for service in self.services:
            if service.registration.scope:
                found[service.registration.scope].append(service)
        return dict(found)

    @cached_property
    def managed(self) -> frozenset[int]:
        """Classes that a container makes."""
        marked = {
            number
            for number, declared in enumerate(self.symbols.types)
            if any(m.kind == "constructor" and self.injections.is_marked(number, m.modifiers) for m in declared.members)
        }
        return frozenset(self.by_implementation) | frozenset(marked)

    def serving(self, injection: Injection) -> list[Service]:
        """The registrations by which a container could serve an injection."""
        target = injection.target
        if target == UNKNOWN or target < 0:
            return []
        if found := self.by_abstraction.get(target):
            return found
        return [
            each
            for number in self.by_implementation
            if target in self._ancestors(number)
            for each in self.by_implementation[number]
        ]

    def handed_to(self, number: int) -> tuple[Injection, ...]:
        """Everything that a container hands to a class of its own."""
        return (*self.injections.of_constructor(number), *self.injections.of_members(number))

    @cached_property
    def asked_for(self) -> frozenset[int]:
        """Types that some class is handed, or whose services are."""
        found: set[int] = set()
        for number in range(len(self.symbols)):
            for injection in self.handed_to(number):
                if injection.target >= 0:
                    found.add(injection.target)
        return frozenset(found)
