"""Registrations that don't fit together: lifetimes, gaps, doubles, split state."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from isodesm.diagnosis.shared.findings import Finding
from isodesm.diagnosis.shared.reporting import Report
from isodesm.inference.injection import Injection
from isodesm.inference.wiring import LIFETIMES, Service

RANK = {lifetime: rank for rank, lifetime in enumerate(LIFETIMES)}
IN_ORDER = frozenset(("call", "definition"))
"""Ways of registering in which a later registration takes the place of an earlier one."""
HOPS = 4
"""Registrations over which a captive is looked for."""


def captive_dependencies(report: Report) -> Iterator[Finding]:
    """`captive-dependency`: one finding for each longer-lived registration and what it holds on to, at the registration."""
    wiring = report.codebase.wiring
    for holder in wiring.services:
        if holder.implementation < 0 or holder.lifetime not in RANK or in_test(report, holder):
            continue
        for chain in _captives(report, holder):
            captive = chain[-1][1]
            names = [report.name(holder.implementation), *(report.name(service.implementation) for _, service in chain)]
            through = f" by way of {', '.join(f'`{each}`' for each in names[1:-1])}" if len(names) > 2 else ""
            severe = captive.lifetime == "scoped"
            yield report.finding(
                "captive-dependency",
                "error" if severe else "warning",
                holder.implementation,
                report.at_registration(holder.registration),
                f"`{names[0]}` lives as a {holder.lifetime} and holds `{names[-1]}`, which is registered as "
                f"{captive.lifetime}{through}.",
                f"The first `{names[-1]}` stays for as long as `{names[0]}` does; "
                + (
                    "what is meant for one request is shared by all."
                    if severe
                    else "the next one that is asked for is another object, with a state of its own."
                ),
                f"Register `{names[0]}` as {captive.lifetime}, or hand it a way to get a `{names[-1]}` when it needs one.",
                target=captive.implementation,
                why=[f"{holder.lifetime}-holds-{captive.lifetime}", *([f"over-{len(chain)}-hops"] if len(chain) > 1 else [])],
                related=[
                    report.at_registration(captive.registration).related(
                        f"`{names[-1]}` is registered as {captive.lifetime} here"
                    ),
                    *(report.at_injection(injection).related("is handed in here") for injection, _ in chain),
                ],
            )


def _captives(report: Report, holder: Service) -> Iterator[list[tuple[Injection, Service]]]:
    """Chains from a registration to the shorter-lived ones it holds; scoped ones over several hops, a stateful transient
    over one."""
    waiting: list[list[tuple[Injection, Service]]] = [[]]
    seen = {holder.implementation}
    while waiting:
        chain = waiting.pop(0)
        at = chain[-1][1] if chain else holder
        for injection in report.codebase.wiring.handed_to(at.implementation):
            served = report.codebase.wiring.serving(injection)
            if injection.deferred or not served or served[-1].implementation in seen or served[-1].implementation < 0:
                continue
            service = served[-1]
            seen.add(service.implementation)
            step = [*chain, (injection, service)]
            shorter = service.lifetime in RANK and RANK[service.lifetime] < RANK[holder.lifetime]
            if shorter and (service.lifetime == "scoped" or (not chain and is_stateful(report, service.implementation))):
                yield step
            elif service.lifetime == "transient" and len(step) < HOPS:
                waiting.append(step)


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


def unregistered_dependencies(report: Report) -> Iterator[Finding]:
    """`unregistered-dependency`: abstractions that a managed class asks for, and that nothing registers or implements."""
    codebase, wiring = report.codebase, report.codebase.wiring
    made_by_hand = {service.implementation for service in wiring.services if service.registration.factory}
    for number in sorted(wiring.managed):
        if (
            not report.is_production(number)
            or number in made_by_hand
            or report.symbols.names[number] in {d.type for d in wiring.definitions if d.arguments}
        ):
            continue
        for each in wiring.handed_to(number):
            if each.target < 0 or each.collection or each.default or wiring.serving(each):
                continue
            if codebase.roles.name(each.target) != "abstraction" and not report.symbols.types[each.target].is_abstract:
                continue
            below = [n for n in codebase.roles.implementers.get(each.target, ()) if report.is_production(n)]
            if below or codebase.roles.external_bases.get(each.target):
                continue
            wanted, name = report.name(each.target), report.name(number)
            yield report.finding(
                "unregistered-dependency",
                "error",
                number,
                report.at_injection(each),
                f"`{name}` asks for `{wanted}`, which nothing registers or implements.",
                f"The container can't make `{name}`; the program finds out when it asks for one.",
                f"Register what serves `{wanted}`, or take the parameter out.",
                member="<init>",
                target=each.target,
                key=each.name,
            )


def duplicate_registrations(report: Report) -> Iterator[Finding]:
    """`duplicate-registration`: an abstraction registered more than once in one place; says which one wins."""
    wiring = report.codebase.wiring
    collected = {each.target for n in range(len(report.symbols)) for each in wiring.handed_to(n) if each.collection}
    groups: dict[tuple[int, str, str], list[Service]] = defaultdict(list)
    for service in wiring.services:
        registration = service.registration
        if service.abstraction >= 0 and registration.how in IN_ORDER and not registration.id and not in_test(report, service):
            groups[service.abstraction, registration.file, registration.scope].append(service)
    for (abstraction, _, _), services in sorted(groups.items()):
        serving = {service.implementation for service in services}
        again = {abstraction} == serving and len({service.lifetime for service in services}) == 1
        if len(services) < 2 or again or abstraction in collected or (len(serving) > 1 and -1 in serving):
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
            f"`{report.name(abstraction)}` is registered {len(services)} times; the last one, `{winner}`, wins.",
            "The same is said twice, and only one of them counts."
            if same and first.lifetime == last.lifetime
            else f"Whoever reads the first one takes it for the truth; the order of lines decides what "
            f"runs{f' and how long it lives ({last.lifetime})' if first.lifetime != last.lifetime else ''}.",
            "Keep the one that is meant, or give the others a key of their own.",
            target=abstraction,
            related=[report.at_registration(each.registration).related("is registered here, too") for each in services[:-1]],
        )


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
            f"{shown} each get a `{report.name(number)}` of their own.",
            f"`{report.name(number)}` keeps state; what one of them puts into it, the others never see.",
            f"Register `{report.name(number)}` once, in a scope around them, if they are to share it.",
            target=number,
            why=[f"{len(scopes)}-scopes"],
            related=[report.at_registration(each.registration).related("registers one for itself, too") for each in others],
        )


def in_test(report: Report, service: Service) -> bool:
    """Whether a registration stands in test code."""
    file = report.codebase.wiring.file_numbers.get(service.registration.file, -1)
    if file < 0:
        return False
    numbers = range(report.symbols.first[file], report.symbols.first[file] + len(report.symbols.files[file].types))
    named = [number for number in numbers if not report.symbols.is_module(number)]
    return any(report.codebase.roles.name(number) == "test" for number in named or numbers)
