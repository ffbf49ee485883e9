"""Taking type expressions apart: `Map<String, List<Roster[]>>` and its like, as written in source."""

from __future__ import annotations

import re
from functools import lru_cache

_OPENING, _CLOSING = "<([{", ">)]}"
_COMMENT = re.compile(r"//[^\n]*|/\*.*?\*/", re.DOTALL)
_NAME = re.compile(r"[^\W\d][\w$]*(?:\s*\.\s*[^\W\d][\w$]*)*")
_ANNOTATION = re.compile(r"@\s*[\w.$]+(?:\s*\([^()]*\))?\s*")


def split_top(text: str, separator: str = ",") -> tuple[str, ...]:
    """Split `text` at each `separator` outside brackets and quotes; empty parts are left out."""
    parts, depth, start, quote, skip = [], 0, 0, "", False
    for index, char in enumerate(text):
        if skip:
            skip = False
        elif quote:
            if char == "\\":
                skip = True
            elif char == quote:
                quote = ""
        elif char in "\"'`":
            quote = char
        elif char in _OPENING:
            depth += 1
        elif char in _CLOSING:
            depth -= not (char == ">" and text[index - 1 : index] in ("-", "="))
        elif char == separator and depth == 0:
            parts.append(text[start:index].strip())
            start = index + 1
    parts.append(text[start:].strip())
    return tuple(part for part in parts if part)


def squeeze(text: str) -> str:
    """`text` without comments and on one line, runs of white space as one space."""
    if "/" in text:
        text = _COMMENT.sub(" ", text)
    return " ".join(text.split())


@lru_cache(maxsize=65536)
def head(text: str) -> str:
    """The type that `text` names first, dotted, without arguments, arrays, annotations and ellipsis.

    >>> head("java.util.Map.Entry<K, V>[]")
    'java.util.Map.Entry'
    >>> head("Outer<String>.Inner")
    'Outer.Inner'
    """
    if text.isidentifier():
        return text
    text = _ANNOTATION.sub("", squeeze(text)) if "@" in text or "/" in text else text
    kept, depth = [], 0
    for char in text:
        if char in _OPENING:
            depth += 1
        elif char in _CLOSING:
            depth -= 1
        elif depth == 0:
            kept.append(char)
    found = _NAME.search("".join(kept))
    return "".join(found.group().split()) if found else ""


@lru_cache(maxsize=65536)
def names(text: str) -> tuple[str, ...]:
    """Every type named in `text`, outermost first, duplicates once.

    >>> names("Map<String, ? extends Roster[]>")
    ('Map', 'String', 'Roster')
    """
    if text.isidentifier():
        return (text,)
    text = _ANNOTATION.sub("", squeeze(text))
    found = ("".join(match.group().split()) for match in _NAME.finditer(text.replace("...", " ")))
    return tuple(dict.fromkeys(name for name in found if name not in ("extends", "super", "final")))


@lru_cache(maxsize=65536)
def arguments(text: str) -> tuple[str, ...]:
    """The type arguments of `text`: `Map<K, List<V>>` gives `('K', 'List<V>')`."""
    start, end = text.find("<"), text.rfind(">")
    return split_top(text[start + 1 : end]) if 0 <= start < end else ()


@lru_cache(maxsize=16384)
def type_parameters(text: str) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """Names and bounds of a type parameter list: `<T extends A & B, U>` gives `(('T', ('A', 'B')), ('U', ()))`."""
    found = []
    for part in split_top(squeeze(text).removeprefix("<").removesuffix(">")):
        part = _ANNOTATION.sub("", part)
        name, _, bounds = part.partition(" extends ")
        found.append((name.strip(), split_top(bounds, "&")))
    return tuple(found)
