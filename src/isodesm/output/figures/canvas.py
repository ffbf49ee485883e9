"""What all drawings share: colours that hold for colour-blind readers and in grey, the sheet, and how it is written."""

from __future__ import annotations

import io
from typing import Any

INK, FAINT, PAPER = "#1c2733", "#8a949e", "#ffffff"
BLUE, ORANGE, TEAL, VIOLET = "#2f6690", "#c8553d", "#81b29a", "#6d597a"
"""Dark to light in grey: violet, blue, orange, teal."""
FONT = 10.0
"""Points of the usual text."""


def sheet(width: float, height: float, title: str) -> tuple[Any, Any]:
    """A figure of so many inches and its axes without a frame."""
    figure = _figure(width, height)
    axes = figure.add_subplot()
    axes.set_title(title, loc="left", fontsize=FONT + 3, fontweight="bold", color=INK)
    return figure, axes


def panels(
    width: float, height: float, mosaic: list[list[str]], widths: tuple[float, ...], heights: tuple[float, ...]
) -> tuple[Any, dict[str, Any]]:
    """A figure of several drawings, laid out by their names."""
    figure = _figure(width, height)
    return figure, figure.subplot_mosaic(mosaic, width_ratios=widths, height_ratios=heights)


def _figure(width: float, height: float) -> Any:
    import matplotlib

    matplotlib.use("Agg")
    matplotlib.rcParams.update(
        {
            "svg.hashsalt": "isodesm",
            "svg.fonttype": "none",
            "font.family": "DejaVu Sans",
            "font.size": FONT,
            "text.color": INK,
            "text.parse_math": False,
            "axes.edgecolor": FAINT,
            "axes.labelcolor": INK,
            "xtick.color": INK,
            "ytick.color": INK,
            "hatch.linewidth": 0.6,
        }
    )
    from matplotlib.backends.backend_agg import FigureCanvasAgg
    from matplotlib.figure import Figure

    figure = Figure(figsize=(width, height), dpi=100, facecolor=PAPER, layout="constrained")
    FigureCanvasAgg(figure)
    return figure


def written(figure: Any, suffix: str) -> bytes:
    """The figure in the format of a file suffix, the same bytes each time; text stays text, and the file has its title."""
    buffer = io.BytesIO()
    titles = [figure.get_suptitle(), *(axes.get_title(loc="left") for axes in figure.axes)]
    title = next((each for each in titles if each), "isodesm")
    metadata = {
        ".svg": {"Date": None, "Creator": "isodesm", "Title": title},
        ".png": {"Software": "isodesm"},
        ".pdf": {"Title": title, "CreationDate": None, "Creator": "isodesm", "Producer": "isodesm"},
    }
    figure.savefig(buffer, format=suffix[1:], metadata=metadata[suffix])
    return buffer.getvalue()
