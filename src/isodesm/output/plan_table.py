"""`plan` for people: an overview that fits a screen, then the steps one by one."""

from __future__ import annotations

from itertools import groupby

from rich.console import Console
from rich.padding import Padding
from rich.table import Table
from rich.text import Text

from isodesm.codebase.model import Codebase
from isodesm.codebase.symbols import simple_name
from isodesm.output.terminal import QUIET, STRONG, header
from isodesm.output.text import counted, cut_front, number_of, printable
from isodesm.planning.steps import Code, LeftOver, Plan, Step

CODE_SHOWN = 30
"""Lines of a piece of code that the terminal shows."""


def print_plan(console: Console, codebase: Codebase, plan: Plan, root: str, *, detailed: int) -> None:
    """Print the overview and the first `detailed` steps in full."""
    header(console, codebase, root)
    if not plan.steps:
        console.print(Text("\nNothing here that constructor injection would loosen.", "green"))
    else:
        _print_overview(console, plan)
        for step in plan.steps[:detailed]:
            _print_step(console, step)
    _print_left(console, plan.left)


def _print_overview(console: Console, plan: Plan) -> None:
    table = Table(box=None, pad_edge=False, padding=(0, 2, 0, 0), header_style=QUIET)
    table.add_column("", justify="right", no_wrap=True)
    table.add_column("step", header_style=STRONG, overflow="fold")
    if console.width >= 110:
        table.add_column("technique", no_wrap=True)
    table.add_column("places", justify="right", no_wrap=True)
    table.add_column("strain", justify="right", no_wrap=True)
    table.add_column("hard bonds", justify="right", no_wrap=True)
    for step in plan.steps:
        cells = [Text(str(step.number), QUIET), Text(step.title)]
        if console.width >= 110:
            cells.append(Text(step.technique, QUIET))
        cells += [Text(str(len(step.edits))), _change(step.before.strain, step.after.strain)]
        table.add_row(*cells, _change(step.before.hard_bonds, step.after.hard_bonds))
    console.print(Text(
        f"\n{counted(len(plan.steps), 'step')}: strain {number_of(plan.strain[0])} → {number_of(plan.strain[1])}, "
        f"hard bonds {plan.hard_bonds[0]} → {plan.hard_bonds[1]}\n", STRONG,
    ))  # fmt: skip
    console.print(table)
    if plan.not_shown:
        console.print(Text(f"… at least {counted(plan.not_shown, 'more step')} can follow; --steps N asks for more", QUIET))


def _change(before: float, after: float) -> Text:
    if before == after:
        return Text("=", QUIET)
    return Text(f"{number_of(after)} ({number_of(after - before)})")


def _print_step(console: Console, step: Step) -> None:
    console.print(Text.assemble("\n", (f"{step.number}. {step.title}", STRONG), (f"  {step.id}", QUIET)))
    console.print(Padding(Text(printable(step.why_now)), (0, 0, 0, 3), expand=False))
    for edit in step.edits:
        place = cut_front(f"{printable(edit.file)}:{edit.line}", max(console.width // 2, 30), "/")
        console.print(Padding(Text.assemble("• ", (place, QUIET), f"  {printable(edit.action)}"), (0, 0, 0, 3), expand=False))
    for code in step.code:
        _print_code(console, code)
    for hazard in step.hazards:
        console.print(Padding(Text(f"! {hazard}", "yellow"), (0, 0, 0, 3), expand=False))
    for gain in step.frees:
        console.print(Padding(Text(f"+ {gain}", "green"), (0, 0, 0, 3), expand=False))
    console.print(Padding(Text(_measures(step), QUIET), (0, 0, 0, 3), expand=False))
    console.print(Padding(Text(step.check, QUIET), (0, 0, 0, 3), expand=False))


def _measures(step: Step) -> str:
    before, after = step.before, step.after
    effects = " ".join(before.locked_effects) or "none"
    left = " ".join(after.locked_effects) or "none"
    name = simple_name(step.classes[0])
    return (
        f"{name}: strain {number_of(before.class_strain)} → {number_of(after.class_strain)}, "
        f"hard bonds {before.class_hard_bonds} → {after.class_hard_bonds}, locked effects {effects}"
        + ("" if effects == left else f" → {left}")
    )


def _print_code(console: Console, code: Code) -> None:
    for title, body, style in (("before", code.before, "red"), ("after", code.after, "green")):
        if body.strip():
            console.print(Padding(Text(title, style), (0, 0, 0, 3), expand=False))
            lines = [printable(line) for line in body.rstrip().split("\n")]
            if len(lines) > CODE_SHOWN:
                lines[CODE_SHOWN:] = [f"… {len(lines) - CODE_SHOWN} more lines; --format json has all"]
            console.print(Padding(Text("\n".join(lines)), (0, 0, 0, 5), expand=False))


def _print_left(console: Console, left: tuple[LeftOver, ...]) -> None:
    if not left:
        return
    total = sum(each.count for each in left)
    console.print(Text(f"\nNot in this plan: {counted(total, 'hard bond')}", STRONG))
    for reason, group in groupby(sorted(left, key=lambda each: (each.reason, each.file, each.line)), key=lambda each: each.reason):
        found = list(group)
        console.print(Padding(Text.assemble(f"{sum(each.count for each in found)} ", (reason, QUIET)), (0, 0, 0, 2), expand=False))
        for each in found[:6]:
            source, target = simple_name(each.source), simple_name(each.target)
            console.print(Padding(Text(f"{source} ⇒ {target}  {printable(each.file.rpartition('/')[2])}:{each.line}", QUIET), (0, 0, 0, 4), expand=False))
        if len(found) > 6:
            console.print(Padding(Text(f"… and {len(found) - 6} more", QUIET), (0, 0, 0, 4), expand=False))
