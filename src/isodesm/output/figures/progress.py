"""What a plan leads to: strain and hard bonds that are left after each step, by layer."""

from __future__ import annotations

from typing import Any

from isodesm.output.figures.canvas import INK, PAPER, panels, written
from isodesm.output.figures.ranking import styles_of
from isodesm.planning.model.step import Measures, Plan

HATCHES = ("", "//", "..", "xx", "\\\\", "++")
"""Hatching of the layers, for print in grey."""
MOST_BARS = 60
"""Steps of longer plans are drawn every so many."""
ROOM = 1.3
"""Height of the axes to that of the highest bar, so that names of classes fit in."""


GAIN_BELOW = 0.4
"""Share of what there is today: a plan that takes less away is drawn by what it takes away."""


def draw_progress(plan: Plan, title: str, suffix: str) -> bytes:
    """Two stacks of bars, a bar a step, in the format of a file suffix; one that says so where there is no step.

    They are what is left; of a plan that takes only a small part of it away, what is gone by then.
    """
    figure, axes = panels(12.8, 7.6, [["strain"], ["bonds"]], (1.0,), (1.5, 1.0))
    states = [plan.steps[0].before, *(step.after for step in plan.steps)] if plan.steps else []
    gain = bool(states) and states[0].strain - states[-1].strain < GAIN_BELOW * states[0].strain
    what = "what is gone after each step" if gain else "what is left after each step"
    figure.suptitle(f"{title}: {what}", x=0.01, ha="left", fontsize=14, fontweight="bold", color=INK)
    shown = sorted({*range(0, len(states), max(1, -(-len(states) // MOST_BARS))), *([len(states) - 1] if states else [])})
    names = ["today" if number == 0 else str(plan.steps[number - 1].number) for number in shown]
    whole = len(states) == len(shown)
    layers = sorted(
        {layer for state in states for layer in state.by_layer},
        key=lambda layer: -max(_of(state, layer, 0) for state in states),
    )
    for which, (name, unit) in enumerate((("strain", "strain, points"), ("bonds", "hard bonds"))):
        heights = {layer: [_height(states, number, layer, which, gain) for number in shown] for layer in layers}
        total = sum(_of(states[0], layer, which) for layer in layers) if states else 0
        _stack(axes[name], heights, f"{unit} gone, of {total:,g}" if gain else unit)
    axes["strain"].set_xticks(range(len(shown)), [])
    axes["bonds"].set_xticks(range(len(shown)), names, fontsize=9 if len(names) <= MOST_BARS // 2 else 7)
    axes["bonds"].set_xlabel("step" if states else "no step was planned")
    if layers:
        axes["strain"].legend(
            loc="lower right", bbox_to_anchor=(1.0, 1.0), ncols=min(len(layers), 6), frameon=False, fontsize=9
        )
    if whole:
        _marks(axes["strain"], plan, states, gain)
    return written(figure, suffix)


def _of(state: Measures, layer: str, which: int) -> float:
    return float(state.by_layer.get(layer, (0.0, 0))[which])


def _height(states: list[Measures], number: int, layer: str, which: int, gain: bool) -> float:
    """What is left of a layer after a step, or what is gone of it; a layer that took something over has gained nothing."""
    left = _of(states[number], layer, which)
    return max(_of(states[0], layer, which) - left, 0.0) if gain else left


def _stack(axes: Any, heights: dict[str, list[float]], label: str) -> None:
    bottom = [0.0] * max(map(len, heights.values()), default=0)
    styles = styles_of(sorted(heights))
    for index, (layer, own) in enumerate(heights.items()):
        axes.bar(
            range(len(own)),
            own,
            bottom=bottom,
            color=styles[layer][0],
            hatch=HATCHES[index % len(HATCHES)],
            edgecolor=PAPER,
            linewidth=0.6,
            label=layer or "no layer",
            width=0.78,
        )
        bottom = [one + other for one, other in zip(bottom, own, strict=True)]
    for x, total in enumerate(bottom if len(bottom) <= MOST_BARS // 2 else []):
        axes.text(x, total, f"{total:g}", ha="center", va="bottom", fontsize=8, color=INK)
    axes.set_ylabel(label)
    axes.set_ylim(0, max(bottom, default=1) * ROOM or 1)
    axes.yaxis.get_major_locator().set_params(integer=True)
    axes.spines[["top", "right"]].set_visible(False)


def _marks(axes: Any, plan: Plan, states: list[Measures], gain: bool) -> None:
    """A mark over each bar after which the strain fell, with the class that was freed."""
    room = axes.get_ylim()[1]
    for number, step in enumerate(plan.steps, 1):
        if states[number].strain < states[number - 1].strain:
            name = step.classes[0].replace("\\", ".").replace("#", ".").rpartition(".")[2]
            height = states[0].strain - states[number].strain if gain else states[number].strain
            axes.annotate(
                name,
                (number, min(height, room)),
                (0, 12 if len(states) <= MOST_BARS // 2 else 4),
                textcoords="offset points",
                rotation=90,
                ha="center",
                va="bottom",
                fontsize=7.5,
                color="#5c6873",
            )
