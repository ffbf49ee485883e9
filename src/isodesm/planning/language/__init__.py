"""How each language spells what steps put into code: one file a language, all of one shape."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from pathlib import PurePosixPath

from isodesm.facts.languages import dialect_of
from isodesm.planning.language.writer import Writer, indented, joined

__all__ = ["Writer", "indented", "joined", "writer_of"]


def writer_of(language: str, path: str = "", level: tuple[int, int] = (99, 0)) -> Writer:
    """The writer of a language, by the name that its dialect has; a file may be written in its untyped form, or at an older
    level of the language."""
    return _writer(language, PurePosixPath(path).suffix, level)


@cache
def _writer(language: str, suffix: str, level: tuple[int, int]) -> Writer:
    module = import_module(f"isodesm.planning.language.{dialect_of(language).name}")
    untyped: tuple[str, ...] = getattr(module, "UNTYPED_SUFFIXES", ())
    if suffix and suffix in untyped:
        return module.UNTYPED
    return module.at(level) if hasattr(module, "at") else module.WRITER
