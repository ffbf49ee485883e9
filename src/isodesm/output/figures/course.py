"""The course of a codebase: strain by layer and hard bonds, over the commits of its history."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from typing import Any

from isodesm.drifting.course import Point
from isodesm.output.figures.canvas import FAINT, INK, PAPER, panels, written
from isodesm.output.figures.progress import HATCHES
from isodesm.output.figures.ranking import styles_of

ROOM = 1.25
SHORTEST = 86_400
"""Seconds that a history must take for its commits to stand by their time."""
MOST_NAMES, NAME = 12, 14
"""Commits that are named where they stand in order, and the letters of a name."""


def draw_course(points: Sequence[Point], title: str, suffix: str) -> bytes:
    """Strain by layer as areas, hard bonds as a line below, over time; the greatest fall is named by its commit."""
    figure, axes = panels(12.8, 7.6, [["strain"], ["bonds"]], (1.0,), (1.7, 1.0))
    figure.suptitle(f"{title}: the course", x=0.01, ha="left", fontsize=14, fontweight="bold", color=INK)
    apart = max((each.time for each in points), default=0) - min((each.time for each in points), default=0) >= SHORTEST
    days = [datetime.datetime.fromtimestamp(each.time, datetime.UTC) if apart else at for at, each in enumerate(points)]
    strain, bonds = axes["strain"], axes["bonds"]
    layers = _draw_layers(strain, days, points)
    _draw_line(strain, days, [each.totals.strain for each in points], "strain, points", 1.0)
    _draw_line(bonds, days, [each.totals.hard_bonds for each in points], "hard bonds", 1)
    bonds.sharex(strain)
    strain.tick_params(labelbottom=False)
    if not apart:  # commits of one day, or a history that was written in one go: in order, by name
        every = -(-len(points) // MOST_NAMES)
        bonds.set_xticks(range(0, len(points), every), [each.subject[:NAME].replace("$", r"\$") for each in points[::every]])
    for each in (strain, bonds):
        each.spines[["top", "right"]].set_visible(False)
        each.yaxis.get_major_locator().set_params(integer=True)
    if layers:
        strain.legend(loc="upper left", frameon=False, fontsize=9, ncols=min(len(layers), 6))
    _name_fall(strain, days, points)
    return written(figure, suffix)


def _draw_line(axes: Any, days: list[Any], values: Sequence[float], label: str, least: float) -> None:
    """A course as a line with a dot a commit."""
    axes.plot(days, values, color=INK, linewidth=1.2, marker="o", markersize=3)
    axes.set_ylim(0, max(values, default=least) * ROOM or 1)
    axes.set_ylabel(label)


def _draw_layers(axes: Any, days: list[Any], points: Sequence[Point]) -> list[str]:
    """Areas of the strain of layers, the largest below; the layers."""

    def strain(point: Point, layer: str) -> float:
        return point.layers[layer].strain if layer in point.layers else 0.0

    named = sorted({layer for each in points for layer in each.layers})
    layers = sorted(named, key=lambda layer: -max(strain(each, layer) for each in points))
    if layers:
        styles, heights = styles_of(named), [[strain(each, layer) for each in points] for layer in layers]
        labels, colors = [layer or "no layer" for layer in layers], [styles[layer][0] for layer in layers]
        for index, area in enumerate(axes.stackplot(days, heights, labels=labels, colors=colors)):
            area.set(hatch=HATCHES[index % len(HATCHES)], edgecolor=PAPER, linewidth=0.6)
    return layers


def _name_fall(axes: Any, days: list[Any], points: Sequence[Point]) -> None:
    """The commit of the greatest fall, by its name."""
    totals = [each.totals.strain for each in points]
    falls = [(totals[at] - totals[at - 1], at) for at in range(1, len(totals))]
    if falls and min(falls)[0] < 0:
        at = min(falls)[1]
        text = f"{points[at].day}: {points[at].subject[:60]}".replace("$", r"\$")
        place = {"xy": (days[at], totals[at]), "xytext": (0.995, 0.955), "textcoords": "axes fraction"}
        axes.annotate(text, **place, ha="right", fontsize=9, color=FAINT, arrowprops={"arrowstyle": "-", "color": FAINT})
