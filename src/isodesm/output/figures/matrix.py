"""The matrix of bonds between classes, in order of layers and, inside a layer, of who is near whom."""

from __future__ import annotations

from typing import Any

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import HARD_KINDS, Diagnosis
from isodesm.measures.arrangement import arranged, bound_pairs
from isodesm.output.figures.canvas import FAINT, INK, ORANGE

SOFT, HARD = "#b8c9d9", "#16324f"
NAMED = 34
"""Classes up to which each has its name beside its row."""


def draw_matrix(axes: Any, codebase: Codebase, diagnosis: Diagnosis) -> None:
    """A cell for each pair of classes, the row depending on the column: pale for soft bonds, dark for hard ones, framed the
    wrong way."""
    pairs = bound_pairs(codebase)
    order = arranged(codebase, pairs)
    place = {number: index for index, number in enumerate(order)}
    hard = {
        (each.source_number, each.target_number)
        for each in diagnosis.places
        if each.kind in HARD_KINDS and each.level != "note"
    }
    from matplotlib.patches import Rectangle

    for source, target in sorted(pairs):
        if source not in place or target not in place:
            continue
        x, y = place[target], place[source]
        wrong = bool(codebase.layers.crossing(source, target))
        axes.add_patch(
            Rectangle(
                (x - 0.45, y - 0.45),
                0.9,
                0.9,
                facecolor=HARD if (source, target) in hard else SOFT,
                edgecolor=ORANGE if wrong else "none",
                linewidth=1.4,
            )
        )
    for index in range(len(order)):
        axes.plot([index], [index], marker=".", markersize=1.6, color=FAINT)
    _frame(axes, codebase, order)
    _legend(axes)


def _frame(axes: Any, codebase: Codebase, order: list[int]) -> None:
    """Lines and names of layers; names of classes where there is room for them."""
    count = len(order)
    axes.set_xlim(-0.7, max(count, 1) - 0.3)
    axes.set_ylim(max(count, 1) - 0.3, -0.7)
    axes.set_aspect("equal")
    axes.set_title("Bonds: the row depends on the column", loc="left", fontsize=11)
    axes.set_xticks([])
    names = [codebase.symbols.types[number].name for number in order]
    axes.set_yticks(
        range(count) if count <= NAMED else [], names if count <= NAMED else [], fontsize=max(4.5, min(8, 190 / max(count, 1)))
    )
    axes.tick_params(length=0)
    starts = [
        index
        for index in range(count)
        if index == 0 or codebase.layers.name(order[index]) != codebase.layers.name(order[index - 1])
    ]
    for first, last in zip(starts, (*starts[1:], count), strict=True):
        layer = codebase.layers.name(order[first])
        if first:
            axes.axhline(first - 0.5, color=FAINT, linewidth=0.8)
            axes.axvline(first - 0.5, color=FAINT, linewidth=0.8)
        if layer:
            axes.text(count - 0.1, (first + last - 1) / 2, layer, fontsize=8, va="center", ha="left", color=INK)
    axes.spines[["top", "right", "bottom", "left"]].set_color(FAINT)


def _legend(axes: Any) -> None:
    from matplotlib.patches import Patch

    axes.legend(
        handles=[
            Patch(facecolor=SOFT, label="soft, or harmless"),
            Patch(facecolor=HARD, label="hard"),
            Patch(facecolor="white", edgecolor=ORANGE, linewidth=1.4, label="wrong way"),
        ],
        loc="upper center",
        bbox_to_anchor=(0.5, -0.01),
        ncols=3,
        frameon=False,
        fontsize=8.5,
    )
