"""Layers as bands, the outermost on top; an arrow for the bonds between two of them, as wide as there are many."""

from __future__ import annotations

import math

from isodesm.output.figures.canvas import BLUE, FAINT, INK, ORANGE, PAPER, sheet, written
from isodesm.queries.layer_report import Crossing, LayerReport

BAND, GAP = 1.0, 0.85
LANE = 0.062
"""Width of the figure that an arrow has for itself."""


def draw_layers(report: LayerReport, title: str, suffix: str) -> bytes:
    """The drawing in the format of a file suffix; one that says so where there are no layers."""
    names = [layer.name for layer in report.layers]
    height = max(len(names), 1) * (BAND + GAP)
    figure, axes = sheet(
        12.8, max(2.2 + 1.35 * len(names), 4), f"{title}: {'' if report.told else 'proposed '}layers and the bonds between them"
    )
    axes.set_axis_off()
    axes.set_xlim(0, 1)
    axes.set_ylim(-0.55, height - GAP + 0.15)
    if not names:
        axes.text(0.02, 0.62, _unrecognised(report), ha="left", va="center", color=INK, fontsize=11, linespacing=1.7)
        return written(figure, suffix)
    tops = {name: height - GAP - index * (BAND + GAP) for index, name in enumerate(names)}
    from matplotlib.patches import FancyBboxPatch

    inner = {(each.source, each.target): each.bonds for each in report.crossings}
    for layer in report.layers:
        axes.add_patch(
            FancyBboxPatch(
                (0.01, tops[layer.name] - BAND),
                0.98,
                BAND,
                boxstyle="round,pad=0,rounding_size=0.015",
                mutation_aspect=8,
                facecolor="#eef2f5",
                edgecolor=FAINT,
                linewidth=1,
            )
        )
        axes.text(0.025, tops[layer.name] - 0.36, layer.name, fontsize=13, fontweight="bold", va="center")
        within = inner.get((layer.name, layer.name), 0)
        axes.text(
            0.025,
            tops[layer.name] - 0.7,
            f"{len(layer.classes)} classes, {within:,} bonds inside",
            fontsize=9.5,
            color="#4a5663",
            va="center",
        )
    _arrows(
        axes,
        [each for each in report.crossings if each.source != each.target and each.source in tops and each.target in tops],
        tops,
    )
    _legend(axes)
    return written(figure, suffix)


def _unrecognised(report: LayerReport) -> str:
    """What stands in the place of bands where there are no layers: why, and what to do about it."""
    return (
        f"There are no layers: all {report.unplaced:,} classes lie in one package or folder, and no settings name any.\n"
        "`isodesm setup` writes a settings file to name them in; then this sheet has their bonds."
    )


def _arrows(axes, crossings: list[Crossing], tops: dict[str, float]) -> None:
    """Each arrow in a lane of its own, so that none lies over another; long ones to the right."""
    most = max((each.bonds for each in crossings), default=1)
    order = list(tops)
    spans = sorted(
        crossings,
        key=lambda each: (
            abs(order.index(each.source) - order.index(each.target)),
            min(order.index(each.source), order.index(each.target)),
            each.outward,
        ),
    )
    lane = min(LANE, 0.6 / max(len(spans), 1))
    for index, each in enumerate(spans):
        x = 0.34 + lane * (index + 0.5)
        down = tops[each.target] < tops[each.source]
        start = tops[each.source] - BAND if down else tops[each.source]
        end = tops[each.target] if down else tops[each.target] - BAND
        colour = ORANGE if each.outward else BLUE
        width = 1.2 + 6.5 * math.sqrt(each.bonds / most)
        axes.annotate(
            "",
            xy=(x, end),
            xytext=(x, start),
            arrowprops={
                "arrowstyle": "-|>,head_width=0.45,head_length=0.7",
                "color": colour,
                "linewidth": width,
                "shrinkA": 0,
                "shrinkB": 0,
                "linestyle": (0, (2.2, 0.7)) if each.outward else "solid",
            },
        )
        label = f"{each.bonds:,}" + (f"\n{each.hard:,} hard" if each.hard else "")
        y = start + (-0.12 if down else 0.12)
        axes.text(
            x + 0.008,
            y,
            label,
            fontsize=8.5,
            color=INK,
            ha="left",
            va="top" if down else "bottom",
            zorder=6,  # above the arrow in the next lane
            bbox={"facecolor": PAPER, "edgecolor": "none", "pad": 0.8, "alpha": 0.5},
        )


def _legend(axes) -> None:
    from matplotlib.lines import Line2D

    axes.legend(
        handles=[
            Line2D([], [], color=BLUE, linewidth=4, label="bonds that point inwards (number, hard ones below it)"),
            Line2D(
                [], [], color=ORANGE, linewidth=4, linestyle=(0, (2.2, 0.7)), label="bonds that point outwards, the wrong way"
            ),
        ],
        loc="lower left",
        frameon=False,
        ncols=2,
        fontsize=9.5,
        bbox_to_anchor=(0, -0.02),
    )
