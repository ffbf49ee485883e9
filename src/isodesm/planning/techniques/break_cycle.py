"""break-cycle: two classes that make each other: one is handed a function that makes the other from it, under its
abstraction."""

from __future__ import annotations

from isodesm.facts.typetext import split_top
from isodesm.planning.analysis.expressions import SELF_WORDS, passed
from isodesm.planning.analysis.preconditions import bound_to_owner
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.model.refusal import Refusal
from isodesm.planning.model.step import TechniqueName
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.introduce_factory.factory import _called, factory

NAME = TechniqueName.BREAK_CYCLE


def propose(context: PlanContext, decision: Decision) -> Proposal | Refusal | None:
    """Where the owner passes itself on to what it makes."""
    if decision.target < 0 or bound_to_owner(context.sources, decision.target):
        return None
    for place in decision.places:
        given = split_top(passed(context.sources, place)) if passed(context.sources, place).strip() else ()
        if not SELF_WORDS & {each.strip() for each in given} or place.member is None or place.member.kind != "constructor":
            return None
    constructor = _called(context, decision.target, len(split_top(passed(context.sources, decision.places[0]))))
    if isinstance(constructor, Refusal):
        return constructor
    return factory(context, decision, constructor, NAME)
