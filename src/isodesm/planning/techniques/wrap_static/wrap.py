"""wrap-static: a clock, random numbers, a pause, a static helper: handed in as an object or function that a test can
replace."""

from __future__ import annotations

import re

import msgspec

from isodesm.facts.records import Member
from isodesm.inference.effect_kinds import WORTH_WRAPPING
from isodesm.linking.symbols import simple_name
from isodesm.measures.testable import STOPPING
from isodesm.planning.analysis.api_substitutes import OUTSIDE_CLASSES, substitute_of
from isodesm.planning.analysis.decisions import holds_object
from isodesm.planning.analysis.expressions import free_names, passed
from isodesm.planning.analysis.names_in_code import as_others_name, needs_of_text
from isodesm.planning.language.base import Language
from isodesm.planning.model.code import FunctionType, Need, Typed
from isodesm.planning.model.decision import Decision, Place
from isodesm.planning.model.dependency import DefaultExpression
from isodesm.planning.model.proposal import Proposal, WantedDependency
from isodesm.planning.model.refusal import Hazard, Reason, Refusal, Risk
from isodesm.planning.model.step import TechniqueName
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.give_instance.static_gateway import SEAMS, gateway_of, head_of
from isodesm.planning.techniques.give_instance.wrap import adapter_home
from isodesm.planning.wording.injection import function_of

NAME = TechniqueName.WRAP_STATIC
VAGUE = {
    **dict.fromkeys(("getInstance", "instance", "get", "getDefault", "current", "shared"), "get"),
    **dict.fromkeys(("create", "newInstance", "of", "make", "build", "from"), "new"),
}
"""Names of static functions that say little without their class, and what to put in front of it instead."""
_BY_REFERENCE = re.compile(rb"[(,]\s*(?:\[[^\[\]]*+\]\s*+)?(?:out|ref|in|params)\s")
_NAMED = re.compile(r"(?:^|,)\s*\w+\s*=(?!=)")
"""An argument that is passed by its name."""
IDENTIFIERS = frozenset(("newId", "new_id"))
"""Names of stand-ins for what makes identifiers."""
USED_ALL_OVER = 24
"""Classes that ask for a state from which it is left to be asked for, where no effect comes with it."""
DATA = frozenset(("entity", "value", "exception"))
"""Roles that take no services."""


def propose(context: PlanContext, decision: Decision) -> Proposal | Refusal | None:
    """A stand-in from the catalogue for an API; for a static function of the tree the function itself."""
    serves = context.considered.of[decision.source] or context.considered.on[decision.source]  # others would not decide on data
    if context.codebase.roles.name(decision.source) in DATA and decision.kind == "static-effect" and not serves:
        return Refusal(Reason.DATA_CLASS)
    if any(place.member is not None and place.member.kind == "field" for place in decision.places):
        return Refusal(Reason.USED_IN_FIELD)
    if decision.target >= 0:
        return _own_function(context, decision)
    if decision.kind == "hard-wired-creation" and any(passed(context.sources, place).strip() for place in decision.places):
        return Refusal(Reason.NEEDS_FACTORY, because=Refusal(Reason.ARGUMENTS_KNOWN_LATE))
    first = decision.places[0]
    callee = context.codebase.bonds.text_of("callee", first.row)
    uses = {
        place.span: substitute.use
        for place in decision.places
        if (substitute := substitute_of(context.codebase, place.finding, place.site))
    }
    found = substitute_of(context.codebase, first.finding, first.site)
    if found is None or len(uses) < len(decision.places):
        called = callee if decision.name in OUTSIDE_CLASSES else simple_name(decision.name)
        return Refusal(Reason.NEEDS_GATEWAY, name=called)
    if found.name in IDENTIFIERS and decision.source not in context.goal:
        return Refusal(Reason.IDENTIFIER)
    owner = first.site.text
    language = context.sources.language(decision.source)
    written = f"{owner}{language.static_link}{callee}" if owner and first.site.kind == "call" else owner or callee
    text = found.type.replace("{owner}", owner)
    needs = tuple(Need(simple_name(each), each[: -len(simple_name(each)) - 1]) for each in found.imports)
    supplied = found.supply.replace("{callee}", written)
    default = DefaultExpression(supplied, first.file, needs=tuple(need for need in needs if need.name in free_names(supplied)))
    wanted = WantedDependency(Typed(text, needs), found.name, default, use=found.use, uses=uses)
    return Proposal(NAME, decision, wanted, found.name, hazards=_moved(language, supplied))


def _moved(language: Language, written: str) -> tuple[Hazard, ...]:
    """What changes where a function is looked up by its name: once, and no longer at each call."""
    if not language.functions_bound_by_name or written.startswith("lambda"):
        return ()
    return (Hazard(Risk.BOUND_AT_CREATION, name=written),)


