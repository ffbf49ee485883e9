"""move-data-out, a kind of move-effect-out: a table of data that a boundary class keeps goes into a class of its own.

The field stays, and with it all that reads it; it begins with what is handed in. So a test can hand in three rows.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from isodesm.diagnosis.form.responsibilities import literal_tables
from isodesm.diagnosis.shared.findings import Finding
from isodesm.facts import typetext
from isodesm.facts.records import Member, Site
from isodesm.facts.records import Place as Span
from isodesm.planning.analysis.expressions import SELF_WORDS, free_names
from isodesm.planning.analysis.file_names import path_beside
from isodesm.planning.analysis.homes import module_home
from isodesm.planning.analysis.names_in_code import home_of, needs_of_text
from isodesm.planning.model.code import Need, Table, Typed
from isodesm.planning.model.decision import Decision, Place
from isodesm.planning.model.dependency import DefaultExpression
from isodesm.planning.model.gateways import DataHolder
from isodesm.planning.model.proposal import Proposal, WantedDependency
from isodesm.planning.model.refusal import Reason, Refusal
from isodesm.planning.model.step import PlannedStep, TechniqueName, step_id
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.extract_interface.interface import imports_of
from isodesm.planning.techniques.give_instance.static_gateway import free_type_name
from isodesm.planning.techniques.new_files import new_files
from isodesm.planning.wording import steps as wording
from isodesm.planning.wording.injection import data_of

NAME = TechniqueName.MOVE_EFFECT_OUT
KIND = "oversized-boundary"
_OWN = frozenset(("static", "parent", *SELF_WORDS))


def table_decisions(context: PlanContext, finding: Finding) -> Iterator[Decision]:
    """The fields of a boundary class that begin with tables of data."""
    number = finding.source_number
    file = context.symbols.file_of[number]
    for index, _ in literal_tables(context.codebase, number):
        member = context.symbols.types[number].members[index]
        node = _value_of(context, file, member)
        if node is not None and not member.is_static and context.symbols.part_of_member(number, member) == number:
            row, column = node.start_point
            local = number - context.symbols.first[file]
            site = Site("literal", member.name, Span(node.start_byte, node.end_byte, row + 1, column + 1), local, index)
            place = Place(site=site, file=file, member=member, row=finding.row, finding=finding, field=member.name)
            yield Decision(number, -1, KIND, member.name, (place,))


def _value_of(context: PlanContext, file: int, member: Member) -> Any:
    """What a field begins with; None where it can't be found again."""
    syntax = context.sources.syntax(file)
    waiting, first = [syntax.at(*member.whole)], member.value[:40]
    while waiting and member.whole != (0, 0):
        node = waiting.pop(0)
        if typetext.squeeze(syntax.of(node)).startswith(first) and syntax.declarator(node) is not None:
            return node
        waiting += node.named_children
    return None


def propose(context: PlanContext, decision: Decision) -> Proposal | Refusal | None:
    """The data of a field, handed in by a class that keeps it."""
    number, place = decision.source, decision.places[0]
    language, file = context.sources.language(number), place.file
    member = place.member
    assert member is not None
    value = context.codebase.text(file)[place.span[0] : place.span[1]].decode("utf-8", "replace")
    typed = member.type or language.untyped_data
    if language.table is None or not typed or not member.name.isidentifier():
        return Refusal(Reason.UNTYPED_DATA)
    if reason := _bound(context, number, value):
        return reason
    local = number - context.symbols.first[file]
    needs = needs_of_text(context.codebase, file, local, typed)
    own = context.name(number).removesuffix("Component").removesuffix("Controller")
    name = free_type_name(context, number, f"{own}{member.name[:1].upper()}{member.name[1:]}")
    path = path_beside(context.sources, number, name)
    if context.codebase.has_file(path):
        return Refusal(Reason.DATA_FILE_EXISTS, path=path)
    home = module_home(context.sources, number, home_of(context.codebase, number), path)
    kept = (*needs, *needs_of_text(context.codebase, file, local, value))
    holder = DataHolder(number, name, path, home, member, value, tuple(dict.fromkeys(kept)))
    default = DefaultExpression(language.of_table.format(name=name, field=member.name), -1, needs=(Need(name, home),))
    wanted = WantedDependency(Typed(typed, needs), member.name, default)
    return Proposal(NAME, decision, wanted, data_of(member.name), gateway=holder)


def _bound(context: PlanContext, number: int, value: str) -> Refusal | None:
    """Why data can't stand elsewhere; None where it can: it names what only its class or its module knows."""
    names = {each.lstrip("$") for each in free_names(value)}
    members = {
        each.name.lstrip("$") for one in context.codebase.roles.ancestors(number) for each in context.symbols.types[one].members
    }
    around = set() if not context.symbols.dialect(number).has_module else _unexported(context, number)
    known = sorted(names & (members | around | _OWN))
    return Refusal(Reason.DATA_BOUND_TO_CLASS, name=known[0]) if known else None


def _unexported(context: PlanContext, number: int) -> set[str]:
    """What the module of a class declares, but for types: nothing shows that others may take it from there."""
    first = context.symbols.first[context.symbols.file_of[number]]
    facts = context.symbols.files[context.symbols.file_of[number]]
    modules = (each for each in range(first, first + len(facts.types)) if context.symbols.is_module(each))
    return {member.name for each in modules for member in context.symbols.types[each].members}


def holder_id(context: PlanContext, holder: DataHolder) -> str:
    """The id of the step that writes a holder."""
    return step_id(NAME, context.symbols.names[holder.number], holder.name)


def plan_holder(context: PlanContext, holder: DataHolder) -> PlannedStep:
    """The step that writes the class with the data. Nothing that is there changes."""
    text = wording.data_moved(context.name(holder.number), holder.name, holder.member.name)
    id, named = holder_id(context, holder), {holder.path: holder.name}
    return new_files(context, holder.number, id, NAME, text, named, lambda: _write(context, holder))


def _write(context: PlanContext, holder: DataHolder) -> None:
    number, language = holder.number, context.sources.language(holder.number)
    model = context.codebase.text(context.symbols.file_of[number]).decode("utf-8", "replace")
    typed = holder.member.type or language.untyped_data
    home = home_of(context.codebase, number)
    imports = imports_of(context, number, home, holder.path, set(holder.needs))
    assert language.table is not None
    table = Table(holder.name, context.name(number), home, typed, holder.member.name, holder.value, imports, model)
    context.add_file(holder.path, language.table(table), context.symbols.file_of[number])
    context.state = context.state.with_beside(number, holder.effect)
