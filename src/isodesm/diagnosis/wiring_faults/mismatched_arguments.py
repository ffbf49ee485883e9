"""Service-definition files set against the constructors that they call."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from functools import partial
from typing import NamedTuple

from isodesm.diagnosis.shared.findings import Finding, Related
from isodesm.diagnosis.shared.reporting import At, Report, Words
from isodesm.facts import typetext
from isodesm.facts.definitions import Argument, Definition
from isodesm.inference.injection import Injection

_SCALARS = frozenset("int integer float double bool boolean string str long short byte char array iterable".split())
"""Types of plain values."""
_PLAIN = re.compile(r"-?\d[\d.]*+|true|false|[A-Za-z][\w ]*+")
"""A value that stands for itself: no reference, no parameter, no expression."""


def mismatched_arguments(report: Report) -> Iterator[Finding]:
    """`mismatched-argument` and, for ids that nobody defines, `unregistered-dependency`: arguments matched to parameters."""
    wiring = report.codebase.wiring
    for definition in wiring.definitions:
        number = wiring.type_named(definition.type or definition.id)
        if number < 0 or definition.abstract or definition.factory or definition.resource or definition.alias:
            continue
        yield from _unknown_ids(report, definition, number)
        if not definition.parent:
            yield from _by_position(report, definition, number)


def unfilled_parameters(report: Report) -> Iterator[Finding]:
    """`mismatched-argument`: what a registration hands to a constructor by name or place, where nothing else is handed in."""
    wiring = report.codebase.wiring
    for service in wiring.services:
        hands, number = service.registration.hands, service.implementation
        if hands is None or number < 0 or wiring.is_of_test(service):
            continue
        wanted = wiring.injections.of_constructor(number)
        if not wanted and not _is_plainly_made(report, number):
            continue
        names = {name for name, _ in hands}
        taken = {word for each in wanted for word in (each.name, str(each.parameter))}
        missing = [each for each in wanted if not each.default and names.isdisjoint((each.name, str(each.parameter)))]
        beyond = sorted(names - taken) if not any(_takes_any(report, each) for each in wanted) else []
        registered, name = service.registration, report.name(number)
        faults = [(f"hands `{name}` no `{each.name}`", each.name, [report.at_injection(each)]) for each in missing]
        faults += [(f"hands `{name}` a `{word}`, which it does not take", word, [report.at_type(number)]) for word in beyond]
        for said, key, places in faults:
            yield _finding(
                report,
                number,
                report.at_line(registered.file, registered.line),
                Words(
                    f"`{registered.id or registered.abstraction}` {said}.",
                    f"Nothing checks this before a `{name}` is asked for; then making it fails.",
                    "Name in the registration what the constructor takes, no less and no more.",
                ),
                registered.id,
                _Wrong("", "wrong-count", [each.related("what the constructor takes") for each in places], key),
            )


def _is_plainly_made(report: Report, number: int) -> bool:
    """Whether a class without a constructor is known to take nothing: no mark or base writes one for it."""
    declared = report.symbols.types[number]
    return not declared.modifiers.annotations and not report.codebase.roles.external_bases.get(number)


def _unknown_ids(report: Report, definition: Definition, number: int) -> Iterator[Finding]:
    wiring = report.codebase.wiring
    outside = bool(wiring.definitions) and any(each.resource for each in wiring.definitions)
    for each in definition.arguments:
        if not each.service or each.optional or each.service in wiring.by_id or wiring.type_named(each.service) >= 0:
            continue
        if outside or not _looks_own(report, each.service):
            continue
        yield report.finding(
            "unregistered-dependency",
            "error",
            number,
            report.at_line(definition.path, definition.line),
            Words(
                f"`{definition.id}` is handed `@{each.service}`, which no definition knows.",
                f"The container can't make `{report.name(number)}`; it fails at start-up, or when it is first asked for.",
                f"Define `{each.service}`, or take the argument out.",
            ),
            target_name=each.service,
            key=f"{definition.id} {each.service}",
            why=["unknown-id"],
        )


def _looks_own(report: Report, service: str) -> bool:
    """Whether an id is of the tree's own making: what comes before its first dot also begins other ids of the tree."""
    first = service.partition(".")[0]
    return any(each.partition(".")[0] == first for each in report.codebase.wiring.by_id if "." in each and each != service)


