"""How each language spells what steps put into code: one file a language, all of one shape."""

from __future__ import annotations

from functools import cache
from importlib import import_module

from isodesm.facts.languages import dialect_of
from isodesm.planning.writing.writer import Adapter, Interface, Need, Passing, Signature, Typed, Writer, indented, joined

__all__ = [
    "Adapter",
    "Interface",
    "Need",
    "Passing",
    "Signature",
    "Typed",
    "Writer",
    "indented",
    "joined",
    "writer_of",
]


@cache
def writer_of(language: str, path: str = "") -> Writer:
    """The writer of a language, by the name that its dialect has; a file may be written in its untyped form."""
    module = import_module(f"isodesm.planning.writing.{dialect_of(language).name}")
    untyped: tuple[str, ...] = getattr(module, "UNTYPED_SUFFIXES", ())
    return module.UNTYPED if untyped and path.endswith(untyped) else module.WRITER
