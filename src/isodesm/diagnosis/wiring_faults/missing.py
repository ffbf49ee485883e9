"""What a container is asked for and was never told of."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from functools import cached_property

from isodesm.catalogue.containers import ContainerRules
from isodesm.diagnosis.shared.findings import Finding
from isodesm.diagnosis.shared.reporting import Report, Words
from isodesm.inference.injection import Injection
from isodesm.inference.resolution import Answer, How
from isodesm.linking.symbols import simple_name

LEAST = 3
"""Registrations of a family from which it is taken to be told of everything it makes."""
FEW, SHARE = 3, 0.1
"""Needs of a family that may be unmet, by number or share of all; beyond, it is told in a way that is not read."""
EVERYBODYS = frozenset(
    "ABC Protocol Generic object Object Serializable AutoCloseable Closeable IDisposable IAsyncDisposable Cloneable "
    "Comparable".split()
)
"""Bases by which no library would provide an implementation."""
FAILS = {
    "start-up": "the program stops at its start",
    "first request": "the first request that needs one fails",
    "first use": "it fails when one is asked for first",
}


def unregistered_dependencies(report: Report) -> Iterator[Finding]:
    """`unregistered-dependency`: what a managed class asks for, and what its container can't make: nothing registers it."""
    gaps, found = _Gaps(report), []
    wiring = report.codebase.wiring
    seen: set[tuple[int, int, int]] = set()
    by_hand = {service.implementation for service in wiring.services if service.registration.factory}
    given = {each.type for each in wiring.definitions if each.arguments}
    for number in sorted(wiring.managed | wiring.hosted | wiring.autowired.keys()):
        if not report.is_production(number) or number in by_hand or report.symbols.names[number] in given:
            continue
        for each in (*wiring.handed_to(number), *wiring.handed_to_methods(number)):
            place = (each.owner, each.member, each.parameter)
            if each.owner != number and place in seen:
                continue  # what a base asks for is said once
            seen.add(place)
            if each.target >= 0 and not each.collection and not each.default and not wiring.is_explicit(number):
                gap = gaps.of(number, each)
                gaps.count(number, gap is not None)
                if gap is not None:
                    found.append((number, each, gap))
    started = {report.symbols.files[report.symbols.file_of[number]].language for number in _starts(report)}
    for number, each, gap in found:
        if gaps.is_known(number):
            language = report.symbols.files[report.symbols.file_of[number]].language
            yield _missing(report, number, each, gap, language in started)


def _starts(report: Report) -> Iterator[int]:
    """Types at which a program starts, or which a host enters."""
    roles, symbols = report.codebase.roles, report.symbols
    yield from report.codebase.wiring.hosted
    for number, declared in enumerate(symbols.types):
        marks = symbols.catalogues.of(symbols.files[symbols.file_of[number]].language).entries.marks
        entered = any(simple_name(mark.name) in marks for each in declared.members for mark in each.modifiers.annotations)
        if roles.name(number) == "composition-root" or entered:
            yield number


def _missing(report: Report, number: int, each: Injection, gap: tuple[str, str, str], started: bool) -> Finding:
    """The finding for a gap; where no program starts in the tree, one outside may fill it."""
    said, remedy, when = gap
    wanted, name = report.name(each.target), report.name(number)
    outside = "" if started else " No program starts in this tree; one outside of it may register what is missing."
    return report.finding(
        "unregistered-dependency",
        "error" if started else "warning",
        number,
        report.at_injection(each),
        Words(f"`{name}` asks for `{wanted}`, {said}.", f"The container can't make `{name}`: {FAILS[when]}.{outside}", remedy),
        member=report.symbols.types[each.owner].members[each.member].name,
        target=each.target,
        key=each.name,
        why=[when.replace(" ", "-")],
    )


