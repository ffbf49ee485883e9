"""`fleet` for people and programs: the trees, their totals, and the types that several of them have to do with."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from rich.console import Console
from rich.table import Table
from rich.text import Text

from isodesm.fleet.answers import TreeAnswer
from isodesm.fleet.shared import SharedType
from isodesm.output.delimited import Rows
from isodesm.output.terminal import QUIET, STRONG
from isodesm.output.text import counted, cut_front, number_of, printable

LINES_OF_DENSITY = 1_000
SHARED_SHOWN = 20
DENSE_FROM = 90
"""Columns from which strain per thousand lines is shown, too."""


def density(answer: TreeAnswer) -> float:
    """Strain per thousand lines."""
    return LINES_OF_DENSITY * answer.strain / answer.lines if answer.lines else 0.0


ORDERS = {
    "strain": lambda each: each.strain,
    "hard-bonds": lambda each: each.hard_bonds,
    "density": density,
    "worst": lambda each: each.worst_strain,
    "lines": lambda each: each.lines,
    "classes": lambda each: each.classes,
}
"""What trees can be ordered by, the largest first."""


def ordered(answers: Sequence[TreeAnswer], by: str) -> list[TreeAnswer]:
    """The trees that were answered for, by a measure."""
    return sorted((each for each in answers if not each.error), key=lambda each: (-ORDERS[by](each), each.name))


def print_fleet(
    console: Console, answers: Sequence[TreeAnswer], shared: Sequence[SharedType] | None, by: str, top: int
) -> None:
    """Print the table; `top` limits the trees (0: all), `shared` is None where it was not asked for."""
    trees = ordered(answers, by)
    lines, classes = sum(each.lines for each in trees), sum(each.classes for each in trees)
    console.print(
        Text.assemble(
            (counted(len(trees), "tree"), STRONG),
            (f"  {counted(lines, 'line')} · {counted(classes, 'class', 'classes')}\n", QUIET),
        )
    )
    width = max(console.width, 60)
    console.print(_table(trees[:top] if top else trees, width, by == "density" or width >= DENSE_FROM))
    if top and len(trees) > top:
        console.print(Text(f"… and {len(trees) - top} more; --top 0 shows all", QUIET))
    strain, hard = number_of(sum(each.strain for each in trees)), counted(sum(each.hard_bonds for each in trees), "hard bond")
    console.print(Text(f"\nin all: strain {strain}, {hard}", STRONG))
    for each in answers:
        if each.error:
            console.print(Text(f"not answered for: {printable(each.name)}: {printable(each.error)}", "red"))
    if shared is not None:
        _print_shared(console, shared, width)


def _fitted(name: str, room: int) -> str:
    """A name in so many characters: whole parts of its end where that does, else its end."""
    cut = cut_front(name, room)
    return cut if len(cut) <= room else f"…{cut[len(cut) - room + 1 :]}"


def _table(trees: Sequence[TreeAnswer], width: int, dense: bool) -> Table:
    """The trees; numbers are whole at any width, names give way and keep their ends."""
    numbers = [
        [
            *(str(number), f"{each.lines:,}", f"{each.classes:,}", number_of(each.strain), f"{each.hard_bonds:,}"),
            *([number_of(density(each))] if dense else []),
        ]
        for number, each in enumerate(trees, 1)
    ]
    heads = ["", "lines", "classes", "strain", "hard", *(["per 1,000"] if dense else [])]
    taken = sum(max(map(len, column)) + 2 for column in zip(heads, *numbers, strict=True))
    room = max((width - taken - 4) // 2, 8)
    table = Table(box=None, padding=(0, 2, 0, 0), header_style=QUIET)
    for head in (heads[0], "tree", *heads[1:], "worst class"):
        table.add_column(head, justify="left" if head in ("tree", "worst class") else "right", no_wrap=True)
    for each, (number, *values) in zip(trees, numbers, strict=True):
        strain = f" {number_of(each.worst_strain)}" if each.worst else ""
        worst = f"{_fitted(printable(each.worst), max(room - len(strain), 4))}{strain}"
        table.add_row(number, _fitted(printable(each.name), room), *values, worst)
    return table


def _print_shared(console: Console, shared: Sequence[SharedType], width: int) -> None:
    console.print(Text(f"\n{counted(len(shared), 'type')} that several trees declare or use", STRONG))
    if not shared:
        return
    table = Table(box=None, padding=(0, 2, 0, 0), header_style=QUIET)
    for head in ("type", "made in", "places", "used in", "declared"):
        table.add_column(head, justify="left" if head in ("type", "declared") else "right", no_wrap=True)
    for each in shared[:SHARED_SHOWN]:
        declared = ", ".join(printable(name) for name in each.declared_in)
        table.add_row(
            _fitted(printable(each.name), width // 3 - 2),
            str(len(each.made_in)),
            str(each.places),
            str(len(each.used_in)),
            _fitted(declared, width // 5),
        )
    console.print(table)
    if len(shared) > SHARED_SHOWN:
        console.print(Text(f"… and {len(shared) - SHARED_SHOWN} more; --format json has all", QUIET))


def fleet_rows(answers: Sequence[TreeAnswer], by: str) -> Rows:
    """A row a tree, those that failed at the end with the reason."""
    heads = (
        "tree",
        "languages",
        "files",
        "lines",
        "classes",
        "strain",
        "hard_bonds",
        "density",
        "worst",
        "worst_strain",
        "marked_strain",
        "trouble",
        "error",
    )
    trees = [*ordered(answers, by), *(each for each in answers if each.error)]
    return heads, (tuple(_record(each)[head] for head in heads) for each in trees)


def _record(each: TreeAnswer) -> dict[str, Any]:
    return {
        "tree": each.name,
        "languages": " ".join(each.languages),
        "files": each.files,
        "lines": each.lines,
        "classes": each.classes,
        "strain": each.strain,
        "hard_bonds": each.hard_bonds,
        "density": round(density(each), 2),
        "worst": each.worst,
        "worst_strain": each.worst_strain,
        "marked_strain": each.marked_strain,
        "trouble": each.trouble,
        "error": each.error,
    }


def fleet_result(answers: Sequence[TreeAnswer], shared: Sequence[SharedType] | None, by: str) -> dict[str, Any]:
    """The trees in order, their totals, and what they share."""
    trees = [*ordered(answers, by), *(each for each in answers if each.error)]
    return {
        "summary": {
            "trees": len(trees),
            "lines": sum(each.lines for each in trees),
            "classes": sum(each.classes for each in trees),
            "strain": sum(each.strain for each in trees),
            "hard_bonds": sum(each.hard_bonds for each in trees),
        },
        "by": by,
        "trees": [{**_record(each), "languages": each.languages, "kinds": each.kinds} for each in trees],
        "shared": [
            {
                "name": each.name,
                "declared_in": list(each.declared_in),
                "used_in": list(each.used_in),
                "made_in": list(each.made_in),
                "places": each.places,
            }
            for each in shared or ()
        ],
    }
