"""A gateway of one's own around what a class calls outside the tree: an interface with what it asks, and a class that does it.

Each call stays where it is, with what it passes; only whom it asks changes. So decisions stay with the class, and effects
go behind an interface that a test can implement.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable
from typing import Any, NamedTuple

import msgspec

from isodesm.facts.typetext import split_top
from isodesm.inference.effect_kinds import GRAVITY
from isodesm.linking.symbols import simple_name
from isodesm.planning.analysis.api_substitutes import substitute_of
from isodesm.planning.analysis.expression_types import errors_at, is_value_type, is_variable, result_of, type_of
from isodesm.planning.analysis.file_names import path_beside
from isodesm.planning.analysis.homes import module_home, unit_of
from isodesm.planning.analysis.interface_names import interface_name
from isodesm.planning.analysis.names_in_code import home_of, knows_names, needs_of_text
from isodesm.planning.analysis.preconditions import of_place
from isodesm.planning.language import language_named
from isodesm.planning.language.base import Language
from isodesm.planning.model.abstraction import NEW, Abstraction
from isodesm.planning.model.code import AdapterMember, Need, Signature
from isodesm.planning.model.decision import Decision, Place
from isodesm.planning.model.gateways import ExternalGateway, OutsideCall
from isodesm.planning.model.refusal import Reason, Refusal
from isodesm.planning.state.abstraction_choice import planned_names
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.give_instance.static_gateway import free_type_name
from isodesm.planning.text.syntax import Syntax

NOUNS = {
    "network": "Network",
    "database": "Database",
    "file": "Files",
    "process": "Processes",
    "gui": "Dialogs",
    "sleep": "Pauses",
    "thread": "Threads",
    "clock": "Time",
    "random": "Chance",
    "environment": "Environment",
    "console": "Console",
}
"""Effect to what a gateway to it is called."""
_SPREAD = re.compile(r"^(?:\*|\.\.\.|out\s|ref\s|in\s|&)")
_NAMED = re.compile(r"^(\w+)\s*(?:=(?!=)|:(?!:))\s*")
_QUALIFIER = re.compile(r"(?<!\w)(?:\w++\.)++")
_QUALIFIED = re.compile(r"(?<![\w.])(\w++(?:\.\w++)*)\.(\w++)")
_UNCHECKED = re.compile(r"(?:Error|RuntimeException|PointerException|ArgumentException|StateException)$|^SecurityException$")
"""Names of errors that nobody has to declare."""
_CATCH_ALL = frozenset(("Exception", "Throwable"))
LEAST_GATEWAYS = 3
"""Gateways in one folder that show where such things live, if most do."""
TAKEN_FIRST = {
    "network": "address",
    "database": "statement",
    "file": "path",
    "process": "command",
    "sleep": "duration",
    "gui": "message",
}
"""Effect to what calls that have it take first, as a rule."""
_VARIABLE = re.compile(r"(?:[\w$]+(?:\.|->|::))*\$?([A-Za-z_]\w*)")
_ASKED = re.compile(r"(?:\.|->|::|^)get_?([A-Z]?[a-z]\w*)\([^()]*\)$")
"""What ends in a question for something by its name."""
_CREATES = re.compile(r"^new\s+")


def around(context: PlanContext, decision: Decision) -> tuple[ExternalGateway, Decision] | Refusal:
    """The gateway that a decision becomes, with the decision widened by all others of its class that it serves; else why
    there can be none."""
    number, effect = decision.source, _effect_of(decision)
    if not context.sources.language(number).typed or context.no_new:
        return Refusal(Reason.UNTYPED_CALL)
    bases = context.codebase.roles.ancestors(number)[1:]
    behind = number in context.state.interfaces or any(context.symbols.types[each].is_abstract for each in bases)
    if context.codebase.roles.name(number) in ("gateway", "repository") and behind and number not in context.goal:
        return Refusal(Reason.ITS_JOB)
    calls: list[OutsideCall] = []
    for place in decision.places:
        found = outside(context, number, place)
        if isinstance(found, Refusal):
            return found
        calls.append(found)
    wide = decision
    for other in context.considered.outside.get(number, ()):
        known = {place.span for place in wide.places}
        further = [place for place in other.places if place.span not in known]
        more = [outside(context, number, place) for place in further if not of_place(context.sources, other, place)]
        fits = len(more) == len(further) and not any(isinstance(each, Refusal) for each in more)
        if _effect_of(other) == effect and fits and not _is_taken(context, other):
            calls += [each for each in more if not isinstance(each, Refusal)]
            wide = msgspec.structs.replace(wide, places=(*wide.places, *further))
    gateway = _named(context, number, effect, _told_apart(calls, context.sources.language(number)))
    if (number, effect) in context.state.beside:
        return Refusal(Reason.GATEWAY_ALREADY_PLANNED)
    return gateway, wide


def _is_taken(context: PlanContext, decision: Decision) -> bool:
    """Whether another way fits a decision: the catalogue has a stand-in for it."""
    return any(substitute_of(context.codebase, place.finding, place.site) is not None for place in decision.places)


def _effect_of(decision: Decision) -> str:
    known = [each for place in decision.places for each in _effects_at(place)]
    return min(known, key=GRAVITY.__getitem__, default="file")


def _effects_at(place: Place) -> list[str]:
    """The effects that a finding speaks of, be they those of its target or what a member reaches."""
    reached = (tag.removeprefix("reaches-") for tag in place.finding.why if tag.startswith("reaches-"))
    return [each for each in (*place.finding.effects, *reached) if each in GRAVITY]


def outside(context: PlanContext, number: int, place: Place) -> OutsideCall | Refusal:
    """The member of a gateway that a call becomes; else why it can't be one."""
    if reason := _hindrance(context, number, place):
        return reason
    syntax = context.sources.syntax(place.file)
    node, language = syntax.at(*place.span), syntax.traits
    brackets = syntax.arguments(node)
    assert brackets is not None
    head, name = _head(syntax, node, brackets[0])
    made = head != name or place.site.kind == "creation"
    method = simple_name(name.replace("::", ".").partition("<")[0])
    method = f"new{method}" if made else method
    method = language.member_name(method)
    if language.takes_types_of_calls:
        return _of_module_language(context, number, place, head, method, made)
    passed = _passed(context, number, place, brackets[1])
    if language.needs_types and not all(is_value_type(each.type) for each in passed):
        return Refusal(Reason.UNTYPED_ARGUMENT)
    result = _result(context, number, place, name, made, node)
    if result is None:
        return Refusal(Reason.LIBRARY_REACHES_OUTSIDE) if made else Refusal(Reason.UNTYPED_RESULT)
    errors = [each for each in errors_at(place, syntax, node) if not _UNCHECKED.search(each)] if language.checked_errors else []
    throws = f" throws {', '.join(errors)}" if errors else ""
    signature = Signature(method, ", ".join(each.declared(language) for each in passed), result, throws=throws)
    call = f"{head}({', '.join(each.forwarded(language) for each in passed)})"
    local = context.symbols.local_in(number, place.file)
    types = " ".join((*(each.type for each in passed), result, *errors))
    known = context.symbols.catalogues.of(syntax.language).results.get(f"{_library(context, place)}.{simple_name(name)}", "")
    asked = [Need(each, home) for home, each in _QUALIFIED.findall(known) if each in result]
    named = {each.name for each in asked}  # which the file need not know, whatever it imports as a whole
    asked += [each for each in needs_of_text(context.codebase, place.file, local, types) if each.name not in named]
    own = needs_of_text(context.codebase, place.file, local, name)
    head_bytes = brackets[0].start_byte - node.start_byte
    member = AdapterMember(signature, call)
    return OutsideCall(place.span, head_bytes, member, own, tuple(dict.fromkeys(asked)), _library(context, place))


