"""inject-through-constructor: a class takes what it made for itself, or a value that it read from everybody's state."""

from __future__ import annotations

from isodesm.linking.bonds import RUNTIME
from isodesm.linking.symbols import simple_name
from isodesm.planning.analysis.expressions import SELF_WORDS, bound_names, expression
from isodesm.planning.analysis.initialization_order import is_written
from isodesm.planning.analysis.names_in_code import needs_of_text
from isodesm.planning.analysis.preconditions import bound_to_owner
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import Typed
from isodesm.planning.model.decision import Decision, Place
from isodesm.planning.model.dependency import DefaultExpression
from isodesm.planning.model.proposal import Proposal, WantedDependency
from isodesm.planning.model.refusal import Hazard, Reason, Refusal, Risk
from isodesm.planning.model.step import TechniqueName
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.by_abstraction import as_abstraction
from isodesm.planning.techniques.inlined import inlined
from isodesm.planning.techniques.sharing import shares_badly

NAME = TechniqueName.INJECT_THROUGH_CONSTRUCTOR


def propose(context: PlanContext, decision: Decision) -> Proposal | Refusal | None:
    """Whether callers, or a bridging constructor, can make the same object; and what is asked for."""
    if decision.kind == "ambient-state":
        return _value(context, decision)
    first = decision.places[0]
    if len({expression(context.sources, place) for place in decision.places}) > 1:
        return Refusal(Reason.NEEDS_FACTORY, because=Refusal(Reason.CREATED_IN_SEVERAL_WAYS))
    depends, text = False, expression(context.sources, first)
    gone: tuple[Amendment, ...] = ()
    if (
        len(decision.places) == 1
        and (names := bound_names(context.sources, decision, first)[0])
        and not names & SELF_WORDS
        and (put := inlined(context, first, names))
    ):
        text, gone = put.text, put.gone
    for place in decision.places:
        reason, tied = _obstacle(context, decision, place, resolved=bool(gone))
        if reason:
            return reason
        depends |= tied
    if decision.target < 0:
        return _library(context, decision, depends)
    default = DefaultExpression(text, first.file, creates=decision.target, depends=depends)
    shared = any(place.member is not None and place.member.kind == "method" for place in decision.places)
    hazards = (Hazard(Risk.SERVES_ALL_CALLS, name=context.name(decision.target)),) if shared else ()
    return as_abstraction(context, decision, NAME, default, legacy_only=depends, hazards=hazards, gone=gone)


def _obstacle(context: PlanContext, decision: Decision, place: Place, *, resolved: bool) -> tuple[Refusal | None, bool]:
    """Why nobody else can make the same object, if so; and whether what it is made of ties it to its class."""
    if decision.target >= 0 and (reason := bound_to_owner(context.sources, decision.target)):
        return reason, False
    hidden, depends = bound_names(context.sources, decision, place)
    hidden = set() if resolved else hidden
    if hidden & SELF_WORDS and place.member is not None and place.member.kind != "field":
        return Refusal(Reason.HOLD_EACH_OTHER), False
    member = place.member
    assert member is not None
    if member.kind == "method" and (hidden or context.codebase.bonds.flags[place.row] & RUNTIME):
        return Refusal(Reason.NEEDS_FACTORY, because=Refusal(Reason.ARGUMENTS_KNOWN_LATE)), False
    text = expression(context.sources, place)
    if hidden or any(annotation in text for annotation in ("->", "=>", "{", "lambda ")):
        return Refusal(Reason.NEEDS_FACTORY, because=Refusal(Reason.WORKED_OUT_INSIDE)), False
    if decision.target >= 0 and (reason := shares_badly(context, decision, place)):
        return Refusal(Reason.NEEDS_FACTORY, because=reason), False
    if member.kind == "constructor" and member.branches and decision.target >= 0:
        return Refusal(Reason.NEEDS_FACTORY, because=Refusal(Reason.WHETHER_WORKED_OUT_INSIDE)), False
    if _can_fail(context, decision, place):
        failing = Refusal(Reason.CREATION_CAN_FAIL)
        return Refusal(Reason.NEEDS_FACTORY, because=failing) if decision.target >= 0 else failing, False
    return None, depends


def _can_fail(context: PlanContext, decision: Decision, place: Place) -> bool:
    """Whether an object can't be had without an error that the code around its creation handles, or has to pass on."""
    if decision.target >= 0 and any(
        each.kind == "constructor" and each.throws for each in context.symbols.types[decision.target].members
    ):
        return True
    member, syntax = place.member, context.sources.syntax(place.file)
    if member is None or member.kind == "field":
        return False
    return syntax.is_caught(syntax.at(*place.span), syntax.member_node(member))


def _library(context: PlanContext, decision: Decision, depends: bool) -> Proposal | Refusal | None:
    """A class of a library: asked for as such."""
    first = decision.places[0]
    catalogue = context.symbols.catalogues.of(context.sources.language(decision.source).name)
    if decision.name in catalogue.stand_ins:
        return None
    if len({place.field for place in decision.places}) > 1:
        return Refusal(Reason.ONE_FOR_EACH_FIELD)
    if first.member is not None and first.member.kind == "method":
        return Refusal(Reason.NEEDS_WRAPPER)
    if "<" in first.site.text or not first.site.text:
        return Refusal(Reason.NEEDS_WRAPPER)
    typed = Typed(
        first.site.text,
        needs_of_text(context.codebase, first.file, context.symbols.local_in(decision.source, first.file), first.site.text),
    )
    default = DefaultExpression(expression(context.sources, first), first.file, depends=depends)
    return Proposal(
        NAME,
        decision,
        WantedDependency(typed, simple_name(first.site.text), default),
        simple_name(decision.name),
        legacy_only=depends,
    )


def _value(context: PlanContext, decision: Decision) -> Proposal | Refusal | None:
    """State that belongs to nobody, read by a class: the value, as it is when the object is made."""
    first = decision.places[0]
    name = context.codebase.bonds.text_of("callee", first.row)
    if decision.target < 0 or is_written(context.sources, decision.target, name):
        return Refusal(Reason.STATE_IS_SET)
    member = next((m for m in context.symbols.types[decision.target].members if m.name == name), None)
    if member is None or len(decision.places) > 1 or not member.type and context.sources.language(decision.source).overloads:
        return Refusal(Reason.STATE_READ_SEVERAL_TIMES)
    default = DefaultExpression(expression(context.sources, first), first.file)
    local = decision.target - context.symbols.first[context.symbols.file_of[decision.target]]
    typed = Typed(member.type, needs_of_text(context.codebase, context.symbols.file_of[decision.target], local, member.type))
    hazards = (Hazard(Risk.READ_ONCE, name=name),)
    return Proposal(NAME, decision, WantedDependency(typed, name, default), f"`{name}`".strip("`"), hazards=hazards)
