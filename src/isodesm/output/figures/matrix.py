"""The matrix of bonds between classes, or between packages where classes are too many to name, in order of layers."""

from __future__ import annotations

from typing import Any

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import HARD_KINDS, Diagnosis
from isodesm.measures.arrangement import Grid, grid_of
from isodesm.output.figures.canvas import FAINT, INK, ORANGE

SOFT, HARD = "#b8c9d9", "#16324f"
LONGEST = 26
"""Characters of a name beside its row; of longer ones the end is kept."""


def draw_matrix(axes: Any, codebase: Codebase, diagnosis: Diagnosis) -> None:
    """A cell for each pair, the row depending on the column: pale for soft bonds, dark for hard ones, framed the wrong way.

    Between packages a cell is the larger the more pairs of classes it stands for, and dark as far as they are hard.
    """
    hard = {
        (each.source_number, each.target_number)
        for each in diagnosis.places
        if each.kind in HARD_KINDS and each.level != "note"
    }
    grid = grid_of(codebase, hard)
    _cells(axes, grid)
    _frame(axes, grid)
    _legend(axes, grid)


def _cells(axes: Any, grid: Grid) -> None:
    from matplotlib.patches import Rectangle

    most = max((cell.pairs for cell in grid.cells.values()), default=1)
    for (row, column), cell in grid.cells.items():
        side = 0.9 if grid.of == "classes" else 0.3 + 0.6 * (cell.pairs / most) ** 0.4
        dark = side * (cell.hard / cell.pairs if cell.pairs else 0.0)
        left, top = column - side / 2, row - side / 2
        axes.add_patch(Rectangle((left, top), side, side, facecolor=SOFT, edgecolor="none"))
        axes.add_patch(Rectangle((left, top + side - dark), side, dark, facecolor=HARD, edgecolor="none"))
        if cell.wrong:
            axes.add_patch(Rectangle((left, top), side, side, fill=False, edgecolor=ORANGE, linewidth=1.4))
    for index in range(len(grid.names)):
        axes.plot([index], [index], marker=".", markersize=1.6, color=FAINT, zorder=1)


def _frame(axes: Any, grid: Grid) -> None:
    """Lines and names of layers, and the names of the rows."""
    count = len(grid.names)
    axes.set_xlim(-0.7, max(count, 1) - 0.3)
    axes.set_ylim(max(count, 1) - 0.3, -0.7)
    axes.set_aspect("equal")
    what = "classes" if grid.of == "classes" else f"{count} packages"
    axes.set_title(f"Bonds between {what}: the row depends on the column", loc="left", fontsize=11)
    axes.set_xticks([])
    names = [each if len(each) <= LONGEST else f"…{each[-LONGEST + 1 :]}" for each in grid.names]
    axes.set_yticks(range(count), names, fontsize=max(4.5, min(8, 190 / max(count, 1))))
    axes.tick_params(length=0)
    starts = [index for index in range(count) if index == 0 or grid.layers[index] != grid.layers[index - 1]]
    for first, last in zip(starts, (*starts[1:], count), strict=True):
        if first:
            axes.axhline(first - 0.5, color=FAINT, linewidth=0.8)
            axes.axvline(first - 0.5, color=FAINT, linewidth=0.8)
        if grid.layers[first]:
            axes.text(count - 0.1, (first + last - 1) / 2, grid.layers[first], fontsize=8, va="center", ha="left", color=INK)
    axes.spines[["top", "right", "bottom", "left"]].set_color(FAINT)


def _legend(axes: Any, grid: Grid) -> None:
    from matplotlib.patches import Patch

    soft, hard = ("soft, or harmless", "hard") if grid.of == "classes" else ("more pairs of classes, larger", "hard share")
    axes.legend(
        handles=[
            Patch(facecolor=SOFT, label=soft),
            Patch(facecolor=HARD, label=hard),
            Patch(facecolor="white", edgecolor=ORANGE, linewidth=1.4, label="wrong way"),
        ],
        loc="upper center",
        bbox_to_anchor=(0.5, -0.01),
        ncols=3,
        frameon=False,
        fontsize=8.5,
    )
