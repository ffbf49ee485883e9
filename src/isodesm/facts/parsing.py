"""Parses source, and makes the best of source that does not parse: another reading, or the offending lines left out."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import cache
from typing import Any

from isodesm.facts.languages import dialect_of
from isodesm.facts.languages.dialect import Dialect

ROUNDS = 3
"""How often offending lines are left out and the rest parsed again; each round costs a parse."""
LARGEST_MENDED = 500_000
"""Bytes up to which a file that does not parse is worth those rounds."""
TOP_SHARE = 6
"""One byte in so many of a topmost node that holds an error counts as lost."""

_NOT_LINE_END = re.compile(rb"[^\r\n]")


@cache
def grammar_of(language: str, suffix: str) -> Any:
    """The grammar of a language, for files with a suffix."""
    from tree_sitter import Language

    return Language(dialect_of(language).grammar(suffix))


@cache
def _parser(language: str, suffix: str) -> Any:
    from tree_sitter import Parser

    return Parser(grammar_of(language, suffix))


def parse(dialect: Dialect, suffix: str, text: bytes) -> tuple[Any, bytes, list[int]]:
    """The root of the syntax tree, the text it is of, which is that with the least that does not parse, and where lines of
    that begin which were left out for it.

    The text has the length and the lines of the one given; what was left out of it is blank.
    """
    parser = _parser(dialect.name, suffix)
    root = parser.parse(text).root_node
    if not root.has_error:
        return root, text, []
    best = (spoilt(root), root, text)
    for reading in dialect.readings(text):
        other = parser.parse(reading).root_node
        best = min(best, (spoilt(other), other, reading), key=lambda each: each[0])
    dropped: list[int] = []
    for _ in range(ROUNDS if len(text) <= LARGEST_MENDED else 0):
        better, lines = _mended(parser, best)
        if better is None:
            break
        best = better
        dropped += lines
    return best[1], best[2], dropped


def raw(language: str, suffix: str, text: bytes) -> Any:
    """The root of the syntax tree of text as it stands, whatever does not parse in it."""
    return _parser(language, suffix).parse(text).root_node


Attempt = tuple[int, Any, bytes]
"""How bad a parse is, its root, and the text it is of."""


def _mended(parser: Any, attempt: Attempt) -> tuple[Attempt | None, list[int]]:
    """A better parse with offending lines left out, and where those begin; None where none is better."""
    amount, root, text = attempt
    lines = _offending_lines(root, text) if amount else []
    for some in (lines, lines[:1]):  # an error may lead to others that are none
        if some:
            mended = _without(text, some)
            other = parser.parse(mended).root_node
            if spoilt(other) + sum(end - start for start, end in some) < amount:
                return (spoilt(other), other, mended), [start for start, _ in some]
    return None, []


def spoilt(root: Any) -> int:
    """How bad a parse is: the bytes of errors, and a share of the topmost nodes that hold any, since a wrong turn inside
    may have taken declarations for something else. A token that was only assumed counts as one byte."""
    total = 0
    for top in root.children:
        errors = _bytes_of_errors(top)
        total += errors + ((top.end_byte - top.start_byte) // TOP_SHARE if errors > 1 else 0)
    return total


def errors_in(root: Any) -> int:
    """The number of errors and of assumed tokens below a node."""
    waiting, total = [root], 0
    while waiting:
        node = waiting.pop()
        total += node.type == "ERROR" or node.is_missing
        if node.has_error:
            waiting += node.children
    return total


def _bytes_of_errors(top: Any) -> int:
    waiting, total = [top], 0
    while waiting:
        node = waiting.pop()
        if node.type == "ERROR":
            total += node.end_byte - node.start_byte + 1
        elif node.has_error:
            total += node.is_missing
            waiting += node.children
    return total


def _offending_lines(root: Any, text: bytes) -> list[tuple[int, int]]:
    """Byte spans of the lines on which errors begin, first to last, each once."""
    found = set()
    for at in _beginnings(root):
        start = max(text.rfind(b"\n", 0, at), text.rfind(b"\r", 0, at)) + 1
        ends = [end for end in (text.find(b"\n", at), text.find(b"\r", at)) if end >= 0]
        found.add((start, min(ends, default=len(text))))
    return sorted(found)


def _beginnings(root: Any) -> Iterator[int]:
    """Where errors begin: at the first loose token in each topmost one, past what was parsed before it."""
    waiting = [root]
    while waiting:
        node = waiting.pop()
        if node.type == "ERROR":
            loose = next((child for child in node.children if not child.is_named or child.type == "ERROR"), node)
            yield loose.start_byte
        elif node.has_error:
            waiting += node.children


def _without(text: bytes, spans: list[tuple[int, int]]) -> bytes:
    kept, position = [], 0
    for start, end in spans:
        kept += [text[position:start], _NOT_LINE_END.sub(b" ", text[start:end])]
        position = end
    return b"".join((*kept, text[position:]))
