"""The ranking in three drawings: strain in its parts, fan-in against fan-out, and the matrix of bonds."""

from __future__ import annotations

import math
from typing import Any

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import Diagnosis
from isodesm.measures.ranking import RankedClass, Ranking
from isodesm.output.figures.canvas import INK, PAPER, panels, written
from isodesm.output.figures.matrix import draw_matrix
from isodesm.output.rank_table import PARTS

BARS = 16
"""Classes in the first drawing."""
DOTS = 250
"""Classes in the second one, the most strained first."""
LABELS = 14
GOLDEN = 2.399963
"""The golden angle, by which neighbours in number are turned away from each other."""
PART_STYLE = {
    "hard-wired-creation": ("#1f4e79", ""),
    "static-singleton": ("#c8553d", "//"),
    "static-effect": ("#81b29a", ""),
    "ambient-state": ("#6d597a", "xx"),
    "service-lookup": ("#e0a458", ".."),
    "borne": ("#d5dbe1", ""),
}
"""Colour and hatching of each part of the strain, told apart in grey as well."""
LAYER_STYLE = {
    "presentation": ("#6d597a", "^"),
    "application": ("#2f6690", "o"),
    "infrastructure": ("#c8553d", "s"),
    "domain": ("#e0a458", "D"),
    "shared": ("#81b29a", "v"),
    "": ("#b9c2cb", "o"),
}
SPARE = (("#1f4e79", "P"), ("#81b29a", "X"), ("#c8553d", "h"), ("#6d597a", "*"), ("#e0a458", "p"))
"""For layers of a codebase's own."""


def draw_ranking(codebase: Codebase, diagnosis: Diagnosis, ranking: Ranking, title: str, suffix: str) -> bytes:
    """The three drawings on one sheet, in the format of a file suffix."""
    figure, axes = panels(14.4, 9.0, [["bars", "dots"], ["bars", "matrix"]], (1.0, 1.0), (0.82, 1.0))
    figure.suptitle(f"{title}: which classes first", x=0.01, ha="left", fontsize=14, fontweight="bold", color=INK)
    strained = tuple(row for row in ranking.classes if row.strain or ranking.by != "strain")
    _draw_bars(axes["bars"], strained[:BARS], ranking.by)
    _draw_dots(figure, axes["dots"], ranking.classes)
    draw_matrix(axes["matrix"], codebase, diagnosis)
    return written(figure, suffix)


def simple(name: str) -> str:
    """The last part of a qualified name of any language."""
    return name.replace("\\", ".").replace("#", ".").rpartition(".")[2]


def styles_of(layers: list[str]) -> dict[str, tuple[str, str]]:
    """A colour and a sign for each layer: the usual ones by name, the codebase's own in order."""
    spare = iter(SPARE * 3)
    return {layer: LAYER_STYLE.get(layer) or next(spare) for layer in layers}


def _draw_bars(axes: Any, rows: tuple[RankedClass, ...], by: str) -> None:
    """Strain of each class as a bar of its parts, the first class on top."""
    kinds = [kind for kind in (*PARTS, "borne") if any(_part(row, kind) for row in rows)]
    left = [0.0] * len(rows)
    for kind in kinds:
        colour, hatch = PART_STYLE[kind]
        widths = [_part(row, kind) for row in rows]
        axes.barh(
            range(len(rows)),
            widths,
            left=left,
            color=colour,
            hatch=hatch,
            edgecolor=PAPER,
            linewidth=0.6,
            label=PARTS.get(kind, kind),
            height=0.72,
        )
        left = [one + other for one, other in zip(left, widths, strict=True)]
    most = max(left, default=0) or 1
    for line, (row, total) in enumerate(zip(rows, left, strict=True)):
        said, effects = f"{total:g}", " ".join(row.locked_effects[:3])
        for text, points, size, colour in ((said, 4.0, 8.5, INK), (effects, 10.0 + 5.6 * len(said), 7.5, "#5c6873")):
            axes.annotate(
                text, (total, line), (points, 0), textcoords="offset points", va="center", fontsize=size, color=colour
            )
    axes.set_yticks(range(len(rows)), [simple(row.name) for row in rows], fontsize=9)
    axes.invert_yaxis()
    axes.set_xlim(0, most * 1.34)
    axes.set_xlabel("strain, points (locked effects in grey)")
    axes.set_title("Strain in its parts" + ("" if by == "strain" else f", in the order of {by}"), loc="left", fontsize=11)
    axes.spines[["top", "right"]].set_visible(False)
    if kinds:
        axes.legend(loc="upper center", bbox_to_anchor=(0.5, -0.055), ncols=len(kinds), frameon=False, fontsize=8.5)


