"""wrap-static for a state that somebody may set at any time: a function is handed in that reads it whenever it is asked."""

from __future__ import annotations

from isodesm.facts import typetext
from isodesm.facts.records import Member
from isodesm.linking.bonds import KIND_NUMBER
from isodesm.planning.analysis.decisions import holds_object
from isodesm.planning.analysis.names_in_code import EVERYTHING, needs_of_text
from isodesm.planning.model.code import Need, Typed
from isodesm.planning.model.decision import Decision, Place
from isodesm.planning.model.dependency import DefaultExpression
from isodesm.planning.model.proposal import Proposal, WantedDependency
from isodesm.planning.model.refusal import Hazard, Reason, Refusal, Risk
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.give_instance.static_gateway import STATES, WITH_PROPERTIES
from isodesm.planning.techniques.proposal import bound_names, expression
from isodesm.planning.techniques.wrap_static.assignments import reads_only
from isodesm.planning.techniques.wrap_static.superglobals import of_host
from isodesm.planning.techniques.wrap_static.wrap import NAME, as_object, common
from isodesm.planning.wording.injection import reader_of

_JAVA = {
    "boolean": ("BooleanSupplier", "getAsBoolean"),
    "int": ("IntSupplier", "getAsInt"),
    "long": ("LongSupplier", "getAsLong"),
}
_UNBOXED = frozenset(("char", "byte", "short", "float", "double"))


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
            context.sources.language(decision.source) in WITH_PROPERTIES
            and not kept
            and not context.symbols.is_module(decision.target)
        )
        return as_object(context, decision) if offered else Refusal(Reason.STATE_IS_SET)
    return _reader(context, decision, member)


def _is_named_plainly(context: PlanContext, decision: Decision, member: Member) -> bool:
    """Whether all places name the state in the same words, in members that can reach what the class is handed."""
    if any(place.member is None or place.member.kind == "field" for place in decision.places):
        return False
    if any(bound_names(context, decision, place)[0] for place in decision.places):
        return False
    return (
        len({"".join(expression(context, place).split()) for place in decision.places}) == 1
        and "event" not in member.modifiers.words
    )


def _only_reads(context: PlanContext, place: Place) -> bool:
    if context.codebase.bonds.kind[place.row] != KIND_NUMBER["static-field"]:
        return False
    node = context.sources.syntax(place.file).at(*place.span)
    return (node.start_byte, node.end_byte) == place.span and reads_only(context, place, node)


def _reader(context: PlanContext, decision: Decision, member: Member) -> Proposal | Refusal | None:
    first, language = decision.places[0], context.sources.language(decision.source)
    file = context.symbols.file_of[decision.target]
    needs = needs_of_text(context.codebase, file, decision.target - context.symbols.first[file], member.type)
    if language == "java" and any(each.name == EVERYTHING for each in needs):
        return Refusal(Reason.SEVERAL_PACKAGES)
    written, name = expression(context, first), member.name.lstrip("$")
    function = reading_function(language, member.type, written, needs)
    if function is None:
        return Refusal(Reason.STATE_IS_SET)
    typed, text, use = function
    hidden = Hazard(Risk.READ_WHEN_ASKED, written=written)
    supply = DefaultExpression(text, first.file)
    wanted = WantedDependency(typed, name, supply, use=use)
    return Proposal(NAME, decision, wanted, reader_of(context.name(decision.target), name), hazards=(hidden,))


def reading_function(language: str, type: str, written: str, needs: tuple[Need, ...]) -> tuple[Typed, str, str] | None:
    """The type of a function that reads a state, the function itself, and how it is called; None where it can't be told."""
    if language == "java":
        if not type or type in _UNBOXED:
            return None
        name, call = _JAVA.get(type, ("Supplier", "get"))
        text = name if type in _JAVA else f"Supplier<{type}>"
        return Typed(text, (Need(name, "java.util.function"), *needs)), f"() -> {written}", f"{{field}}.{call}()"
    if language == "csharp":
        return (Typed(f"System.Func<{type}>", needs), f"() => {written}", "{field}()") if type else None
    if language == "typescript":
        loose = not type or any(each in typetext.names(type) for each in ("undefined", "null"))
        return (Typed(f"() => {type}", needs), f"() => {written}", "{field}()") if not loose else None
    if language == "php":
        return Typed("\\Closure"), f"function () {{ return {written}; }}", "({field})()"
    given = type or "Any"
    extra = (Need("Callable", "collections.abc"), *needs, *(() if type else (Need("Any", "typing"),)))
    return Typed(f"Callable[[], {given}]", extra), f"lambda: {written}", "{field}()"
