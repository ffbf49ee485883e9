"""The tree of objects below a class, from left to right."""

from __future__ import annotations

from isodesm.output.figures.canvas import BLUE, FAINT, INK, ORANGE, PAPER, TEAL, VIOLET, sheet, written
from isodesm.queries.object_tree import ObjectNode

FILL = {"singleton": BLUE, "scoped": VIOLET, "transient": TEAL}
ROWS_SHOWN = 48
"""Lines of the drawing; the rest is counted at its end."""


def draw_objects(tree: ObjectNode, title: str, suffix: str) -> bytes:
    """The drawing in the format of a file suffix."""
    rows = _rows(tree)
    shown = rows[:ROWS_SHOWN]
    depth = max(level for level, _, _ in shown)
    column = max(max((len(_name(node)) for _, node, _ in shown), default=10) * 0.085 + 0.9, 2.4)
    figure, axes = sheet(
        max(column * (depth + 1) + 1.5, 9),
        max(0.42 * len(shown) + 1.7, 3.5),
        f"{title}: what it takes to have one {_name(tree)}",
    )
    axes.set_axis_off()
    axes.set_xlim(-0.1, column * (depth + 1) + 0.6)
    axes.set_ylim(-len(shown) - 1.6, 0.8)
    for line, (level, node, parent) in enumerate(shown):
        x, y = level * column, -line
        if parent >= 0:
            px = (level - 1) * column
            made = node.how in ("creates", "unknown")
            style = {
                "color": ORANGE if made else FAINT,
                "linewidth": 1.6 if made else 1.1,
                "linestyle": (0, (3, 1.5)) if made else "solid",
                "zorder": 1,
            }
            axes.plot([px, px, x - 0.1], [-parent - 0.16, y, y], **style)
        axes.scatter(
            [x + 0.0],
            [y],
            s=70,
            color=FILL.get(node.lifetime, PAPER),
            edgecolors=ORANGE if node.how in ("creates", "unknown") else INK,
            linewidths=1.3,
            zorder=3,
        )
        label = _name(node) + (f" as {node.wanted}" if node.wanted and node.wanted != _name(node) else "")
        axes.text(x + 0.14, y + 0.02, label, va="center", fontsize=10, fontweight="bold" if level == 0 else "normal")
        note = " · ".join(each for each in (node.how if node.how != "root" else "", node.lifetime) if each)
        axes.text(x + 0.14, y - 0.34, note, va="center", fontsize=7.5, color="#5c6873")
    if len(rows) > len(shown):
        axes.text(0, -len(shown), f"… and {len(rows) - len(shown)} objects more", color=FAINT)
    _legend(axes)
    return written(figure, suffix)


def _name(node: ObjectNode) -> str:
    return node.name.replace("\\", ".").replace("#", ".").rpartition(".")[2]


def _rows(tree: ObjectNode) -> list[tuple[int, ObjectNode, int]]:
    """(level, node, line of its parent) in the order in which they are drawn."""
    found: list[tuple[int, ObjectNode, int]] = []

    def visit(node: ObjectNode, level: int, parent: int) -> None:
        found.append((level, node, parent))
        own = len(found) - 1
        for child in node.children:
            visit(child, level + 1, own)

    visit(tree, 0, -1)
    return found


def _legend(axes) -> None:
    from matplotlib.lines import Line2D

    dots = [
        Line2D([], [], marker="o", linestyle="", markersize=8, markerfacecolor=colour, markeredgecolor=INK, label=name)
        for name, colour in FILL.items()
    ]
    dots.append(
        Line2D(
            [], [], marker="o", linestyle="", markersize=8, markerfacecolor=PAPER, markeredgecolor=INK, label="no registration"
        )
    )
    dots.append(
        Line2D([], [], color=ORANGE, linewidth=1.6, linestyle=(0, (3, 1.5)), label="creates it itself, or nothing is known")
    )
    axes.legend(handles=dots, loc="lower left", frameon=False, ncols=5, fontsize=9)