def _own_function(context: PlanContext, decision: Decision) -> Proposal | Refusal | None:
    table = context.codebase.bonds
    names = {table.text_of("callee", place.row) for place in decision.places}
    module = context.symbols.is_module(decision.target)
    if module and (len(names) > 1 or any(place.site.kind != "call" for place in decision.places)):
        return Refusal(Reason.MODULE_FUNCTIONS, name=sorted(names)[0])
    if reason := _unworthy(context, decision):
        return reason
    if not module and (_is_one_of_several(context, decision) or any(place.site.kind != "call" for place in decision.places)):
        return as_object(context, decision)
    name = names.pop()
    if module and (reason := _own_to_module(context, decision, name)):
        return reason
    language, first = context.sources.language(decision.source), decision.places[0]
    owner = first.site.text
    written = f"{owner}{language.static_link}{name}" if owner else name
    found = _called(context, decision, name)
    function = _function(context, decision, found, language.reference(owner, name, written)) if found is not None else None
    if function is None and module:
        return Refusal(Reason.MODULE_FUNCTION_FORM, name=name)
    if function is None:  # which an object can offer all the same
        return as_object(context, decision)
    called, what = name, name
    if owner and name in VAGUE:
        called = what = VAGUE[name] + context.name(decision.target)
    elif owner and _is_shared(context, decision, name):
        called, what = _behind(context.name(decision.target), name), function_of(name, context.name(decision.target))
    default = DefaultExpression(function.text, first.file)
    wanted = WantedDependency(function.typed, called if called != written else f"{name}Call", default, use=function.use)
    return Proposal(NAME, decision, wanted, what, hazards=_moved(language, written))


def _own_to_module(context: PlanContext, decision: Decision, name: str) -> Refusal | None:
    """Why a function of a module can't be named by who shall hand it in; None where it can."""
    file = context.symbols.file_of[decision.target]
    found = next((m for m in context.symbols.types[decision.target].members if m.name == name and m.kind == "method"), None)
    if found is None:
        return Refusal(Reason.MODULE_FUNCTION_RENAMED, name=name)
    if not context.sources.language(decision.target).hides_in_module or file != context.symbols.file_of[decision.source]:
        return None
    text = context.codebase.text(file)
    line = text[text.rfind(b"\n", 0, found.whole[0]) + 1 : found.place.end]
    return None if b"export" in line else Refusal(Reason.MODULE_FUNCTION_PRIVATE, name=name)


def _is_one_of_several(context: PlanContext, decision: Decision) -> bool:
    """Whether the classes of the plan ask for several functions of the target, so that one object serves all."""
    table = context.codebase.bonds
    asking = (each for each in context.considered.on[decision.target] if each.kind in SEAMS)
    return (
        len({table.text_of("callee", place.row) for each in asking for place in each.places if place.site.kind == "call"}) > 1
    )


def as_object(context: PlanContext, decision: Decision) -> Proposal | Refusal | None:
    """An object in the place of the static class, which passes on to it what is asked."""
    gateway = gateway_of(context, decision)
    if isinstance(gateway, Refusal):
        return gateway
    language, abstraction = context.sources.language(decision.source), gateway.abstraction
    heads = {place.span: head_of(context, place) or 0 for place in decision.places}
    uses = dict.fromkeys(heads, "{field}" + language.link)
    for place in decision.places:
        if place.site.kind != "call" and not language.interfaces_have_state:  # a state is asked for by a method
            name = context.codebase.bonds.text_of("callee", place.row).lstrip("$")
            heads[place.span] = place.span[1] - place.span[0]
            uses[place.span] = f"{{field}}{language.link}{name}()"
    need = Need(gateway.adapter, adapter_home(context, decision.target, gateway))
    default = DefaultExpression(f"new {gateway.adapter}()", -1, needs=(need,))
    wanted = WantedDependency(
        abstraction.typed, abstraction.name, default, use=f"{{field}}{language.link}", uses=uses, heads=heads
    )
    return Proposal(NAME, decision, wanted, abstraction.name, gateway=gateway)


def _unworthy(context: PlanContext, decision: Decision) -> Refusal | None:
    """Why static functions are better left where they are called; None where tests gain by handing them in."""
    if any(place.finding.kind == "ambient-state" for place in decision.places):
        return common(context, decision)
    worth = STOPPING if context.goal else WORTH_WRAPPING
    if any(
        worth.intersection(place.finding.effects) and _surely_reaches(context, decision, place) for place in decision.places
    ):
        return None
    return Refusal(Reason.HARMLESS_HELPER)


