"""Sections of a file that are compiled under a condition, in languages that have such."""

from __future__ import annotations

import re

from isodesm.planning.language.base import Language

_LINE = re.compile(rb"^[ \t]*#[ \t]*(if|elif|else|endif)\b", re.MULTILINE)


def section_at(language: Language, text: bytes, at: int) -> tuple[int, ...]:
    """The sections around byte `at`, each by where its condition begins; () outside all."""
    if not language.conditional_compilation:
        return ()
    around: list[int] = []
    for found in _LINE.finditer(text, 0, at):
        word = found[1]
        if word != b"if" and around:
            around.pop()
        if word != b"endif":
            around.append(found.start())
    return tuple(around)
