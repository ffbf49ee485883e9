"""A trace as a sequence: classes side by side in the order in which they come in, calls downwards."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from isodesm.output.figures.canvas import BLUE, FAINT, INK, ORANGE, PAPER, sheet, written
from isodesm.queries.trace import Hop, Trace, shown_type

MESSAGES_SHOWN, LANES_SHOWN = 44, 13
"""Calls and classes that are drawn on a page; the calls behind them are counted below."""
EFFECT = "#f3d9d2"


def draw_sequence(found: Trace, title: str, suffix: str) -> bytes:
    """The drawing in the format of a file suffix."""
    start = found.start
    every = list(_messages(start))
    lanes: dict[str, str] = {_label(start): ""}
    shown = []
    for message in every[:MESSAGES_SHOWN]:
        if len(lanes.keys() | set(message[:2])) > LANES_SHOWN:
            break
        lanes.update(dict.fromkeys(message[:2], ""))
        shown.append(message)
    effects = {other for _, other, hop in shown if hop.effect}
    order = [name for name in lanes if name not in effects] + [name for name in lanes if name in effects]
    places = {name: index for index, name in enumerate(order)}
    figure, axes = sheet(
        max(1.12 * len(lanes), 9.0), max(0.29 * len(shown) + 2.0, 4.0), f"{title}: {_label(start)}.{start.member}"
    )
    axes.set_axis_off()
    axes.set_xlim(-0.55, len(lanes) - 0.35)
    axes.set_ylim(-len(shown) - 2.4, 1.9)
    for name, x in places.items():
        axes.plot([x, x], [0.55, -len(shown) - 0.6], color=FAINT, linewidth=0.9, linestyle=(0, (4, 3)), zorder=1)
        axes.text(
            x,
            1.0,
            _broken(name),
            ha="center",
            va="center",
            fontsize=9,
            fontweight="bold",
            bbox={"boxstyle": "round,pad=0.35", "facecolor": EFFECT if name in effects else "#e8eef3", "edgecolor": FAINT},
            zorder=4,
        )
    for line, (one, other, hop) in enumerate(shown):
        _draw_message(axes, places[one], places[other], -line - 0.2, hop)
    if len(every) > len(shown):
        axes.text(
            -0.4,
            -len(shown) - 1.0,
            f"… and {len(every) - len(shown):,} calls more: begin further down, or `--depth`",
            color=FAINT,
        )
    _legend(axes)
    return written(figure, suffix)


def _label(hop: Hop) -> str:
    return hop.effect or hop.class_name.replace("\\", ".").replace("#", ".").rpartition(".")[2]


def _broken(name: str) -> str:
    """A long name over two lines, broken before a capital letter near its middle."""
    if len(name) <= 12:
        return name
    capitals = [index for index in range(4, len(name) - 3) if name[index].isupper() or name[index] in "_-"]
    middle = min(capitals, key=lambda index: abs(index - len(name) / 2), default=len(name) // 2)
    return f"{name[:middle]}\n{name[middle:]}"


def _messages(hop: Hop) -> Iterator[tuple[str, str, Hop]]:
    for each in hop.hops:
        yield _label(hop), _label(each), each
        yield from _messages(each)


def _draw_message(axes: Any, start: int, end: int, y: float, hop: Hop) -> None:
    """An arrow with the member above it; a loop beside the lane where a class calls itself."""
    colour = ORANGE if hop.hard else BLUE
    style = (0, (4, 1.6)) if hop.hard else "solid"
    back = f" ⇒ {shown_type(hop.returns)}" if hop.returns and shown_type(hop.returns) else ""
    text = f"{hop.member}{back}" + ("  (again)" if hop.cut == "again" else "  …" if hop.cut else "")
    if start == end:
        axes.plot(
            [start, start + 0.16, start + 0.16, start],
            [y + 0.2, y + 0.2, y - 0.2, y - 0.2],
            color=colour,
            linewidth=1.2,
            linestyle=style,
        )
        axes.text(
            start + 0.2,
            y,
            text,
            fontsize=7.8,
            va="center",
            color=INK,
            bbox={"facecolor": PAPER, "edgecolor": "none", "pad": 0.4},
            zorder=3,
        )
        return
    axes.annotate(
        "",
        xy=(end, y),
        xytext=(start, y),
        arrowprops={"arrowstyle": "-|>", "color": colour, "linewidth": 1.3, "linestyle": style, "shrinkA": 0, "shrinkB": 0},
        zorder=2,
    )
    side = 0.06 if end > start else -0.06
    axes.text(
        start + side,
        y + 0.1,
        text,
        fontsize=7.8,
        va="bottom",
        ha="left" if end > start else "right",
        color=INK,
        bbox={"facecolor": PAPER, "edgecolor": "none", "pad": 0.3, "alpha": 0.85},
        zorder=3,
    )


def _legend(axes: Any) -> None:
    from matplotlib.lines import Line2D
    from matplotlib.patches import Patch

    axes.legend(
        handles=[
            Line2D([], [], color=BLUE, linewidth=1.6, label="call"),
            Line2D([], [], color=ORANGE, linewidth=1.6, linestyle=(0, (4, 1.6)), label="hard bond"),
            Patch(facecolor=EFFECT, edgecolor=FAINT, label="effect"),
        ],
        loc="lower left",
        ncols=3,
        frameon=False,
        fontsize=9,
    )
