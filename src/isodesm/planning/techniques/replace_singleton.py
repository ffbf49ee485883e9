"""replace-singleton: the one shared object is handed in; its accessor stays until its last user is gone."""

from __future__ import annotations

from isodesm.facts import typetext
from isodesm.linking.bonds import KIND_NUMBER
from isodesm.linking.symbols import simple_name
from isodesm.planning.analysis.expressions import SELF_WORDS, bound_names, expression, passed
from isodesm.planning.analysis.initialization_order import too_early
from isodesm.planning.model.decision import Decision, Place
from isodesm.planning.model.dependency import DefaultExpression
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.model.refusal import Hazard, Reason, Refusal, Risk
from isodesm.planning.model.step import TechniqueName
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.by_abstraction import as_abstraction

NAME = TechniqueName.REPLACE_SINGLETON


def _gives_a_part(context: PlanContext, place: Place) -> bool:
    """Whether what is called hands out something that the shared object has, so that the object can't stand in its place."""
    table, target = context.codebase.bonds, place.finding.target_number
    if table.kind[place.row] != KIND_NUMBER["static-call"] or target < 0:
        return False
    callee, effects = table.text_of("callee", place.row), context.codebase.effects
    whole = context.codebase.shared.is_accessor(target, callee) or effects.hands_out_itself(target, callee)
    return not whole and effects.type_handed_out(target, callee) < 0


def _declared_otherwise(context: PlanContext, decision: Decision) -> str:
    """The type that an accessor is declared to give, where that is no class of the tree that the target is or stands above, so
    that no parameter of the target's type can take it; '' where it fits, or says nothing."""
    first = decision.places[0]
    holder, callee = first.finding.target_number, context.codebase.bonds.text_of("callee", first.row)
    if holder < 0 or not context.sources.language(decision.source).typed:
        return ""
    found = next((m for m in context.symbols.types[holder].members if m.name == callee and m.is_static and m.type), None)
    declared = simple_name(typetext.head(found.type)) if found is not None else ""
    below = {context.name(each) for each in (decision.target, *context.sources.subclasses(decision.target))}
    if declared in below or declared not in {simple_name(each) for each in _bases_outside(context, decision.target)}:
        return ""
    return declared


def _bases_outside(context: PlanContext, target: int) -> list[str]:
    """Bases of a class, and of its bases, that lie outside the tree."""
    bases = context.codebase.roles.bases
    return [name for each in context.codebase.roles.ancestors(target) for name in bases.external.get(each, ())]


def propose(context: PlanContext, decision: Decision) -> Proposal | Refusal | None:
    """The object behind the accessor, under its abstraction."""
    if decision.target < 0:
        return Refusal(Reason.SINGLETON_OF_LIBRARY)
    if any(bound_names(context.sources, decision, place)[0] - SELF_WORDS for place in decision.places):
        return Refusal(Reason.WHICH_WORKED_OUT_INSIDE)
    if len({passed(context.sources, place).strip() for place in decision.places}) > 1:
        return Refusal(Reason.SEVERAL_SHARED_OBJECTS)
    if any(_gives_a_part(context, place) for place in decision.places):
        return Refusal(Reason.PART_OF_SHARED_OBJECT)
    if decision.target in context.codebase.roles.ancestors(decision.source):
        return Refusal(Reason.MAY_BE_ITSELF)
    if reason := too_early(context.sources, decision):
        return reason
    first = decision.places[0]
    if other := _declared_otherwise(context, decision):
        return Refusal(Reason.ACCESSOR_GIVES_OTHER_TYPE, type=other)
    default = DefaultExpression(expression(context.sources, first), first.file)
    others = sorted(
        {
            context.name(each)
            for each in context.sources.static_users.get(decision.target, ())
            if each not in (decision.source, decision.target)
        }
    )
    hazards: tuple[Hazard, ...] = (
        (Hazard(Risk.ACCESSOR_STAYS, names=", ".join(others[:4]), use="use" if len(others) > 1 else "uses"),)
        if others
        else (Hazard(Risk.ACCESSOR_UNUSED),)
    )
    if first.finding.target_number != decision.target:
        hazards = (*hazards, Hazard(Risk.FETCHED_ONCE))
    return as_abstraction(context, decision, NAME, default, hazards=hazards)
