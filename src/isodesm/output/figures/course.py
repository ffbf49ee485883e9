"""The course of a codebase: strain by layer and hard bonds, over the commits of its history."""

from __future__ import annotations

import datetime
from collections.abc import Sequence

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
    layers = sorted(
        {layer for each in points for layer in each.layers},
        key=lambda layer: -max(each.layers[layer].strain if layer in each.layers else 0.0 for each in points),
    )
    styles, strain, bonds = styles_of(sorted(layers)), axes["strain"], axes["bonds"]
    heights = [[each.layers[layer].strain if layer in each.layers else 0.0 for each in points] for layer in layers]
    if heights:
        areas = strain.stackplot(
            days, heights, labels=[layer or "no layer" for layer in layers], colors=[styles[layer][0] for layer in layers]
        )
        for index, area in enumerate(areas):
            area.set(hatch=HATCHES[index % len(HATCHES)], edgecolor=PAPER, linewidth=0.6)
    totals = [each.totals.strain for each in points]
    strain.plot(days, totals, color=INK, linewidth=1.2, marker="o", markersize=3)
    strain.set_ylim(0, max(totals, default=1.0) * ROOM or 1)
    strain.set_ylabel("strain, points")
    bonds.plot(days, [each.totals.hard_bonds for each in points], color=INK, linewidth=1.2, marker="o", markersize=3)
    bonds.set_ylim(0, max((each.totals.hard_bonds for each in points), default=1) * ROOM or 1)
    bonds.set_ylabel("hard bonds")
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
    falls = [(totals[at] - totals[at - 1], at) for at in range(1, len(totals))]
    if falls and min(falls)[0] < 0:
        at = min(falls)[1]
        text = f"{points[at].day}: {points[at].subject[:60]}".replace("$", r"\$")
        place = {"xy": (days[at], totals[at]), "xytext": (0.995, 0.955), "textcoords": "axes fraction"}
        strain.annotate(text, **place, ha="right", fontsize=9, color=FAINT, arrowprops={"arrowstyle": "-", "color": FAINT})
    return written(figure, suffix)
