"""What reports say of a tree as a whole: small enough to be kept, so that a report can be made without the tree."""

from __future__ import annotations

from typing import Any

import msgspec

from isodesm.facts.records import Trouble
from isodesm.settings import StrainWeights


class Shown(msgspec.Struct, frozen=True, array_like=True):
    """A type that stands for itself: its number in the codebase, its names, where it is, its role and layer."""

    number: int
    name: str
    """Qualified."""
    simple: str
    path: str
    role: str
    layer: str
    members: str = ""
    """Four hexadecimal digits for each name of a member, sorted: what a class is known by when it is renamed."""


class Overview(msgspec.Struct, frozen=True):
    """A tree in numbers and names. `languages` counts files, `settings` are those that shape results."""

    languages: dict[str, int]
    lines: int
    classes: int
    layers: tuple[str, ...]
    left_out: dict[str, int]
    trouble: tuple[Trouble, ...]
    settings: dict[str, Any]
    strain: StrainWeights
    shown: tuple[Shown, ...]
    root: str = "."
    """What paths are relative to, as results for programs say it."""

    @property
    def files(self) -> int:
        """Files that were read."""
        return sum(self.languages.values())
