"""Which decisions some technique fits: those that none fits are left over, with the reason."""

from __future__ import annotations

from collections.abc import Iterable

import msgspec

from isodesm.planning.analysis.decisions import find_decisions, parts_of
from isodesm.planning.analysis.preconditions import of_class, of_place
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.model.step import TechniqueName
from isodesm.planning.planner.planning import Planning
from isodesm.planning.techniques.registry import propose

STAYING = (TechniqueName.INTRODUCE_FACTORY, TechniqueName.BREAK_CYCLE)
"""Techniques that leave the arguments of a creation where they are."""


def fitted(planning: Planning, decision: Decision) -> list[Decision]:
    """The decision, or parts of it, as far as techniques fit; one that fails costs that alone."""
    left = len(planning.so_far.left)
    try:
        return _fitting(planning, decision)
    except Exception as error:
        planning.take_back_left(left)
        planning.fail(decision, error)
        return []


def _fitting(planning: Planning, decision: Decision) -> list[Decision]:
    """Decisions inside an expression go with it, unless the expression stays where it is: then they stand for themselves."""
    if parts := _by_precondition(planning, decision):
        return _fitting_parts(planning, parts)
    found = propose(planning.context, decision)
    inner = [each for place in decision.places for each in place.nested]
    if isinstance(found, Proposal):
        if found.technique not in STAYING or not inner:
            return [decision]
    else:
        parts = parts_of(planning.codebase, decision)
        if len(parts) > 1 and any(isinstance(propose(planning.context, each), Proposal) for each in parts):
            return _fitting_parts(planning, parts)
    plain = tuple(msgspec.structs.replace(place, nested=()) for place in decision.places)
    alone = msgspec.structs.replace(decision, places=plain)
    own = find_decisions(planning.codebase, inner)
    for each in (alone, *own):
        planning.context.considered.add(each)
    if not isinstance(found, Proposal):
        planning.leave(alone, found)
    rest = [fit for each in own for fit in _fitting(planning, each)]
    return [alone, *rest] if isinstance(found, Proposal) else rest


def _by_precondition(planning: Planning, decision: Decision) -> list[Decision]:
    """A decision parted into the places that can't be changed and the others; [] where there are not both."""
    sources = planning.context.sources
    if len(decision.places) < 2 or of_class(sources, decision.source):
        return []
    firm = tuple(place for place in decision.places if of_place(sources, decision, place))
    rest = tuple(place for place in decision.places if place not in firm)
    return [msgspec.structs.replace(decision, places=places) for places in (firm, rest)] if firm and rest else []


def _fitting_parts(planning: Planning, parts: Iterable[Decision]) -> list[Decision]:
    """The same for the parts of a decision, each taken note of before any is judged."""
    parts = list(parts)
    for each in parts:
        planning.context.considered.add(each)
    return [fit for each in parts for fit in _fitting(planning, each)]
