"""Registrations that don't fit together: doubles, and state that is split."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from isodesm.diagnosis.shared.findings import Finding
from isodesm.diagnosis.shared.reporting import Report, Words
from isodesm.inference.resolution import Service

IN_ORDER = frozenset(("call", "definition"))
"""Ways of registering in which a later registration takes the place of an earlier one."""


def is_stateful(report: Report, number: int) -> bool:
    """Whether objects of a class differ from each other, or change: a field that is neither handed in nor a constant."""
    declared = report.symbols.types[number]
    given = {_bare(each.name) for member in declared.members if member.kind == "constructor" for each in member.parameters}
    return any(
        member.kind in ("field", "property")
        and not member.is_static
        and not _is_computed(member)
        and _bare(member.name) not in given
        for member in declared.members
    )


def _bare(name: str) -> str:
    return name.lstrip("_$#").lower()


def _is_computed(member) -> bool:
    """Whether a property only hands something out, or a field is a constant."""
    if member.kind == "property":
        return bool(member.statements)
    frozen = {"final", "readonly", "const"}.intersection(member.modifiers.words)
    plain = member.value.strip()[:1] not in ("", "[", "{") and not member.value.startswith("new")
    return bool(frozen) and plain


def duplicate_registrations(report: Report) -> Iterator[Finding]:
    """`duplicate-registration`: an abstraction registered more than once in one place; says which one wins."""
    wiring = report.codebase.wiring
    groups: dict[tuple[int, str, str, str], list[Service]] = defaultdict(list)
    for service in wiring.services:
        registration = service.registration
        if service.abstraction >= 0 and registration.how in IN_ORDER and _takes_the_place(report, service):
            generics = registration.abstraction.partition("<")[2]
            groups[service.abstraction, generics, registration.file, registration.scope].append(service)
    groups = {key: services for key, services in groups.items() if len(services) > 1}
    numbers = range(len(report.symbols)) if groups else ()
    collected = {each.target for number in numbers for each in wiring.handed_to(number) if each.collection}
    for (abstraction, *_), services in sorted(groups.items()):
        serving = {service.implementation for service in services}
        again = {abstraction} == serving and len({service.lifetime for service in services}) == 1
        if again or abstraction in collected or (len(serving) > 1 and -1 in serving):
            continue
        first, last = services[0], services[-1]
        owner = last.implementation if last.implementation >= 0 else abstraction
        winner = report.name(owner)
        same = len(serving) == 1
        yield report.finding(
            "duplicate-registration",
            "note" if same else "warning",
            owner,
            report.at_registration(last.registration),
            Words(
                f"`{report.name(abstraction)}` is registered {len(services)} times; the last one, `{winner}`, wins.",
                "The same is said twice, and only one of them counts."
                if same and first.lifetime == last.lifetime
                else f"Whoever reads the first one takes it for the truth; the order of lines decides what "
                f"runs{f' and how long it lives ({last.lifetime})' if first.lifetime != last.lifetime else ''}.",
                "Keep the one that is meant, or give the others a key of their own.",
            ),
            target=abstraction,
            related=[report.at_registration(each.registration).related("is registered here, too") for each in services[:-1]],
        )


def _takes_the_place(report: Report, service: Service) -> bool:
    """Whether a registration stands always, for everybody, and instead of one before it: no alternative and no part of a
    list, no one that gives way, replaces with intent or is put around another."""
    it = service.registration
    special = it.id or it.condition or it.order or it.only_for or it.wraps or in_test(report, service)
    return not special and not report.codebase.wiring.rules_of(service).collects_repeated


def split_instances(report: Report) -> Iterator[Finding]:
    """`split-instance`: a stateful service that several scopes register for themselves, so that each has its own state."""
    wiring = report.codebase.wiring
    holders: dict[int, dict[str, Service]] = defaultdict(dict)
    for scope, services in wiring.scopes.items():
        if wiring.type_named(scope) < 0 or not report.is_production(wiring.type_named(scope)):
            continue
        for service in services:
            if service.implementation >= 0 and service.registration.how == "metadata":
                holders[service.implementation].setdefault(scope, service)
    for number, scopes in sorted(holders.items()):
        if len(scopes) < 2 or not is_stateful(report, number):
            continue
        names = [report.name(wiring.type_named(scope)) for scope in scopes]
        first, *others = scopes.values()
        shown = ", ".join(f"`{each}`" for each in names[:4])
        yield report.finding(
            "split-instance",
            "warning",
            number,
            report.at_registration(first.registration),
            Words(
                f"{shown} each get a `{report.name(number)}` of their own.",
                f"`{report.name(number)}` keeps state; what one of them puts into it, the others never see.",
                f"Register `{report.name(number)}` once, in a scope around them, if they are to share it.",
            ),
            target=number,
            why=[f"{len(scopes)}-scopes"],
            related=[report.at_registration(each.registration).related("registers one for itself, too") for each in others],
        )


def in_test(report: Report, service: Service) -> bool:
    """Whether a registration stands in test code."""
    return report.codebase.wiring.is_of_test(service)
