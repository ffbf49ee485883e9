"""Bases, member types and members through inheritance, for all files that one process links.

A *target* is an integer: a type number when >= 0, else `-1 - n` for the external name number n. UNKNOWN stands for
no type at all (a primitive, a type variable without a bound, a name nothing can be said about).
"""

from __future__ import annotations

import re
from typing import Any

from isodesm.facts import typetext
from isodesm.facts.languages import dialect_of
from isodesm.facts.records import Import
from isodesm.linking.bonds import UNKNOWN, Names
from isodesm.linking.naming import names_of_file
from isodesm.linking.naming.names import FileNames
from isodesm.linking.symbols import Symbols

_INTERFACE = re.compile(r"(?:[\w.]+\.)?I[A-Z]\w")


class Hierarchy:
    """Bases, member types and members through inheritance; shared by all files that one process links."""

    def __init__(self, symbols: Symbols, externals: Names) -> None:
        self.symbols, self.externals = symbols, externals
        self.guesses: set[tuple[int, str]] = set()
        """(file, name) pairs whose target was one of two equally good ones."""
        self._files: dict[int, FileNames] = {}
        self._everywhere: dict[str, list[tuple[str, Import]]] = {}
        self._bases: dict[int, tuple[tuple[int, str], ...]] = {}
        self._member_types: dict[tuple[int, str], int] = {}
        self._external_base: dict[int, bool] = {}
        self.initialisers: dict[tuple[int, str], Any] = {}
        """(file, text) of an initialiser to the value of it."""
        self.inherited: dict[int, tuple[Any, ...]] = {}
        """Type to the values of what it inherits from, kept here because all files of a process ask for the same."""

    def file(self, number: int) -> FileNames:
        """The names of one file."""
        found = self._files.get(number)
        if found is None:
            found = self._files[number] = names_of_file(self, number)
        return found

    def imports_everywhere(self, language: str) -> list[tuple[str, Import]]:
        """Imports that hold for a whole project, each with the folder below which they do."""
        found = self._everywhere.get(language)
        if found is None:
            found = self._everywhere[language] = [
                (facts.path.rpartition("/")[0] + "/" if "/" in facts.path else "", each)
                for facts in self.symbols.files
                if facts.language == language
                for each in facts.imports
                if each.everywhere
            ]
            if dialect_of(language).project_usings:
                found += [
                    (f"{folder}/" if folder else "", Import(name=each, wildcard=True, everywhere=True))
                    for folder, each in self.symbols.projects.usings
                ]
        return found

    def external(self, name: str) -> int:
        """The target that stands for an external qualified name."""
        return -1 - self.externals.number(name)

    def bases(self, number: int) -> tuple[tuple[int, str], ...]:
        """Resolved bases of a type, each with its text; superclass first. A base being resolved right now has none yet."""
        found = self._bases.get(number)
        if found is None:
            self._bases[number] = ()  # a type that inherits from itself, or asks while its own bases are settled
            found = tuple(
                dict.fromkeys(each for part in self.symbols.parts.get(number, (number,)) for each in self._bases_of(part))
            )
            self._bases[number] = found
        return found

    def _bases_of(self, number: int) -> list[tuple[int, str]]:
        """The bases that one declaration names."""
        file = self.symbols.file_of[number]
        names, local = self.file(file), number - self.symbols.first[file]
        declared = self.symbols.files[file].types[local]
        return [(names.resolve_base(typetext.head(text), local), text) for text in (*declared.extends, *declared.implements)]

    def ancestors(self, number: int) -> list[int]:
        """The type and everything declared in the tree that it inherits from, nearest first, each once."""
        seen = {number: None}
        waiting = [number]
        for each in waiting:
            for base, _ in self.bases(each):
                if base >= 0 and base not in seen:
                    seen[base] = None
                    waiting.append(base)
        return list(seen)

    def has_external_base(self, number: int) -> bool:
        """Whether anything may be inherited from a type outside the tree, the root of all types aside.

        Interfaces of languages that mark them by name hand down nothing that could be read by a bare name.
        """
        found = self._external_base.get(number)
        if found is None:
            marked = self.symbols.dialect(number).partial_types
            found = any(
                base < 0 and not (marked and _INTERFACE.match(typetext.head(text)))
                for each in self.ancestors(number)
                for base, text in self.bases(each)
            )
            self._external_base[number] = found
        return found

    def member_type(self, number: int, name: str) -> int:
        """The member type `name` of a type, its own or inherited; UNKNOWN if there is none."""
        key = (number, name)
        found = self._member_types.get(key)
        if found is None:
            self._member_types[key] = UNKNOWN
            found = self.symbols.nested.get(key, UNKNOWN)
            if found == UNKNOWN:
                for base, _ in self.bases(number):
                    if base >= 0 and (found := self.member_type(base, name)) != UNKNOWN:
                        break
                else:
                    found = UNKNOWN
            self._member_types[key] = found
        return found
