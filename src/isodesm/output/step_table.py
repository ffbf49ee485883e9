"""`step` for people: the next step as a diff, what came of each one carried out, and how it all ended."""

from __future__ import annotations

from collections.abc import Sequence

from rich.console import Console
from rich.padding import Padding
from rich.text import Text

from isodesm.output.terminal import QUIET, STRONG
from isodesm.output.text import counted, number_of, printable
from isodesm.planning.model.step import Step
from isodesm.rewriting.apply import Outcome

_STYLES = {"+": "green", "-": "red", "@": "cyan"}


def print_preview(console: Console, step: Step, patch: bytes) -> None:
    """Print a step with its diff."""
    console.print(Text.assemble((printable(step.title), STRONG), (f"  {step.id}", QUIET)))
    _say(console, step.why_now)
    for hazard in step.hazards:
        _say(console, f"! {hazard}", "yellow")
    console.print()
    for line in patch.decode("utf-8", "replace").splitlines():
        heads = line.startswith(("diff --git", "--- ", "+++ ", "new file"))
        style = STRONG if heads else _STYLES.get(line[:1], "")
        console.print(Text(printable(line), style), soft_wrap=True)
    for place in (edit for edit in step.edits if edit.by_hand):
        _say(console, f"by hand: {place.file}:{place.line} {place.action}", "yellow")
    if step.check:
        console.print()
        _say(console, f"check: {step.check}", QUIET)


def print_outcome(console: Console, outcome: Outcome) -> None:
    """Print what came of one step."""
    mark, style = ("✓", "green") if outcome.is_kept else ("✗", "red")
    line = Text.assemble((f"{mark} ", style), (printable(outcome.title), STRONG), (f"  {outcome.id}", QUIET))
    console.print(line)
    facts = [counted(len(outcome.files), "file")]
    if outcome.seconds is None:
        facts.append("not checked: no build command (--check)")
    else:
        facts.append(f"check {'green' if outcome.is_kept else 'red'} after {number_of(round(outcome.seconds, 1))} s")
    if outcome.commit:
        facts.append(f"commit {outcome.commit}")
    if not outcome.is_kept:
        facts.append(f"taken back: {outcome.reason}")
    _say(console, " · ".join(facts), QUIET if outcome.is_kept else style)
    for each in () if outcome.is_kept else outcome.said:
        _say(console, f"| {each}", QUIET)
    if outcome.red_before:
        _say(console, "! the check is red without the step, too: mend that first, or check otherwise", "yellow")
    if outcome.log and not outcome.is_kept:
        _say(console, f"all of it: {outcome.log}", QUIET)


def print_standing(console: Console, strain: float, hard_bonds: int) -> None:
    """Print what a scan finds now."""
    _say(console, f"now {counted(hard_bonds, 'hard bond')}, strain {number_of(strain)}", QUIET)


def print_end(console: Console, outcomes: Sequence[Outcome], left: Sequence[str]) -> None:
    """Print how many steps were kept and taken back, and what was left and why."""
    kept = sum(1 for each in outcomes if each.is_kept)
    parts = [f"{counted(kept, 'step')} kept"]
    if red := len(outcomes) - kept:
        parts.append(f"{red} taken back")
    console.print(Text("\n" + ", ".join(parts), STRONG))
    for each in left:
        _say(console, each, QUIET)


def _say(console: Console, text: str, style: str = "") -> None:
    console.print(Padding(Text(printable(text), style), (0, 0, 0, 2), expand=False))
