"""What a technique proposes for a decision, and what several techniques ask of the code around it."""

from __future__ import annotations

import re

import msgspec

from isodesm.facts import typetext
from isodesm.facts.records import Member
from isodesm.linking.symbols import simple_name
from isodesm.planning.analysis.names_in_code import typetext_free
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.decision import Decision, Place
from isodesm.planning.model.dependency import DefaultExpression
from isodesm.planning.model.proposal import Proposal, WantedDependency
from isodesm.planning.model.refusal import Hazard, Reason, Refusal
from isodesm.planning.state.abstraction_choice import abstraction_for
from isodesm.planning.state.context import PlanContext
from isodesm.planning.text.insertions import PLACES

CLOSING = frozenset("close Close dispose Dispose DisposeAsync __exit__ __del__ __destruct ngOnDestroy destroy".split())
"""Members by which an object is given up."""
CLOSED_BYTES = 80
_CLOSED = re.compile(rb"(?:\busing\b|\bwith\s|\btry\s*\()[^;{}:\n]*$")
"""What stands in front of an object that is given up at the end of a block."""
SELF_WORDS = frozenset(("this", "self", "$this"))
_NAMES = re.compile(r"(?<![\w.>\"'])(\$?[A-Za-z_]\w*)")


def free_names(text: str) -> set[str]:
    """Names in an expression that stand for themselves, `this` and the like included; not what is behind a dot."""
    return set(_NAMES.findall(typetext_free(text)))


def expression(context: PlanContext, place: Place) -> str:
    """The expression of a place as written, on one line and without comments."""
    text = context.codebase.text(place.file)[place.span[0] : place.span[1]].decode("utf-8", "replace")
    return typetext.squeeze(text) if "\n" in text else text


def passed(context: PlanContext, place: Place) -> str:
    """What the expression of a place passes, as written."""
    syntax = context.sources.syntax(place.file)
    brackets = syntax.arguments(syntax.at(*place.span))
    return syntax.of(brackets[0]).strip("()") if brackets is not None else ""


def bound_names(context: PlanContext, decision: Decision, place: Place) -> tuple[set[str], bool]:
    """Names in a place that only its object or its method knows, and whether others tie it to its class: constants,
    parameters."""
    number = decision.source
    members = context.symbols.members(number)
    names = {name.lstrip("$") if name not in SELF_WORDS else name for name in free_names(expression(context, place))}
    at, named = place.span[0], context.codebase.locals_named(place.file)
    local = {
        each.name
        for name in names
        for each in named.get(name, ())
        if each.start <= at < each.end and each.kind not in ("self", "class")
    }
    local |= {parameter.name for parameter in place.member.parameters} if place.member is not None else set()
    given: set[str] = set()
    if place.member is not None and place.member.kind == "constructor":
        given = {each.name for each in place.member.parameters}
    bare = context.symbols.dialect(number).implicit_self
    known = [member for name in names for _, member in members.get(name, ())] if bare else []
    fixed = {member.name for member in known if member.is_static}
    own = {each.name for each in known if not each.is_static and each.kind in ("field", "method", "component", "property")}
    hidden = (names & ((local | own) - given)) | (names & SELF_WORDS)
    return hidden, bool(names & (given | fixed))


class Inlined(msgspec.Struct, frozen=True):
    """An expression with the variables put in that were set just for it, and what becomes of the lines that set them."""

    text: str
    gone: tuple[Amendment, ...] = ()


def inlined(context: PlanContext, decision: Decision, place: Place, names: set[str]) -> Inlined | None:
    """The expression of a place in a constructor with some variables put in; None where one of them is used otherwise, too."""
    text, gone = expression(context, place), []
    member = place.member
    if member is None or member.kind != "constructor" or member.branches:
        return None
    syntax = context.sources.syntax(place.file)
    content = context.codebase.content(place.file)
    body = context.codebase.text(place.file)[member.body[0] : member.body[1]].decode("utf-8", "replace")
    for name in sorted(names):
        local = next(
            (
                each
                for each in content.locals
                if each.name.lstrip("$") == name and each.start <= place.span[0] < each.end and each.site >= 0
            ),
            None,
        )
        if local is None or len(re.findall(rf"(?<![\w.]){re.escape(name)}\b", body)) != 2:
            return None
        site = content.sites[local.site]
        span = (site.place.start, site.place.end)
        if (
            site.kind not in ("creation", "call")
            or (place.file, *span) in context.considered.spans
            or site.member != place.site.member
        ):
            return None
        value = syntax.at(*span)
        statement = value.parent
        while statement is not None and not statement.type.endswith(
            ("statement", "local_variable_declaration", "lexical_declaration")
        ):
            statement = statement.parent
        inner = syntax.text[span[0] : span[1]].decode("utf-8", "replace")
        others = {
            each.name.lstrip("$")
            for each in content.locals
            if each.start <= span[0] < each.end and each.kind not in ("self", "class")
        }
        if (
            statement is None
            or statement.start_byte < member.body[0]
            or {each.lstrip("$") for each in free_names(inner)} & (others | SELF_WORDS)
        ):
            return None
        text = re.sub(rf"(?<![\w.])\$?{re.escape(name)}\b", lambda _, inner=inner: inner, text)
        line = syntax.text.rfind(b"\n", 0, statement.start_byte) + 1
        end = statement.end_byte + len(syntax.text[statement.end_byte :]) - len(syntax.text[statement.end_byte :].lstrip(b"; "))
        whole = syntax.text[line : statement.start_byte].strip() == b"" and syntax.text[end : end + 1] in (b"\n", b"\r")
        if whole:
            end += 2 if syntax.text[end : end + 2] == b"\r\n" else 1
        gone.append(
            Amendment(line if whole else statement.start_byte, end, PLACES, "", f"`{name}` is put in where it was used")
        )
    return Inlined(text, tuple(gone))


