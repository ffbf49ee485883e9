"""Changes of a file: spans of its original text with what goes there, and single edits of a step."""

from __future__ import annotations

from typing import NamedTuple

LAST = 1 << 62
"""More than the length of any file."""


class Amendment(NamedTuple):
    """Bytes `start` to `end` of a file's original text give way to `text`. At one place the lower `rank` comes first.

    `action` says in words what is done.
    """

    start: int
    end: int
    rank: int
    text: str
    action: str = ""


class Change(NamedTuple):
    """One edit of a step: bytes `start` to `end` of the text before it become `text`; `actions` in words."""

    start: int
    end: int
    text: str
    actions: tuple[str, ...]
