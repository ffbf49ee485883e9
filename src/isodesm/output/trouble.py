"""Trouble with files, a line each, for standard error."""

from __future__ import annotations

from isodesm.codebase.overview import Overview
from isodesm.output.text import counted, printable

TROUBLE_SHOWN = 8
"""Lines of trouble that a report shows; --verbose shows all."""


def trouble_lines(overview: Overview, everything: bool) -> list[str]:
    """Trouble with files and what was left out, for standard error."""
    shown = overview.trouble if everything else overview.trouble[:TROUBLE_SHOWN]
    lines = [
        f"{printable(each.path)}{f':{each.line}' if each.line else ''} {printable(each.reason)}".lstrip() for each in shown
    ]
    if hidden := len(overview.trouble) - len(shown):
        lines.append(f"… and {counted(hidden, 'more remark')} about files; --verbose shows all")
    if everything and overview.left_out:
        lines.append("left out: " + ", ".join(f"{count} × {reason}" for reason, count in overview.left_out.items()))
    return lines
