"""inject-through-constructor, for what arrives late: what setters or marked fields are given after construction, the
constructor takes.

A setter goes with the step, and the field can't be given another value any more, where all who make the class call it right
away. Where a host or container fills in fields, it calls the constructor in their place.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from typing import Any

import msgspec

from isodesm.codebase.hosts import fills_itself, host_base
from isodesm.diagnosis.shared.findings import Finding
from isodesm.facts.records import Member
from isodesm.linking.symbols import simple_name
from isodesm.planning.analysis.creators import Creator
from isodesm.planning.analysis.decisions import spot_of
from isodesm.planning.analysis.names_in_code import needs_of_text
from isodesm.planning.analysis.preconditions import of_class
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import Typed
from isodesm.planning.model.dependency import DefaultExpression, Dependency, Forwarding
from isodesm.planning.model.step import PlannedStep, TechniqueName, step_id
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.recorder import record
from isodesm.planning.text.insertions import PLACES
from isodesm.planning.text.syntax import Syntax
from isodesm.planning.wording import steps as wording

NAME = TechniqueName.INJECT_THROUGH_CONSTRUCTOR
EARLY = "take-early"
"""What ids of such steps begin with."""
LATE = "late-dependency"


class LateDependency(msgspec.Struct, frozen=True):
    """One thing that arrives late: its field, and the setter that fills it (None: a container does)."""

    field: Member
    setter: Member | None


class SetterCalls(msgspec.Struct, frozen=True):
    """A creation with the setters that are called on what it makes, in the same block: names of fields to what is passed, and
    the statements that go."""

    maker: Creator
    given: dict[str, str]
    gone: tuple[Amendment, ...]


def late_findings(findings: Iterable[Finding], focus: frozenset[int]) -> Iterator[Finding]:
    """The findings on single classes that get something late."""
    for each in findings:
        if each.kind == LATE and len(each.why) == 1 and (not focus or each.source_number in focus):
            yield each


def early_id(context: PlanContext, finding: Finding) -> str:
    """The id of the step by which a class takes at construction what it gets late now."""
    return step_id(EARLY, context.symbols.names[finding.source_number])


def plan_early(context: PlanContext, finding: Finding) -> PlannedStep | None:
    """The step by which the constructor takes what arrives late; None where somebody creates the class without it."""
    number, sources = finding.source_number, context.sources
    late = _late(context, finding)
    fixed = context.state.dependencies_of(number) or sources.subclasses(number) or sources.has_several_constructors(number)
    if not late or fixed or of_class(sources, number) or sources.inherited(number) is not None:
        return None
    sets = [_set_at(context, number, each, late) for each in sources.creators.get(number, ())]
    found = [each for each in sets if each is not None]
    by_container = all(each.setter is None for each in late)
    if not (_may_be_injected(context, number, sets) if by_container else _all_set(context, number, late, sets)):
        return None
    files = {context.symbols.file_of[number], *(each.maker.file for each in found)}
    changes = record(context, files, lambda: _take(context, number, late, found))
    what = [each.field.name.lstrip("$") for each in late]
    said = f"{finding.message} {finding.reason}"
    return PlannedStep(
        technique=NAME,
        id=early_id(context, finding),
        about=number,
        follows=number,
        classes=(number,),
        text=wording.taken_at_construction(context.name(number), what, said, by_container=by_container),
        edits=tuple(changes.edits),
        code=tuple(changes.code),
    )


def _may_be_injected(context: PlanContext, number: int, sets: list[SetterCalls | None]) -> bool:
    """Whether a container that fills in fields can call a constructor in their place, since it is the one that makes it."""
    if host_base(context.codebase, number) or fills_itself(context.codebase, number):
        return False
    return not sets and context.sources.language(number).containers_fill_fields and context.sources.constructor(number) is None


def _all_set(context: PlanContext, number: int, late: list[LateDependency], sets: list[SetterCalls | None]) -> bool:
    """Whether all who create a class call its setters right away, and nobody does so at another moment."""
    return bool(sets) and all(each is not None for each in sets) and not _set_elsewhere(context, number, late, len(sets))


def _late(context: PlanContext, finding: Finding) -> list[LateDependency]:
    members = context.symbols.types[finding.source_number].members
    lines = {finding.line, *(each.line for each in finding.related)}
    fields = {_bare(each.name): each for each in members if each.kind == "field" and not each.is_static}
    found = []
    for each in members:
        if each.place.line not in lines:
            continue
        if each.kind == "method":
            field = fields.get(_bare(each.name[3:] if each.name[:3].lower() == "set" else each.name[6:]))
            found += [LateDependency(field, each)] if field is not None and field.whole != (0, 0) else []
        elif each.kind == "field" and each.modifiers.annotations and each.whole != (0, 0):
            found.append(LateDependency(each, None))
    return found


def _bare(name: str) -> str:
    return name.lstrip("_$#").removeprefix("m_").lower()


# --- setters -------------------------------------------------------------------------------


def _set_at(context: PlanContext, number: int, maker: Creator, late: list[LateDependency]) -> SetterCalls | None:
    """What is set on an object right behind its creation; None where something is missing there."""
    spot = spot_of(context.codebase, maker.row)
    if spot is None or any(each.setter is None for each in late):
        return None
    syntax = context.sources.syntax(spot.file)
    node = syntax.at(*spot.span)
    declared = _statement(node)
    if declared is None or syntax.arguments(node) is None:
        return None
    head = syntax.text[declared.start_byte : node.start_byte].decode("utf-8", "replace")
    variable = re.match(r"(?:[\w<>\[\],. ]*?[\w>\]]\s+)?\$?(\w+)\s*=\s*$", head)
    if variable is None:
        return None
    given: dict[str, str] = {}
    gone: list[Amendment] = []
    following = declared.next_named_sibling
    wanted = {each.setter.name: each.field.name for each in late if each.setter is not None}
    while following is not None:
        text = syntax.of(following)
        call = re.fullmatch(rf"\$?{variable[1]}\s*(?:\.|->)\s*(\w+)\((.*)\)\s*;?", text, re.DOTALL)
        if call is None or call[1] not in wanted or wanted[call[1]] in given or re.search(rf"\b{variable[1]}\b", call[2]):
            break
        given[wanted[call[1]]] = call[2].strip()
        gone.append(Amendment(*_whole_lines(syntax, following), PLACES, "", f"`{call[1]}` is called no more"))
        following = following.next_named_sibling
    return SetterCalls(maker, given, tuple(gone)) if len(given) == len(late) else None


_STATEMENTS = ("statement", "local_variable_declaration", "lexical_declaration", "assignment")
"""What the names of nodes end in that are statements."""


def _statement(node: Any) -> Any:
    while node is not None and not node.type.endswith(_STATEMENTS):
        node = node.parent
    return node.parent if node is not None and node.type == "assignment" else node


def _whole_lines(syntax: Syntax, node: Any) -> tuple[int, int]:
    start = syntax.text.rfind(b"\n", 0, node.start_byte) + 1
    end = syntax.text.find(b"\n", node.end_byte) + 1 or len(syntax.text)
    alone = not syntax.text[start : node.start_byte].strip() and not syntax.text[node.end_byte : end].strip()
    return (start, end) if alone else (node.start_byte, node.end_byte)


def _set_elsewhere(context: PlanContext, number: int, late: list[LateDependency], sites: int) -> bool:
    """Whether somebody sets what arrives late at another moment, or the class itself does."""
    table, setters = context.codebase.bonds, {each.setter.name for each in late if each.setter is not None}
    line = set(context.codebase.roles.ancestors(number))
    calls = [row for row in table.rows_of_kind("call") if table.target[row] in line and table.text_of("callee", row) in setters]
    text = context.codebase.text(context.symbols.file_of[number])
    body = context.symbols.types[number].body
    names = [re.escape(each.field.name.lstrip("$#").encode()) for each in late]
    written = sum(len(re.findall(rb"(?<!\w)" + name + rb"\s*=(?!=)", text[slice(*body)])) for name in names)
    return len(calls) != sites * len(late) or written != len(late)


# --- the change ----------------------------------------------------------------------------


def _take(context: PlanContext, number: int, late: list[LateDependency], sets: list[SetterCalls]) -> None:
    file = context.symbols.file_of[number]
    syntax, local = context.sources.syntax(file), number - context.symbols.first[file]
    for each in late:
        needs = needs_of_text(context.codebase, file, local, each.field.type)
        given = Dependency(
            owner=number,
            name=each.field.name.lstrip("$#"),
            typed=Typed(each.field.type, needs),
            default=DefaultExpression("", -1),
            places=tuple(_changed(syntax, each)),
            kept=True,
            declared=True,
            assigned=False,
        )
        context.state = context.state.with_dependency(given)
        if each.setter is None:
            annotation = simple_name(each.field.modifiers.annotations[0].name)
            context.state = context.state.with_new_annotation(number, annotation)
    for called in sets:
        written = {name.lstrip("$#"): text for name, text in called.given.items()}
        maker = called.maker
        forwarding = Forwarding(maker.source, maker.row, maker.file, maker.site, written=written)
        context.state = context.state.with_forwarding(number, forwarding).with_edits(maker.file, *called.gone)


def _changed(syntax: Syntax, late: LateDependency) -> Iterator[Amendment]:
    """What becomes of the field, and of its setter."""
    start = late.field.whole[0]
    node = syntax.at(late.field.place.start, late.field.place.end)
    kind = syntax.declared_type(node) if node.type.endswith("declarator") else None
    kind = kind if kind is not None else syntax.at(start, late.field.whole[1]).child_by_field_name("type")
    words = [each for each in late.field.modifiers.words if each in ("public", "protected", "private", "internal")]
    if kind is not None and (final := syntax.traits.final_word) and not syntax.traits.types_behind_names:
        head = " ".join([*words, final.strip()]) + " "
        yield Amendment(start, kind.start_byte, PLACES, head, f"`{late.field.name.lstrip('$')}` is given its value once")
    if late.setter is not None:
        first, last = late.setter.whole
        first = _behind_docs(syntax, first)
        start = syntax.text.rfind(b"\n", 0, first) + 1
        end = syntax.text.find(b"\n", last) + 1 or len(syntax.text)
        if syntax.text[end:].partition(b"\n")[0].strip() == b"" and syntax.text[:start].rstrip(b" \t").endswith(b"\n\n"):
            end += len(syntax.text[end:].partition(b"\n")[0]) + 1
        elif syntax.text[:start].endswith(b"\n\n"):
            start -= 1
        yield Amendment(start, end, PLACES, "", f"`{late.setter.name}` goes")


def _behind_docs(syntax: Syntax, at: int) -> int:
    """Where a member begins with the remark in front of it."""
    node = syntax.root.descendant_for_byte_range(at, at)
    while node is not None and node.parent is not None and node.parent.start_byte == node.start_byte:
        node = node.parent
    before = node.prev_sibling if node is not None else None
    return before.start_byte if before is not None and "comment" in before.type else at
