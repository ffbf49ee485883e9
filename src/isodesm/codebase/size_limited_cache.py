"""What is kept at hand once it was asked for, up to so much of it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

Kept = TypeVar("Kept")


def bounded(make: Callable[[int], Kept], size_of: Callable[[Kept], int], most: int) -> Callable[[int], Kept]:
    """`make` with its answers kept; those that were not asked for longest go once their sizes come to more than `most`."""
    kept: dict[int, Kept] = {}
    size = 0

    def ask(key: int) -> Kept:
        nonlocal size
        found = kept.pop(key, None)
        if found is None:
            found = make(key)
            size += size_of(found)
        kept[key] = found  # the last in order is the newest
        while size > most and len(kept) > 1:
            size -= size_of(kept.pop(next(iter(kept))))
        return found

    return ask
