"""Goals and stages of a plan for people: what is possible after which steps, and what still stands in the way."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from rich.console import Console
from rich.padding import Padding
from rich.table import Table
from rich.text import Text

from isodesm.linking.symbols import simple_name
from isodesm.output.terminal import QUIET, STRONG
from isodesm.output.text import cut_front, number_of, printable
from isodesm.planning.model.stage import Goal, Stage
from isodesm.planning.model.step import LeftOver


def print_stages(console: Console, stages: Sequence[Stage]) -> None:
    """A row a stage: its sentence, its steps, and what is left of strain."""
    table = Table(box=None, pad_edge=False, padding=(0, 2, 0, 0), header_style=QUIET)
    table.add_column("", justify="right", no_wrap=True)
    table.add_column("stage", header_style=STRONG, overflow="fold")
    table.add_column("steps", justify="right", no_wrap=True)
    table.add_column("strain", justify="right", no_wrap=True)
    for each in stages:
        before, after = each.strain
        left = Text("=", QUIET) if before == after else Text(f"{number_of(after)} ({number_of(after - before)})")
        table.add_row(Text(str(each.number), QUIET), Text(printable(each.said)), Text(_steps(each)), left)
    console.print()
    console.print(table)


def _steps(stage: Stage) -> str:
    return str(stage.first) if stage.first == stage.last else f"{stage.first}–{stage.last}"


def print_goal(console: Console, goal: Goal, left: Iterable[LeftOver]) -> None:
    """Whether a class can be tested alone, how a test creates it, and what stands in the way, with why no step takes it."""
    console.print(Text(f"\n{printable(goal.said)}.", "bold" if goal.after else "bold green"))
    if not goal.after and goal.made_by:
        _line(console, Text.assemble(("a test creates it as  ", QUIET), printable(goal.made_by)))
    for each in goal.after:
        head = f"{each.what}: {each.said}" if each.kind == "effect" else each.said
        _line(console, Text.assemble(("! ", "yellow"), printable(head), (f"  {_place(console, each.file, each.line)}", QUIET)))
    for refused in {(one.reason, one.target): one for one in left}.values() if goal.after else ():
        said = f"{simple_name(refused.target)} {printable(refused.reason)}"
        at = _place(console, refused.file, refused.line)
        _line(console, Text.assemble(("  left: ", QUIET), said, (f"  {at}", QUIET)))


def _place(console: Console, file: str, line: int) -> str:
    return cut_front(f"{printable(file)}:{line}", max(console.width // 3, 20), "/")


def _line(console: Console, line: Text) -> None:
    console.print(Padding(line, (0, 0, 0, 3), expand=False))
