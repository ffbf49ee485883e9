"""inject-through-parameter: a static function, or one of a module, takes what it calls, where no constructor reaches it.

Callers that pass nothing go on as before: by a default, or by a function of the old form that passes what stood there.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.facts.records import Member
from isodesm.linking.bonds import KIND_NUMBER, OWN_CALL
from isodesm.linking.remembering import remembered
from isodesm.planning.analysis.names_in_code import needs_of_text
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.decision import Decision, Place
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.model.refusal import Reason
from isodesm.planning.model.step import HAND_IN, PlannedStep, TechniqueName, step_id
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.injection import free_name
from isodesm.planning.state.recorder import record
from isodesm.planning.techniques.wrap_static import wrap
from isodesm.planning.text.insertions import PLACES
from isodesm.planning.text.syntax import Syntax
from isodesm.planning.wording import steps as wording

NAME = TechniqueName.INJECT_THROUGH_PARAMETER
ANSWERED = frozenset((Reason.STATIC_CODE, Reason.OUTSIDE_CLASSES, Reason.ONLY_ITSELF_CREATES, Reason.NO_CLASS))
"""Reasons why no constructor reaches a place, to which a parameter is the answer."""
_REMARKS = re.compile(rb"//[^\n]*+|/\*(?:[^*]|\*(?!/))*+\*/")
OTHERWISE = {"now": "clock", "clock": "now"}
"""What a parameter is called whose name a variable has already."""
CALLED = frozenset((OWN_CALL, *(KIND_NUMBER[kind] for kind in ("call", "static-call", "creation"))))
"""Kinds of bonds that call a function there and then."""


def propose(context: PlanContext, decision: Decision) -> Proposal | None:
    """What a function takes in the place of what it calls; None where it had better not, or can't."""
    if decision.kind not in ("static-effect", "hard-wired-creation") or not context.sources.language(decision.source).typed:
        return None
    if any(_hindered(context, decision, place) for place in decision.places):
        return None
    found = wrap.propose(context, decision)
    if not isinstance(found, Proposal) or found.gateway is not None or found.wanted.gone or found.wanted.heads:
        return None
    name = _free_name(context, decision, found.wanted.name)
    return msgspec.structs.replace(found, technique=NAME, wanted=msgspec.structs.replace(found.wanted, name=name))


def _hindered(context: PlanContext, decision: Decision, place: Place) -> bool:
    """Whether the function around a place can't take anything more, or nobody could pass it."""
    member, number, symbols = place.member, decision.source, context.symbols
    if member is None or member.kind != "method" or member.body == (0, 0) or symbols.files[place.file].generated:
        return True
    module = symbols.is_module(number)
    if not module and (not member.is_static or symbols.types[number].kind != "class"):
        return True
    syntax = context.sources.syntax(place.file)
    node, around = syntax.at(*place.span), syntax.member_node(member)
    language = context.sources.language(number)
    if around is None or around.child_by_field_name("parameters") is None or not _is_block(syntax, member):
        return True
    marked = any(simple not in ("staticmethod", "classmethod") for simple in _marks(member))
    if marked or _takes_any_number(syntax, member) or syntax.closed_in(node, around):
        return True
    if language.overloads and (member.is_private or member.generics or _is_taken(context, place.file, member)):
        return True
    if member.is_private and not module:
        return True  # a test can't call it, and who does passes nothing
    return not language.keyword_arguments and _is_handed_on(context, number, member)


def _free_name(context: PlanContext, decision: Decision, wanted: str) -> str:
    """A name that no variable of the functions has either."""
    named = {
        local.name.lstrip("$")
        for place in decision.places
        for local in context.codebase.content(place.file).locals
        if place.member is not None and place.member.body[0] <= local.start < place.member.body[1]
    }
    tried = (wanted, OTHERWISE.get(wanted, f"{wanted}Source"), f"{wanted}Function")
    names = (free_name(context.sources, context.state, decision.source, each) for each in tried)
    return next((name for name in names if name not in named), f"{wanted}{len(named)}")


def _marks(member: Member) -> Iterator[str]:
    return (mark.name.rpartition(".")[2] for mark in member.modifiers.annotations)


def _is_block(syntax: Syntax, member: Member) -> bool:
    """Whether the body of a function has statements, so that one more can stand in it."""
    body = syntax.body(member)
    return body is not None and body.type in ("block", "statement_block", "compound_statement")


def _takes_any_number(syntax: Syntax, member: Member) -> bool:
    text = syntax.of(syntax.parameters(member)[0])
    return any(each.variadic for each in member.parameters) or re.search(r"\.\.\.|\bparams\b|(?<![\w)])\*", text) is not None


def _is_taken(context: PlanContext, file: int, member: Member) -> bool:
    """Whether a function has a further form by then, so that one more would be told from that by its types alone."""
    start, end = member.whole
    return any(start <= each.start <= end for each in context.state.edits.get(file, ()))


def _is_handed_on(context: PlanContext, number: int, member: Member) -> bool:
    """Whether somebody hands a function on instead of calling it: who calls it then may pass it more than it takes now."""
    if (number, member.name) in _named_as_values(context.codebase):
        return True
    if context.sources.language(number).overloads:
        return False
    text = _REMARKS.sub(b"", context.codebase.text(context.symbols.file_of[number]))
    named = rb"(?<![\w$])" + re.escape(member.name.encode()) + rb"(?![\w$])(?!\s*+[(<])"
    return re.search(named, text) is not None


