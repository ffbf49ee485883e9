"""lift-creation: an object is made together with those that it is made from, and all of it moves to who makes the class."""

from __future__ import annotations

from isodesm.planning.model.decision import Decision
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.model.refusal import Refusal
from isodesm.planning.model.step import TechniqueName
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.inject_through_constructor import inject as inject_through_constructor

NAME = TechniqueName.LIFT_CREATION


def propose(context: PlanContext, decision: Decision) -> Proposal | Refusal | None:
    """As an injection, where further decisions stand inside the creation."""
    if not any(place.nested for place in decision.places):
        return None
    found = inject_through_constructor.propose(context, decision)
    if not isinstance(found, Proposal):
        return found
    return Proposal(NAME, found.decision, found.wanted, found.what, found.abstraction, found.legacy_only, found.hazards)
