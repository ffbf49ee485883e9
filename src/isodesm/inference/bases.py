"""Who extends and implements whom, read from the bonds once for everybody."""

from __future__ import annotations

from collections import defaultdict
from functools import cached_property

from isodesm.linking.bonds import KIND_NUMBER, UNKNOWN, BondTable
from isodesm.linking.symbols import Symbols, simple_name

ERROR_SUFFIXES = ("Exception", "Error", "Throwable")
"""Ends of the names of what is thrown."""
_KINDS = (KIND_NUMBER["extends"], KIND_NUMBER["implements"])


class Bases:
    """Bases and heirs of all types, by number."""

    def __init__(self, symbols: Symbols, bonds: BondTable) -> None:
        self.symbols, self.bonds = symbols, bonds
        self._ancestors: dict[int, tuple[int, ...]] = {}

    @cached_property
    def external(self) -> dict[int, list[str]]:
        """External types that each type extends or implements itself."""
        found: dict[int, list[str]] = defaultdict(list)
        for kind, source, target in zip(self.bonds.kind, self.bonds.source, self.bonds.target, strict=True):
            if kind in _KINDS and target < 0 and target != UNKNOWN:
                found[source].append(self.bonds.external(target))
        return found

    @cached_property
    def in_tree(self) -> dict[int, list[int]]:
        """Types of the tree that each type extends or implements itself."""
        found: dict[int, list[int]] = defaultdict(list)
        for kind, source, target in zip(self.bonds.kind, self.bonds.source, self.bonds.target, strict=True):
            if kind in _KINDS and target >= 0 and target != source:
                found[source].append(target)
        return found

    @cached_property
    def implementers(self) -> dict[int, list[int]]:
        """Types that extend or implement each type, over any number of steps, sorted."""
        found: dict[int, set[int]] = defaultdict(set)
        for number in self.in_tree:
            for base in self.ancestors(number)[1:]:
                found[base].add(number)
        return {base: sorted(below) for base, below in found.items()}

    @cached_property
    def errors(self) -> frozenset[int]:
        """Types whose objects are thrown: what they extend, in the tree or not, is named as an error."""
        found = set()
        for number, declared in enumerate(self.symbols.types):
            if declared.kind == "class":
                line = self.ancestors(number)
                names = [self.symbols.names[each] for each in line[1:]]
                names += [base for each in line for base in self.external.get(each, ())]
                if any(simple_name(name).endswith(ERROR_SUFFIXES) for name in names):
                    found.add(number)
        return frozenset(found)

    def ancestors(self, number: int) -> tuple[int, ...]:
        """A type and all it inherits from in the tree, nearest first."""
        found = self._ancestors.get(number)
        if found is None:
            seen = {number: None}
            waiting = [number]
            for each in waiting:
                for base in self.in_tree.get(each, ()):
                    if base not in seen:
                        seen[base] = None
                        waiting.append(base)
            found = self._ancestors[number] = tuple(seen)
        return found