class _Gaps:
    """Decides what is missing; says nothing where a rule that can't be followed, or a host, may provide it."""

    def __init__(self, report: Report) -> None:
        self.report, self.codebase, self.wiring = report, report.codebase, report.codebase.wiring
        self.open = {each.family for each in self.wiring.rules}
        self.asked: Counter[str] = Counter()
        self.unmet: Counter[str] = Counter()
        self.told = Counter(each.registration.family for each in self.wiring.services if not self.wiring.is_of_test(each))

    def count(self, number: int, missing: bool) -> None:
        """Note a need of a class, and whether something seems to be missing."""
        family = self._container_of(number)[0]
        self.asked[family] += 1
        self.unmet[family] += missing

    def is_known(self, number: int) -> bool:
        """Whether the way in which a container is told is understood: then few needs only are not met."""
        family = self._container_of(number)[0]
        return self.unmet[family] <= max(FEW, self.asked[family] * SHARE)

    def of(self, number: int, each: Injection) -> tuple[str, str, str] | None:
        """What is to be said of a need, what to do, and when it fails; None where nothing is amiss or nothing is known."""
        answer = self.wiring.answer(each)
        if answer.services or answer.how == How.AMBIGUOUS or self._is_made_elsewhere(each.target):
            return None
        if each.key and each.key.rpartition(".")[2] != self.report.symbols.types[each.target].name:
            return None  # a key of its own, which may be told elsewhere
        if any(not service.lifetime for service in self.wiring.by_implementation.get(each.target, ())):
            return None  # told by a function that may do more
        family, rules = self._container_of(number)
        if family in self.open:
            return None
        wanted = self.report.name(each.target)
        if answer.how == How.NONE:
            remedy = f"Register what serves `{wanted}`, or take the parameter out."
            return "which nothing registers or implements", remedy, rules.fails or "first use"
        if rules.is_empty or not family or self.told[family] < LEAST:
            return None
        if rules.registers == "concrete" and answer.how == How.AS_IT_IS:
            return None
        said, remedy, when = self._unlisted(each, answer, rules) or ("", "", "")
        return (said, remedy, "first request" if number in self.wiring.hosted and rules.calls else when) if said else None

    def _unlisted(self, each: Injection, answer: Answer, rules: ContainerRules) -> tuple[str, str, str] | None:
        """The words for a class or abstraction that is there, and that no registration names."""
        wanted = self.report.name(each.target)
        marked = rules.registers == "marked"
        if answer.how == How.AS_IT_IS:
            asked = self.wiring.injections.is_service(each.target) or each.target in self.wiring.allowed
            if not asked or self._is_of_the_host(each.target):
                return None
            said = "which has no mark by which the container would find it" if marked else "which nothing registers"
            return said, f"{'Mark' if marked else 'Register'} `{wanted}`.", rules.fails
        names = ", ".join(f"`{self.report.name(below)}`" for below in answer.candidates[:3])
        said = f"which {names} would serve, but has no mark" if marked else f"which nothing registers; {names} would serve"
        first = self.report.name(answer.candidates[0])
        return said, f"{'Mark' if marked else 'Register'} `{first}` for it, if that is meant.", rules.fails

    def _container_of(self, number: int) -> tuple[str, ContainerRules]:
        """The family of containers that makes a class."""
        if family := self.wiring.autowired.get(number, ""):
            return family, self.wiring.families.rules(self.report.symbols.dialect(number).name, family)
        for service in self.wiring.by_implementation.get(number, ()):
            return service.registration.family, self.wiring.rules_of(service)
        file = self.report.symbols.file_of[number]
        marks = {simple_name(each.name) for each in self.report.symbols.types[number].modifiers.annotations}
        for family, rules in self.wiring.families.of(file):
            if not marks.isdisjoint((*rules.allowed_by, *rules.metadata)) and self.told[family]:
                return family, rules
        if number in self.wiring.hosted:
            for family, rules in self.wiring.families.of(file):
                if family and rules.calls and self.told[family] >= LEAST:
                    return family, rules
        return "", ContainerRules()

    def _is_of_the_host(self, target: int) -> bool:
        """Whether the host makes a class for a place of its own, like a visual part."""
        declared = self.report.symbols.types[target]
        rules = self.wiring.injections.words(target)
        marks = {simple_name(each.name) for each in declared.modifiers.annotations}
        return not marks.isdisjoint(rules.metadata) or self.codebase.roles.name(target) in ("presentation", "composition-root")

    def _is_made_elsewhere(self, target: int) -> bool:
        """Whether something that is not read may provide it: a library behind its base or marks, or a call in a place of
        registrations that names it in a way of its own."""
        declared = self.report.symbols.types[target]
        line = (target, *self.codebase.roles.implementers.get(target, ()))
        allowed = target in self.wiring.allowed
        bases = {simple_name(each).partition("<")[0] for each in self.codebase.roles.external_bases.get(line[0], ())}
        if bases - EVERYBODYS and declared.is_abstract:
            return True
        if declared.modifiers.annotations and not allowed and declared.is_abstract:
            return True
        name = re.escape(declared.name)
        named = re.compile(
            rf"<[^<>;]*\b{name}\b[^<>;]*>\s*\(|\b{name}(?:\.class|::class)\b|typeof\({name}\)|[:,(]\s*{name}\s*[,)}}]".encode()
        )
        return any(named.search(text) for text in self._places)

    @cached_property
    def _places(self) -> list[bytes]:
        """The texts of the files that hold registrations made by calls, heads of members left out: those only ask."""
        files = {self.wiring.file_of(each) for each in self.wiring.services if each.registration.how == "call"}
        return [self._without_heads(file) for file in sorted(files - {-1})]

    def _without_heads(self, file: int) -> bytes:
        text = bytearray(self.codebase.text(file))
        for declared in self.report.symbols.files[file].types:
            for member in declared.members:
                if member.body != (0, 0) and member.parameters:
                    text[member.place.start : member.body[0]] = b" " * (member.body[0] - member.place.start)
        return bytes(text)
