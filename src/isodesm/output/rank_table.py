"""`rank` for people: a table whose columns make way as the terminal gets narrower; class names keep their end."""

from __future__ import annotations

from rich.console import Console
from rich.table import Table
from rich.text import Text

from isodesm.codebase.model import Codebase
from isodesm.measures.ranking import RankedClass, Ranking
from isodesm.output.terminal import QUIET, STRONG, header
from isodesm.output.text import counted, cut_front, number_of

PARTS = {"hard-wired-creation": "created", "static-singleton": "shared", "static-effect": "effects", "service-lookup": "looked up"}
"""Kinds of finding and the heads of the columns that show their share of the strain."""


def print_ranking(console: Console, codebase: Codebase, ranking: Ranking, root: str, *, top: int) -> None:
    """Print the first `top` classes (0: all) with the parts of their strain."""
    header(console, codebase, root)
    rows = ranking.classes[:top] if top else ranking.classes
    console.print(_table(console, rows))
    shown = f"{len(rows)} of {counted(ranking.total_classes, 'class', 'classes')}, by {ranking.by}"
    console.print(Text(
        f"\n{shown} · strain of the codebase {number_of(ranking.total_strain)} over "
        f"{counted(ranking.total_hard_bonds, 'hard bond')}", QUIET,
    ))  # fmt: skip
    console.print(Text(
        "strain = " + " + ".join(PARTS.values()) + " + borne; borne is what others' hard bonds put on the class", QUIET
    ))  # fmt: skip


def _table(console: Console, rows: tuple[RankedClass, ...]) -> Table:
    wide, middle = console.width >= 150, console.width >= 112
    parts = [kind for kind in PARTS if any(kind in row.own for row in rows)]
    table = Table(box=None, pad_edge=False, padding=(0, 1, 0, 0) if not middle else (0, 2, 0, 0), header_style=QUIET)
    table.add_column("", justify="right", no_wrap=True)
    table.add_column("class", no_wrap=True, header_style=STRONG)
    if middle:
        table.add_column("role", no_wrap=True)
    if wide:
        table.add_column("layer", no_wrap=True)
    table.add_column("strain", justify="right", no_wrap=True, header_style=STRONG)
    for kind in parts:
        table.add_column(PARTS[kind], justify="right", no_wrap=True)
    for title in ("borne", "in", "out", *(("instability",) if wide else ())):
        table.add_column(title, justify="right", no_wrap=True)
    if middle:
        table.add_column("locked effects", overflow="fold")
    fixed = 34 + 10 * len(parts) + (34 if middle else 0) + (30 if wide else 0)
    for row in rows:
        table.add_row(*_cells(row, parts, middle=middle, wide=wide, room=max(console.width - fixed, 24)))
    return table


def _cells(row: RankedClass, parts: list[str], *, middle: bool, wide: bool, room: int) -> list[Text]:
    cells = [Text(str(row.rank), QUIET), Text(cut_front(row.name, room))]
    if middle:
        cells.append(Text(row.role))
    if wide:
        cells.append(Text(row.layer or "–", "" if row.layer else QUIET))
    cells.append(Text(number_of(row.strain), STRONG))
    cells += [_amount(row.own.get(kind, 0.0)) for kind in parts]
    cells += [_amount(row.borne), _amount(row.fan_in), _amount(row.fan_out)]
    if wide:
        cells.append(Text(f"{row.instability:.2f}"))
    if middle:
        cells.append(Text(" ".join(row.locked_effects)))
    return cells


def _amount(value: float) -> Text:
    return Text(number_of(value)) if value else Text("·", QUIET)
