"""The course of a codebase: what a scan of each of some revisions finds."""

from __future__ import annotations

import datetime

import msgspec

from isodesm.drifting.mark import Totals


class Point(msgspec.Struct, frozen=True):
    """One revision: its commit, seconds since 1970, and what a scan finds in all and by layer."""

    commit: str
    time: int
    subject: str
    totals: Totals
    layers: dict[str, Totals]
    lines: int

    @property
    def day(self) -> str:
        """The day of the commit in universal time."""
        return datetime.datetime.fromtimestamp(self.time, datetime.UTC).date().isoformat()
