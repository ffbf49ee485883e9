"""Registrations put together: which type of the tree serves which, and for how long."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator
from functools import cached_property

from msgspec import structs

from isodesm.catalogue.containers import ContainerRules
from isodesm.facts.definitions import Definition
from isodesm.inference.evidence import BASE
from isodesm.inference.injection import Injection, Injections
from isodesm.inference.programs import Programs
from isodesm.inference.registrations import Registration
from isodesm.inference.registrations.families import Families
from isodesm.inference.resolution import Answer, How, Service, answer_for
from isodesm.linking.symbols import Symbols, simple_name

_HANDED_ON = re.compile(r"return\s+(?:([\w\\]+)::class|[\"']([^\"']+)[\"'])")
"""What a class hands static calls on to: a class, or a key."""
LIFETIMES = ("transient", "scoped", "singleton")
"""From the shortest to the longest."""


class Wiring:
    """What containers make of a tree. `injections` answers what each class asks for."""

    def __init__(
        self,
        symbols: Symbols,
        injections: Injections,
        registrations: tuple[Registration, ...],
        definitions: tuple[Definition, ...],
        programs: Programs,
        families: Families,
        text: Callable[[int], bytes],
    ) -> None:
        self.text = text
        self.symbols, self.injections, self.definitions = symbols, injections, definitions
        self.bases, self.programs, self.families = injections.roles.bases, programs, families
        self.file_numbers = {facts.path: number for number, facts in enumerate(symbols.files)}
        self.by_id = {each.id: each for each in definitions}
        self._by_key = {each.id: each.implementation for each in registrations if each.id and each.implementation}
        self.rules = tuple(each for each in registrations if each.how == "rule" and not each.abstraction)
        """What registers classes by a rule that can't be followed, so that nothing can be said to be missing."""
        told = tuple(each for each in registrations if each.abstraction or each.implementation)
        self.services = self._as_meant(self._followed(tuple(self._service(each) for each in told)))
        self.by_abstraction: dict[int, list[Service]] = defaultdict(list)
        self.by_implementation: dict[int, list[Service]] = defaultdict(list)
        self.by_token: dict[str, list[Service]] = defaultdict(list)
        """Registrations under a name that is no type of the tree."""
        for service in self.services:
            if service.abstraction >= 0:
                self.by_abstraction[service.abstraction].append(service)
            if service.implementation >= 0:
                self.by_implementation[service.implementation].append(service)
            if service.registration.id:
                self.by_token[service.registration.id].append(service)
            elif service.abstraction < 0 and "#" in service.registration.abstraction:
                self.by_token[service.registration.abstraction.rpartition("#")[2]].append(service)

    def file_of(self, service: Service) -> int:
        """The number of the source file that a registration stands in; -1 for a file of data."""
        return self.file_numbers.get(service.registration.file, -1)

    def rules_of(self, service: Service) -> ContainerRules:
        """The words of the family that a registration belongs to."""
        file = self.file_of(service)
        if file < 0:
            return ContainerRules(registers="listed", fails="start-up", decides_by_type=True, refuses=True)
        return self.families.rules(self.symbols.files[file].language, service.registration.family)

    def is_of_test(self, service: Service) -> bool:
        """Whether a registration stands in test code."""
        return self.file_of(service) in self._test_files

    @cached_property
    def _test_files(self) -> frozenset[int]:
        """The files with registrations that hold test code."""
        return frozenset(file for file in {self.file_of(each) for each in self.services} - {-1} if self._holds_tests(file))

    def _holds_tests(self, file: int) -> bool:
        numbers = range(self.symbols.first[file], self.symbols.first[file] + len(self.symbols.files[file].types))
        named = [number for number in numbers if not self.symbols.is_module(number)]
        return any(self.injections.roles.name(number) == "test" for number in named or numbers)

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
    def _followed(services: tuple[Service, ...]) -> tuple[Service, ...]:
        """Aliases of abstractions with the class that these are served by, and those of a class with what is put around it."""
        around = {each.registration.abstraction: each.implementation for each in services if each.registration.wraps}
        behind = {each.registration.abstraction: each.implementation for each in services if each.implementation >= 0}
        return tuple(
            each._replace(implementation=behind.get(each.registration.implementation, -1))
            if each.registration.alias and each.implementation < 0
            else each._replace(implementation=around[each.registration.implementation])
            if each.registration.alias and each.registration.implementation in around
            else each
            for each in services
        )

    def _as_meant(self, services: tuple[Service, ...]) -> tuple[Service, ...]:
        """Aliases with the lifetime of what they stand for, and what is made as it is registered itself with that, if it is
        longer; without marks that only allow what a call says."""
        calls = [each for each in services if not each.registration.alias and each.registration.how == "call"]
        told = {each.abstraction: each for each in calls if each.abstraction >= 0}
        by_id = {each.registration.id: each for each in services if each.registration.id and not each.registration.alias}
        made = {each.implementation for each in calls}
        named = {each.registration.id for each in services if each.registration.how == "definition"}
        found = []
        for each in services:
            if each.registration.how == "rule" and each.registration.abstraction in named:
                continue  # what is defined by itself takes the place of what a rule says
            registration = each.registration
            if lifetime := self._lifetime_behind(each, self._meant(each, told, by_id)):
                each = each._replace(registration=structs.replace(registration, lifetime=lifetime))
            only_allows = registration.how == "annotation" and registration.lifetime == LIFETIMES[0]
            if not (only_allows and each.implementation >= 0 and each.implementation in made):
                found.append(each)
        return tuple(found)

    def _meant(self, service: Service, told: dict[int, Service], by_id: dict[str, Service]) -> Service | None:
        """The registration that another stands for, or whose class it names."""
        given = service.registration
        if not given.alias:
            return told.get(service.implementation)
        number = self.type_named(given.implementation, self.file_of(service))
        return told.get(number) or by_id.get(given.implementation) or told.get(service.implementation)

    def _lifetime_behind(self, service: Service, behind: Service | None) -> str:
        """The lifetime that a registration has from what it names: as that is registered itself, or marked; '' for its own."""
        rules, given = self.rules_of(service), service.registration
        if given.alias:
            made_anew = rules.registers == "concrete" and given.how == "call" and service.implementation >= 0
            return behind.lifetime if behind is not None else LIFETIMES[0] if made_anew else ""
        if not rules.follows or given.how != "call" or given.factory or service.implementation < 0:
            return ""
        marks = self.symbols.types[service.implementation].modifiers.annotations
        own = next((rules.lifetimes[name] for each in marks if (name := simple_name(each.name)) in rules.lifetimes), "")
        other = behind.lifetime if behind is not None and behind is not service else ""
        return max((own, other, service.lifetime), key=lambda each: LIFETIMES.index(each) if each in LIFETIMES else -1)

    def class_of(self, name: str) -> str:
        """The class behind an id of a definition file, over aliases."""
        for _ in range(len(self.by_id)):
            definition = self.by_id.get(name.removeprefix("@"))
            if definition is None or (definition.type or definition.alias or name) == name:
                break
            name = definition.alias or definition.type
        return name if self.by_id or name not in self._by_key else self._by_key[name]

    def type_named(self, name: str, asker: int = -1) -> int:
        """The type of a qualified name, as a file sees it or in any language; -1 if there is none."""
        name = name.partition("<")[0]
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
        """Classes that a container makes: registered ones, those whose constructor is marked, and those with a mark by which
        the container or its host may make them."""
        marked = {
            number
            for number, declared in enumerate(self.symbols.types)
            if any(m.kind == "constructor" and self.injections.is_marked(number, m.modifiers) for m in declared.members)
        }
        return frozenset(self.by_implementation) | frozenset(marked) | self.allowed

    @cached_property
    def hosted(self) -> frozenset[int]:
        """Classes of the boundary that a host makes, with a container behind it: known by a mark or a base, and created
        nowhere in the code."""
        roles, created = self.injections.roles, self.injections.created
        return frozenset(
            number
            for number, declared in enumerate(self.symbols.types)
            if declared.kind == "class"
            and not declared.is_abstract
            and number not in created
            and roles.name(number) == "presentation"
            and any(each.role == "presentation" and each.strength >= BASE for each in roles[number].evidence)
        )

    @cached_property
    def allowed(self) -> frozenset[int]:
        """Classes with a mark that allows a container to make them, and registers nothing."""
        found = set()
        for number, declared in enumerate(self.symbols.types):
            if declared.modifiers.annotations:
                rules = self.injections.words(number)
                marks = {simple_name(each.name) for each in declared.modifiers.annotations}
                if not marks.isdisjoint(rules.allowed_by) or not marks.isdisjoint(rules.metadata):
                    found.add(number)
        return frozenset(found)

    @cached_property
    def autowired(self) -> dict[int, str]:
        """Classes that a container makes though nobody registers them, to its family: what it is asked for by name, what it
        is told something for alone, and what those take."""
        found: dict[int, str] = {}
        waiting: list[tuple[int, str]] = []
        for language in sorted({facts.language for facts in self.symbols.files}):
            concrete = [
                family
                for family in sorted(self.families.used(language))
                if self.families.rules(language, family).registers == "concrete"
            ]
            if len(concrete) == 1:
                waiting += [(each, concrete[0]) for each in sorted(self._asked_by_name(language))]
                waiting += [(each, concrete[0]) for each in sorted(self._taken_by_registered(concrete[0]))]
        while waiting:
            number, family = waiting.pop()
            if number in found or number in self.by_implementation or self.symbols.types[number].is_abstract:
                continue
            found[number] = family
            needs = [self.answer(each).chosen for each in self.injections.of_constructor(number) if not each.default]
            waiting += [(each, family) for each in needs if each >= 0]
        return found

    def _taken_by_registered(self, family: str) -> set[int]:
        """Classes that constructors take which a family of containers calls, as it was told."""
        told = [each for each in self.services if each.registration.family == family and not each.registration.factory]
        taken = (each for one in told if one.implementation >= 0 for each in self.injections.of_constructor(one.implementation))
        return {found for each in taken if not each.default and (found := self.answer(each).chosen) >= 0}

    def _asked_by_name(self, language: str) -> set[int]:
        """Types of a language that code looks up, and those for which alone something is registered."""
        bonds = self.injections.roles.bonds
        found = {bonds.target[row] for row in bonds.rows_of_kind("lookup")}
        found |= self.told_for.keys()
        return {each for each in found if each >= 0 and self.symbols.files[self.symbols.file_of[each]].language == language}

    @cached_property
    def told_for(self) -> dict[int, list[Service]]:
        """Classes to the registrations that hold for them alone."""
        found: dict[int, list[Service]] = defaultdict(list)
        for each in self.services:
            if each.registration.only_for:
                found[self.type_named(each.registration.only_for)].append(each)
        return dict(found)

    def serving(self, injection: Injection) -> list[Service]:
        """The registrations by which a container serves an injection, the one that counts last."""
        return list(self.answer(injection).services)

    def answer(self, injection: Injection) -> Answer:
        """What serves an injection."""
        keys = self._handed_keys(injection)
        if not keys:
            return answer_for(self, injection._replace(key=injection.key or self._key_by_name(injection)))
        answers = [self._answer_under(injection, key) for key in keys]
        if len(answers) == 1:
            return answers[0]
        services = tuple(each for answer in answers for each in answer.services)
        return Answer(How.ALTERNATIVES, services, tuple(dict.fromkeys(each.chosen for each in answers if each.chosen >= 0)))

    def _key_by_name(self, injection: Injection) -> str:
        """The id of what serves a parameter by its type and name, or by its name alone where the family goes by that, or ''."""
        if injection.is_untyped and any(self.rules_of(each).makers for each in self.by_token.get(injection.name, ())):
            return injection.name
        key = f"{self.symbols.names[injection.target]} ${injection.name.lstrip('$')}" if injection.target >= 0 else ""
        return key if key in self.by_token else ""

    def _answer_under(self, injection: Injection, handed: str) -> Answer:
        """What an id or class that a registration hands in stands for."""
        number = -1 if handed in self.by_token else self.type_named(handed)
        if number >= 0:
            return answer_for(self, injection._replace(target=number))
        return answer_for(self, injection._replace(key=handed))

    def is_explicit(self, number: int) -> bool:
        """Whether a class is handed only what its registrations say, parameter by parameter."""
        own = self.by_implementation.get(number, ())
        return bool(own) and all(each.registration.hands is not None for each in own)

    def _handed_keys(self, injection: Injection) -> list[str]:
        """The ids or classes that registrations hand in for a parameter of their constructor, each once; '' for a value."""
        if injection.owner < 0 or injection.parameter < 0:
            return []
        own = self.by_implementation.get(injection.owner, ())
        given = [each for service in own for each in (*(service.registration.hands or ()), *self._defined_arguments(service))]
        wanted = (injection.name.lstrip("$"), str(injection.parameter))
        return list(dict.fromkeys(key for name, key in given if name.lstrip("$").removeprefix("index_") in wanted))

    def _defined_arguments(self, service: Service) -> Iterator[tuple[str, str]]:
        """The ids that a definition hands to its constructor, by name or number, as far as the tree defines them."""
        given = self.by_id.get(service.registration.id) if service.registration.how == "definition" else None
        if given is None or given.factory:
            return
        for at, each in enumerate(given.arguments):
            id = given.decorates if each.service == ".inner" else each.service
            if id and (id in self.by_token or self.type_named(id) >= 0):
                yield each.name or str(at), id

    def answer_to(self, target: int, file: int) -> Answer:
        """What serves a type that code of a file asks for, by itself."""
        return answer_for(self, Injection(-1, -1, -1, "", "", target), file)

    def behind_facade(self, number: int) -> Answer | None:
        """What serves the static calls of a class that only passes them on; None for any other class."""
        symbols = self.symbols
        rules = self.injections.words(number)
        bases = {simple_name(each) for line in self.bases.ancestors(number) for each in self.bases.external.get(line, ())}
        if bases.isdisjoint(rules.facades):
            return None
        for member in symbols.types[number].members:
            if member.name in rules.facade_names:
                text = self.text(symbols.file_of[number])[slice(*member.body)].decode("utf-8", "replace")
                found = _HANDED_ON.search(text)
                file, local = symbols.file_of[number], number - symbols.first[symbols.file_of[number]]
                named = self.injections.hierarchy.file(file).resolve(found.group(1), local, -1) if found and found[1] else -1
                key = found.group(2) or "" if found else ""
                return answer_for(self, Injection(-1, -1, -1, "", "", named, key=key), file)
        return None

    def visible(self, services: Iterable[Service], file: int) -> list[Service]:
        """Those of some registrations that may be part of the program of a file."""
        if file < 0 or not self.programs.names:
            return list(services)
        return [each for each in services if (at := self.file_of(each)) < 0 or self.programs.together(at, file)]

    def handed_to(self, number: int) -> tuple[Injection, ...]:
        """Everything that a container hands to a class of its own: to its constructor, and to members, inherited ones too."""
        return (*self.injections.of_constructor(number), *self.filled_in(number))

    def filled_in(self, number: int) -> tuple[Injection, ...]:
        """The members of a class, inherited ones too, that a container fills in."""
        return tuple(each for base in self.injections.roles.ancestors(number) for each in self.injections.of_members(base))

    def handed_to_methods(self, number: int) -> tuple[Injection, ...]:
        """What the methods of a class of the boundary are handed when its host calls them."""
        if number not in self.hosted:
            return ()
        rules = self.injections.words(number)
        found = []
        for index, member in enumerate(self.symbols.types[number].members):
            if member.kind != "method" or member.is_private or member.is_static or not member.parameters:
                continue
            for each in self.injections.of_method(number, index):
                marks = member.parameters[each.parameter].modifiers.annotations
                marked = any(simple_name(mark.name) in rules.handed for mark in marks)
                wanted = each.target >= 0 and (self.injections.is_service(each.target) or each.target in self.by_abstraction)
                if wanted and (marked or rules.into_methods):
                    found.append(each)
        return tuple(found)

    @cached_property
    def asked_keys(self) -> frozenset[str]:
        """Ids that a registration hands in, or that a parameter is marked with by its default."""
        found = {key for each in self.services for _, key in each.registration.hands or ()}
        for number, declared in enumerate(self.symbols.types):
            if words := self.injections.words(number).default_marks:
                marked = re.compile(rf"\b(?:{'|'.join(map(re.escape, words))})\s*+\[[^\]\n]*?(\w++)[\"']?\s*+\]")
                given = (each.default for member in declared.members for each in member.parameters if each.default)
                found.update(said[1] for text in given if (said := marked.search(text)))
        return frozenset(found)

    @cached_property
    def asked_for(self) -> frozenset[int]:
        """Types that some class is handed, or whose services are."""
        found: set[int] = {each.implementation for key in self.asked_keys for each in self.by_token.get(key, ())} - {-1}
        for number in range(len(self.symbols)):
            for injection in (*self.handed_to(number), *self.handed_to_methods(number)):
                if injection.target >= 0:
                    found.add(injection.target)
        return frozenset(found)
