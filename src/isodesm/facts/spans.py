"""Byte ranges, and which of them are around a place, found without a look at all of them."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Iterator
from operator import itemgetter
from typing import Generic, TypeVar

T = TypeVar("T")


class Spans(Generic[T]):
    """Ranges `(start, end, what)`, the end not included. They mostly lie in each other, as blocks do, but need not.

    Each knows the last one before it that had not ended where it starts: from the last that starts in front of a place, all
    that are around the place are reached so, and those that lie side by side are passed over.
    """

    def __init__(self, ranges: Iterable[tuple[int, int, T]]) -> None:
        numbered = sorted(enumerate(ranges), key=lambda each: (each[1][0], -each[1][1]))
        self._starts = [start for _, (start, _, _) in numbered]
        self._ranges = [(end, number, what) for number, (_, end, what) in numbered]
        self._before: list[int] = []
        open_ones: list[int] = []
        for index, start in enumerate(self._starts):
            while open_ones and self._ranges[open_ones[-1]][0] <= start:
                open_ones.pop()
            self._before.append(open_ones[-1] if open_ones else -1)
            open_ones.append(index)

    def around(self, at: int) -> list[T]:
        """What belongs to the ranges around a place, in the order in which they were given."""
        return [what for _, _, what in sorted(self._reached(at), key=itemgetter(1))]

    def is_any_around(self, at: int) -> bool:
        """Whether there is one around a place."""
        return next(self._reached(at), None) is not None

    def _reached(self, at: int) -> Iterator[tuple[int, int, T]]:
        index = bisect_right(self._starts, at) - 1
        while index >= 0:
            if at < self._ranges[index][0]:
                yield self._ranges[index]
            index = self._before[index]
