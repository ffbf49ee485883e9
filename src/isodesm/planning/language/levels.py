"""The level of its language that a file may be written at: what its project says, else what the tree already uses."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

import msgspec

from isodesm.catalogue import LevelRule, catalogue_of
from isodesm.codebase.model import Codebase
from isodesm.disk.opening import read_plain

Level = tuple[int, int]
"""Major and minor version of a language."""

ABOVE = 2
"""Folders above the root that are searched for a project file, too."""
MANY = 40
"""Files from which it says something that none uses what a newer level has."""
LARGEST = 1 << 20
"""Bytes of a project file up to which it is read."""
NEWEST: Level = (99, 0)
_VERSION = re.compile(r"(\d+)(?:\.(\d+))?")
_UPPER = re.compile(r"(?:<|!=)=?\s*[\d.]+")
"""What a constraint leaves out."""
_USED: dict[str, tuple[tuple[Level, re.Pattern[bytes]], ...]] = {
    "php": (
        ((8, 1), re.compile(rb"\(\.\.\.\)|\breadonly\s+[?\w\\]|^enum\s+\w", re.MULTILINE)),
        (
            (8, 0),
            re.compile(
                rb"__construct\(\s*(?:private|protected|public)\s|\bmatch\s*+\([^)]{0,400}+\)\s*+\{|^[^\S\n]*+#\[\w",
                re.MULTILINE,
            ),
        ),
        ((7, 4), re.compile(rb"\b(?:private|protected|public)\s+(?:static\s+)?\??[\w\\]+\s+\$\w+\s*[;=]|\bfn\s*\(")),
        ((7, 1), re.compile(rb"\)\s*:\s*(?:\?\w|void\b)|[(,]\s*\?\w+\s+\$")),
        ((7, 0), re.compile(rb"\?\?|\)\s*:\s*\w+\s*\{|[(,]\s*(?:int|string|bool|float)\s+\$")),
    )
}
"""Language to levels, newest first, and what shows that they are used."""
OLDEST: dict[str, Level] = {"php": (5, 6)}


class Levels:
    """Levels of the files of a codebase, each folder looked at once."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase = codebase
        self._said: dict[tuple[str, str], Level | None] = {}
        self._used: dict[str, Level] = {}

    def of(self, file: int) -> Level:
        """The level that a file may be written at; `NEWEST` where nothing speaks against it."""
        facts = self.codebase.symbols.files[file]
        if not catalogue_of(facts.language).levels:
            return NEWEST
        folder = facts.path.rpartition("/")[0]
        said = self._of_folder(facts.language, folder)
        if said is not None:
            return said
        if facts.language not in self._used:
            self._used[facts.language] = self._in_use(facts.language)
        return self._used[facts.language]

    def _of_folder(self, language: str, folder: str) -> Level | None:
        """What the nearest project file says that lies in a folder or above it."""
        key = (language, folder)
        if key not in self._said:
            found = _said_in(self.codebase.root / folder, language)
            if found is None:
                found = self._of_folder(language, folder.rpartition("/")[0]) if folder else self._above(language)
            self._said[key] = found
        return self._said[key]

    def _above(self, language: str) -> Level | None:
        parents = list(self.codebase.root.resolve().parents)[:ABOVE]
        return next((found for each in parents if (found := _said_in(each, language)) is not None), None)

    def _in_use(self, language: str) -> Level:
        """The newest level that the code of a language shows to be in use, where there is enough of it to say so."""
        files = [number for number, facts in enumerate(self.codebase.symbols.files) if facts.language == language]
        if len(files) < MANY or language not in _USED:
            return NEWEST
        texts = [self.codebase.text(number) for number in files]
        return next((level for level, sign in _USED[language] if any(map(sign.search, texts))), OLDEST[language])


def _said_in(folder: Path, language: str) -> Level | None:
    for name, rule in catalogue_of(language).levels.items():
        path = folder / name
        try:
            if path.is_file() and (found := _read(read_plain(path, LARGEST), rule)) is not None:
                return found
        except OSError:
            continue
    return None


def _read(content: bytes, rule: LevelRule) -> Level | None:
    """The level that a project file says."""
    text = content.decode("utf-8", "replace")
    constraints = (
        _at_keys(content, rule.keys) if rule.keys else [sign[1] for each in rule.patterns if (sign := re.search(each, text))]
    )
    least = next((found for each in constraints if (found := min(_versions(each), default=None)) is not None), None)
    if least is not None:
        return least
    return next((next(_versions(level)) for sign, level in rule.signs.items() if re.search(sign, text)), None)


def _at_keys(content: bytes, keys: Iterable[str]) -> Iterator[str]:
    """Texts at dotted keys of a file in JSON."""
    try:
        data: Any = msgspec.json.decode(content)
    except (msgspec.DecodeError, UnicodeDecodeError):
        return
    for key in keys:
        found = data
        for part in key.split("."):
            found = found.get(part) if isinstance(found, dict) else None
        if isinstance(found, str):
            yield found


def _versions(text: str) -> Iterator[Level]:
    """The lowest version that each alternative of a constraint allows: `^7.2 || ^8.0` gives 7.2 and 8.0."""
    for part in text.split("|"):
        found = _VERSION.search(_UPPER.sub("", part))
        if found:
            yield int(found[1]), int(found[2] or 0)
