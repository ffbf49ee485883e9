"""extract-interface in bulk: whole layers get interfaces, and those who are handed their classes ask for the interfaces.

Planned only where it is asked for (`--focus LAYER --technique extract-interface`): it loosens no hard bond.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator
from typing import Any

import msgspec

from isodesm.facts import typetext
from isodesm.facts.records import Member
from isodesm.inference.evidence import DATA
from isodesm.inference.injection import Injection
from isodesm.linking.symbols import simple_name
from isodesm.planning.analysis.member_use import RECEIVERS, received
from isodesm.planning.containers.registration_edits import RegistrationEdit, is_served, makes, new_registration_for
from isodesm.planning.model.abstraction import CONCRETE, NEW, Abstraction
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import Need
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.step import PlannedStep, step_id
from isodesm.planning.state.abstraction_choice import abstraction_for
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.recorder import record
from isodesm.planning.techniques.extract_interface.interface import NAME, plan_interface
from isodesm.planning.text.insertions import PLACES
from isodesm.planning.text.syntax import Syntax
from isodesm.planning.wording import steps as wording

ASK = "ask-by-interface"
"""What ids of steps begin with that let classes ask for an interface in the place of its class."""
UNASKED = DATA | {"exception", "controller", "test", "composition-root"}
"""Roles of classes that nobody needs to be able to replace."""


class Asking(msgspec.Struct, frozen=True):
    """A class that is handed another as such: what it asks of it, and what becomes of the types that it declares."""

    number: int
    asked: frozenset[str]
    amendments: tuple[Amendment, ...]


def handed_as_classes(context: PlanContext, focus: frozenset[int]) -> dict[int, list[Injection]]:
    """The services of the focus that constructors take as a class, with where they do."""
    found: dict[int, list[Injection]] = defaultdict(list)
    for number, declared in enumerate(context.symbols.types):
        if declared.kind == "class" and context.codebase.roles.name(number) != "test":
            for each in context.codebase.wiring.injections.of_constructor(number):
                if each.target in focus and _may_have_one(context, each.target):
                    found[each.target].append(each)
    return {target: found[target] for target in sorted(found, key=context.symbols.names.__getitem__)}


def _may_have_one(context: PlanContext, target: int) -> bool:
    declared = context.symbols.types[target]
    plain = declared.kind == "class" and not declared.is_abstract and not declared.generics and declared.outer < 0
    return plain and context.codebase.roles.name(target) not in UNASKED and context.sources.language(target).typed


def plan_asking(context: PlanContext, subject: tuple[int, list[Injection]]) -> Iterator[PlannedStep]:
    """The interface of a service where none fits, and the step that lets those ask for it into whom the class is injected."""
    target, handed = subject
    found = {each.owner: _asking(context, each, target) for each in handed}
    asking = [each for each in found.values() if each is not None]
    if not asking:
        return
    asked = frozenset(name for each in asking for name in each.asked)
    decision = Decision(asking[0].number, target, "hard-wired-creation", context.symbols.names[target], ())
    context.state = context.state.with_asked(decision, asked)
    abstraction = abstraction_for(context, decision)
    if abstraction.number == CONCRETE or abstraction.lacks or abstraction.number == target:
        return
    told = new_registration_for(context, abstraction, target) if len(asking) == len(found) else None
    if told is None:
        asking = [
            each for each in asking if not makes(context, each.number) or _serves(context, abstraction, target, each.number)
        ]
    if not asking:
        return
    needs: tuple[str, ...] = ()
    if abstraction.number == NEW and target not in context.state.interfaces:
        step = plan_interface(context, target, asking[0].number, abstraction)
        needs = (step.id,)
        yield step
    kept = sorted(context.name(each) for each in found if each not in {one.number for one in asking})
    yield _step(context, TypeReplacement(target, abstraction, asking, told), kept, needs)


class TypeReplacement(msgspec.Struct, frozen=True):
    """Who asks for an abstraction in the place of a class from here on, and how the container is told."""

    target: int
    abstraction: Abstraction
    asking: list[Asking]
    told: RegistrationEdit | None


def _serves(context: PlanContext, abstraction: Abstraction, target: int, source: int) -> bool:
    """Whether the container that makes a consumer hands in the class where its interface is asked for."""
    return not context.sources.language(target).containers_go_by_classes and is_served(context, abstraction, target, source)


def _asking(context: PlanContext, injection: Injection, target: int) -> Asking | None:
    """What a class asks of another that its constructor takes; None where it needs the very class."""
    number, name = injection.owner, simple_name(context.symbols.names[target])
    kind = _declared_kind(context, injection)
    syntax = context.sources.syntax(context.symbols.file_of[number])
    if kind is None or not _is_plainly(syntax, kind, name):
        return None
    members = context.symbols.types[number].members
    fields = [m for m in members if m.kind == "field" and not m.is_static and simple_name(typetext.head(m.type)) == name]
    kinds = [kind, *(each for m in fields if (each := _type_of(syntax, m)) is not None)]
    if any(not m.is_private for m in fields) or not all(_is_plainly(syntax, each, name) for each in kinds):
        return None
    asked = _asked(context, number, injection.name.lstrip("$"), {m.name.lstrip("$") for m in fields})
    spans = {(each.start_byte, each.end_byte): syntax.of(each) for each in kinds}
    if not asked or len(re.findall(rf"(?<![\w.]){re.escape(name)}\b", _code(syntax, context, number))) != len(spans):
        return None  # it names the class elsewhere, too: in casts, locals, results
    said = f"asks for `{{}}` in the place of `{name}`"
    amendments = tuple(Amendment(*span, PLACES, text.replace(name, "{}"), said) for span, text in spans.items())
    return Asking(number, asked, amendments)


def _declared_kind(context: PlanContext, injection: Injection) -> Any:
    """The type of the parameter that a class is injected through, as its one constructor declares it; None where that can't
    be another."""
    number, sources = injection.owner, context.sources
    constructor = sources.constructor(number)
    fixed = sources.has_several_constructors(number) or len(context.symbols.parts.get(number, (number,))) > 1
    if constructor is None or fixed or injection.collection or injection.deferred or injection.default:
        return None
    syntax = sources.syntax(context.symbols.file_of[number])
    _, own = sources.parameters(number, constructor)
    node = next((each for each in own if _is_named(syntax.of(each), injection.name.lstrip("$"))), None)
    return syntax.declared_type(node) if node is not None else None


def _is_named(text: str, name: str) -> bool:
    return re.search(rf"(?<![\w.])\$?{re.escape(name)}\s*\??\s*(?:[:=].*)?$", text, re.DOTALL) is not None


def _is_plainly(syntax: Syntax, kind: Any, name: str) -> bool:
    """Whether a type is a class by its name, which may be missing."""
    return re.fullmatch(rf"\??\s*(?:[\w.\\]+[.\\])?{re.escape(name)}\s*\??", syntax.of(kind)) is not None


def _type_of(syntax: Syntax, field: Member) -> Any:
    """The node of the type that a field is declared with; None for one that only a constructor knows."""
    if field.whole == (0, 0):
        return None
    node = syntax.at(field.place.start, field.place.end)
    kind = syntax.declared_type(node) if node.type.endswith("declarator") else None
    return kind if kind is not None else syntax.at(*field.whole).child_by_field_name("type")


def _code(syntax: Syntax, context: PlanContext, number: int) -> str:
    """The text of a class without remarks."""
    node = syntax.type_node(context.symbols.types[number])
    text = syntax.of(node)
    return re.sub(r"/\*.*?\*/|//[^\n]*|(?m:^\s*#[^\n]*)", "", text, flags=re.DOTALL)


def _asked(context: PlanContext, number: int, parameter: str, fields: set[str]) -> frozenset[str]:
    """The members that a class asks of a parameter and of the fields that keep it; none where it does anything else with
    them."""
    syntax = context.sources.syntax(context.symbols.file_of[number])
    bare = {parameter, *(fields if context.symbols.dialect(number).implicit_self else ())}
    found: set[str] = set()
    for node in _leaves(syntax.type_node(context.symbols.types[number])):
        name, parent = syntax.of(node).lstrip("$"), node.parent
        if name not in (bare | fields) or parent.type in _DECLARING and parent.child_by_field_name("name") == node:
            continue
        if parent.type.endswith("parameter") or parent.type == "parameters":
            continue
        if parent.type in RECEIVERS and parent.children[0] != node:
            if name not in fields or syntax.of(parent.children[0]) not in ("this", "self", "$this"):
                continue  # the member of another object
            node = parent
        elif name not in bare:
            continue
        if member := received(syntax, node):
            found.add(member)
        elif not _is_kept(syntax, node, {parameter, *fields}):
            return frozenset()
    return frozenset(found)


def _leaves(node: Any) -> Iterator[Any]:
    """The names below a node; a variable with its sign counts as one."""
    if node.type == "variable_name" or not node.named_children:
        if "identifier" in node.type or node.type in ("variable_name", "name"):
            yield node
        return
    for each in node.named_children:
        yield from _leaves(each)


_DECLARING = frozenset(("variable_declarator", "property_element", "public_field_definition", "field_definition"))


def _is_kept(syntax: Syntax, node: Any, names: set[str]) -> bool:
    """Whether an expression is put into a field of the same type, or is that field."""
    parent = node.parent
    if parent.type not in ("assignment", "assignment_expression"):
        return False
    sides = [parent.child_by_field_name(each) for each in ("left", "right")]
    return all(each is not None and re.split(r"\.|->", syntax.of(each))[-1].lstrip("$") in names for each in sides)


def _step(context: PlanContext, change: TypeReplacement, kept: list[str], needs: tuple[str, ...]) -> PlannedStep:
    target, abstraction, asking = change.target, change.abstraction, change.asking
    short = abstraction.name.rpartition(".")[2]
    files = {context.symbols.file_of[each.number] for each in asking} | (
        change.told.files if change.told is not None else set()
    )
    changes = record(context, files, lambda: _replace(context, change, short))
    names = sorted(context.name(each.number) for each in asking)
    return PlannedStep(
        technique=NAME,
        id=step_id(ASK, context.symbols.names[target]),
        about=target,
        classes=(target, *(each.number for each in asking)),
        text=wording.asks_by_interface(short, context.name(target), names, kept),
        edits=tuple(changes.edits),
        code=tuple(changes.code),
        added=tuple(f"{each} → {short}" for each in names),
        needs=needs,
    )


def _replace(context: PlanContext, change: TypeReplacement, short: str) -> None:
    """Let those who ask for a class declare its interface."""
    name, need = change.abstraction.name, Need(change.abstraction.name.partition(".")[0], change.abstraction.home)
    for each in change.asking:
        amendments = (a._replace(text=a.text.format(name), action=a.action.format(short)) for a in each.amendments)
        context.edit(context.symbols.file_of[each.number], *amendments, needs=(need,))
    if change.told is not None:
        change.told.write(context)
