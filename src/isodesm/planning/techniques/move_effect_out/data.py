"""move-data-out, a kind of move-effect-out: a table of data that a boundary class keeps goes into a class of its own.

The field stays, and with it all that reads it; it begins with what is handed in. So a test can hand in three rows.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import msgspec

from isodesm.diagnosis.form.two_jobs import literal_tables
from isodesm.diagnosis.shared.findings import Finding
from isodesm.facts import typetext
from isodesm.facts.records import Member, Site
from isodesm.facts.records import Place as Span
from isodesm.planning.analysis.decisions import Decision, Place
from isodesm.planning.analysis.homes import module_home
from isodesm.planning.analysis.names_in_code import home_of, needs_of_text
from isodesm.planning.language import Need, Table, Typed
from isodesm.planning.model.dependency import Supply
from isodesm.planning.model.step import Step, step_id
from isodesm.planning.planner.projection import Projection
from isodesm.planning.state.context import Workshop
from isodesm.planning.state.injection import Wanted
from isodesm.planning.state.recorder import Recorder
from isodesm.planning.techniques.extract_interface.interface import imports_of
from isodesm.planning.techniques.give_instance.static_gateway import free_type_name
from isodesm.planning.techniques.new_files import plan_new_files
from isodesm.planning.techniques.proposal import SELF_WORDS, Proposal, free_names

NAME = "move-effect-out"
KIND = "oversized-boundary"
_OWN = frozenset(("static", "parent", *SELF_WORDS))


class Holder(msgspec.Struct, frozen=True):
    """A class that keeps the data of another (`number`): its name, where it lives, and what it keeps, as code."""

    number: int
    name: str
    path: str
    home: str
    member: Member
    value: str
    needs: tuple[Need, ...]

    @property
    def effect(self) -> str:
        """What tells it apart from others of its class."""
        return f"data of {self.member.name}"


def table_decisions(shop: Workshop, finding: Finding) -> Iterator[Decision]:
    """The fields of a boundary class that begin with tables of data."""
    number = finding.source_number
    file = shop.symbols.file_of[number]
    for index, _ in literal_tables(shop.codebase, number):
        member = shop.symbols.types[number].members[index]
        node = _value_of(shop, file, member)
        if node is not None and not member.is_static and shop.symbols.part_of_member(number, member) == number:
            row, column = node.start_point
            local = number - shop.symbols.first[file]
            site = Site("literal", member.name, Span(node.start_byte, node.end_byte, row + 1, column + 1), local, index)
            place = Place(site=site, file=file, member=member, row=finding.row, finding=finding, field=member.name)
            yield Decision(number, -1, KIND, member.name, (place,))


def _value_of(shop: Workshop, file: int, member: Member) -> Any:
    """What a field begins with; None where it can't be found again."""
    syntax = shop.draft.syntax(file)
    waiting, first = [syntax.at(*member.whole)], member.value[:40]
    while waiting and member.whole != (0, 0):
        node = waiting.pop(0)
        if typetext.squeeze(syntax.of(node)).startswith(first) and syntax.declarator(node) is not None:
            return node
        waiting += node.named_children
    return None


def propose(shop: Workshop, decision: Decision) -> Proposal | str:
    """The data of a field, handed in by a class that keeps it."""
    number, place = decision.source, decision.places[0]
    writer, file = shop.draft.writer(number), place.file
    member = place.member
    assert member is not None
    value = shop.codebase.text(file)[place.span[0] : place.span[1]].decode("utf-8", "replace")
    typed = member.type or ("array" if writer.language == "php" else "")
    if writer.table is None or not typed or not member.name.isidentifier():
        return "keeps data whose type is not written: move it by hand"
    if reason := _bound(shop, number, value):
        return reason
    local = number - shop.symbols.first[file]
    needs = needs_of_text(shop.codebase, file, local, typed)
    own = shop.name(number).removesuffix("Component").removesuffix("Controller")
    name = free_type_name(shop, number, f"{own}{member.name[:1].upper()}{member.name[1:]}")
    path = f"{shop.path(number).rpartition('/')[0]}/{writer.file_name(name)}".lstrip("/")
    if (shop.codebase.root / path).exists():
        return f"`{path}` is there already: move the data by hand"
    home = module_home(shop, number, home_of(shop.codebase, number), path)
    kept = (*needs, *needs_of_text(shop.codebase, file, local, value))
    holder = Holder(number, name, path, home, member, value, tuple(dict.fromkeys(kept)))
    supply = Supply(writer.of_table.format(name=name, field=member.name), -1, needs=(Need(name, home),))
    wanted = Wanted(Typed(typed, needs), member.name, supply)
    return Proposal(NAME, decision, wanted, f"data, `{member.name}`", gateway=holder)


def _bound(shop: Workshop, number: int, value: str) -> str:
    """Why data can't stand elsewhere; '' where it can: it names what only its class or its module knows."""
    names = {each.lstrip("$") for each in free_names(value)}
    members = {
        each.name.lstrip("$") for one in shop.codebase.roles.ancestors(number) for each in shop.symbols.types[one].members
    }
    around = set() if not shop.symbols.dialect(number).has_module else _unexported(shop, number)
    known = sorted(names & (members | around | _OWN))
    return f"keeps data that is made with `{known[0]}`, which only it knows: move it by hand" if known else ""


def _unexported(shop: Workshop, number: int) -> set[str]:
    """What the module of a class declares, but for types: nothing shows that others may take it from there."""
    first = shop.symbols.first[shop.symbols.file_of[number]]
    facts = shop.symbols.files[shop.symbols.file_of[number]]
    modules = (each for each in range(first, first + len(facts.types)) if shop.symbols.is_module(each))
    return {member.name for each in modules for member in shop.symbols.types[each].members}


def holder_id(shop: Workshop, holder: Holder) -> str:
    """The id of the step that writes a holder."""
    return step_id(NAME, shop.symbols.names[holder.number], holder.name)


def plan_holder(shop: Workshop, recorder: Recorder, state: Projection, holder: Holder) -> Step:
    """The step that writes the class with the data. Nothing that is there changes."""
    name = shop.name(holder.number)
    return plan_new_files(
        shop,
        recorder,
        state,
        holder.number,
        lambda: _write(shop, holder),
        id=holder_id(shop, holder),
        technique=NAME,
        title=f"Give the data of {name} a class of its own: {holder.name}",
        why=f"`{name}` keeps a table of data in `{holder.member.name}`, which nobody else can use, and no test can do "
        f"without. `{holder.name}` has the same lines; it lives beside `{name}` until you know a better place.",
        named={holder.path: holder.name},
        hazards=("both have the data until the next step",),
    )


def _write(shop: Workshop, holder: Holder) -> None:
    number, writer = holder.number, shop.draft.writer(holder.number)
    model = shop.codebase.text(shop.symbols.file_of[number]).decode("utf-8", "replace")
    typed = holder.member.type or "array"
    home = home_of(shop.codebase, number)
    imports = imports_of(shop, number, home, holder.path, set(holder.needs))
    assert writer.table is not None
    table = Table(holder.name, shop.name(number), home, typed, holder.member.name, holder.value, imports, model)
    shop.draft.new_file(holder.path, writer.table(table), shop.symbols.file_of[number])
    shop.around.add((number, holder.effect))
