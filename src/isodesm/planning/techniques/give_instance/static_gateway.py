"""An object in the place of a static class: an interface with what is asked of it, and a class that passes each call on."""

from __future__ import annotations

import re
from collections import Counter

from isodesm.codebase.model import Codebase
from isodesm.facts.records import Member
from isodesm.linking.bonds import KIND_NUMBER, WRITE
from isodesm.linking.remembering import remembered
from isodesm.linking.symbols import simple_name
from isodesm.planning.analysis.decisions import holds_object
from isodesm.planning.analysis.existing_adapters import existing_abstraction, existing_adapters
from isodesm.planning.analysis.file_names import path_beside
from isodesm.planning.analysis.homes import module_home
from isodesm.planning.analysis.interface_names import interface_name
from isodesm.planning.analysis.names_in_code import home_of
from isodesm.planning.analysis.signatures import takes_undeclared
from isodesm.planning.model.abstraction import NEW, Abstraction
from isodesm.planning.model.decision import Decision, Place
from isodesm.planning.model.gateways import StaticGateway
from isodesm.planning.model.refusal import Reason, Refusal
from isodesm.planning.state.abstraction_choice import planned_names
from isodesm.planning.state.context import PlanContext

SUFFIX = "Adapter"
FUNCTIONS = "Functions"
"""What tells the static members of a class from its objects, where there are such."""
SEAMS = ("static-effect", "ambient-state")
"""Kinds of decisions on what a class offers without an object of it."""
STATES = ("field", "property")
LEFT_OUT = "Conditional"
"""The mark of a function whose calls are left out of some builds, arguments and all, which no interface can promise."""
_STATIC = frozenset(KIND_NUMBER[each] for each in ("static-call", "static-field"))
_SEPARATOR = re.compile(rb"\s*(?:\.|::)\s*")


def gateway_of(context: PlanContext, decision: Decision) -> StaticGateway | Refusal:
    """The gateway around the target of a decision, with all that decisions ask of it; else why there can be none."""
    target = decision.target
    declared = context.symbols.types[target]
    if declared.kind != "class" or declared.generics or "private" in declared.modifiers.words or not declared.name:
        return Refusal(Reason.NO_PLAIN_CLASS)
    if not context.sources.language(target).typed or not context.sources.language(decision.source).typed or context.no_new:
        return Refusal(Reason.UNTYPED_STATIC)
    if (existing := _existing(context, decision)) is not None:
        found = existing
    elif target in context.state.adapters:
        found = context.state.adapters[target]
    else:
        found = _new(context, target)
    offered = {member.name.lstrip("$") for _, member in found.abstraction.members}
    for place in decision.places:
        name = context.codebase.bonds.text_of("callee", place.row).lstrip("$")
        if name not in offered:
            return Refusal(Reason.CANT_BE_OFFERED, name=name)
        if reason := _hindrance(context, decision, place, found, name):
            return reason
    return found


def _hindrance(context: PlanContext, decision: Decision, place: Place, gateway: StaticGateway, name: str) -> Refusal | None:
    """Why a place can't ask an object in the place of the class; None where it can."""
    if head_of(context, place) is None:
        return Refusal(Reason.NOT_BY_CLASS)
    kinds = {member.kind for _, member in gateway.abstraction.members if member.name.lstrip("$") == name}
    called = place.site.kind == "call"
    if kinds & set(STATES) and not called and not context.sources.language(decision.target).interfaces_have_state:
        if name in gateway.written or len(kinds) > 1:
            return Refusal(Reason.STATE_IS_SET)
    elif not called and not kinds & set(STATES):
        return Refusal(Reason.PASSED_AS_FUNCTION)
    return None


def head_of(context: PlanContext, place: Place) -> int | None:
    """How many bytes of a place name the class, with what parts it from its member; None where something else stands there."""
    if context.codebase.bonds.kind[place.row] not in (*_STATIC, WRITE):
        return None
    text = context.codebase.text(place.file)[place.span[0] : place.span[1]]
    lead = re.match(rb"\s*(?:global::)?\\?[\w.\\]+?(?=\s*(?:\.|::)\s*\$?" + _callee(context, place) + rb"\b)", text)
    if lead is None or lead[0].strip() in (b"this", b"self", b"static", b"parent", b"base", b"super"):
        return None
    behind = _SEPARATOR.match(text, lead.end())
    return behind.end() if behind is not None else None


def _callee(context: PlanContext, place: Place) -> bytes:
    return re.escape(context.codebase.bonds.text_of("callee", place.row).lstrip("$").encode())


