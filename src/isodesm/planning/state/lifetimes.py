"""How long an object should live: as long as it can be shared, and never longer than what it holds.

Stateless classes and their like are singletons; what keeps state for a request or a connection is scoped; what has
state of its own that changes is transient. Then, until nothing changes, nothing outlives what it is handed.
"""

from __future__ import annotations

from collections.abc import Mapping

from isodesm.facts.typetext import head
from isodesm.inference.wiring import LIFETIMES
from isodesm.planning.analysis.statefulness import is_set_once
from isodesm.planning.state.context import PlanContext

RANK = {lifetime: rank for rank, lifetime in enumerate(LIFETIMES)}
PER_REQUEST = ("Session", "Context", "Request", "Connection", "Transaction", "UnitOfWork")
"""Ends of names of what belongs to one request or connection."""
FIXED = frozenset(("final", "readonly", "const"))


def own_lifetime(context: PlanContext, number: int) -> str:
    """The lifetime that the state of a class allows, looked at by itself."""

    known = context.codebase.wiring.by_implementation.get(number, ())
    told = [each.lifetime for each in known if each.lifetime in RANK]
    if told:
        return min(told, key=RANK.__getitem__)
    if context.name(number).endswith(PER_REQUEST):
        return "scoped"
    for each in context.codebase.roles.ancestors(number):
        for member in context.symbols.types[each].members:
            if member.kind != "field" or member.is_static:
                continue
            if head(member.type).endswith(PER_REQUEST):
                return "scoped"
            changes = not FIXED & set(member.modifiers.words) and not (
                member.whole != (0, 0) and is_set_once(context.sources, each, member)
            )
            if changes and context.codebase.roles.name(number) not in ("repository", "gateway"):
                return "transient"
    return "singleton"


def settle(own: Mapping[int, str], holds: Mapping[int, set[int]]) -> dict[int, str]:
    """Lifetimes by which nothing outlives what it holds: the longest that the own ones allow.

    a (singleton) ─► b (scoped) ─► c (singleton)    gives  a: scoped, b: scoped, c: singleton
    """
    found = dict(own)
    changed = True
    while changed:
        changed = False
        for number in sorted(found):
            shortest = min(
                (found[each] for each in holds.get(number, ()) if each in found), key=RANK.__getitem__, default="singleton"
            )
            if RANK[shortest] < RANK[found[number]]:
                found[number] = shortest
                changed = True
    return found


def lifetime_of(context: PlanContext, number: int) -> str:
    """The lifetime of a class among those that it is handed, in words."""
    holds: dict[int, set[int]] = {}
    own: dict[int, str] = {}
    waiting = [number]
    while waiting:
        each = waiting.pop()
        if each in own:
            continue
        own[each] = own_lifetime(context, each)
        targets = {given.default.creates for given in context.state.dependencies_of(each) if given.default.creates >= 0}
        targets |= {
            target
            for injection in context.codebase.wiring.handed_to(each)
            for target in _behind(context, injection.target)
            if not injection.deferred
        }
        holds[each] = targets
        waiting += sorted(targets)
    return settle(own, holds)[number]


def _behind(context: PlanContext, target: int) -> list[int]:
    """The one class of the tree that stands behind a type; none where there are several."""
    if target < 0:
        return []
    if not context.symbols.types[target].is_abstract:
        return [target]
    below = [
        each for each in context.codebase.roles.implementers.get(target, ()) if context.codebase.roles.name(each) != "test"
    ]
    return below if len(below) == 1 else []
