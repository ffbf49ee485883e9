"""`rank` for people: a table whose columns make way as the terminal gets narrower; class names keep their end."""

from __future__ import annotations

from typing import Any, Literal

from rich.console import Console
from rich.table import Table
from rich.text import Text

from isodesm.codebase.overview import Overview
from isodesm.measures.evaluation import Evaluation
from isodesm.measures.ranking import ORDERS, RankedClass, Ranking
from isodesm.output.terminal import QUIET, STRONG, header
from isodesm.output.text import counted, cut_front, number_of

PARTS = {
    "hard-wired-creation": "created",
    "static-singleton": "shared",
    "static-effect": "effects",
    "ambient-state": "ambient",
    "service-lookup": "looked up",
}
"""Kinds of finding and the heads of the columns that show their share of the strain."""

SHOWN = frozenset(("strain", "borne", "fan-in", "fan-out"))
"""Measures that have a column in any case."""
OTHER = "other"
"""The column in which parts are added up for which there is no room."""
LEAST_NAME = 24
"""Columns that a class name gets at least; the effects fold before it gets less."""

MOST_EFFECTS = 20
"""Columns for the locked effects; more of them fold."""


def print_ranking(
    console: Console, overview: Overview, ranking: Ranking, root: str, *, top: int, evaluation: Evaluation | None = None
) -> None:
    """Print the first `top` classes (0: all) with the parts of their strain, and how well the ranking foretells, if asked."""
    header(console, overview, root)
    measured = [row for row in ranking.classes if ORDERS[ranking.by](row)]
    rows = tuple(measured[:top] if top else measured)
    console.print()
    console.print(_table(console, rows, ranking.by) if rows else Text("No class to rank.", QUIET))
    if idle := len(ranking.classes) - len(measured):
        console.print(
            Text(f"{counted(idle, 'class', 'classes')} with {ranking.by} 0 {'is' if idle == 1 else 'are'} left out", QUIET)
        )
    shown = f"{len(rows)} of {counted(ranking.total_classes, 'class', 'classes')}, by {ranking.by}"
    console.print(
        Text(
            f"\n{shown} · strain of the codebase {number_of(ranking.total_strain)} over "
            f"{counted(ranking.total_hard_bonds, 'hard bond')}",
            QUIET,
        )
    )
    console.print(
        Text("strain = " + " + ".join(PARTS.values()) + " + borne; borne is what others' hard bonds put on the class", QUIET)
    )
    _print_chances(console, ranking)
    if ranking.history:
        console.print(Text(f"history: {ranking.history}", QUIET))
    if evaluation is not None:
        _print_evaluation(console, evaluation)


def _print_chances(console: Console, ranking: Ranking) -> None:
    """What ripple was worked out from."""
    estimated = [each for each in ranking.chances if each.estimated]
    if estimated:
        shown = ", ".join(f"{each.kind} {each.chance:.2f} ({each.low:.2f}–{each.high:.2f})" for each in estimated)
        rest = (
            f"; the other {len(ranking.chances) - len(estimated)} kinds as usual"
            if len(estimated) < len(ranking.chances)
            else ""
        )
        console.print(Text(f"ripple: chances from {ranking.commits:,} commits, with 95 % intervals: {shown}{rest}", QUIET))
    else:
        console.print(Text("ripple: the usual chances for each kind of bond, since the history says too little", QUIET))
    if ranking.scale < 1:
        console.print(
            Text(
                f"all chances scaled by {ranking.scale:.2f}: their matrix had a spectral radius of up to {ranking.radius:.2f}",
                QUIET,
            )
        )


def _print_evaluation(console: Console, evaluation: Evaluation) -> None:
    if evaluation.remark:
        console.print(Text(f"\nNothing to compare with: {evaluation.remark}.", "yellow"))
        return
    console.print(
        Text(
            f"\nHow well it foretells which files change together: the newest {evaluation.commits} commits, "
            f"{evaluation.files} files",
            STRONG,
        )
    )
    for each in evaluation.correlations:
        doubt = "  (the interval holds 0: no better than chance)" if each.low <= 0 <= each.high else ""
        console.print(
            Text(
                f"  {each.ranking:8} rank correlation {each.rho:+.2f}, 95 % between {each.low:+.2f} and {each.high:+.2f}{doubt}"
            )
        )


