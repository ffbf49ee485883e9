"""Whether a member is pure: proven over all that it reaches, not assumed because nothing was found on the spot."""

from __future__ import annotations

from isodesm.codebase.model import Codebase
from isodesm.inference.use_graph import INSTANCE, Node
from isodesm.linking.bonds import KIND_NUMBER, STATE, WRITE
from isodesm.linking.symbols import simple_name

_HARMLESS = frozenset(("staticmethod", "classmethod", "property", "abstractmethod", "override", "wraps", "overload", "final"))
"""Decorators that leave what a function does as it is."""
MOST_NODES = 400
"""Members that a proof looks through; what reaches more is not called pure."""
_STATEFUL = (STATE, WRITE, KIND_NUMBER["lookup"])


class Purity:
    """Answers once for each member, with all effects and states that it can reach over calls that are known."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase, self.effects, self.shared = codebase, codebase.effects, codebase.shared
        self._known: dict[Node, bool] = {}
        table = codebase.bonds
        self._stateful = {
            (source, member)
            for kind, source, member in zip(table.kind, table.source, table.source_member, strict=True)
            if kind in _STATEFUL
        }

    def is_pure(self, start: Node) -> bool:
        """Whether nothing that a member reaches has an effect, touches a state, or looks anything up."""
        found = self._known.get(start)
        if found is None:
            found = self._known[start] = self._proven(start)
        return found

    def _proven(self, start: Node) -> bool:
        seen, waiting = {start}, [start]
        while waiting:
            node = waiting.pop()
            if self._is_tainted(node):
                return False
            for used in self.effects.used_by(node):
                if used not in seen:
                    if self._known.get(used) is False or len(seen) > MOST_NODES:
                        return False
                    seen.add(used)
                    waiting.append(used)
        self._known.update(dict.fromkeys(seen, True))
        return True

    def _is_tainted(self, node: Node) -> bool:
        number, index = node
        if node in self._stateful or self.effects.of_node(node) or self.effects.direct.get(node):
            return True
        if index >= 0 and self._is_wrapped(number, index):
            return True
        return index != INSTANCE and bool((touch := self.shared.touch(node)).reads or touch.changes)

    def _is_wrapped(self, number: int, index: int) -> bool:
        """Whether decorators put a function of their own around a member, so that its text does not say what it does."""
        if not self.codebase.symbols.dialect(number).calls_create:
            return False
        marks = self.codebase.symbols.types[number].members[index].modifiers.annotations
        return any(simple_name(mark.name) not in _HARMLESS for mark in marks)
