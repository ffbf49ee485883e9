"""replace-singleton: the one shared object is handed in; its accessor stays until its last user is gone."""

from __future__ import annotations

from isodesm.planning.decisions import Decision
from isodesm.planning.drafting.handed import Supply
from isodesm.planning.moments import too_early
from isodesm.planning.techniques.proposal import ITSELF, SELF_WORDS, Proposal, as_abstraction, bound_names, expression, passed
from isodesm.planning.workshop import Workshop

NAME = "replace-singleton"


def propose(shop: Workshop, decision: Decision) -> Proposal | str:
    """The object behind the accessor, under its abstraction."""
    if decision.target < 0:
        return "the shared object is a library's"
    if any(bound_names(shop, decision, place)[0] - SELF_WORDS for place in decision.places):
        return "which of the shared objects it is, is worked out inside the class"
    if len({passed(shop, place).strip() for place in decision.places}) > 1:
        return "asks for several of the shared objects"
    if decision.target in shop.codebase.roles.ancestors(decision.source):
        return ITSELF
    if reason := too_early(shop, decision):
        return reason
    first = decision.places[0]
    supply = Supply(expression(shop, first), first.file)
    others = sorted(
        {
            shop.name(each)
            for each in shop.static_users.get(decision.target, ())
            if each not in (decision.source, decision.target)
        }
    )
    hazards = (
        (f"the accessor stays: {', '.join(others[:4])} still {'use' if len(others) > 1 else 'uses'} it",)
        if others
        else ("nobody else uses the accessor: it can go once a composition root makes the object",)
    )
    if first.finding.target_number != decision.target:
        hazards = (*hazards, "it is fetched when the object is made, no longer each time: it has to be there by then")
    return as_abstraction(shop, decision, NAME, supply, hazards=hazards)
