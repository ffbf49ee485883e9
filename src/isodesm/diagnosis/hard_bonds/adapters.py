"""Classes that only pass on what they are asked: an object in the place of a static class or an API, to be replaced."""

from __future__ import annotations

from isodesm.codebase.model import Codebase
from isodesm.linking.bonds import KIND_NUMBER, STATE, WRITE

_PASSED_TO = frozenset((*(KIND_NUMBER[each] for each in ("static-call", "static-field", "call")), STATE, WRITE))
_WORKING = frozenset(("method", "property"))


class Adapters:
    """Which classes are such adapters, each worked out once."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase = codebase
        self._known: dict[int, int | None] = {}

    def passes_on(self, source: int, target: int) -> bool:
        """Whether a class does nothing but pass on to a target (negative: outside the tree) what its base asks of it."""
        if source not in self._known:
            self._known[source] = self._stands_for(source)
        return self._known[source] == target

    def _stands_for(self, number: int) -> int | None:
        """The one type that all members of a class pass on to; None where it does anything else."""
        declared = self.codebase.symbols.types[number]
        members = [each for each in declared.members if each.kind in _WORKING and each.body != (0, 0)]
        if declared.kind != "class" or not (declared.implements or declared.extends) or not members:
            return None
        if any(each.statements > 1 or each.is_static for each in members):
            return None
        if any(each.kind in ("field", "component") and each.whole != (0, 0) for each in declared.members):
            return None
        table = self.codebase.bonds
        rows = [row for row in table.rows_of_source(number) if table.source_member[row] >= 0]
        if any(table.kind[row] == KIND_NUMBER["creation"] for row in rows):
            return None
        targets = {table.target[row] for row in rows if table.kind[row] in _PASSED_TO and table.target[row] != number}
        return targets.pop() if len(targets) == 1 else None