def _surely_reaches(context: PlanContext, decision: Decision, place: Place) -> bool:
    """Whether each form of a static function that a place may call has an effect: of overloads only some may."""
    name, syntax = context.codebase.bonds.text_of("callee", place.row), context.sources.syntax(place.file)
    brackets = syntax.arguments(syntax.at(*place.span))
    nodes = context.codebase.effects.declared(decision.target, name)
    if brackets is None or len(nodes) < 2:
        return True
    count = len(brackets[1])
    fitting = [node for node in nodes if _takes(context.symbols.types[node[0]].members[node[1]], count)]
    worth = STOPPING if context.goal else WORTH_WRAPPING
    return all(worth.intersection(context.codebase.effects.of_node(node)) for node in fitting)


def _takes(member: Member, count: int) -> bool:
    least = sum(not each.default and not each.variadic for each in member.parameters)
    return least <= count and (count <= len(member.parameters) or any(each.variadic for each in member.parameters))


def common(context: PlanContext, decision: Decision) -> Refusal | None:
    """Why a state that everybody asks for, and that nothing grave comes with, is better left to be asked for."""
    users = {each.source for each in context.considered.on[decision.target] if each.kind in SEAMS}
    grave = any(WORTH_WRAPPING.intersection(place.finding.effects) for place in decision.places)
    grave = grave or any(holds_object(context.codebase, place) for place in decision.places)
    if grave or len(users) < USED_ALL_OVER:
        return None
    return Refusal(Reason.COMMON_STATE, count=len(users))


def _called(context: PlanContext, decision: Decision, name: str) -> Member | None:
    """The static function that all places call, of those with its name; None where it can't be told, or no function type has
    its form."""
    language = context.sources.language(decision.source)
    forms = [
        (each, m)
        for each in context.codebase.roles.ancestors(decision.target)
        for m in context.symbols.types[each].members
        if m.name == name and m.kind == "method"
    ]
    if not forms:
        return None
    if not language.overloads:
        return forms[0][1] if not language.statics_go_by_class or not _asks_itself(context, *forms[0]) else None
    trees = [
        (context.sources.syntax(place.file), place.span) for place in decision.places
    ]  # parts of a class have files of their own
    brackets = [syntax.arguments(syntax.at(*span)) for syntax, span in trees]
    counts = {len(each[1]) for each in brackets if each is not None}
    fitting = [(home, form) for home, form in forms if {len(form.parameters)} == counts]
    if len(fitting) != 1:
        return None
    home, found = fitting[0]
    file = context.symbols.file_of[context.symbols.part_of_member(home, found)]
    head = context.codebase.text(file)[slice(*found.whole)].partition(b"{")[0]
    if language.reference_parameters and _BY_REFERENCE.search(head):
        return None
    return found


def _asks_itself(context: PlanContext, number: int, member: Member) -> bool:
    """Whether a static function goes by the class that it is called on, which a function by itself has not."""
    body = context.codebase.text(context.symbols.file_of[number])[slice(*member.body)]
    return re.search(rb"\b(?:this|super)\b", body) is not None


def _is_shared(context: PlanContext, decision: Decision, name: str) -> bool:
    """Whether the class calls functions of that name on several classes."""
    return any(
        each.target not in (-1, decision.target)
        and each.kind == decision.kind
        and context.codebase.bonds.text_of("callee", each.places[0].row) == name
        for each in context.considered.of[decision.source]
    )


def _behind(owner: str, name: str) -> str:
    """The name of a function behind that of its class, by the way the class is written."""
    return f"{owner}_{name}" if "_" in owner else owner + name[:1].upper() + name[1:]


def _function(context: PlanContext, decision: Decision, member: Member, text: str) -> FunctionType | None:
    """The function that a static member is; None where no function type has its form."""
    language, first = context.sources.language(decision.source), decision.places[0]
    if member.generics or any(each.variadic for each in member.parameters):
        return None
    if language.takes_types_of_calls:
        home, types = first.file, f"{first.site.text}.{member.name}" if first.site.text else member.name
        local = context.symbols.local_in(decision.source, home)
    else:
        home, types = (
            context.symbols.file_of[decision.target],
            " ".join([*(each.type for each in member.parameters), member.type]),
        )
        local = decision.target - context.symbols.first[home]
        member = _as_others_name(context, decision.target, member)
    given = (passed(context.sources, each) for each in decision.places)
    freely = any(each.default for each in member.parameters) or any(map(_NAMED.search, given))
    needs = needs_of_text(context.codebase, home, local, types)
    found = language.function_of(member, types if language.takes_types_of_calls else text, needs, freely=freely)
    return found._replace(text=text) if found is not None else None


def _as_others_name(context: PlanContext, number: int, member: Member) -> Member:
    """A member with the types inside its class named as others have to."""
    taken = tuple(
        msgspec.structs.replace(each, type=as_others_name(context.codebase, number, each.type)) for each in member.parameters
    )
    return msgspec.structs.replace(member, type=as_others_name(context.codebase, number, member.type), parameters=taken)
