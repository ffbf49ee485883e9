"""The order in which a plan takes decisions on."""

from __future__ import annotations

import math
from collections import defaultdict

from isodesm.codebase.model import Codebase
from isodesm.measures.strain import weigh
from isodesm.planning.decisions import Decision

DATA_SIDE_FIRST = {"infrastructure": 0, "shared": 0, "domain": 1, "": 1, "application": 2, "presentation": 3}
"""Rank of a layer on the way from the data side to the presentation side; layers of the settings go by their ring."""


def order_decisions(codebase: Codebase, decisions: list[Decision]) -> list[Decision]:
    """Decisions in the order of their steps.

    A class comes after those of its targets that change themselves (members of a ring in order of name), then the data
    side before the presentation side, then by strain removed per place touched, more for classes whose changes many feel.
    Decisions of one class stay together. How often files changed has no say: every step taken is a commit, and would turn
    round the order of the rest.
    """
    from isodesm.measures.graph import ClassGraph
    from isodesm.measures.ripple import measure_ripple

    sources = {each.source for each in decisions}
    needs: dict[int, set[int]] = defaultdict(set)
    for each in decisions:
        if each.target in sources and each.target != each.source:
            needs[each.source].add(each.target)
    depth = _depths(sorted(sources, key=codebase.symbols.names.__getitem__), needs)
    weights, felt = codebase.settings.strain, measure_ripple(ClassGraph(codebase)).values

    def payoff(decision: Decision) -> float:
        return sum(weigh(finding, weights) for finding in decision.findings) / len(decision.places)

    total: dict[int, float] = defaultdict(float)
    for each in decisions:
        total[each.source] += payoff(each) * (1 + math.log1p(felt[each.source]))

    def key(decision: Decision) -> tuple[object, ...]:
        names = codebase.symbols.names
        rank = DATA_SIDE_FIRST.get(codebase.layers.name(decision.source), 1)
        unknown = decision.target < 0 and decision.source in codebase.wiring.managed  # to a container, which goes on as before
        return (
            depth[decision.source],
            rank,
            -total[decision.source],
            names[decision.source],
            unknown,
            -payoff(decision),
            decision.name,
            decision.kind,
        )

    return sorted(decisions, key=key)


def _depths(nodes: list[int], needs: dict[int, set[int]]) -> dict[int, int]:
    """Longest chain of needs beneath each node; an edge that closes a ring is passed over.

    a ─► b ─► c   gives  c: 0, b: 1, a: 2
    """
    depth: dict[int, int] = {}
    for start in nodes:
        stack: list[tuple[int, list[int]]] = [(start, sorted(needs.get(start, ())))]
        busy = {start}
        while stack:
            node, below = stack[-1]
            following = next((each for each in below if each not in depth and each not in busy), None)
            if node in depth or following is None:
                depth.setdefault(node, max((depth[each] + 1 for each in below if each in depth), default=0))
                busy.discard(node)
                stack.pop()
            else:
                busy.add(following)
                stack.append((following, sorted(needs.get(following, ()))))
    return depth
