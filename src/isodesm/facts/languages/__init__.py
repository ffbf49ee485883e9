"""The languages that can be read. Adding one is a folder here with `facts.scm` and `dialect.py`, and its name below."""

from __future__ import annotations

import hashlib
import re
from functools import cache
from importlib import import_module
from pathlib import Path, PurePosixPath

from isodesm.facts.languages.dialect import Dialect

LANGUAGES = ("java", "csharp", "typescript", "php", "python")


@cache
def dialect_of(language: str) -> Dialect:
    """The dialect of a language; KeyError for one that is not known."""
    if language not in LANGUAGES:
        raise KeyError(language)
    found: Dialect = import_module(f"isodesm.facts.languages.{language}.dialect").DIALECT
    return found


@cache
def language_by_suffix() -> dict[str, str]:
    """File name suffix, with its dot, to language."""
    return {suffix: language for language in LANGUAGES for suffix in dialect_of(language).suffixes}


def language_of(path: str) -> str:
    """The language of a file by its suffix; '' for none that is read."""
    return language_by_suffix().get(PurePosixPath(path).suffix, "")


@cache
def not_source_names() -> tuple[str, ...]:
    """Names, or ends of names, of files that carry a source suffix but declare nothing to read."""
    return tuple(name for language in LANGUAGES for name in dialect_of(language).not_source)


_ONLY = re.compile(r"^; --- only ((?:\.\w+ ?)+)-*$", re.MULTILINE)
"""Heads the last part of a query, for the files of some suffixes: their grammar has nodes that the others' lack."""


def query_text(language: str, suffix: str = "", name: str = "facts") -> str:
    """The tree-sitter query that names what to capture in files with a suffix ('': in all); '' where there is none."""
    path = Path(__file__).with_name(language).joinpath(f"{name}.scm")
    text = path.read_text(encoding="utf-8") if path.exists() else ""
    found = _ONLY.search(text)
    return text if found is None or suffix in found.group(1).split() else text[: found.start()]


@cache
def reader_version() -> bytes:
    """A digest of everything that reads source, so that facts read by an earlier state of it are not taken for today's."""
    package = Path(__file__).parent.parent
    digest = hashlib.blake2b(digest_size=8)
    for path in sorted(each for pattern in ("*.py", "*.scm") for each in package.rglob(pattern)):
        digest.update(path.relative_to(package).as_posix().encode())
        digest.update(path.read_bytes())
    return digest.digest()