def _new(context: PlanContext, target: int) -> StaticGateway:
    asked = {each for each in context.considered.on[target] if each.kind in SEAMS}
    table = context.codebase.bonds
    plain = [place for each in asked for place in each.places if not holds_object(context.codebase, place)]
    names = {table.text_of("callee", place.row).lstrip("$") for place in plain}
    rows = {place.row for place in plain}
    written = frozenset(
        table.text_of("callee", row).lstrip("$") for row in rows if table.kind[row] == WRITE or _alters(context.codebase, row)
    )
    members = tuple(
        (each, member)
        for each in context.codebase.roles.ancestors(target)
        for member in context.symbols.types[each].members
        if member.name.lstrip("$") in names and _can_offer(context, each, member)
    )
    if context.sources.language(target).overloads_share_body:  # where several forms share one body
        forms = Counter(member.name for _, member in members)
        members = tuple(each for each in members if forms[each[1].name] == 1)
    home = home_of(context.codebase, target)
    own = _own_name(context, target)
    name = interface_name(context.codebase, target, context.sources.habit(target), home, planned_names(context), own)
    adapter = free_type_name(context, target, f"{own}{SUFFIX}")
    path, adapter_path = (path_beside(context.sources, target, each) for each in (name, adapter))
    abstraction = Abstraction(
        name, module_home(context.sources, target, home, path), NEW, target, members, len({each.source for each in asked}), path
    )
    return StaticGateway(abstraction, adapter, adapter_path, written)


def _existing(context: PlanContext, decision: Decision) -> StaticGateway | None:
    """A gateway of the tree that offers all that a decision asks for, and sets no state; None where there is none."""
    target, table = decision.target, context.codebase.bonds
    asked = {table.text_of("callee", place.row).lstrip("$") for place in decision.places}
    if any(table.kind[place.row] == WRITE or _alters(context.codebase, place.row) for place in decision.places):
        return None
    for adapter in existing_adapters(context.sources, target, f"{_own_name(context, target)}{SUFFIX}"):
        found = existing_abstraction(context.sources, target, adapter)
        if found is not None and asked <= {member.name.lstrip("$") for _, member in found.members}:
            return StaticGateway(found, context.name(adapter), context.sources.path(adapter), frozenset(), adapter)
    return None


def _own_name(context: PlanContext, target: int) -> str:
    return f"{context.name(target)}{'' if _is_static_only(context, target) else FUNCTIONS}"


def _is_static_only(context: PlanContext, target: int) -> bool:
    """Whether a class has no members that its objects would have."""
    members = [each for part in context.symbols.parts.get(target, (target,)) for each in context.symbols.types[part].members]
    return all(
        each.is_static or each.kind == "constant" or (each.kind == "constructor" and each.is_private) for each in members
    )


@remembered
def _alters(codebase: Codebase, row: int) -> bool:
    """Whether a use of a state is followed by what gives it another value."""
    table = codebase.bonds
    place = codebase.content(table.file[row]).sites[table.site[row]].place
    behind = codebase.text(table.file[row])[place.start :]
    callee = re.escape(table.text_of("callee", row).lstrip("$").encode())
    return (
        re.match(rb"[\w.:$\\]*?" + callee + rb"(?:\s*\[[^\]]*\])*\s*(?:[-+*/%&|^.?]{0,3}=(?![=>])|\+\+|--)", behind) is not None
    )


def _can_offer(context: PlanContext, number: int, member: Member) -> bool:
    """Whether an interface can have a static member as it stands, for a class beside it to pass on."""
    words = set(member.modifiers.words)
    if not member.is_static and member.kind != "constant" or words & {"private", "event", "extern", "const"}:
        return False
    if "protected" in words and not context.sources.language(number).protected_is_package_wide:
        return False
    if any(simple_name(annotation.name) == LEFT_OUT for annotation in member.modifiers.annotations):
        return False
    if member.kind in STATES:
        return bool(member.type) and "[" not in simple_name(member.type)[:1]
    if member.kind != "method":
        return False
    head = context.codebase.text(context.symbols.file_of[context.symbols.part_of_member(number, member)])
    said = head[member.whole[0] : member.body[0] or member.whole[1]]
    pointers = re.search(rb"\w\s*\*\s*\w", said) if context.sources.language(number).pointers else None
    plain = all(re.fullmatch(r"[@$&*.]*\w+", each.name) for each in member.parameters)
    undeclared = takes_undeclared(context.sources, number, member)
    return plain and not (pointers or undeclared or _gives_late_type(context, number, member))


def _gives_late_type(context: PlanContext, number: int, member: Member) -> bool:
    """Whether a function gives whatever class it is called on."""
    late = context.sources.language(number).late_static_type
    return bool(late) and member.type.lstrip("?") == late


def free_type_name(context: PlanContext, target: int, name: str) -> str:
    """A name that no type of the language has, new ones included."""
    language = context.sources.language(target).name
    known = {simple_name(each).lower() for each in context.symbols.by_language[language]}
    known |= {each.lower() for each in context.state.new_types}
    return next(each for each in (name, *(f"{name}{count}" for count in range(2, 100))) if each.lower() not in known)
