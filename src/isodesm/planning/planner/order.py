"""The order in which a plan takes decisions on."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator

from isodesm.codebase.model import Codebase
from isodesm.measures.strain import weigh
from isodesm.planning.model.decision import Decision

DATA_SIDE_FIRST = {"infrastructure": 0, "shared": 0, "domain": 1, "": 1, "application": 2, "presentation": 3}
"""Rank of a layer on the way from the data side to the presentation side; layers of the settings go by their ring."""
COLLABORATORS = ("static-singleton", "service-lookup", "ambient-state", "hard-wired-creation")
"""Kinds of decisions on what a class works with; what is left are single functions."""
SLIGHT = 4
"""A target that changes itself goes first, unless what it gains is less than one in so many of what its user gains."""


def order_decisions(codebase: Codebase, decisions: list[Decision]) -> list[Decision]:
    """Decisions in the order of their steps.

    Collaborators decided on at `error` come first, then by strain removed, more for classes whose changes many feel; among
    equals the data side before the presentation side. Before a decision go those of its target, slight ones apart (members
    of a ring as they come). How often files changed has no say: every step taken is a commit, and would turn round the order
    of the rest.
    """
    from isodesm.measures.graph import ClassGraph
    from isodesm.measures.ripple import measure_ripple

    weights, felt = codebase.settings.strain, measure_ripple(ClassGraph(codebase)).values
    names = codebase.symbols.names
    gain = {each: sum(weigh(finding, weights) for finding in each.findings) for each in decisions}
    worth = {each: gain[each] * (1 + math.log1p(felt[each.source])) for each in decisions}

    def key(decision: Decision) -> tuple[object, ...]:
        served = decision.kind in COLLABORATORS and any(each.level == "error" for each in decision.findings)
        rank = DATA_SIDE_FIRST.get(codebase.layers.name(decision.source), 1)
        unknown = decision.target < 0 and decision.source in codebase.wiring.managed  # to a container, which goes on as before
        first = decision.places[0].span
        return (not served, unknown, -worth[decision], rank, names[decision.source], decision.name, decision.kind, first)

    return list(_targets_first(sorted(decisions, key=key), gain))


def _targets_first(decisions: list[Decision], gain: dict[Decision, float]) -> Iterator[Decision]:
    """The decisions, each behind those of its target that are worth waiting for.

    a ─► b ─► c   gives  b ─► c, a ─► b
    """
    by_source: dict[int, list[Decision]] = defaultdict(list)
    for each in decisions:
        by_source[each.source].append(each)
    done: set[Decision] = set()
    for start in decisions:
        stack = [start] if start not in done else []
        busy = set(stack)
        while stack:
            top = stack[-1]
            waiting = (each for each in by_source.get(top.target, ()) if each.source != top.source)
            following = next(
                (each for each in waiting if each not in done and each not in busy and SLIGHT * gain[each] >= gain[top]), None
            )
            if following is not None:
                busy.add(following)
                stack.append(following)
                continue
            stack.pop()
            if top not in done:
                done.add(top)
                yield top
