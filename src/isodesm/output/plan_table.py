"""`plan` for people: an overview that fits a screen, then the steps one by one."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby

from rich.console import Console
from rich.padding import Padding
from rich.table import Table
from rich.text import Text

from isodesm.codebase.overview import Overview
from isodesm.linking.symbols import simple_name
from isodesm.output.changes import ADDED, REMOVED, balance_of, changed_lines
from isodesm.output.plan_text import said_of_waiting
from isodesm.output.stages_table import print_goal, print_stages
from isodesm.output.terminal import QUIET, STRONG, header
from isodesm.output.text import counted, cut_front, number_of, printable
from isodesm.planning.model.stage import Stage
from isodesm.planning.model.step import Code, Done, Kept, LeftOver, Plan, Step

CODE_SHOWN = 40
"""Lines of a piece of code that the terminal shows."""
ABOUT = "≈"
"""In front of figures that are estimated."""
DONE_SHOWN = 6
LEFT_SHOWN, REASONS_SHOWN = 6, 6
WIDE = 110
"""Columns from which the overview names techniques."""
STYLES = {ADDED: "green", REMOVED: "red", " ": QUIET}


def print_plan(console: Console, overview: Overview, plan: Plan, root: str, shown: Sequence[Step]) -> None:
    """Print the overview, and some steps in full; what is left in full where all steps are."""
    header(console, overview, root)
    for question in plan.choices:
        console.print(Text.assemble("\n", ("? ", "bold yellow"), printable(question)))
    for goal in plan.goals:
        print_goal(console, goal, [each for each in plan.left if len(plan.goals) == 1 or each.source == goal.name])
    if plan.steps:
        _print_overview(console, plan, () if len(shown) == len(plan.steps) else plan.stages)
    elif not plan.goals:
        console.print(Text("\nNothing here that constructor injection would loosen.", "green"))
    _print_done(console, plan.done)
    for step in shown:
        _print_step(console, step)
    if shown and len(shown) < len(plan.steps):
        console.print(Text("\n--show N or --show ID shows another step, --full all; `isodesm step` carries them out", QUIET))
    whole = len(shown) == len(plan.steps)
    _print_left(console, plan.left, LEFT_SHOWN if whole else 0)
    _print_kept(console, plan.kept, LEFT_SHOWN if whole else 0)


def _print_overview(console: Console, plan: Plan, stages: Sequence[Stage]) -> None:
    """The totals, the stages where there are some, and the steps: of several stages those of the first."""
    first = stages[0].last if len(stages) > 1 else len(plan.steps)
    within = f" in {counted(len(plan.stages), 'stage')}" if plan.stages else ""
    table = Table(box=None, pad_edge=False, padding=(0, 2, 0, 0), header_style=QUIET)
    table.add_column("", justify="right", no_wrap=True)
    table.add_column("step", header_style=STRONG, overflow="fold")
    if console.width >= WIDE:
        table.add_column("technique", no_wrap=True)
    table.add_column("places", justify="right", no_wrap=True)
    table.add_column("strain", justify="right", no_wrap=True)
    table.add_column("hard bonds", justify="right", no_wrap=True)
    for step in plan.steps[:first]:
        cells = [Text(str(step.number), QUIET), Text(step.title)]
        if console.width >= WIDE:
            cells.append(Text(step.technique, QUIET))
        about = ABOUT if step.estimated else ""
        cells += [Text(str(len(step.edits))), _change(step.before.strain, step.after.strain, about)]
        table.add_row(*cells, _change(step.before.hard_bonds, step.after.hard_bonds, about))
    console.print(
        Text(
            f"\n{counted(len(plan.steps), 'step')}{within}: strain {number_of(plan.strain[0])} → {number_of(plan.strain[1])}, "
            f"hard bonds {plan.hard_bonds[0]} → {plan.hard_bonds[1]}",
            STRONG,
        )
    )
    if plan.waiting.classes:
        console.print(Text(f"{said_of_waiting(plan)}.", QUIET))
    if stages:
        print_stages(console, stages)
    console.print()
    console.print(table)
    if first < len(plan.steps):
        console.print(Text("… these are those of stage 1; --full shows all, `isodesm step --stage` carries these out", QUIET))
    if plan.not_shown:
        console.print(Text(f"… at least {counted(plan.not_shown, 'more step')} can follow; --steps N asks for more", QUIET))
    if any(step.estimated for step in plan.steps):
        console.print(
            Text(f"{ABOUT} is estimated: a scan after these steps can find more or less; the end is what a scan finds", QUIET)
        )


def _change(before: float, after: float, about: str = "") -> Text:
    if before == after:
        return Text(f"{about}=", QUIET)
    return Text(f"{about}{number_of(after)} ({number_of(after - before)})")


def _print_done(console: Console, done: tuple[Done, ...]) -> None:
    if done:
        console.print(Text(f"\nDone already: {counted(len(done), 'step')}", STRONG))
        for each in done[:DONE_SHOWN]:
            console.print(
                Padding(
                    Text.assemble(("✓ ", "green"), each.title, (f"  {printable(each.file)}:{each.line}", QUIET)),
                    (0, 0, 0, 2),
                    expand=False,
                )
            )
        if len(done) > DONE_SHOWN:
            console.print(Padding(Text(f"… and {len(done) - DONE_SHOWN} more", QUIET), (0, 0, 0, 2), expand=False))


def _print_step(console: Console, step: Step) -> None:
    console.print(
        Text.assemble(
            "\n",
            (f"{step.number}. {step.title}", STRONG),
            (f"  {step.id}" if step.id.startswith(step.technique) else f"  {step.technique} {step.id}", QUIET),
        )
    )
    _print_line(console, Text(printable(step.why_now)))
    for file, group in groupby(step.edits, key=lambda edit: edit.file):
        _print_line(console, Text(cut_front(printable(file), console.width - 3, "/"), "underline"))
        for edit in group:
            mark = "by hand: " if edit.by_hand else ""
            _print_line(console, Text.assemble((f"{edit.line:>5}  ", QUIET), f"{mark}{printable(edit.action)}"))
    for code in step.code:
        _print_code(console, code)
    console.print()
    if step.lifetime:
        _print_line(console, Text(f"lives: {step.lifetime}"))
    for hazard in step.hazards:
        _print_line(console, Text(f"! {printable(hazard)}", "yellow"))
    for gain in step.frees:
        _print_line(console, Text(f"+ {printable(gain)}", "green"))
    if balance := balance_of(step):
        _print_line(console, Text(f"bonds: {printable(balance)}", QUIET))
    _print_line(console, Text(_measures(step), QUIET))
    _print_line(console, Text(f"check: {printable(step.check)}", QUIET))


def _print_line(console: Console, line: Text) -> None:
    console.print(Padding(line, (0, 0, 0, 3), expand=False))


def _measures(step: Step) -> str:
    before, after = step.before, step.after
    effects = " ".join(before.locked_effects) or "none"
    left = " ".join(after.locked_effects) or "none"
    name = simple_name(step.classes[0])
    about = f"{ABOUT} " if step.estimated else ""
    return (
        f"{about}{name}: strain {number_of(before.class_strain)} → {number_of(after.class_strain)}, "
        f"hard bonds {before.class_hard_bonds} → {after.class_hard_bonds}, locked effects {effects}"
        + ("" if effects == left else f" → {left}")
    )


def _print_code(console: Console, code: Code) -> None:
    """A piece of code with what goes and what comes marked in front of each line."""
    lines = changed_lines(code)
    console.print()
    for mark, line in lines[:CODE_SHOWN]:
        text, room = printable(line), max(console.width - 9, 20)
        parts = [text[at : at + room] for at in range(0, len(text), room)] or [""]
        for number, part in enumerate(parts):
            lead = f"     {mark} " if not number else f"     {mark} ↪ "
            console.print(Text(f"{lead}{part}".rstrip(), STYLES[mark]), soft_wrap=True)
    if len(lines) > CODE_SHOWN:
        console.print(Text(f"       … {len(lines) - CODE_SHOWN} more lines; --format json has all", QUIET))


def _print_left(console: Console, left: tuple[LeftOver, ...], most: int) -> None:
    if left:
        console.print(Text(f"\nNot in this plan: {counted(sum(each.count for each in left), 'hard bond')}", STRONG))
    by_reason = groupby(sorted(left, key=lambda each: (each.reason, each.file, each.line)), key=lambda each: each.reason)
    groups = [(reason, list(group)) for reason, group in by_reason]
    groups.sort(key=lambda each: (-sum(one.count for one in each[1]), each[0]))
    for reason, found in groups if most else groups[:REASONS_SHOWN]:
        places = [(f"{simple_name(each.source)} ⇒ {simple_name(each.target)}", each.file, each.line) for each in found]
        _print_places(console, sum(each.count for each in found), reason, places, most)
    if not most and len(groups) > REASONS_SHOWN:
        rest = sum(each.count for _, found in groups[REASONS_SHOWN:] for each in found)
        console.print(
            Text(f"  {rest} for {len(groups) - REASONS_SHOWN} other reasons; --full shows them, with the places", QUIET)
        )


def _print_kept(console: Console, kept: tuple[Kept, ...], most: int) -> None:
    if kept:
        console.print(Text(f"\nOld constructors and defaults that stay: {len(kept)}", STRONG))
    for reason, group in groupby(sorted(kept, key=lambda each: (each.reason, each.name)), key=lambda each: each.reason):
        places = [(simple_name(each.name), each.file, each.line) for each in group]
        _print_places(console, len(places), reason, places, most)


def _print_places(console: Console, count: int, reason: str, places: list[tuple[str, str, int]], most: int) -> None:
    """A reason with how often it holds, and the first places, each with what stands there."""
    console.print(Padding(Text.assemble(f"{count} ", (reason, QUIET)), (0, 0, 0, 2), expand=False))
    lines = [f"{what}  {printable(file.rpartition('/')[2])}:{line}" for what, file, line in places[:most]]
    if most and len(places) > most:
        lines.append(f"… and {len(places) - most} more")
    for line in lines:
        console.print(Padding(Text(line, QUIET), (0, 0, 0, 4), expand=False))
