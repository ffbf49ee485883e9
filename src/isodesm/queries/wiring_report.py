"""What `wiring` says: registrations by layer, what is wrong with them, and the tree of objects below a class."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import Diagnosis, Finding
from isodesm.diagnosis.shared.reporting import Report
from isodesm.diagnosis.wiring_faults.registered import in_test
from isodesm.inference.resolution import Service
from isodesm.queries.object_tree import ObjectNode, object_tree

WIRING_KINDS = (
    "captive-dependency",
    "unregistered-dependency",
    "ambiguous-implementation",
    "duplicate-registration",
    "split-instance",
    "mismatched-argument",
    "dependency-cycle",
    "bypassed-injection",
    "untyped-injection-point",
)


class Wired(msgspec.Struct, frozen=True):
    """A registration: what serves what, how long, in which layer, where; `used` says whether anything asks for it.

    `key`, `condition`, `order`, `alias`, `made`, `only_for`, `wraps`, `stand_in` and `rule` are those of the registration
    (see `docs/containers.md`); `programs` are the folders of the programs that it is part of, none for all.
    """

    abstraction: str
    implementation: str
    lifetime: str
    layer: str
    how: str
    scope: str
    file: str
    line: int
    used: bool
    family: str = ""
    key: str = ""
    condition: str = ""
    order: str = ""
    alias: bool = False
    made: tuple[str, ...] = ()
    only_for: str = ""
    wraps: bool = False
    stand_in: bool = False
    rule: str = ""
    programs: tuple[str, ...] = ()


class Rule(msgspec.Struct, frozen=True):
    """A rule by which classes are registered: how it reads, where it stands, and what it matches in the tree; `followed` is
    false for one that can't be followed."""

    text: str
    file: str
    line: int
    followed: bool
    matches: tuple[str, ...] = ()


class WiringReport(msgspec.Struct, frozen=True):
    """`by_hand` lists managed classes that are created by hand, each with the place."""

    registrations: tuple[Wired, ...]
    problems: tuple[Finding, ...]
    by_hand: tuple[Finding, ...]
    tree: ObjectNode | None = None
    rules: tuple[Rule, ...] = ()
    programs: tuple[str, ...] = ()
    """The folders of the programs of the tree, where there are several."""


def report_wiring(
    codebase: Codebase, diagnosis: Diagnosis, root: int = -1, entered: frozenset[int] = frozenset()
) -> WiringReport:
    """The wiring of a codebase; with a `root` (type number) also the tree of objects that it takes to have one of it.

    `entered` are the types at which hosts enter the program, and which they ask for.
    """
    wiring = codebase.wiring
    looked_up = {codebase.bonds.target[row] for row in codebase.bonds.rows_of_kind("lookup")}
    wanted = wiring.asked_for | looked_up | entered | wiring.hosted
    report = Report(codebase)
    created = [
        each
        for each in diagnosis.findings
        if each.kind == "hard-wired-creation" and each.target_number in wiring.by_implementation
    ]
    return WiringReport(
        registrations=tuple(_wired(codebase, each, wanted) for each in wiring.services if not in_test(report, each)),
        problems=tuple(each for each in diagnosis.findings if each.kind in WIRING_KINDS),
        by_hand=tuple(created),
        tree=object_tree(codebase, root) if root >= 0 else None,
        rules=tuple(_rules(codebase)),
        programs=codebase.wiring.programs.names,
    )


def _wired(codebase: Codebase, service: Service, wanted: frozenset[int] | set[int]) -> Wired:
    """One registration with what is to be told of it."""
    each = service.registration
    known = service.implementation if service.implementation >= 0 else service.abstraction
    line = codebase.roles.ancestors(service.implementation) if service.implementation >= 0 else ()
    return Wired(
        abstraction=each.abstraction or each.id,
        implementation=_served_by(codebase, service),
        lifetime=each.lifetime,
        layer=codebase.layers.name(known) if known >= 0 else "",
        how=each.how,
        scope=each.scope,
        file=each.file,
        line=each.line,
        used=_is_used(codebase, service, {service.abstraction, service.implementation, *line}, wanted),
        family=each.family,
        key="" if each.id == each.abstraction and service.abstraction >= 0 else each.id,
        condition=each.condition,
        order=each.order,
        alias=each.alias,
        made=each.made,
        only_for=each.only_for,
        wraps=each.wraps,
        stand_in=each.proxied,
        rule=each.rule,
        programs=_programs_of(codebase, service),
    )


def _programs_of(codebase: Codebase, service: Service) -> tuple[str, ...]:
    file = codebase.wiring.file_of(service)
    return tuple(sorted(codebase.wiring.programs.of(file))) if file >= 0 else ()


def _rules(codebase: Codebase) -> Iterator[Rule]:
    """The rules of the tree, each with the classes that it matches."""
    matches: dict[tuple[str, int, str], dict[str, None]] = defaultdict(dict)
    for service in codebase.wiring.services:
        each = service.registration
        if each.rule:
            matches[each.file, each.line, each.rule][each.implementation] = None
    for (file, line, text), names in matches.items():
        yield Rule(text, file, line, True, tuple(names))
    for each in codebase.wiring.rules:
        yield Rule(each.rule, each.file, each.line, False)


def _served_by(codebase: Codebase, service: Service) -> str:
    """The implementation by name; '' where an abstraction stands for an object of which nothing is known."""
    if service.implementation >= 0:
        return codebase.symbols.names[service.implementation]
    known = service.abstraction < 0 or service.registration.implementation != service.registration.abstraction
    return service.registration.implementation if known else ""


def _is_used(codebase: Codebase, service: Service, family: set[int], wanted: frozenset[int] | set[int]) -> bool:
    if family.intersection(wanted) or service.implementation < 0:
        return True
    by_key = {argument.service for each in codebase.definitions for argument in (*each.arguments, *each.calls)}
    served_by_host = codebase.roles.name(service.implementation) in ("presentation", "composition-root", "test") or bool(
        codebase.roles.external_bases.get(service.implementation)
    )
    definition = codebase.wiring.by_id.get(service.registration.id)
    return (
        service.registration.id in by_key
        or served_by_host
        or (definition is not None and (definition.public or bool(definition.tags)))
    )