@remembered
def _named_as_values(codebase: Codebase) -> frozenset[tuple[int, str]]:
    """Types of the tree with the members that are named otherwise than by a call."""
    table = codebase.bonds
    names = table.names.strings
    return frozenset(
        (target, names[callee])
        for kind, target, callee in zip(table.kind, table.target, table.callee, strict=True)
        if target >= 0 and kind not in CALLED
    )


# --- the step ------------------------------------------------------------------------------


def plan_parameters(context: PlanContext, proposal: Proposal, gone: tuple[str, ...]) -> PlannedStep:
    """The step by which the functions of a proposal take what they call, and are rid of some effects by that."""
    decision = proposal.decision
    functions = {id(place.member): place for place in decision.places}
    changes = record(context, {place.file for place in decision.places}, lambda: _take(context, proposal))
    source = context.name(decision.source)
    names = [place.member.name for place in functions.values() if place.member is not None]
    return PlannedStep(
        technique=NAME,
        id=step_id(HAND_IN, context.symbols.names[decision.source], proposal.what),
        about=decision.source,
        classes=(decision.source,),
        target=decision.name,
        text=wording.taken_by_functions(
            source, names, proposal.what, gone, overloads=context.sources.language(decision.source).overloads
        ),
        edits=tuple(changes.edits),
        code=tuple(changes.code),
        added=(f"{source} → {proposal.what}",),
        removed=tuple(f"{source} ⇒ {finding.target.rpartition('.')[2]}" for finding in decision.findings),
    )


def _take(context: PlanContext, proposal: Proposal) -> None:
    wanted, decision = proposal.wanted, proposal.decision
    places: dict[tuple[int, int], list[Place]] = {}
    for place in decision.places:
        assert place.member is not None
        places.setdefault((place.file, place.member.whole[0]), []).append(place)
    for (file, _), own in places.items():
        member, syntax = own[0].member, context.sources.syntax(file)
        assert member is not None
        language = context.sources.language(decision.source)
        amendments = [_used(syntax, place, proposal, language.argument(wanted.name)) for place in own]
        optional, value = language.optional(wanted.typed.text, wanted.name, language.supplied(wanted.default.text))
        if optional:
            amendments.append(_parameter(syntax, member, optional, wanted.name))
            if value != language.argument(wanted.name):
                amendments.append(_fallback(syntax, member, language.fallback(wanted.name, value)))
        else:
            amendments.append(_parameter(syntax, member, language.parameter(wanted.typed.text, wanted.name), wanted.name))
            amendments.append(_old_form(syntax, member, wanted.default.text))
        local = context.symbols.local_in(decision.source, file)
        needs = needs_of_text(context.codebase, file, local, wanted.default.text) if wanted.default.file < 0 else ()
        context.edit(file, *amendments, needs=(*wanted.typed.needs, *wanted.default.needs, *needs))


def _used(syntax: Syntax, place: Place, proposal: Proposal, field: str) -> Amendment:
    """A place that asks the parameter."""
    node = syntax.at(*place.span)
    brackets = syntax.arguments(node)
    passed = re.sub(r"^\(\s*|\s*\)$", "", syntax.of(brackets[0])) if brackets is not None else ""
    use = proposal.wanted.uses.get(place.span, proposal.wanted.use)
    text = use.format(field=field, arguments=passed).replace(f"({field})(", f"{field}(")
    shown = syntax.of(node).split("\n")[0][:60]
    return Amendment(*place.span, PLACES, text, f"`{shown}` becomes `{text}`")


def _parameter(syntax: Syntax, member: Member, written: str, name: str) -> Amendment:
    """One parameter more, behind the others."""
    brackets, known = syntax.parameters(member)
    at = known[-1].end_byte if known else brackets.start_byte + 1
    return Amendment(at, at, PLACES, f"{', ' if known else ''}{written}", f"`{member.name}` takes `{name}`")


def _fallback(syntax: Syntax, member: Member, statement: str) -> Amendment:
    """The statement by which a parameter that nobody passes becomes what stood there, in front of all others."""
    first = _first_statement(syntax, syntax.body(member))
    indent = syntax.indent_at(first.start_byte)
    said = "who passes nothing gets what it was"
    return Amendment(first.start_byte, first.start_byte, PLACES, f"{statement}{syntax.line_end}{indent}", said)


def _first_statement(syntax: Syntax, body: Any) -> Any:
    """The first statement of a body that is no text which documents it."""
    statements = syntax.statements(body)
    documented = syntax.traits.docs_in_body and len(statements) > 1 and syntax.of(statements[0]).lstrip("rRuU")[:1] in "\"'"
    return statements[1] if documented else statements[0]


def _old_form(syntax: Syntax, member: Member, default: str) -> Amendment:
    """The function as it was called so far, behind the one that takes more."""
    body = syntax.body(member)
    head = syntax.text[member.whole[0] : body.start_byte].decode("utf-8", "replace").rstrip()
    margin, end = syntax.indent_at(member.whole[0]), syntax.line_end
    step = syntax.indent_at(syntax.statements(body)[0].start_byte).removeprefix(margin) or "    "
    given = ", ".join([*(each.name for each in member.parameters), default])
    word = "" if member.type in ("void", "") else "return "
    before = syntax.text[: body.start_byte].decode("utf-8", "replace").rstrip(" \t")
    brace = f"{end}{margin}{{" if before.endswith("\n") else " {"
    text = f"{end}{end}{margin}{head}{brace}{end}{margin}{step}{word}{member.name}({given});{end}{margin}}}"
    return Amendment(member.whole[1], member.whole[1], PLACES, text, f"`{member.name}` is called as before, too")