def _head(syntax: Syntax, node: Any, brackets: Any) -> tuple[str, str]:
    """What stands in front of the brackets of a call, and the name in it."""
    head = syntax.text[node.start_byte : brackets.start_byte].decode("utf-8", "replace").strip()
    return head, _CREATES.sub("", head)


def _hindrance(context: PlanContext, number: int, place: Place) -> Refusal | None:
    """Why nobody else can make a call; None where its form speaks for it."""
    syntax = context.sources.syntax(place.file)
    node = syntax.at(*place.span)
    brackets = syntax.arguments(node)
    if (node.start_byte, node.end_byte) != place.span or brackets is None or place.member is None:
        return Refusal(Reason.MORE_THAN_A_CALL)
    if place.member.kind not in ("method", "property", "constructor"):
        return Refusal(Reason.USED_IN_FIELD)
    head, name = _head(syntax, node, brackets[0])
    first = re.split(r"[.(<:]|->", name)[0].strip()
    own = any(m.name.lstrip("$") == first for m in context.symbols.types[number].members)
    if head.startswith(("$", "this", "self.", "await")) or is_variable(context.sources, place, first) or (own and "." in name):
        return Refusal(Reason.CALL_ON_OBJECT)
    if not re.fullmatch(r"[\w.\\:]+(?:<[\w.,<>? ]*>)?", name) or brackets[0].end_byte != node.end_byte:
        return Refusal(Reason.MORE_THAN_A_CALL)
    if node.parent is not None and node.parent.type in ("await_expression", "await"):
        return Refusal(Reason.AWAITED)
    if any(_SPREAD.match(syntax.of(each)) for each in brackets[1]) or _by_reference(context, syntax.language, name):
        return Refusal(Reason.GIVES_BACK_BY_REFERENCE)
    return None


