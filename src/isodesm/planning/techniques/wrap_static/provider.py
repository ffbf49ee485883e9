"""wrap-static for a state that somebody may set at any time: a function is handed in that reads it whenever it is asked."""

from __future__ import annotations

from isodesm.facts.records import Member
from isodesm.linking.bonds import KIND_NUMBER, STATE
from isodesm.planning.analysis.decisions import holds_object
from isodesm.planning.analysis.expressions import bound_names, expression
from isodesm.planning.analysis.names_in_code import EVERYTHING, needs_of_text
from isodesm.planning.model.decision import Decision, Place
from isodesm.planning.model.dependency import DefaultExpression
from isodesm.planning.model.proposal import Proposal, WantedDependency
from isodesm.planning.model.refusal import Hazard, Reason, Refusal, Risk
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.give_instance.static_gateway import STATES
from isodesm.planning.techniques.wrap_static.assignments import reads_only
from isodesm.planning.techniques.wrap_static.superglobals import of_host
from isodesm.planning.techniques.wrap_static.wrap import NAME, as_object, common
from isodesm.planning.wording.injection import reader_of


def propose(context: PlanContext, decision: Decision) -> Proposal | Refusal | None:
    """A function that reads the state; an object in the place of its class where several of its states are used."""
    if decision.target < 0:
        return of_host(context, decision)
    names = {context.codebase.bonds.text_of("callee", place.row) for place in decision.places}
    if reason := common(context, decision):
        return reason
    if len(names) > 1:
        return None if context.symbols.is_module(decision.target) else as_object(context, decision)
    member = next((m for m in context.symbols.types[decision.target].members if m.name == next(iter(names))), None)
    if member is None or member.kind not in STATES or not _is_named_plainly(context, decision, member):
        return None
    if any(not _only_reads(context, place) for place in decision.places):
        kept = any(holds_object(context.codebase, place) for place in decision.places)
        offered = (
            context.sources.language(decision.source).interfaces_have_state
            and not kept
            and not context.symbols.is_module(decision.target)
        )
        return as_object(context, decision) if offered else Refusal(Reason.STATE_IS_SET)
    return _reader(context, decision, member)


def _is_named_plainly(context: PlanContext, decision: Decision, member: Member) -> bool:
    """Whether all places name the state in the same words, in members that can reach what the class is handed."""
    if any(place.member is None or place.member.kind == "field" for place in decision.places):
        return False
    if any(bound_names(context.sources, decision, place)[0] for place in decision.places):
        return False
    return (
        len({"".join(expression(context.sources, place).split()) for place in decision.places}) == 1
        and "event" not in member.modifiers.words
    )


def _only_reads(context: PlanContext, place: Place) -> bool:
    if context.codebase.bonds.kind[place.row] not in (KIND_NUMBER["static-field"], STATE):  # of a class, or of a module
        return False
    node = context.sources.syntax(place.file).at(*place.span)
    return (node.start_byte, node.end_byte) == place.span and reads_only(context, place, node)


def _reader(context: PlanContext, decision: Decision, member: Member) -> Proposal | Refusal | None:
    first, language = decision.places[0], context.sources.language(decision.source)
    file = context.symbols.file_of[decision.target]
    needs = needs_of_text(context.codebase, file, decision.target - context.symbols.first[file], member.type)
    if language.whole_imports_are_ambiguous and any(each.name == EVERYTHING for each in needs):
        return Refusal(Reason.SEVERAL_PACKAGES)
    written, name = expression(context.sources, first), member.name.lstrip("$")
    function = language.reader(member.type, written, needs)
    if function is None:
        return Refusal(Reason.STATE_IS_SET)
    hidden = Hazard(Risk.READ_WHEN_ASKED, written=written)
    default = DefaultExpression(function.text, first.file)
    wanted = WantedDependency(function.typed, name, default, use=function.use)
    return Proposal(NAME, decision, wanted, reader_of(context.name(decision.target), name), hazards=(hidden,))
