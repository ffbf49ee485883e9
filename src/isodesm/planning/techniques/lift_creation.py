"""lift-creation: an object is made together with those that it is made from, and all of it moves to who makes the class."""

from __future__ import annotations

from isodesm.planning.decisions import Decision
from isodesm.planning.techniques import inject_through_constructor
from isodesm.planning.techniques.proposal import Proposal
from isodesm.planning.workshop import Workshop

NAME = "lift-creation"


def propose(shop: Workshop, decision: Decision) -> Proposal | str:
    """As an injection, where further decisions stand inside the creation."""
    if not any(place.nested for place in decision.places):
        return ""
    found = inject_through_constructor.propose(shop, decision)
    if isinstance(found, str):
        return found
    return Proposal(NAME, found.decision, found.wanted, found.what, found.abstraction, found.bridge_only, found.hazards)
