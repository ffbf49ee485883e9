"""Texts that are kept at hand once they were asked for, up to so many bytes."""

from __future__ import annotations

from collections.abc import Callable


def bounded(read: Callable[[int], bytes], most: int) -> Callable[[int], bytes]:
    """`read` with its answers kept; those that were not asked for longest go once there are more than `most` bytes of them."""
    kept: dict[int, bytes] = {}
    size = 0

    def ask(key: int) -> bytes:
        nonlocal size
        found = kept.pop(key, None)
        if found is None:
            found = read(key)
            size += len(found)
        kept[key] = found  # the last in order is the newest
        while size > most and len(kept) > 1:
            size -= len(kept.pop(next(iter(kept))))
        return found

    return ask
