"""replace-singleton: the one shared object is handed in; its accessor stays until its last user is gone."""

from __future__ import annotations

from isodesm.linking.bonds import KIND_NUMBER
from isodesm.planning.analysis.initialization_order import too_early
from isodesm.planning.model.decision import Decision, Place
from isodesm.planning.model.dependency import DefaultExpression
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.proposal import ITSELF, SELF_WORDS, as_abstraction, bound_names, expression, passed

NAME = "replace-singleton"


def _gives_a_part(context: PlanContext, place: Place) -> bool:
    """Whether what is called hands out something that the shared object has, so that the object can't stand in its place."""
    table, target = context.codebase.bonds, place.finding.target_number
    if table.kind[place.row] != KIND_NUMBER["static-call"] or target < 0:
        return False
    callee, effects = table.text_of("callee", place.row), context.codebase.effects
    whole = context.codebase.shared.is_accessor(target, callee) or effects.hands_out_itself(target, callee)
    return not whole and effects.type_handed_out(target, callee) < 0


def propose(context: PlanContext, decision: Decision) -> Proposal | str:
    """The object behind the accessor, under its abstraction."""
    if decision.target < 0:
        return "the shared object is a library's"
    if any(bound_names(context, decision, place)[0] - SELF_WORDS for place in decision.places):
        return "which of the shared objects it is, is worked out inside the class"
    if len({passed(context, place).strip() for place in decision.places}) > 1:
        return "asks for several of the shared objects"
    if any(_gives_a_part(context, place) for place in decision.places):
        return "is given a part of the shared object, or an answer of its, and not the object itself"
    if decision.target in context.codebase.roles.ancestors(decision.source):
        return ITSELF
    if reason := too_early(context.sources, decision):
        return reason
    first = decision.places[0]
    supply = DefaultExpression(expression(context, first), first.file)
    others = sorted(
        {
            context.name(each)
            for each in context.sources.static_users.get(decision.target, ())
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
    return as_abstraction(context, decision, NAME, supply, hazards=hazards)
