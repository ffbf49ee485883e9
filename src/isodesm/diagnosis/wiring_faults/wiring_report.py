"""What `wiring` says: registrations by layer, what is wrong with them, and the tree of objects below a class."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from functools import cached_property

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.chains import AT_CONSTRUCTION
from isodesm.diagnosis.shared.findings import Diagnosis, Finding
from isodesm.diagnosis.shared.reporting import Report
from isodesm.diagnosis.wiring_faults.registered import in_test
from isodesm.inference.evidence import DATA
from isodesm.inference.wiring import Service
from isodesm.linking.bonds import KIND_NUMBER

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
MOST_NODES = 400
"""Objects of a tree that are shown; more are cut, and said to be."""


class Wired(msgspec.Struct, frozen=True):
    """A registration: what serves what, how long, in which layer, where; `used` says whether anything asks for it."""

    abstraction: str
    implementation: str
    lifetime: str
    layer: str
    how: str
    scope: str
    file: str
    line: int
    used: bool


class ObjectNode(msgspec.Struct, frozen=True):
    """An object of the tree: its class, how it comes to be there, and what it needs.

    `how`: `root`, `registered`, `only implementation`, `takes` (a class as it is), `creates`, `unknown`, `again` (shown above).
    """

    name: str
    wanted: str
    how: str
    lifetime: str
    children: tuple[ObjectNode, ...] = ()


class WiringReport(msgspec.Struct, frozen=True):
    """`by_hand` lists managed classes that are created by hand, each with the place."""

    registrations: tuple[Wired, ...]
    problems: tuple[Finding, ...]
    by_hand: tuple[Finding, ...]
    tree: ObjectNode | None = None


def report_wiring(codebase: Codebase, diagnosis: Diagnosis, root: int = -1) -> WiringReport:
    """The wiring of a codebase; with a `root` (type number) also the tree of objects that it takes to have one of it."""
    wiring = codebase.wiring
    looked_up = {codebase.bonds.target[row] for row in codebase.bonds.rows_of_kind("lookup")}
    wanted = wiring.asked_for | looked_up
    rows = []
    report = Report(codebase)
    for service in wiring.services:
        if in_test(report, service):
            continue
        each = service.registration
        known = service.abstraction if service.abstraction >= 0 else service.implementation
        family = {
            service.abstraction,
            service.implementation,
            *(codebase.roles.ancestors(service.implementation) if service.implementation >= 0 else ()),
        }
        rows.append(
            Wired(
                abstraction=each.abstraction or each.id,
                implementation=_served_by(service),
                lifetime=each.lifetime,
                layer=codebase.layers.name(service.implementation if service.implementation >= 0 else known)
                if known >= 0
                else "",
                how=each.how,
                scope=each.scope,
                file=each.file,
                line=each.line,
                used=_is_used(codebase, service, family, wanted),
            )
        )
    created = [
        each
        for each in diagnosis.findings
        if each.kind == "hard-wired-creation" and each.target_number in wiring.by_implementation
    ]
    return WiringReport(
        registrations=tuple(rows),
        problems=tuple(each for each in diagnosis.findings if each.kind in WIRING_KINDS),
        by_hand=tuple(created),
        tree=object_tree(codebase, root) if root >= 0 else None,
    )


def object_tree(codebase: Codebase, root: int) -> ObjectNode:
    """The objects that it takes to have one of a class: what it is handed, and what it creates at construction."""
    return _Tree(codebase).node(root, "", "root")


def _served_by(service: Service) -> str:
    """The implementation by name; '' where an abstraction stands for an object of which nothing is known."""
    known = (
        service.implementation >= 0
        or service.abstraction < 0
        or service.registration.implementation != service.registration.abstraction
    )
    return service.registration.implementation if known else ""


def _is_used(codebase: Codebase, service: Service, family: set[int], wanted: frozenset[int] | set[int]) -> bool:
    if family.intersection(wanted) or service.implementation < 0:
        return True
    by_key = {argument.service for each in codebase.definitions for argument in each.arguments}
    served_by_host = codebase.roles.name(service.implementation) in ("presentation", "composition-root", "test") or bool(
        codebase.roles.external_bases.get(service.implementation)
    )
    definition = codebase.wiring.by_id.get(service.registration.id)
    return (
        service.registration.id in by_key
        or served_by_host
        or (definition is not None and (definition.public or bool(definition.tags)))
    )


class _Tree:
    """The objects that must be there to have one of a class."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase, self.report, self.count = codebase, Report(codebase), 0
        self._shown: set[int] = set()

    def node(self, number: int, wanted: str, how: str, lifetime: str = "") -> ObjectNode:
        name = self.codebase.symbols.names[number]
        self.count += 1
        if number in self._shown:
            return ObjectNode(name, wanted, "again", lifetime)
        self._shown.add(number)
        return ObjectNode(name, wanted, how, lifetime, tuple(self._children(number)) if self.count < MOST_NODES else ())

    def _children(self, number: int) -> Iterator[ObjectNode]:
        wiring, roles = self.codebase.wiring, self.codebase.roles
        for each in wiring.handed_to(number):
            served = wiring.serving(each)
            if each.target < 0 or not (
                served or roles.name(each.target) == "abstraction" or wiring.injections.is_service(each.target)
            ):
                continue
            wanted = self.report.name(each.target)
            below = roles.implementers.get(each.target, ())
            if served and served[-1].implementation >= 0:
                yield self.node(served[-1].implementation, wanted, "registered", served[-1].lifetime)
            elif roles.name(each.target) != "abstraction":
                yield self.node(each.target, "", "takes")
            elif len(below) == 1:
                yield self.node(below[0], wanted, "only implementation")
            else:
                yield ObjectNode(self.codebase.symbols.names[each.target], wanted, "unknown", "")
        table, creation = self.codebase.bonds, KIND_NUMBER["creation"]
        made: dict[int, None] = {}
        for row in self._rows_by_source.get(number, ()):
            target = table.target[row]
            if (
                table.kind[row] == creation
                and target >= 0
                and table.context[row] in AT_CONSTRUCTION
                and roles.name(target) not in (*DATA, "exception")
            ):
                made.setdefault(target)
        for target in made:
            yield self.node(target, "", "creates")

    @cached_property
    def _rows_by_source(self) -> dict[int, list[int]]:
        """Class to the rows of its creations."""
        found: dict[int, list[int]] = defaultdict(list)
        for row in self.codebase.bonds.rows_of_kind("creation"):
            found[self.codebase.bonds.source[row]].append(row)
        return found
