"""Conditional sections of C# source: what is left when one branch of each is taken, every byte in its place.

Most files parse with all branches in; where braces or calls are split over branches, only one of them can be read.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator

_DIRECTIVE = re.compile(rb"^[ \t]*+#[ \t]*+(if|elif|else|endif|define|undef)\b[ \t]*([^\r\n]*)", re.MULTILINE)
_TOKEN = re.compile(rb"&&|\|\||==|!=|[!()]|\w+")
_NOT_LINE_END = re.compile(rb"[^\r\n]")
DEPTH_LIMIT = 40
"""Tokens of a condition beyond which it is taken to hold: nobody writes longer ones by hand."""


def readings(text: bytes) -> Iterator[bytes]:
    """Texts to try when `text` does not parse: as compiled without any symbol, then with every first branch taken."""
    if b"#" in text and _DIRECTIVE.search(text):
        yield _taken(text, first=False)
        yield _taken(text, first=True)


def _holds(condition: bytes, symbols: set[bytes]) -> bool:
    tokens = _TOKEN.findall(condition.partition(b"//")[0])
    if len(tokens) > DEPTH_LIMIT:
        return True
    try:
        left = list(reversed(tokens))
        value = _either(left, symbols)
    except IndexError:  # it ends too early
        return True
    return value or bool(left)


Part = Callable[[list[bytes], set[bytes]], bool]


def _row(left: list[bytes], symbols: set[bytes], part: Part, sign: bytes) -> list[bool]:
    """The values of parts with a sign between them."""
    values = [part(left, symbols)]
    while left and left[-1] == sign:
        left.pop()
        values.append(part(left, symbols))
    return values


def _either(left: list[bytes], symbols: set[bytes]) -> bool:
    """What comes next of a condition, tokens in reverse, up to a `)` or the end. IndexError where it ends too early."""
    return any(_row(left, symbols, _both, b"||"))


def _both(left: list[bytes], symbols: set[bytes]) -> bool:
    return all(_row(left, symbols, _equal, b"&&"))


def _equal(left: list[bytes], symbols: set[bytes]) -> bool:
    value = _one(left, symbols)
    while left and left[-1] in (b"==", b"!="):
        is_same = left.pop() == b"=="
        value = (_one(left, symbols) == value) == is_same
    return value


def _one(left: list[bytes], symbols: set[bytes]) -> bool:
    token = left.pop()
    if token == b"!":
        return not _one(left, symbols)
    if token == b"(":
        value = _either(left, symbols)
        if left.pop() != b")":
            raise IndexError
        return value
    if not (token[:1].isalnum() or token[:1] == b"_"):
        raise IndexError
    return token == b"true" or token in symbols


def _taken(text: bytes, *, first: bool) -> bytes:
    """`text` with directives and branches that are not taken blanked out."""
    symbols: set[bytes] = set()
    open_conditions: list[list[bool]] = []
    """For each open section: whether the text around it is taken, whether a branch was, whether this one is."""
    kept, position = [], 0
    for found in _DIRECTIVE.finditer(text):
        word, rest = found.groups()
        active = open_conditions[-1][2] if open_conditions else True
        kept.append(text[position : found.start()] if active else _blank(text[position : found.start()]))
        kept.append(_blank(found.group()))
        position = found.end()
        if word == b"if":
            taken = active and (first or _holds(rest, symbols))
            open_conditions.append([active, taken, taken])
        elif word in (b"elif", b"else") and open_conditions:
            around, done, _ = open_conditions[-1]
            taken = around and not done and (word == b"else" or _holds(rest, symbols))
            open_conditions[-1] = [around, done or taken, taken]
        elif word == b"endif" and open_conditions:
            open_conditions.pop()
        elif word == b"define" and active:
            symbols.add(rest.strip())
    kept.append(text[position:])
    return b"".join(kept)


def _blank(text: bytes) -> bytes:
    return _NOT_LINE_END.sub(b" ", text)