class Passed(NamedTuple):
    """What a call passes: its type ('' where none is written), what the parameter is called, and whether it goes by that."""

    type: str
    name: str
    by_name: bool

    def declared(self, language: Language) -> str:
        """As a parameter."""
        return language_named(language.name).parameter(self.type, self.name).strip()

    def forwarded(self, language: Language) -> str:
        """As an argument."""
        return f"{self.name}={self.name}" if self.by_name else language.argument(self.name)


def _passed(context: PlanContext, number: int, place: Place, arguments: Iterable[Any]) -> list[Passed]:
    syntax, found = context.sources.syntax(place.file), list[Passed]()
    for index, each in enumerate(arguments):
        text = syntax.of(each)
        by_name = _NAMED.match(text) if syntax.traits.keyword_arguments else None
        called = (
            by_name[1]
            if by_name
            else _parameter_name(text, index, min(_effects_at(place), key=GRAVITY.__getitem__, default=""))
        )
        while called in [one.name for one in found]:
            called += "2"
        value = each.child_by_field_name("value") if by_name else None
        kind = type_of(context.sources, number, place, syntax, value if value is not None else each)
        pattern = syntax.traits.parameter_types
        plain = pattern is None or pattern.fullmatch(kind)
        told = plain and (syntax.traits.needs_types or knows_names(context.codebase, place.file, kind))
        found.append(Passed(kind if told else "", called, by_name is not None))
    return found


def _result(context: PlanContext, number: int, place: Place, name: str, made: bool, node: object) -> str | None:
    syntax = context.sources.syntax(place.file)
    if not syntax.traits.needs_types:
        return ""
    catalogue = context.symbols.catalogues.of(syntax.language)
    if made:  # only where another object could come in its place
        return name if f"{_library(context, place)}.new" in catalogue.results else None
    found = result_of(context.sources, number, place, syntax, node)
    if (known := catalogue.results.get(f"{_library(context, place)}.{simple_name(name)}")) and found != "void":
        return _QUALIFIER.sub("", known)
    return found if found == "void" or (found and is_value_type(found)) else None


def _library(context: PlanContext, place: Place) -> str:
    """The qualified name of the type outside the tree whose member is called, or that is made."""
    return context.codebase.target_name(context.codebase.bonds.target[place.row])


def _of_module_language(context: PlanContext, number: int, place: Place, head: str, method: str, made: bool) -> OutsideCall:
    """A call whose types can be named by what is called."""
    name = _CREATES.sub("", head)
    parameters = f"...passed: {'ConstructorParameters' if made else 'Parameters'}<typeof {name}>"
    signature = Signature(method, parameters, name if made else f"ReturnType<typeof {name}>")
    local = context.symbols.local_in(number, place.file)
    needs = needs_of_text(context.codebase, place.file, local, name)
    syntax = context.sources.syntax(place.file)
    brackets = syntax.arguments(syntax.at(*place.span))
    assert brackets is not None
    return OutsideCall(
        place.span,
        brackets[0].start_byte - place.span[0],
        AdapterMember(signature, f"{head}(...passed)"),
        needs,
        needs,
        _library(context, place),
    )


def _by_reference(context: PlanContext, language: str, name: str) -> bool:
    return name.lstrip("\\") in context.symbols.catalogues.of(language).by_reference.split()


def _parameter_name(text: str, index: int, effect: str) -> str:
    """What a parameter is called after what is passed for it, be it what a call gives; else by what such calls take first."""
    found = _VARIABLE.fullmatch(text) or _ASKED.search(text)
    name = found[1] if found else ""
    if name.isupper() and len(name) > 1:
        return "option"
    if name in ("", "this", "self", "null", "None", "true", "false", "True", "False"):
        return TAKEN_FIRST.get(effect, "value") if index == 0 else "value"
    return name[:1].lower() + name[1:] if _VARIABLE.fullmatch(text) is None else name


