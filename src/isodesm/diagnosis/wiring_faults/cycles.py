"""Services that need each other to be constructed."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from itertools import chain

from isodesm.diagnosis.shared.chains import AT_CONSTRUCTION
from isodesm.diagnosis.shared.findings import Finding
from isodesm.diagnosis.shared.reach import knots_of
from isodesm.diagnosis.shared.reporting import At, Report, Words

WORKERS = frozenset(("service", "gateway", "repository"))
"""Roles between which a cycle counts; views, factories and parts hand themselves on as a matter of course."""
LONGEST = 8
"""Classes up to which a cycle is told as one; beyond that only its size says anything."""


def dependency_cycles(report: Report) -> Iterator[Finding]:
    """`dependency-cycle`: one finding for each knot of classes, at its first place."""
    needs = _needs(report)
    for knot in _knots({source: sorted(targets) for source, targets in needs.items()}):
        ring = _shortest_ring(needs, knot)
        first = ring[0]
        places = [needs[one][other] for one, other in zip(ring, (*ring[1:], first), strict=True)]
        names = [report.name(each) for each in (*ring, first)]
        by_hand = any(kind == "creates" for kind, _ in places)
        yield report.finding(
            "dependency-cycle",
            "warning" if by_hand else "error",
            first,
            places[0][1],
            Words(
                f"`{names[0]}` can't be had without `{names[1]}`, nor `{names[-2]}` without `{names[0]}`.",
                f"{' → '.join(names)}: "
                + (
                    "none of them can be tested, or replaced, without the others."
                    if by_hand
                    else "no container can construct any of them first."
                ),
                f"Move what `{names[-2]}` needs of `{names[0]}` into a class of its own, or hand it in with each call.",
            ),
            target=ring[1 % len(ring)],
            why=[f"{len(knot)}-classes"],
            related=[
                at.related(f"`{report.name(one)}` {kind} `{report.name(other)}`")
                for one, other, (kind, at) in zip(ring, (*ring[1:], first), places, strict=True)
            ][1:],
        )


def _needs(report: Report) -> dict[int, dict[int, tuple[str, At]]]:
    """Worker to the workers that must be there first, with how and where: constructor parameters and creations at
    construction."""
    codebase, table = report.codebase, report.codebase.bonds
    roles, injections = codebase.roles, codebase.wiring.injections
    found: dict[int, dict[int, tuple[str, At]]] = defaultdict(dict)

    def is_worker(number: int) -> bool:
        return number >= 0 and report.is_production(number) and roles.name(number) in WORKERS

    for number in range(len(report.symbols)):
        if not is_worker(number):
            continue
        for each in injections.of_constructor(number):
            if each.deferred or each.collection or each.default or each.owner != number:
                continue
            for target in _behind(report, each.target):
                if is_worker(target) and target != number:
                    found[number].setdefault(target, ("takes", report.at_injection(each)))
    for row in table.rows_of_kind("creation"):
        source, target = table.source[row], table.target[row]
        if table.context[row] in AT_CONSTRUCTION and source != target and is_worker(source) and is_worker(target):
            if not _related(report, source, target):
                found[source].setdefault(target, ("creates", report.at_row(row)))
    return found


def _behind(report: Report, target: int) -> tuple[int, ...]:
    """The class that must be there for a parameter: itself, or the only one that serves an abstraction."""
    if target < 0 or report.codebase.roles.name(target) != "abstraction":
        return (target,)
    serving = [
        each.implementation for each in report.codebase.wiring.by_abstraction.get(target, ()) if each.implementation >= 0
    ]
    below = serving[-1:] or report.codebase.roles.implementers.get(target, [])
    return (below[0],) if len(below) == 1 else ()


def _related(report: Report, source: int, target: int) -> bool:
    """Nested in one another or of one line: an owner and its part."""
    symbols, roles = report.symbols, report.codebase.roles
    words = symbols.types[target].modifiers.words
    if symbols.dialect(target).style == "packages" and "public" not in words:
        return True  # nobody else can see it: a part
    nested = symbols.outer(source) == target or symbols.outer(target) == source
    return nested or target in roles.ancestors(source) or source in roles.ancestors(target) or "private" in words


def _knots(edges: dict[int, list[int]]) -> list[list[int]]:
    """Classes that reach each other, each knot of them sorted, in order of their first."""
    nodes = sorted({*edges, *chain.from_iterable(edges.values())})
    place = {node: at for at, node in enumerate(nodes)}
    starts, used = [0], []
    for node in nodes:
        used += [place[each] for each in edges.get(node, ())]
        starts.append(len(used))
    found: dict[int, list[int]] = defaultdict(list)
    for node, label in zip(nodes, knots_of(starts, used), strict=True):
        found[label].append(node)
    return sorted(knot for knot in found.values() if len(knot) > 1 or knot[0] in edges.get(knot[0], ()))


def _shortest_ring(needs: dict[int, dict[int, tuple[str, At]]], knot: list[int]) -> list[int]:
    """The shortest way round through a knot, beginning with its first class that lies on one."""
    inside = set(knot)
    best: list[int] = []
    for start in knot[:LONGEST]:
        before: dict[int, int] = {}
        frontier = [start]
        while frontier and start not in before:
            following = []
            for node in frontier:
                for each in sorted(needs.get(node, ())):
                    if each in inside and each not in before:
                        before[each] = node
                        following.append(each)
            frontier = following
        ring, node = [], start
        while node in before and before[node] != start:
            node = before[node]
            ring.append(node)
        ring = [start, *reversed(ring)]
        if not best or len(ring) < len(best):
            best = ring
    return best
