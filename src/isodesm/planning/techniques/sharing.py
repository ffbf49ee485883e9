"""Whether one object can serve where several were created."""

from __future__ import annotations

import re

from isodesm.planning.analysis.statefulness import all_members, of_state
from isodesm.planning.model.decision import Decision, Place
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.model.refusal import Reason, Refusal
from isodesm.planning.state.context import PlanContext

CLOSING = frozenset("close Close dispose Dispose DisposeAsync __exit__ __del__ __destruct ngOnDestroy destroy".split())
"""Members by which an object is given up."""
CLOSED_BYTES = 80
_CLOSED = re.compile(rb"(?:\busing\b|\bwith\s|\btry\s*\()[^;{}:\n]*$")
"""What stands in front of an object that is given up at the end of a block."""


def shares_badly(context: PlanContext, decision: Decision, place: Place) -> Refusal | None:
    """Why one object can't serve in the place of one for each call; None where it can."""
    once = place.member is None or place.member.kind not in ("method", "property")
    if once and len(decision.places) == 1:
        return None
    name, members = place.field.lstrip("$#"), context.symbols.members(decision.source)
    known = [member for sign in ("", "$", "#") for _, member in members.get(f"{sign}{name}", ())]
    if not once and any(each.kind in ("field", "property") for each in known):
        return Refusal(Reason.CREATED_ANEW)
    reason = of_state(context.sources, decision.target)
    if reason is not None and reason.reason is Reason.FOREIGN_BASE:
        return reason
    lead = context.codebase.text(place.file)[max(place.span[0] - CLOSED_BYTES, 0) : place.span[0]]
    closing = {
        m.name
        for m in all_members(context.sources, decision.target)
        if m.name in CLOSING and (not m.parameters or m.name.startswith("__"))
    }
    if closing & (context.asked_of(decision) or frozenset()) or _CLOSED.search(lead):
        return Refusal(Reason.CLOSED_BY_CREATOR)
    return reason


def keeps_state(context: PlanContext, taken: Proposal) -> Refusal | None:
    """Why what a class is handed can't be shared by several of its objects; None where it can: a function, what is shared
    already, what has no state."""
    decision, wanted = taken.decision, taken.wanted
    if wanted.makes is not None or taken.gateway is not None or decision.kind != "hard-wired-creation":
        return None
    if decision.target < 0:
        return Refusal(Reason.LIBRARY_STATE)
    return of_state(context.sources, decision.target)