class _Shape:
    """Which columns fit a console; what matters least goes until all do. Mutable while that is found out."""

    def __init__(self, width: int, rows: tuple[RankedClass, ...], by: str) -> None:
        self.width, self.rows = width, rows
        self.wide, self.middle, self.locked = width >= 176, width >= 100, width >= 128
        extras = [*(["ripple"] if width >= 140 else []), *([by] if by not in SHOWN else [])]
        self.extras = list(dict.fromkeys(extras))
        self.parts = [kind for kind in PARTS if any(kind in row.own for row in rows)]
        self.others: list[str] = []
        """Parts of strain that are added up."""

    @property
    def heads(self) -> list[str]:
        """The heads of all columns but that of the class."""
        summed = [PARTS[kind] for kind in self.parts] + ([OTHER] if self.others else [])
        heads = ["", *(["role"] if self.middle else []), *(["layer"] if self.wide else []), "strain", *summed]
        heads += ["borne", "in", "out", *self.extras, *(["instability"] if self.wide else [])]
        return [*heads, *(["locked effects"] if self.locked else [])]

    @property
    def gap(self) -> int:
        """Blanks between columns."""
        return 2 if self.middle else 1

    def cells(self) -> list[list[Any]]:
        """The rows, a cell a head."""
        flags = {"middle": self.middle, "wide": self.wide, "locked": self.locked}
        return [_cells(row, self.parts, self.others, self.extras, **flags) for row in self.rows]

    def room(self, cells: list[list[Any]]) -> int:
        """What is left for the names of classes."""
        widths = [max([len(head), *(len(line[index]) for line in cells)]) for index, head in enumerate(self.heads)]
        widths[-1] = min(widths[-1], MOST_EFFECTS) if self.locked else widths[-1]
        return self.width - sum(width + self.gap for width in widths) - self.gap

    def give_up(self) -> bool:
        """Do without what matters least; whether there was anything."""
        if self.locked or self.wide or self.middle:
            locked, wide = self.locked, self.wide
            self.locked, self.wide, self.middle = False, wide and locked, self.middle and (locked or wide)
            return True
        if not self.parts:
            return False
        weight = {kind: sum(row.own.get(kind, 0.0) for row in self.rows) for kind in self.parts}
        least = min(self.parts, key=lambda kind: (weight[kind], kind))
        self.others.append(self.parts.pop(self.parts.index(least)))
        return True


def _table(console: Console, rows: tuple[RankedClass, ...], by: str) -> Table:
    """The table, its columns chosen by the width; the class column takes what the others leave."""
    shape = _Shape(console.width, rows, by)
    cells = shape.cells()
    while shape.room(cells) < LEAST_NAME and shape.give_up():
        cells = shape.cells()
    room = max(shape.room(cells), LEAST_NAME)
    table = Table(box=None, pad_edge=False, padding=(0, shape.gap, 0, 0), header_style=QUIET)
    for index, head in enumerate(shape.heads):
        side: Literal["left", "right"] = "left" if head in ("role", "layer", "locked effects") else "right"
        style = STRONG if head == "strain" else QUIET
        table.add_column(head, justify=side, no_wrap=head != "locked effects", header_style=style, min_width=len(head))
        if index == 0:
            table.add_column("class", no_wrap=True, header_style=STRONG)
    for row, line in zip(rows, cells, strict=True):
        table.add_row(line[0], Text(cut_front(row.name, room)), *line[1:])
    return table


def _cells(
    row: RankedClass, parts: list[str], others: list[str], extras: list[str], *, middle: bool, wide: bool, locked: bool
) -> list[Text]:
    """All cells of a row but the name, which takes the room they leave."""
    cells = [Text(str(row.rank), QUIET)]
    if middle:
        cells.append(Text(row.role))
    if wide:
        cells.append(Text(row.layer or "–", "" if row.layer else QUIET))
    cells.append(Text(number_of(row.strain), STRONG))
    cells += [_amount(row.own.get(kind, 0.0)) for kind in parts]
    if others:
        cells.append(_amount(sum((row.own.get(kind, 0.0) for kind in others), 0.0)))
    cells += [_amount(row.borne), _amount(row.fan_in), _amount(row.fan_out), *(_amount(ORDERS[each](row)) for each in extras)]
    if wide:
        cells.append(Text(f"{row.instability:.2f}"))
    if locked:
        cells.append(Text(" ".join(row.locked_effects)))
    return cells


def _amount(value: float) -> Text:
    return Text(number_of(value)) if value else Text("·", QUIET)
