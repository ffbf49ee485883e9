"""What serves what is asked for: the one answer that every output gives."""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum
from typing import NamedTuple, Protocol

from isodesm.catalogue.containers import ContainerRules
from isodesm.facts import typetext
from isodesm.inference.bases import Bases
from isodesm.inference.injection import Injection, Injections
from isodesm.inference.programs import Programs
from isodesm.inference.registrations import Registration
from isodesm.linking.symbols import Symbols, simple_name


class Service(NamedTuple):
    """A registration with its types: `abstraction` and `implementation` are type numbers, -1 where they are none of the
    tree."""

    registration: Registration
    abstraction: int
    implementation: int

    @property
    def lifetime(self) -> str:
        """How long it lives."""
        return self.registration.lifetime


class How(StrEnum):
    """How something is served."""

    REGISTERED = "registered"
    ALTERNATIVES = "alternatives"
    """Which of several registrations, a condition decides."""
    ALL = "all"
    """A list was asked for."""
    AMBIGUOUS = "ambiguous"
    """Nothing decides."""
    AS_IT_IS = "as it is"
    """By a class that is registered nowhere."""
    ONLY_IMPLEMENTATION = "only implementation"
    """By one that is not registered."""
    SEVERAL = "several"
    NONE = "none"
    """There are several implementations, or none, and none is registered."""
    OUTSIDE = "outside"
    """It is no type of the tree."""


class Answer(NamedTuple):
    """What serves something: `services` has the one that counts last, `candidates` are type numbers where none was chosen."""

    how: How
    services: tuple[Service, ...] = ()
    candidates: tuple[int, ...] = ()

    @property
    def chosen(self) -> int:
        """The class that serves; -1 where that is not known."""
        if self.how == How.REGISTERED:
            return self.services[-1].implementation
        return self.candidates[0] if self.how in (How.AS_IT_IS, How.ONLY_IMPLEMENTATION) else -1


class Registered(Protocol):
    """What an answer asks of the registrations of a tree."""

    symbols: Symbols
    injections: Injections
    bases: Bases
    programs: Programs
    by_token: dict[str, list[Service]]
    by_abstraction: dict[int, list[Service]]
    by_implementation: dict[int, list[Service]]

    def visible(self, services: Iterable[Service], file: int) -> list[Service]:
        """Those that may be part of the program of a file."""

    def rules_of(self, service: Service) -> ContainerRules:
        """The words of the family that a registration belongs to."""

    def is_of_test(self, service: Service) -> bool:
        """Whether a registration stands in test code."""

    def file_of(self, service: Service) -> int:
        """The number of the source file that it stands in; -1 for a file of data."""

    def type_named(self, name: str, asker: int = -1) -> int:
        """The type of a qualified name, as a file sees it; -1 if there is none."""


def answer_for(wiring: Registered, injection: Injection, file: int = -1) -> Answer:
    """What serves an injection; `file` is that of who asks, where no class does."""
    target = injection.target
    asker = wiring.symbols.file_of[injection.owner] if injection.owner >= 0 else file
    named = wiring.visible(wiring.by_token.get(injection.key, ()), asker) if injection.key else []
    if target < 0 and not named:
        return Answer(How.OUTSIDE)
    named = [each for each in named if target >= 0 and each.abstraction == target] or named
    known = wiring.visible(wiring.by_abstraction.get(target, ()), asker)
    services = _meant_for(wiring, injection, named or known)
    if not services and target >= 0:
        services = _by_type(wiring, target, asker)
        if len({each.implementation for each in services}) > 1 and not injection.collection:
            return _decided(wiring, injection, services)
    if services:
        if injection.collection:
            return Answer(How.ALL, tuple(services))
        return _of_name(wiring, services)
    if target < 0:
        return Answer(How.OUTSIDE)
    if not wiring.symbols.types[target].is_abstract:
        return Answer(How.AS_IT_IS, (), (target,))
    return _implementing(wiring, target, asker)


def _implementing(wiring: Registered, target: int, asker: int) -> Answer:
    """The classes behind an abstraction that nothing registers."""
    below = tuple(
        each
        for each in wiring.bases.implementers.get(target, ())
        if wiring.injections.roles.name(each) != "test"
        and not wiring.symbols.types[each].is_abstract
        and wiring.symbols.is_shown(each)
        and (asker < 0 or wiring.programs.together(wiring.symbols.file_of[each], asker))
    )
    return Answer(How.ONLY_IMPLEMENTATION if len(below) == 1 else How.SEVERAL if below else How.NONE, (), below)


def _meant_for(wiring: Registered, injection: Injection, services: list[Service]) -> list[Service]:
    """Those of the registrations of a name that may be meant: for this class, under this key, not around another, in the
    same kind of code."""
    owner = wiring.symbols.names[injection.owner] if injection.owner >= 0 else ""
    in_test = owner and wiring.injections.roles.name(injection.owner) == "test"
    services = [each for each in services if in_test or not wiring.is_of_test(each)]
    if own := [each for each in services if each.registration.only_for and each.registration.only_for == owner]:
        return own
    services = [each for each in services if not each.registration.only_for]
    services = _with_arguments(injection, services)
    if injection.key and (keyed := [each for each in services if each.registration.id == injection.key]):
        return keyed
    services = _asked_plainly(wiring, injection, services)
    around = [each for each in services if each.registration.wraps]
    if injection.owner in (within := [each.implementation for each in around]):
        around = around[: within.index(injection.owner)]  # what stands around another is handed the one inside
    return [each for each in services if not each.registration.wraps] + around[-1:]