def _by_position(report: Report, definition: Definition, number: int) -> Iterator[Finding]:
    wanted = report.codebase.wiring.injections.of_constructor(number)
    given = [each for each in definition.arguments if not each.name]
    if any(each.name for each in definition.arguments):
        return
    variadic = bool(wanted) and _takes_any(report, wanted[-1])
    at = report.at_line(definition.path, definition.line)
    name = report.name(number)
    constructor = (
        [report.at_injection(wanted[0]).related(f"the constructor of `{name}`")]
        if wanted
        else [report.at_type(number).related(f"`{name}`")]
    )
    fault = partial(_mismatch, report, definition, number, at)
    if len(given) > len(wanted) and not variadic:
        said = f"is handed {len(given)} arguments, but `{name}` takes {len(wanted) or 'none'}."
        yield fault(_Wrong(said, "wrong-count", constructor))
    needed = sum(1 for each in wanted if not each.default)
    if given and len(given) < needed and not definition.autowired:
        said = f"is handed {len(given)} of the {needed} arguments that `{name}` needs."
        yield fault(_Wrong(said, "wrong-count", constructor))
    told: set[int] = set()
    for index, (argument, injection) in enumerate(zip(given, wanted, strict=False)):
        if index in told or (misfit := _misfit(report, argument, injection)) is None:
            continue
        right = _right_place(report, argument, wanted)
        told.add(right)  # two that stand in each other's place are one fault
        order, tag = (f" It would fit as argument {right + 1}.", "wrong-order") if right >= 0 else ("", "wrong-type")
        place = report.at_injection(injection).related("the parameter that it is for")
        yield fault(_Wrong(f"{misfit}.{order}", tag, [place], injection.name))


def _misfit(report: Report, argument: Argument, injection: Injection) -> str | None:
    """What is wrong with an argument for a parameter, in words; None where nothing is, or nothing can be said."""
    actual, plain = _type_of(report, argument), typetext.head(injection.text).lstrip("?").lower() in _SCALARS
    wanted = injection.text if plain else report.name(injection.target) if injection.target >= 0 else ""
    for_it = f"for `{injection.name}`, declared as `{wanted}`"
    if actual >= 0 and (plain or (injection.target >= 0 and not _fits(report, actual, injection.target))):
        return f"is handed `@{argument.service}`, a `{report.name(actual)}`, {for_it}"
    takes_service = not injection.collection and report.codebase.wiring.injections.is_service(injection.target)
    is_value = not argument.service and _PLAIN.fullmatch(argument.value) is not None
    return f"is handed `{argument.value}` {for_it}" if takes_service and is_value else None


def _right_place(report: Report, argument: Argument, wanted: Iterable[Injection]) -> int:
    """Where an argument would fit, counted from 0; -1 where nowhere, or where that can't be told."""
    actual = _type_of(report, argument)
    if actual < 0:
        return -1
    return next((i for i, other in enumerate(wanted) if other.target >= 0 and _fits(report, actual, other.target)), -1)


class _Wrong(NamedTuple):
    """What is wrong with the arguments of a definition: in words, by a tag, with what else to look at."""

    text: str
    tag: str
    related: Iterable[Related]
    key: str = ""


def _mismatch(report: Report, definition: Definition, number: int, at: At, wrong: _Wrong) -> Finding:
    words = Words(
        f"`{definition.id}` {wrong.text}",
        f"Nothing checks this before the container makes a `{report.name(number)}`; then it fails.",
        "Bring the arguments of the definition into the order and number of the constructor's parameters, or name them.",
    )
    return _finding(report, number, at, words, definition.id, wrong)


def _finding(report: Report, number: int, at: At, words: Words, id: str, wrong: _Wrong) -> Finding:
    return report.finding(
        "mismatched-argument",
        "error",
        number,
        at,
        words,
        target=number,
        key=f"{id} {wrong.tag} {wrong.key}",
        why=[wrong.tag],
        related=wrong.related,
    )


def _takes_any(report: Report, injection: Injection) -> bool:
    member = report.symbols.types[injection.owner].members[injection.member]
    return member.parameters[injection.parameter].variadic


def _type_of(report: Report, argument: Argument) -> int:
    """The class of what an argument refers to; -1 for values and what is not known."""
    if not argument.service:
        return -1
    wiring = report.codebase.wiring
    definition = wiring.by_id.get(argument.service)
    if definition is not None and definition.factory:
        return -1
    return wiring.type_named(wiring.class_of(argument.service))


def _fits(report: Report, actual: int, wanted: int) -> bool:
    roles = report.codebase.roles
    return wanted in roles.ancestors(actual) or bool(roles.external_bases.get(actual) and roles.external_bases.get(wanted))
