"""Which families of containers a tree uses, and whose words hold in a file."""

from __future__ import annotations

from collections import defaultdict

from isodesm.catalogue.containers import ContainerRules
from isodesm.linking.symbols import Symbols

Family = tuple[str, ContainerRules]
"""The name of a family and its words."""


class Families:
    """Answers for all files of a tree."""

    def __init__(self, symbols: Symbols) -> None:
        self.symbols = symbols
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

    def proven(self, file: int) -> frozenset[str]:
        """The families that the tree is known to use by its imports, in the language of a file."""
        return frozenset(self._used[self.symbols.files[file].language])

    def rules(self, language: str, name: str) -> ContainerRules:
        """The words of a family by its name, '' for a user's own."""
        catalogue = self.symbols.catalogues.of(language)
        return catalogue.containers.get(name, catalogue.registrations)
