"""Creation chains: to build one of a class, what must be built."""

from __future__ import annotations

from functools import cached_property

from isodesm.codebase.model import Codebase
from isodesm.inference.evidence import DATA
from isodesm.linking.bonds import CONTEXTS, KIND_NUMBER

LIGHT = frozenset((*DATA, "exception", "part", "algorithm"))
"""Roles of what is built on the way without being a burden."""
AT_CONSTRUCTION = frozenset((CONTEXTS.index("constructor"), CONTEXTS.index("field-initializer")))


class Chains:
    """What constructors and field initialisers create, followed all the way down."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase = codebase
        self._depths: dict[int, int] = {}

    def depth(self, number: int) -> int:
        """Steps of the longest creation chain of a type; 0 where nothing else is built."""
        waiting = [number]
        while waiting:  # without recursion: chains of generated code may be long
            each = waiting[-1]
            missing = [below for below in self.built_with.get(each, ()) if below not in self._depths]
            if each not in self._depths and missing:
                self._depths[each] = 0  # a ring of creations counts as far as it goes
                waiting += missing
                continue
            self._depths[each] = max((1 + self._depths[below] for below in self.built_with.get(each, ())), default=0)
            waiting.pop()
        return self._depths[number]

    def below(self, number: int) -> frozenset[int]:
        """Every other type that is built when one of this type is."""
        seen, waiting = set(), [number]
        while waiting:
            for each in self.built_with.get(waiting.pop(), ()):
                if each not in seen:
                    seen.add(each)
                    waiting.append(each)
        return frozenset(seen - {number})

    @cached_property
    def built_with(self) -> dict[int, list[int]]:
        """Type to the types, data aside, that its constructors and field initialisers create."""
        table, roles = self.codebase.bonds, self.codebase.roles
        creation = KIND_NUMBER["creation"]
        found: dict[int, set[int]] = {}
        for kind, source, target, context in zip(table.kind, table.source, table.target, table.context, strict=True):
            if (
                kind == creation
                and target >= 0
                and context in AT_CONSTRUCTION
                and source != target
                and roles.name(target) not in LIGHT
            ):
                found.setdefault(source, set()).add(target)
        return {source: sorted(targets) for source, targets in found.items()}
