"""Foreign text in the cells of tables that programs and people read: nothing in it is a formula, a mark or a control code."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Callable, Iterable

from isodesm.output.text import printable

_FORMULA = ("=", "+", "-", "@")
_CODE = re.compile(r"(`[^`]*`)")
_PUNCTUATED = re.compile(r"\\(?=[!-/:-@\[-`{-~])")
_RUN = re.compile(r"`+")
_MARKS = re.compile(r"([\[\]|`])")


def csv_lines(rows: Iterable[Iterable[object]]) -> bytes:
    """Rows as RFC 4180 CSV in UTF-8."""
    buffer = io.StringIO()
    writer = csv.writer(buffer, lineterminator="\r\n")
    writer.writerows([_csv_cell(cell) for cell in row] for row in rows)
    return buffer.getvalue().encode()


def _csv_cell(cell: object) -> object:
    """A cell with control characters spelt out, and a quote in front where a spreadsheet would take it for a formula."""
    if not isinstance(cell, str):
        return cell
    text = cell if cell.isprintable() else printable(" ".join(cell.splitlines()))
    return f"'{text}" if text.lstrip()[:1] in _FORMULA and text else text


def markdown_cell(text: str) -> str:
    """A cell of a Markdown table: on one line, and as it is written. What stands in backticks is code, and only parted by no
    bar."""
    return _between_code(text, lambda part: part.replace("|", "\\|"))


def prose(text: str) -> str:
    """A sentence for Markdown: what stands in backticks is code, and nothing else is a mark."""
    return _between_code(text, str)


def _between_code(text: str, code: Callable[[str], str]) -> str:
    parts = _CODE.split(printable(" ".join(text.split("\n"))))
    return "".join(code(part) if part[:1] == "`" and len(part) > 1 else plain(part) for part in parts)


def code_span(text: str) -> str:
    """Text as code on one line, be there backticks in it."""
    text = printable(" ".join(text.split("\n")))
    return f"`{text}`" if "`" not in text else f"`` {text} ``" if "``" not in text else plain(text)


def fence_for(lines: Iterable[str]) -> str:
    """Backticks that no line of a block of code ends."""
    longest = max((len(run) for line in lines for run in _RUN.findall(line)), default=0)
    return "`" * max(3, longest + 1)


def plain(text: str) -> str:
    """Text for Markdown in which nothing is a mark."""
    text = _PUNCTUATED.sub(r"\\\\", text).replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
    return _MARKS.sub(r"\\\1", text)