def _part(row: RankedClass, kind: str) -> float:
    return row.borne if kind == "borne" else row.own.get(kind, 0.0)


def _draw_dots(figure: Any, axes: Any, classes: tuple[RankedClass, ...]) -> None:
    """Fan-in against fan-out: the size of a dot is strain, its colour and sign the layer."""
    rows = sorted(classes, key=lambda row: -row.strain)[:DOTS]
    styles = styles_of(sorted({row.layer for row in rows}))
    most = max((row.strain for row in rows), default=0) or 1
    for layer, (colour, sign) in styles.items():
        own = [row for row in rows if row.layer == layer]
        axes.scatter(
            [_moved(row)[0] for row in own],
            [_moved(row)[1] for row in own],
            s=[22 + 420 * row.strain / most for row in own],
            c=colour,
            marker=sign,
            alpha=0.78,
            edgecolors=INK,
            linewidths=0.5,
            label=layer or "no layer",
        )
    _scale(axes.xaxis, axes.set_xscale, axes.set_xlim, max((row.fan_in for row in rows), default=0))
    _scale(axes.yaxis, axes.set_yscale, axes.set_ylim, max((row.fan_out for row in rows), default=0))
    axes.set_xlabel("fan-in: classes that depend on it")
    axes.set_ylabel("fan-out: classes it depends on")
    axes.set_title("Who depends on whom; size is strain, dots on one place are moved apart", loc="left", fontsize=11)
    axes.spines[["top", "right"]].set_visible(False)
    handles, labels = axes.get_legend_handles_labels()
    if len(styles) > 1:
        legend = axes.legend(handles, labels, loc="upper right", fontsize=8.5, framealpha=0.9, edgecolor=PAPER)
        for handle in legend.legend_handles:
            handle.set_sizes([40])
    figure.canvas.draw()
    boxes = [axes.get_legend().get_window_extent(figure.canvas.get_renderer())] if len(styles) > 1 else []
    _place_labels(figure, axes, rows, most, boxes)


def _moved(row: RankedClass) -> tuple[float, float]:
    """Where a class is drawn: by its fan-in and fan-out, moved by less than half a class so that equal ones stay apart."""
    turn, reach = GOLDEN * row.number, 0.32 * ((row.number * 7 % 16) / 16) ** 0.5
    return row.fan_in + reach * math.cos(turn), row.fan_out + reach * math.sin(turn)


def _scale(axis: Any, set_scale: Any, set_limits: Any, most: int) -> None:
    """From a little below 0 to a little above the largest; from 10 on in powers of ten where the numbers are large."""
    if most > 60:
        from matplotlib.ticker import ScalarFormatter

        set_scale("symlog", linthresh=10)
        axis.set_major_formatter(ScalarFormatter())
        set_limits(-1, most * 1.9)
    else:
        set_limits(-0.06 * max(most, 8), max(most, 2) * 1.16)


def _place_labels(figure: Any, axes: Any, rows: list[RankedClass], most: float, taken: list[Any]) -> None:
    """Names beside their dots where there is room; one that would lie over what is `taken`, or over another dot, is left
    out."""
    from matplotlib.transforms import Bbox

    renderer = figure.canvas.get_renderer()
    dots = {}
    for row in rows:
        x, y = axes.transData.transform(_moved(row))
        radius = 0.55 * (22 + 420 * row.strain / most) ** 0.5 * figure.dpi / 72
        dots[row.number] = Bbox.from_extents(x - radius, y - radius, x + radius, y + radius)
    frame = axes.get_window_extent(renderer)
    for row in [row for row in rows if row.strain][:LABELS]:
        others = [dots[each.number] for each in rows if each is not row]
        away = 5 + 0.5 * (22 + 420 * row.strain / most) ** 0.5
        for dx, dy, ha, va in (
            (away, 0, "left", "center"),
            (0, away, "center", "bottom"),
            (0, -away, "center", "top"),
            (-away, 0, "right", "center"),
            (away, away, "left", "bottom"),
            (away, -away, "left", "top"),
        ):
            label = axes.annotate(
                simple(row.name),
                _moved(row),
                xytext=(dx, dy),
                textcoords="offset points",
                ha=ha,
                va=va,
                fontsize=8,
                color=INK,
            )
            box = label.get_window_extent(renderer).padded(1.5)
            inside = frame.x0 <= box.x0 and box.x1 <= frame.x1 + 4 and frame.y0 <= box.y0 and box.y1 <= frame.y1
            if inside and not any(box.overlaps(other) for other in (*taken, *others)):
                taken.append(box)
                break
            label.remove()
