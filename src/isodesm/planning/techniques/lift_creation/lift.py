"""lift-creation: an object is made together with those that it is made from, and all of it moves to who makes the class."""

from __future__ import annotations

from isodesm.planning.model.decision import Decision
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.inject_through_constructor import inject as inject_through_constructor

NAME = "lift-creation"


def propose(context: PlanContext, decision: Decision) -> Proposal | str:
    """As an injection, where further decisions stand inside the creation."""
    if not any(place.nested for place in decision.places):
        return ""
    found = inject_through_constructor.propose(context, decision)
    if isinstance(found, str):
        return found
    return Proposal(NAME, found.decision, found.wanted, found.what, found.abstraction, found.bridge_only, found.hazards)
