"""What a plan leads to: strain and hard bonds that are left after each step, by layer."""

from __future__ import annotations

from typing import Any

from isodesm.output.figures.canvas import FAINT, INK, PAPER, panels, written
from isodesm.output.figures.ranking import styles_of
from isodesm.planning.steps import Measures, Plan

HATCHES = ("", "//", "..", "xx", "\\\\", "++")
"""Hatching of the layers, for print in grey."""
MOST_BARS = 60
"""Steps of longer plans are drawn every so many."""
ROOM = 1.3
"""Height of the axes to that of the highest bar, so that names of classes fit in."""


def draw_progress(plan: Plan, title: str, suffix: str) -> bytes:
    """Two stacks of bars, a bar a step, in the format of a file suffix; one that says so where there is no step."""
    figure, axes = panels(12.8, 7.6, [["strain"], ["bonds"]], (1.0,), (1.5, 1.0))
    figure.suptitle(f"{title}: what is left after each step", x=0.01, ha="left", fontsize=14, fontweight="bold", color=INK)
    states = [plan.steps[0].before, *(step.after for step in plan.steps)] if plan.steps else []
    shown = sorted({*range(0, len(states), max(1, -(-len(states) // MOST_BARS))), *([len(states) - 1] if states else [])})
    names = ["today" if number == 0 else str(plan.steps[number - 1].number) for number in shown]
    whole, states = len(states) == len(shown), [states[number] for number in shown]
    layers = sorted(
        {layer for state in states for layer in state.by_layer},
        key=lambda layer: -max(state.by_layer.get(layer, (0.0, 0))[0] for state in states),
    )
    _stack(axes["strain"], states, layers, 0, "strain, points")
    _stack(axes["bonds"], states, layers, 1, "hard bonds")
    axes["strain"].set_xticks(range(len(states)), [])
    axes["bonds"].set_xticks(range(len(states)), names, fontsize=9 if len(names) <= MOST_BARS // 2 else 7)
    axes["bonds"].set_xlabel("step" if states else "no step was planned")
    if layers:
        axes["strain"].legend(loc="upper right", frameon=False, fontsize=9)
    if whole:
        _marks(axes["strain"], plan, states)
    return written(figure, suffix)


def _stack(axes: Any, states: list[Measures], layers: list[str], which: int, label: str) -> None:
    bottom = [0.0] * len(states)
    styles = styles_of(sorted(layers))
    for index, layer in enumerate(layers):
        heights = [float(state.by_layer.get(layer, (0.0, 0))[which]) for state in states]
        axes.bar(
            range(len(states)),
            heights,
            bottom=bottom,
            color=styles[layer][0],
            hatch=HATCHES[index % len(HATCHES)],
            edgecolor=PAPER,
            linewidth=0.6,
            label=layer or "no layer",
            width=0.78,
        )
        bottom = [one + other for one, other in zip(bottom, heights, strict=True)]
    for x, total in enumerate(bottom if len(bottom) <= MOST_BARS // 2 else []):
        axes.text(x, total, f"{total:g}", ha="center", va="bottom", fontsize=8, color=INK)
    axes.set_ylabel(label)
    axes.set_ylim(0, max(bottom, default=1) * ROOM or 1)
    axes.yaxis.get_major_locator().set_params(integer=True)
    axes.spines[["top", "right"]].set_visible(False)


def _marks(axes: Any, plan: Plan, states: list[Measures]) -> None:
    """A mark under each bar after which the strain fell, with the class that was freed."""
    for number, step in enumerate(plan.steps, 1):
        if states[number].strain < states[number - 1].strain:
            name = step.classes[0].replace("\\", ".").replace("#", ".").rpartition(".")[2]
            axes.text(
                number,
                states[number].strain + max(states[0].strain, 1) * 0.055,
                name,
                rotation=90,
                ha="center",
                va="bottom",
                fontsize=7.5,
                color=FAINT,
            )
