"""Places as the protocol of editors counts them: lines from 0, and in a line code units of UTF-16."""

from __future__ import annotations

import difflib
import re
from bisect import bisect_right
from typing import Any

_ENDS = re.compile(rb"\r\n|\n|\r")
Position = dict[str, int]
Range = dict[str, Position]


class Lines:
    """The lines of a UTF-8 text."""

    def __init__(self, text: bytes) -> None:
        self.text = text
        self.starts = [0, *(found.end() for found in _ENDS.finditer(text))]

    def at(self, offset: int) -> Position:
        """The position of a byte."""
        line = bisect_right(self.starts, offset) - 1
        return {"line": line, "character": _units(self.text[self.starts[line] : offset].decode("utf-8", "replace"))}

    def range(self, start: int, end: int) -> Range:
        """From byte `start` to `end`, exclusive."""
        return {"start": self.at(start), "end": self.at(end)}

    def offset(self, position: Position) -> int:
        """The byte at a position; the end of its line where that is shorter, of the text where there is no such line."""
        if position["line"] >= len(self.starts):
            return len(self.text)
        line = self._line(position["line"])
        units, taken = position["character"], 0
        for index, character in enumerate(line):
            if taken >= units:
                return self.starts[position["line"]] + len(line[:index].encode("utf-8", "surrogateescape"))
            taken += 2 if ord(character) > 0xFFFF else 1
        return self.starts[position["line"]] + len(line.encode("utf-8", "surrogateescape"))

    def span(self, line: int, column: int, end_column: int) -> Range:
        """A span in a line, its columns counted from 1 in characters, as findings have it."""
        line = min(max(line - 1, 0), len(self.starts) - 1)
        text = self._line(line)
        ends = (_units(text[: max(each - 1, 0)]) for each in (column, end_column))
        start, end = ({"line": line, "character": each} for each in ends)
        return {"start": start, "end": end}

    def indent(self, line: int) -> str:
        """The white space that a line, counted from 0, begins with."""
        text = self._line(line)
        return text[: len(text) - len(text.lstrip())]

    def _line(self, line: int) -> str:
        end = self.starts[line + 1] if line + 1 < len(self.starts) else len(self.text)
        return self.text[self.starts[line] : end].decode("utf-8", "surrogateescape").rstrip("\r\n")


def _units(text: str) -> int:
    return len(text) + sum(ord(each) > 0xFFFF for each in text)


def edits_between(before: bytes, after: bytes) -> list[dict[str, Any]]:
    """The edits that make one text of another, in whole lines."""
    lines = Lines(before)
    old, new = (_split(each) for each in (before, after))
    starts = [0]
    for each in old:
        starts.append(starts[-1] + len(each))
    matcher = difflib.SequenceMatcher(None, old, new, autojunk=False)
    return [
        {
            "range": lines.range(starts[a], starts[b]),
            "newText": b"".join(new[c:d]).decode("utf-8", "surrogateescape"),
        }
        for tag, a, b, c, d in matcher.get_opcodes()
        if tag != "equal"
    ]


def _split(text: bytes) -> list[bytes]:
    ends = [0, *(found.end() for found in _ENDS.finditer(text))]
    if ends[-1] != len(text):
        ends.append(len(text))
    return [text[start:end] for start, end in zip(ends, ends[1:], strict=False)]
