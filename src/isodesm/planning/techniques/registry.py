"""The techniques of a plan, a file each.

Those that take a decision out of a class have `NAME` and `propose(context, decision)`, which gives a Proposal or, in words, why
it does not fit. The others make a step of what earlier steps led to.
"""

from __future__ import annotations

from isodesm.planning.analysis.preconditions import of_class, of_place
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques import break_cycle, replace_lookup, replace_singleton
from isodesm.planning.techniques.inject_through_constructor import inject as inject_through_constructor
from isodesm.planning.techniques.introduce_factory import factory as introduce_factory
from isodesm.planning.techniques.lift_creation import lift as lift_creation
from isodesm.planning.techniques.move_effect_out import data as move_data_out
from isodesm.planning.techniques.move_effect_out import effect as move_effect_out
from isodesm.planning.techniques.wrap_static import provider as read_late
from isodesm.planning.techniques.wrap_static import wrap as wrap_static

BY_KIND = {
    "hard-wired-creation": (
        break_cycle,
        lift_creation,
        inject_through_constructor,
        wrap_static,
        introduce_factory,
        move_effect_out,
    ),
    "static-singleton": (replace_singleton,),
    "service-lookup": (replace_lookup,),
    "static-effect": (wrap_static, move_effect_out),
    "ambient-state": (inject_through_constructor, read_late),
    "mixed-responsibility": (move_effect_out,),
    "oversized-boundary": (move_data_out,),
}
"""Kind of finding to the techniques that may loosen it, the one to be tried first in front."""


OUTSIDE = ("needs a gateway of your own around", "needs `wrap-static`: a class of your own")
"""What reasons begin with that a gateway answers."""


def propose(context: PlanContext, decision: Decision) -> Proposal | str:
    """The first technique that fits a decision; else why none does."""
    reason = of_class(context.sources, decision.source) or next(
        (found for place in decision.places if (found := of_place(context.sources, decision, place))), ""
    )
    if reason:
        return reason
    for technique in BY_KIND.get(decision.kind, ()):
        if technique is move_effect_out and reason and not reason.startswith(OUTSIDE):
            continue
        found = technique.propose(context, decision)
        if not isinstance(found, str):
            return found
        reason = found or reason
    return reason or "has no technique yet"