class _Shared(NamedTuple):
    """Calls that one member serves: their form, the member, and the errors that all of them have somewhere to go with."""

    form: tuple[str, str]
    member: AdapterMember
    errors: tuple[str, ...]
    calls: tuple[OutsideCall, ...]


def _told_apart(calls: list[OutsideCall], language: Language) -> tuple[OutsideCall, ...]:
    """Calls with the members that they become: those that call the same with the same types share one, others of one name are
    overloads where the language has those, else they have names of their own."""
    shared: list[_Shared] = []
    for each in calls:
        form, errors = _form(each, language), tuple(split_top(each.passing.signature.throws.partition("throws")[2]))
        for at, known in enumerate(shared):
            joint = joint_errors(known.errors, errors)
            if known.form == form and joint is not None:
                member = each.passing if known.member.signature.result == "void" else known.member
                shared[at] = _Shared(form, member, joint, (*known.calls, each))
                break
        else:
            shared.append(_Shared(form, each.passing, errors, (each,)))
    taken: Counter[object] = Counter()
    become: dict[int, AdapterMember] = {}
    for form, member, errors, own in shared:
        name = member.signature.name
        mixed = (name, form[1]) if language.overloads else name  # what no two members may have in common
        taken[mixed] += 1
        called = name if taken[mixed] == 1 else f"{name}{taken[mixed]}"
        throws = f" throws {', '.join(errors)}" if errors else ""
        written = member._replace(signature=member.signature._replace(name=called, throws=throws))
        become |= {id(each): written for each in own}
    return tuple(msgspec.structs.replace(each, passing=become[id(each)]) for each in calls)


def joint_errors(one: tuple[str, ...], other: tuple[str, ...]) -> tuple[str, ...] | None:
    """The errors that a member may declare which is called where some may be thrown, and where others may: the narrower ones,
    which go into what is caught at both places; None where neither are."""
    for narrow, wide in ((one, other), (other, one)):
        if _CATCH_ALL.intersection(wide) or set(narrow) <= set(wide):
            return narrow
    return None


def _form(call: OutsideCall, language: Language) -> tuple[str, str]:
    """What tells members apart: what is called, of which class or module, and the types of what is passed, or its number."""
    signature = call.passing.signature
    called = call.passing.call.partition("(")[0].split(".")
    head = f"{call.library}.{called[-1]}" if call.library else ".".join(called)
    if language.overloads:
        return head, ", ".join(each.rpartition(" ")[0] for each in split_top(signature.parameters))
    passed = split_top(call.passing.call.partition("(")[2].removesuffix(")"))
    return head, ", ".join(each if "=" in each else "" for each in passed)


def _named(context: PlanContext, number: int, effect: str, calls: tuple[OutsideCall, ...]) -> ExternalGateway:
    joint = "_" if "_" in context.name(number) else ""  # as the class is written
    own = f"{context.name(number)}{joint}{NOUNS[effect].lower() if joint else NOUNS[effect]}"
    real = f"real_{own}" if joint else f"Real{own}"
    beside = _usual_gateway(context, number)
    home = home_of(context.codebase, number)
    habit = context.sources.habit(number)
    habit = habit if habit.kind in ("prefix", "suffix") else msgspec.structs.replace(habit, kind="plain")
    name = interface_name(context.codebase, number, habit, home, planned_names(context), own)
    adapter = free_type_name(context, number, real)
    path = path_beside(context.sources, number, name)
    adapter_path = path_beside(context.sources, beside, adapter)
    adapter_home = module_home(context.sources, beside, home_of(context.codebase, beside), adapter_path)
    abstraction = Abstraction(name, module_home(context.sources, number, home, path), NEW, number, (), 1, path)
    return ExternalGateway(number, abstraction, adapter, adapter_path, adapter_home, effect, calls)


def _usual_gateway(context: PlanContext, number: int) -> int:
    """A class of the folder in which the gateways of the same part of the tree live; the class itself where there is none."""
    roles = context.codebase.roles
    found: dict[str, list[int]] = {}
    for each in range(len(context.symbols)):
        fits = roles.name(each) in ("gateway", "repository") and context.symbols.types[each].kind == "class"
        if (
            fits
            and context.sources.language(each).name == context.sources.language(number).name
            and unit_of(context.sources, each) == unit_of(context.sources, number)
        ):
            folder = context.sources.path(each).rpartition("/")[0]
            found.setdefault(folder, []).append(each)
    best = max(sorted(found), key=lambda folder: len(found[folder]), default="")
    most = len(found[best]) if best else 0
    return found[best][0] if most >= LEAST_GATEWAYS and 2 * most >= sum(map(len, found.values())) else number