def shares_badly(context: PlanContext, decision: Decision, place: Place) -> Refusal | None:
    """Why one object can't serve in the place of one for each call; None where it can."""
    once = place.member is None or place.member.kind not in ("method", "property")
    if once and len(decision.places) == 1:
        return None
    name, members = place.field.lstrip("$#"), context.symbols.members(decision.source)
    known = [member for sign in ("", "$", "#") for _, member in members.get(f"{sign}{name}", ())]
    if not once and any(each.kind in ("field", "property") for each in known):
        return Refusal(Reason.CREATED_ANEW)
    reason = of_state(context, decision.target)
    if reason is not None and reason.reason is Reason.FOREIGN_BASE:
        return reason
    members = _all_members(context, decision.target)
    lead = context.codebase.text(place.file)[max(place.span[0] - CLOSED_BYTES, 0) : place.span[0]]
    closing = {m.name for m in members if m.name in CLOSING and (not m.parameters or m.name.startswith("__"))}
    if closing & (context.asked_of(decision) or frozenset()) or _CLOSED.search(lead):
        return Refusal(Reason.CLOSED_BY_CREATOR)
    return reason


def of_state(context: PlanContext, target: int) -> Refusal | None:
    """Why objects of a class differ, so that several can't be one; None where they don't."""
    line = context.codebase.roles.ancestors(target)
    if any(context.codebase.roles.external_bases.get(each) for each in line if context.symbols.types[each].kind == "class"):
        return Refusal(Reason.FOREIGN_BASE)
    fixed = ("final", "readonly", "const")
    changing = [
        m
        for m in _all_members(context, target)
        if m.kind == "field" and not m.is_static and not set(fixed) & set(m.modifiers.words)
    ]
    if context.sources.language(target) in ("python", "typescript", "php"):
        changing = [m for m in changing if m.whole == (0, 0) or not is_set_once(context, target, m)]
    return Refusal(Reason.STATE_OF_ITS_OWN) if changing else None


def keeps_state(context: PlanContext, taken: Proposal) -> Refusal | None:
    """Why what a class is handed can't be shared by several of its objects; None where it can: a function, what is shared
    already, what has no state."""
    decision, wanted = taken.decision, taken.wanted
    if wanted.makes is not None or taken.gateway is not None or decision.kind != "hard-wired-creation":
        return None
    if decision.target < 0:
        return Refusal(Reason.LIBRARY_STATE)
    return of_state(context, decision.target)


def _all_members(context: PlanContext, target: int) -> list[Member]:
    return [m for each in context.codebase.roles.ancestors(target) for m in context.symbols.types[each].members]


def is_set_once(context: PlanContext, number: int, member: Member) -> bool:
    """Whether a field is assigned in the constructor only, read off the text of the class."""
    text = context.codebase.text(context.symbols.file_of[number])
    constructor = context.sources.constructor(number)
    body = context.symbols.types[number].body
    pattern = re.compile(
        rb"(?:self\.|this\.|\$this->)"
        + re.escape(member.name).encode()
        + rb"\s*(?:[-+*/|&.?]{0,3}=(?!=)|\[|\+\+|--|\.(?:append|add|push|set|update|pop|clear)\()"
    )
    span = constructor.whole if constructor is not None else (0, 0)
    return all(span[0] <= found.start() < span[1] for found in pattern.finditer(text, *body))


def held_as(context: PlanContext, decision: Decision) -> str:
    """The one type that the fields declare in which a class keeps what it decides on; '' where it keeps it in none, or in
    several."""
    fields = {
        m.name: simple_name(typetext.head(m.type)) for m in context.symbols.types[decision.source].members if m.kind == "field"
    }
    kinds = {fields.get(place.field, "") for place in decision.places}
    return kinds.pop() if len(kinds) == 1 else ""


def as_abstraction(
    context: PlanContext,
    decision: Decision,
    technique: str,
    supply: DefaultExpression,
    *,
    bridge_only: bool = False,
    hazards: tuple[Hazard, ...] = (),
    gone: tuple[Amendment, ...] = (),
) -> Proposal:
    """The proposal to hand in an object of the target's abstraction."""
    abstraction = abstraction_for(context, decision, held_as(context, decision))
    concrete = context.name(decision.target) if abstraction.name != context.symbols.types[decision.target].path else ""
    wanted = WantedDependency(abstraction.typed, abstraction.name.rpartition(".")[2], supply, concrete=concrete, gone=gone)
    return Proposal(technique, decision, wanted, abstraction.name, abstraction, bridge_only, hazards)
