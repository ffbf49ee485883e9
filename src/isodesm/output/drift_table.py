"""`drift` for people: the totals, what is new and gone, who bears more or less, and the course."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from rich.console import Console
from rich.padding import Padding
from rich.table import Table
from rich.text import Text

from isodesm.codebase.overview import Overview
from isodesm.diagnosis.shared.findings import Finding
from isodesm.drifting.course import Point
from isodesm.drifting.drift import Drift, Moved
from isodesm.drifting.mark import MarkedFinding
from isodesm.output.drift_text import change_of
from isodesm.output.terminal import LEVEL_STYLE, QUIET, STRONG, header
from isodesm.output.text import counted, cut_front, number_of, printable

MARKS = ("▁", "▂", "▃", "▄", "▅", "▆", "▇", "█")
"""Heights of a course in one line of text."""


def print_drift(
    console: Console, overview: Overview, drift: Drift, today: Mapping[str, Finding], root: str, *, top: int
) -> None:
    """Print a drift; `today` has the findings by id, `top` limits each list (0: all)."""
    header(console, overview, root)
    before, after = drift.before, drift.after
    style = "green" if after.strain < before.strain else "red" if after.strain > before.strain else ""
    console.print(Text.assemble("\n", (f"since {printable(drift.since)}", STRONG)))
    console.print(Text(f"  strain {change_of(before.strain, after.strain)}", style))
    console.print(Text(f"  hard bonds {change_of(before.hard_bonds, after.hard_bonds)}", style))
    console.print(
        Text(
            f"  {counted(len(drift.new), 'new finding')}, {len(drift.gone)} gone, {len(drift.moved)} moved, "
            f"{len(drift.updated)} otherwise changed, {drift.unchanged:,} as before"
        )
    )
    if drift.no_longer_excused or drift.newly_excused:
        console.print(Text(f"  {len(drift.no_longer_excused)} no longer excused, {len(drift.newly_excused)} excused now"))
    _print_findings(console, "New", drift.new, today, top)
    _print_findings(console, "No longer excused: what these lines lead to has changed", drift.no_longer_excused, today, top)
    _print_findings(console, "New to this version: their files are as they were", drift.judged_otherwise, today, top)
    grown = drift.grown("note")
    _print_findings(console, "More places than before", grown, today, top)
    _print_findings(console, "Gone", drift.gone, {}, top)
    _print_findings(console, "Excused now", drift.newly_excused, {}, top)
    _print_moved(console, drift.moved, top)
    _print_classes(console, drift, top)
    _print_layers(console, drift)
    _print_findings(console, "Newly accepted", drift.newly_accepted, {}, top)
    _print_findings(console, "No longer accepted", drift.no_longer_accepted, {}, top)


def _print_findings(
    console: Console, title: str, findings: Sequence[MarkedFinding], today: Mapping[str, Finding], top: int
) -> None:
    if not findings:
        return
    console.print(Text(f"\n{title}", STRONG))
    for each in findings[:top] if top else findings:
        line = Text("  ")
        line.append(each.level, LEVEL_STYLE[each.level])
        line.append(f"  {each.kind}  ")
        known = today.get(each.id)
        line.append(f"{printable(each.file)}:{each.line}{f':{known.column}' if known else ''}", QUIET)
        console.print(line, soft_wrap=True)
        said = known.message if known else f"`{each.source}`" + (f" ⇒ `{each.target}`" if each.target else "")
        console.print(Padding(Text(printable(said)), (0, 0, 0, 4), expand=False))
    _print_more(console, len(findings), top)


def _print_moved(console: Console, moved: Sequence[Moved], top: int) -> None:
    if not moved:
        return
    console.print(Text("\nMoved", STRONG))
    for each in moved[:top] if top else moved:
        then, now = (f"{one.source}.{one.member}" if one.member else one.source for one in (each.before, each.after))
        if then == now:
            then, now = each.before.file, each.after.file
        console.print(
            Padding(Text(f"{each.after.kind}  {printable(then)} → {printable(now)}", QUIET), (0, 0, 0, 2), expand=False)
        )
    _print_more(console, len(moved), top)


def _print_more(console: Console, count: int, top: int) -> None:
    if top and count > top:
        console.print(Text(f"  … and {count - top} more; --top 0 shows all", QUIET))


def _print_classes(console: Console, drift: Drift, top: int) -> None:
    if not drift.classes:
        return
    table = Table(box=None, pad_edge=False, padding=(0, 2, 0, 0), header_style=QUIET)
    table.add_column("class", header_style=STRONG, overflow="fold")
    table.add_column("strain", justify="right", no_wrap=True)
    table.add_column("hard bonds", justify="right", no_wrap=True)
    table.add_column("of it", overflow="fold")
    for each in drift.classes[:top] if top else drift.classes:
        parts = ", ".join(f"{kind} {number_of(then)} → {number_of(now)}" for kind, (then, now) in each.parts.items())
        name = cut_front(each.name, max(console.width // 3, 24))
        if each.before_name and each.before_name != each.name:
            name += f" (was {cut_front(each.before_name, 24)})"
        style = "green" if each.after < each.before else "red"
        table.add_row(name, Text(change_of(each.before, each.after), style), change_of(*each.hard_bonds), Text(parts, QUIET))
    console.print()
    console.print(table)
    _print_more(console, len(drift.classes), top)


def _print_layers(console: Console, drift: Drift) -> None:
    changed = [each for each in drift.layers if each.before != each.after]
    if changed:
        said = (f"{each.name or 'no layer'} {change_of(each.before.strain, each.after.strain)}" for each in changed)
        console.print(Text("\nstrain by layer: " + ", ".join(said), QUIET))


def print_course(console: Console, overview: Overview, points: Sequence[Point], root: str) -> None:
    """Print the course as a table, oldest first, with one line that draws it."""
    header(console, overview, root)
    strains = [point.totals.strain for point in points]
    highest = max(strains, default=0.0) or 1.0
    drawn = "".join(MARKS[min(int(each / highest * (len(MARKS) - 1) + 0.5), len(MARKS) - 1)] for each in strains)
    console.print(Text.assemble("\n", ("strain ", STRONG), (drawn, "cyan"), f" {change_of(strains[0], strains[-1])}\n"))
    table = Table(box=None, pad_edge=False, padding=(0, 2, 0, 0), header_style=QUIET)
    for name in ("day", "commit"):
        table.add_column(name, no_wrap=True)
    for name in ("strain", "hard bonds", "lines"):
        table.add_column(name, justify="right", no_wrap=True)
    table.add_column("subject", overflow="ellipsis", no_wrap=True)
    for point in points:
        numbers = (number_of(point.totals.strain), f"{point.totals.hard_bonds:,}", f"{point.lines:,}")
        table.add_row(point.day, point.commit[:9], *numbers, Text(printable(point.subject), QUIET))
    console.print(table)
