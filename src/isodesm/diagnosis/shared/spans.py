"""The place of a finding: line and columns, and the source line that stands there."""

from __future__ import annotations

from typing import NamedTuple

SNIPPET_LIMIT = 240
"""Characters of a source line that a finding carries; longer lines are machine-made."""


class Span(NamedTuple):
    """Line, column and end column (exclusive, on the same line), counted from 1 in characters, and the text of that line."""

    line: int
    column: int
    end_column: int
    snippet: str


def span_of(text: bytes, start: int, end: int, line: int = 0) -> Span:
    """The span from byte `start` to `end`, cut at the end of its first line; `line` is its number where that is known."""
    line_start = text.rfind(b"\n", 0, start) + 1
    line_start = max(line_start, text.rfind(b"\r", line_start, start) + 1)
    found = text.find(b"\n", start)
    line_end = found if found >= 0 else len(text)
    found = text.find(b"\r", start, line_end)  # within the line: most files have none to the end
    line_end = found if found >= 0 else line_end
    column = len(text[line_start:start].decode("utf-8", "replace")) + 1
    width = max(len(text[start : min(end, line_end)].decode("utf-8", "replace")), 1)
    snippet = text[line_start:line_end].decode("utf-8", "replace").rstrip()
    return Span(line or text.count(b"\n", 0, start) + 1, column, column + width, snippet[:SNIPPET_LIMIT])


def span_of_line(text: bytes, line: int, column: int = 1) -> Span:
    """The rest of a line from a column on."""
    lines = text.split(b"\n")
    content = lines[line - 1].decode("utf-8", "replace").rstrip() if 0 < line <= len(lines) else ""
    indent = len(content) - len(content.lstrip())
    column = max(column, indent + 1)
    return Span(line, column, max(len(content) + 1, column + 1), content[:SNIPPET_LIMIT])