def _asked_plainly(wiring: Registered, injection: Injection, services: list[Service]) -> list[Service]:
    """Those without what serves only who asks for all of a list, or for a key."""
    if not injection.collection:
        services = [each for each in services if each.registration.order != "list" or not wiring.rules_of(each).lists_apart]
    plain = [] if injection.key else [each for each in services if not _is_keyed(wiring, each)]
    return plain or services


def _is_keyed(wiring: Registered, service: Service) -> bool:
    """Whether a registration serves only those who name its key."""
    given = service.registration
    return (
        bool(given.id) and given.how in ("call", "method") and not given.alias and not wiring.rules_of(service).decides_by_type
    )


def _with_arguments(injection: Injection, services: list[Service]) -> list[Service]:
    """Those of the registrations of a generic type that have the type arguments asked for, else those without any."""
    if not any("<" in each.registration.abstraction for each in services):
        return services
    wanted = _plain(injection.text)
    exact = [each for each in services if _plain(each.registration.abstraction) == wanted]
    return exact or [each for each in services if "<" not in each.registration.abstraction]


def _plain(text: str) -> tuple[str, ...]:
    return tuple(simple_name(each) for each in typetext.arguments(text)) if "<" in text else ()


def _by_type(wiring: Registered, target: int, asker: int) -> list[Service]:
    """The registrations of heirs, where the container finds what serves an abstraction by its type."""
    found = [
        each
        for number in (target, *wiring.bases.implementers.get(target, ()))
        for each in wiring.by_implementation.get(number, ())
        if not each.registration.family or wiring.rules_of(each).decides_by_type
    ]
    return [each for each in wiring.visible(found, asker) if not wiring.is_of_test(each)]


def _of_name(wiring: Registered, services: list[Service]) -> Answer:
    """What registrations of one name come to: in one place their order counts, in several nothing says which is loaded."""
    places = {(each.registration.file, each.registration.scope, each.registration.within) for each in services}
    rivals = tuple(sorted({each.implementation for each in services if not each.registration.condition}))
    last = services[-1]
    if len(rivals) < 2 or last.registration.order:
        return _in_order(wiring, services)
    if len(places) > 1:
        return Answer(How.ALTERNATIVES, tuple(services), rivals)
    return Answer(How.AMBIGUOUS, (), rivals) if wiring.rules_of(last).collects_repeated else _in_order(wiring, services)


def _in_order(wiring: Registered, services: list[Service]) -> Answer:
    """The one of several registrations of a name that counts, or the alternatives between which a condition decides.

    What stands always takes the place of all before it, but for what gives way; that counts where no other does.
    """
    standing: list[Service] = []
    for each in services:
        if each.registration.order == "first":
            if not any(not other.registration.condition for other in standing) and not _covers(standing):
                standing.append(each)
        elif each.registration.condition:
            standing.append(each)
        else:
            standing = [each]
    behind: dict[int, None] = {}
    for each in standing:
        file = wiring.file_of(each)
        made = [wiring.type_named(name, file) for name in each.registration.made]
        behind.update(dict.fromkeys(made or [each.implementation]))
    if len(behind) > 1:
        return Answer(How.ALTERNATIVES, tuple(standing), tuple(behind))
    return Answer(How.REGISTERED, tuple(standing))


def _covers(services: list[Service]) -> bool:
    """Whether of two conditions one is the other's opposite, so that always one holds."""
    said = {each.registration.condition for each in services}
    return any(f"not ({each})" in said for each in said)


def _decided(wiring: Registered, injection: Injection, services: list[Service]) -> Answer:
    """Which of several classes of a container that decides by type is meant."""
    services = _with_bases(wiring, injection, services)
    found = list({each.implementation: each for each in services if each.implementation != injection.owner}.values())
    if len(found) == 1:
        return Answer(How.REGISTERED, (found[0],))
    if named := _named(wiring, injection, found):
        return Answer(How.REGISTERED, (named,))
    rules = wiring.rules_of(found[0])
    always = [each for each in found if not each.registration.condition]
    marked = [each for each in found if _marks(wiring, each) & set(rules.primary)]
    if len(marked) == 1:
        return Answer(How.REGISTERED, (marked[0],))
    if len(always) < len(found) and len(always) <= 1:
        return Answer(How.ALTERNATIVES, tuple(found), tuple(each.implementation for each in found))
    rivals = tuple(sorted(each.implementation for each in (always or found)))
    return Answer(How.AMBIGUOUS, (), rivals) if rules.refuses else Answer(How.ALTERNATIVES, tuple(found), rivals)


def _with_bases(wiring: Registered, injection: Injection, services: list[Service]) -> list[Service]:
    """Those of the classes behind a generic abstraction that name it with the type arguments asked for, if any do."""
    wanted = _plain(injection.text)
    if not wanted:
        return services
    exact = []
    for each in services:
        declared = wiring.symbols.types[each.implementation]
        if any(_plain(base) == wanted for base in (*declared.extends, *declared.implements)):
            exact.append(each)
    return exact or services


def _named(wiring: Registered, injection: Injection, services: list[Service]) -> Service | None:
    """The one that a key, or the name of what is asked for, means."""
    for name in (injection.key, injection.name.lstrip("$_")) if injection.owner >= 0 else ():
        for each in services:
            own = each.registration.id or simple_name(wiring.symbols.names[each.implementation])
            if name and name.lower() in (own.lower(), simple_name(wiring.symbols.names[each.implementation]).lower()):
                return each
    return None


def _marks(wiring: Registered, service: Service) -> set[str]:
    return {simple_name(each.name) for each in wiring.symbols.types[service.implementation].modifiers.annotations}
