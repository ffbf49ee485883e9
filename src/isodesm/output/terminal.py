"""What all terminal reports share: the console, colours, the header and the footer."""

from __future__ import annotations

import io
import os
import sys

from rich.console import Console
from rich.text import Text

from isodesm.codebase.overview import Overview
from isodesm.facts.languages import dialect_of
from isodesm.output.shape import width_of_terminal
from isodesm.output.text import counted, printable

LEVEL_STYLE = {"error": "bold red", "warning": "yellow", "note": "cyan"}
STRONG, QUIET = "bold", "dim"


def make_console(to_file: bool) -> Console:
    """A console that keeps what is printed: as standard output would show it, or plain, for a file."""
    shown = sys.stdout.isatty() and not to_file and os.environ.get("TERM") != "dumb"
    return Console(
        file=io.StringIO(),
        width=width_of_terminal(),
        highlight=False,
        force_terminal=shown,
        color_system="auto" if shown else None,
    )


def content_of(console: Console) -> bytes:
    """What a console has kept."""
    return console.file.getvalue().encode()  # type: ignore[attr-defined]


def header(console: Console, overview: Overview, shown_root: str) -> None:
    """One line on what was read."""
    spoken = ", ".join(dialect_of(language).title for language in overview.languages)
    line = Text()
    line.append(printable(shown_root), STRONG)
    line.append(
        f"  {spoken} · {counted(overview.files, 'file')} · {counted(overview.lines, 'line')}"
        f" · {counted(overview.classes, 'class', 'classes')}",
        QUIET,
    )
    console.print(line)
