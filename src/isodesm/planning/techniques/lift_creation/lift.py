"""lift-creation: an object is made together with those that it is made from, and all of it moves to who makes the class."""

from __future__ import annotations

from isodesm.planning.analysis.decisions import Decision
from isodesm.planning.state.context import Workshop
from isodesm.planning.techniques.inject_through_constructor import inject as inject_through_constructor
from isodesm.planning.techniques.proposal import Proposal

NAME = "lift-creation"


def propose(shop: Workshop, decision: Decision) -> Proposal | str:
    """As an injection, where further decisions stand inside the creation."""
    if not any(place.nested for place in decision.places):
        return ""
    found = inject_through_constructor.propose(shop, decision)
    if isinstance(found, str):
        return found
    return Proposal(NAME, found.decision, found.wanted, found.what, found.abstraction, found.bridge_only, found.hazards)
