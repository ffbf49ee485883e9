"""Which trees are meant: folders, patterns, and files with one of either a line."""

from __future__ import annotations

import glob
import os
from collections.abc import Iterable, Iterator
from pathlib import Path
from urllib.parse import unquote, urlparse

import msgspec

from isodesm.disk.opening import NotPlain, read_plain, text_name
from isodesm.errors import UsageError

LARGEST_LIST = 4_000_000
"""Bytes of the largest file of trees."""
_SIGNS = frozenset("*?[")


class Tree(msgspec.Struct, frozen=True):
    """A tree, and the name that it goes by: that of its folder, with folders above it where others have that, too."""

    name: str
    path: str


def trees_of(given: Iterable[str]) -> list[Tree]:
    """The trees that are meant, each once, by name.

    Raises UsageError for what is neither folder nor list, a list that can't be read, and where nothing is left.
    """
    folders: dict[Path, None] = {}
    for each in given:
        for folder in _folders(each, Path.cwd(), listed=False):
            folders.setdefault(folder)
    if not folders:
        raise UsageError("No tree was named. Name folders, or a file with one folder a line.")
    return sorted((Tree(name, str(path)) for path, name in _named(list(folders)).items()), key=lambda each: each.name)


def _folders(text: str, base: Path, *, listed: bool) -> Iterator[Path]:
    """What one word means, relative to a folder; a line of a list can't be a list."""
    if text.startswith("file:"):
        text = unquote(urlparse(text).path)
    path = base / Path(text).expanduser()
    if _SIGNS & set(text) and not os.path.exists(path):
        yield from (Path(each).resolve() for each in sorted(glob.glob(str(path))) if Path(each).is_dir())
    elif os.path.isfile(path) and not listed:
        yield from _of_list(path)
    else:  # one that is not there is answered for by name, and the rest goes on
        if not listed and not os.path.exists(path):
            raise UsageError(f"There is no such folder or list: {text[:200]}.")
        yield Path(os.path.realpath(path))


def _of_list(path: Path) -> Iterator[Path]:
    try:
        lines = read_plain(path, LARGEST_LIST).decode("utf-8", "surrogateescape").splitlines()
    except (OSError, NotPlain) as error:
        raise UsageError(f"{path} can't be read as a list of trees: {error}.") from None
    for line in lines:
        if (text := line.strip()) and not text.startswith("#"):
            yield from _folders(text, path.resolve().parent, listed=True)


def _named(folders: list[Path]) -> dict[Path, str]:
    """Each folder with as many of its last parts as it takes to tell them apart."""
    found: dict[Path, str] = {}
    for path in folders:
        parts = path.parts
        for count in range(1, len(parts) + 1):
            tail = parts[-count:]
            if sum(other.parts[-count:] == tail for other in folders) == 1:
                break
        found[path] = text_name("/".join(tail).lstrip("/")) or "/"
    return found
