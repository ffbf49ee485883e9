"""Which families of containers a tree uses, and whose words hold in a file."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable, Iterator
from functools import cached_property

from isodesm.catalogue.containers import ContainerRules
from isodesm.linking.symbols import Symbols

Family = tuple[str, ContainerRules]
"""The name of a family and its words."""


_WORD = re.compile(rb"[A-Za-z_$][\w$]*+")
_MOST_LISTED = 4_000
"""Bytes of a list that are looked at."""


def _lists_in(text: bytes, rules: ContainerRules) -> Iterator[bytes]:
    """What stands in the lists of providers of a file, and in the brackets of what starts a program."""
    keys = {*rules.provider_lists, *(key for each in rules.metadata.values() for key in each)}
    words = [*(rf"{re.escape(key)}[\"']?\s*+:\s*+" for key in keys), *(rf"{re.escape(each)}\s*+\(" for each in rules.starts)]
    if not any(each.encode() in text for each in (*keys, *rules.starts)):
        return
    for found in re.finditer(rf"\b(?:{'|'.join(sorted(words))})".encode(), text):
        yield _until_closed(text[found.end() : found.end() + _MOST_LISTED], opened=found[0].endswith(b"("))


def _until_closed(text: bytes, *, opened: bool) -> bytes:
    """The front of a text up to where its first bracket closes; its first word, where it begins with none."""
    depth = int(opened)
    for at, sign in enumerate(text):
        if sign in b"([{":
            depth += 1
        elif sign in b")]}":
            depth -= 1
        if depth <= 0 and sign in b")]},;\n":
            return text[: at + 1]
    return text


class Families:
    """Answers for all files of a tree."""

    def __init__(self, symbols: Symbols, text: Callable[[int], bytes]) -> None:
        self.symbols, self.text = symbols, text
        self._imported: dict[int, tuple[str, ...]] = {}
        self._used: dict[str, set[str]] = defaultdict(set)
        for file, facts in enumerate(symbols.files):
            containers = symbols.catalogues.of(facts.language).containers
            names = [each.name for each in facts.imports]
            found = tuple(
                name
                for name, rules in containers.items()
                if any(each.startswith(rules.imports) for each in names) and rules.imports
            )
            if found:
                self._imported[file] = found
                self._used[facts.language].update(found)

    def of(self, file: int) -> tuple[Family, ...]:
        """The families whose words hold in a file: those that it imports, those the tree does, those that are known always;
        a user's own words come first."""
        language = self.symbols.files[file].language
        catalogue = self.symbols.catalogues.of(language)
        used, own = self._used[language], self._imported.get(file, ())
        names = [*own, *(name for name in catalogue.containers if name in used and name not in own)]
        names += [name for name, rules in catalogue.containers.items() if rules.always and name not in names]
        return (("", catalogue.registrations), *((name, catalogue.containers[name]) for name in names))

    def used(self, language: str) -> frozenset[str]:
        """The families that files of a language import."""
        return frozenset(self._used.get(language, ()))

    def proven(self, file: int) -> frozenset[str]:
        """The families that the tree is known to use by its imports, in the language of a file."""
        return frozenset(self._used[self.symbols.files[file].language])

    @cached_property
    def listed(self) -> dict[str, str]:
        """Names that stand in a list of providers, or are passed to what starts a program, to the family of that list: where
        one is a constant of another file, that holds providers, too."""
        found: dict[str, str] = {}
        for file, facts in enumerate(self.symbols.files):
            for name in sorted(self._used.get(facts.language, ())):
                for listing in _lists_in(self.text(file), self.rules(facts.language, name)):
                    found.update((word.decode(), name) for word in _WORD.findall(listing) if word.decode() not in found)
        return found

    def rules(self, language: str, name: str) -> ContainerRules:
        """The words of a family by its name, '' for a user's own."""
        catalogue = self.symbols.catalogues.of(language)
        return catalogue.containers.get(name, catalogue.registrations)
