"""move-rules-out, a kind of move-effect-out: what a boundary class works out with nothing of the request goes into a class of
its own.

The lines stay as they are, and become a method that takes what they need and gives what they leave. They have no effects, so
the boundary class may make an object with them where it asks: nobody has to hand it in.
"""

from __future__ import annotations

import textwrap

from isodesm.diagnosis.form.boundary_rules import Bound, rules_of
from isodesm.diagnosis.shared.findings import Finding
from isodesm.diagnosis.shared.reporting import Report
from isodesm.planning.analysis.file_names import path_beside
from isodesm.planning.analysis.homes import module_home
from isodesm.planning.analysis.names_in_code import home_of
from isodesm.planning.analysis.rule_blocks import Block, Blocks
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import Need, RuleMember, Rules
from isodesm.planning.model.step import PlannedStep, TechniqueName, step_id
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.recorder import record
from isodesm.planning.techniques.extract_interface.interface import imports_of
from isodesm.planning.techniques.give_instance.static_gateway import free_type_name
from isodesm.planning.techniques.new_files import said_by_names
from isodesm.planning.text.insertions import PLACES
from isodesm.planning.wording import steps as wording

NAME = TechniqueName.MOVE_EFFECT_OUT
RULES = "move-rules-out"
"""What ids of such steps begin with."""
BOUNDARY_ENDS = ("Controller", "Component", "Endpoint", "Servlet", "Action", "Command")
"""What goes from the name of a boundary class when its rules are named."""


def rules_id(context: PlanContext, finding: Finding) -> str:
    """The id of the step by which a boundary class gives its rules away."""
    return step_id(RULES, context.symbols.names[finding.source_number])


def plan_rules(context: PlanContext, finding: Finding) -> PlannedStep | None:
    """The step; None where no block of statements can stand elsewhere as it is."""
    number = finding.source_number
    language, file = context.sources.language(number), context.symbols.file_of[number]
    blocks = _blocks(context, number)
    if not blocks or language.rules is None or context.state.edits.get(file):
        return None
    name = free_type_name(context, number, f"{_own_name(context.name(number))}Rules")
    path = path_beside(context.sources, number, name)
    if context.codebase.has_file(path):
        return None
    members = _members(context, number, blocks)
    changes = record(context, [file], lambda: _move(context, number, name, path, list(zip(blocks, members, strict=True))))
    return PlannedStep(
        technique=NAME,
        id=rules_id(context, finding),
        about=number,
        classes=(number,),
        text=wording.rules_moved(context.name(number), name, [each.left for each in members]),
        edits=tuple(said_by_names(changes.edits, {path: name})),
        code=tuple(changes.code),
    )


def _own_name(name: str) -> str:
    end = next((each for each in BOUNDARY_ENDS if name.endswith(each) and name != each), "")
    return name.removesuffix(end)


def _blocks(context: PlanContext, number: int) -> list[Block]:
    """The blocks of all members that keep rules; none where a class stands in several parts."""
    report, found = Report(context.codebase), list[Block]()
    for each in rules_of(report, number) if number not in context.symbols.parts else ():
        member = context.symbols.types[number].members[each.member]
        bound = Bound(report, number, each.member, member, any_effect=True)
        found += Blocks(context.sources, bound, number, each.member).found()
    return found


def _members(context: PlanContext, number: int, blocks: list[Block]) -> list[RuleMember]:
    language, syntax = context.sources.language(number), context.sources.syntax(context.symbols.file_of[number])
    members: list[RuleMember] = []
    for block in blocks:
        wanted, taken = language.member_name(block.left), {each.name for each in members}
        names = (wanted if at == 1 else f"{wanted}{at}" for at in range(1, len(taken) + 2))
        code = syntax.indent_at(block.start) + syntax.text[block.start : block.end].decode("utf-8", "replace")
        lines = tuple(textwrap.dedent(code.replace("\r\n", "\n")).split("\n"))
        members.append(
            RuleMember(next(each for each in names if each not in taken), block.taken, block.result, lines, block.left)
        )
    return members


def _move(context: PlanContext, number: int, name: str, path: str, moved: list[tuple[Block, RuleMember]]) -> None:
    """Write the class, and ask it in the place of the blocks."""
    language, file = context.sources.language(number), context.symbols.file_of[number]
    model = context.codebase.text(file).decode("utf-8", "replace")
    home = home_of(context.codebase, number)
    needs = {need for block, _ in moved for need in block.needs}
    imports = imports_of(context, number, home, path, needs)
    assert language.rules is not None
    rules = Rules(name, context.name(number), home, tuple(member for _, member in moved), imports, model)
    context.add_file(path, language.rules(rules), file)
    own = Need(name, module_home(context.sources, number, home, path))
    for block, member in moved:
        given = ", ".join(language.argument(each) for _, each in block.taken)
        asked = language.of_table.format(name=name, field=f"{member.name}({given})")
        text = f"{block.head} = {asked}{language.statement_end}"
        said = f"`{name}` works out `{block.left}`"
        context.state = context.state.with_edits(file, Amendment(block.start, block.end, PLACES, text, said))
    context.state = context.state.with_names(file, own)
