"""What a language is to planning: a class each, with how it spells things and the rules by which it differs."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from pathlib import PurePosixPath

from isodesm.facts.languages import dialect_of
from isodesm.planning.language.base import Language, Level

__all__ = ["Language", "Level", "language_named"]


def language_named(name: str, path: str = "", level: Level = (99, 0)) -> Language:
    """A language by the name that its dialect has; a file may be written in its untyped form, or at an older level."""
    return _language(name, PurePosixPath(path).suffix, level)


@cache
def _language(name: str, suffix: str, level: Level) -> Language:
    module = import_module(f"isodesm.planning.language.{dialect_of(name).name}")
    classes = (each for each in vars(module).values() if isinstance(each, type) and issubclass(each, Language))
    found: type[Language] = next(each for each in classes if each is not Language)
    return found(level, suffix)
