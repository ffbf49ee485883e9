"""How much is shown, and how wide: known without what draws on a terminal, since an answer given before needs no drawing."""

from __future__ import annotations

import os
import shutil
import sys
from typing import NamedTuple

DEFAULT_WIDTH = 100
"""Columns where the output is no terminal and COLUMNS is not set."""


class View(NamedTuple):
    """How much of a scan is shown: how many classes (0: all), whether findings are shown in full, excused places, and those of
    which nobody can tell."""

    top: int = 10
    full: bool = False
    excused: bool = False
    unknown: bool = False
    base: str = ""
    """What leads from the current folder to the tree: put before paths, so that terminals can open them."""


def width_of_terminal() -> int:
    """Columns to write for: what COLUMNS says, else the terminal's own, else a usual width."""
    given = os.environ.get("COLUMNS", "")
    if given.isdigit() and int(given):
        return int(given)
    return shutil.get_terminal_size().columns if sys.stdout.isatty() else DEFAULT_WIDTH
