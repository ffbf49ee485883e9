"""What several languages spell alike: modifier lists, and statements that end in a semicolon."""

from __future__ import annotations

import re
from functools import lru_cache

from isodesm.facts import noise
from isodesm.facts.records import Annotation, Modifiers
from isodesm.facts.typetext import closing_bracket, squeeze

_WORD = re.compile(r"[\w-]+")


@lru_cache(maxsize=16384)
def read_modifiers(text: str) -> Modifiers:
    """Keywords and annotations of a modifier list as written."""
    words: list[str] = []
    annotations: list[Annotation] = []
    text = squeeze(text)
    position = 0
    while position < len(text):
        if text[position] == "@":
            annotation, position = _annotation(text, position + 1)
            annotations.append(annotation)
        elif found := _WORD.match(text, position):
            words.append(found.group())
            position = found.end()
        else:
            position += 1
    return Modifiers(words=tuple(words), annotations=tuple(annotations))


def _annotation(text: str, start: int) -> tuple[Annotation, int]:
    """The annotation whose name begins at `start`, and the position behind it."""
    end = start
    while end < len(text) and (text[end].isalnum() or text[end] in "_.$ "):
        if text[end] == " " and text[end + 1 : end + 2] not in (".", "("):
            break
        end += 1
    name = text[start:end].replace(" ", "")
    if end >= len(text) or text[end] != "(":
        return Annotation(name=name), end
    closing = closing_bracket(text, end)
    return Annotation(name=name, arguments=text[end + 1 : closing].strip()), closing + 1


_NOISE = re.compile(
    noise.any_of(noise.SLASHES, noise.BLOCK, noise.TRIPLE, noise.QUOTED, noise.SINGLE).encode(),
    re.DOTALL,
)
_LOOP_HEADER = re.compile(rb"\bfor\s*\([^;{}]*;[^;{}]*;")


def count_statements(body: bytes) -> int:
    """Statements that end in a semicolon; compound ones are counted from captures."""
    if b"/" in body or b'"' in body or b"'" in body:
        body = _NOISE.sub(b" ", body)
    return body.count(b";") - 2 * len(_LOOP_HEADER.findall(body))
