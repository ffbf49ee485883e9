"""What a run is at: shown on a terminal while it lasts, and told with its seconds where that was asked for."""

from __future__ import annotations

import os
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

LAST = ("drawing", "writing")
"""Phases that begin first, for they ask for the others."""


class Phases:
    """The phases of one run, each with its own seconds: what another takes in the midst of it is not counted twice."""

    def __init__(self, *, quiet: bool = True) -> None:
        self.seconds: dict[str, float] = {}
        self._shown = sys.stderr.isatty() and not quiet and os.environ.get("TERM") != "dumb"
        self._under_way: list[str] = []
        self._since = time.perf_counter()
        self._bar: Any = None

    @contextmanager
    def during(self, name: str) -> Iterator[Callable[[str, int, int], None]]:
        """A phase; what is given takes the name of a part of it, and how much of how much is done."""
        self._turn_to(name)
        try:
            yield self._tell
        finally:
            self._count()
            self._under_way.pop()
            if not self._under_way:
                self._hide()
            else:
                self._show(self._under_way[-1], 0, None)

    def said(self) -> str:
        """The phases with their seconds, in order."""
        ordered = sorted(self.seconds.items(), key=lambda phase: phase[0] in LAST)
        parts = ", ".join(f"{name} {seconds:.2f} s" for name, seconds in ordered)
        return f"isodesm: {parts}" if parts else "isodesm: nothing has changed since; given as it was worked out then"

    def _turn_to(self, name: str) -> None:
        self._count()
        self._under_way.append(name)
        self._show(name, 0, None)

    def _tell(self, name: str, done: int, total: int) -> None:
        """A part of a phase has come so far."""
        if name == "done":
            return
        if self._under_way[-1] != name:
            self._count()
            self._under_way[-1] = name
        self._show(name, done, total if done else None)

    def _count(self) -> None:
        now = time.perf_counter()
        if self._under_way:
            name = self._under_way[-1]
            self.seconds[name] = self.seconds.get(name, 0.0) + now - self._since
        self._since = now

    def _show(self, name: str, done: int, total: int | None) -> None:
        if not self._shown:
            return
        if self._bar is None:
            from rich.console import Console
            from rich.progress import BarColumn, Progress, TextColumn

            columns = TextColumn("{task.description}"), BarColumn(), TextColumn("{task.fields[count]}")
            self._bar = Progress(*columns, console=Console(stderr=True), transient=True)
            self._bar.start()
            self._bar.add_task(name, total=None, count="")
        count = f"{done} of {total}" if total else ""
        self._bar.update(self._bar.task_ids[0], description=name, completed=done, total=total, count=count)

    def _hide(self) -> None:
        if self._bar is not None:
            self._bar.stop()
            self._bar = None
