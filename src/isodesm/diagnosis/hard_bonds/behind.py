"""Shared objects and states behind static members: a helper that asks the one object for something is no function of its
arguments, however it looks at the place that calls it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.hard_bonds.states import States
from isodesm.inference.use_graph import Node
from isodesm.linking.bonds import CONTEXT_NUMBER, KIND_NUMBER, OWN_CALL
from isodesm.linking.remembering import remembered

HOPS = 1
"""Other classes between a static member and what is shared up to which it is plainly about that."""
_STATIC = (KIND_NUMBER["static-call"], KIND_NUMBER["static-field"])
_CALL = KIND_NUMBER["call"]
_MAKING = frozenset(CONTEXT_NUMBER[each] for each in ("constructor", "field-initializer"))

Chain = tuple[str, ...]
"""Members, as `Class.member`, from the one that is asked to what hands out the shared object."""


class Behind:
    """Answers for each static member, or function of a module, how it comes to something shared."""

    def __init__(self, codebase: Codebase, states: States, is_shared: Callable[[int], bool]) -> None:
        """`is_shared` says whether a row hands out a shared object that is worth handing in."""
        self.codebase, self.states = codebase, states
        self._chains: dict[Node, Chain] = {}
        self.users: set[int] = set()
        """Types that themselves use something shared which another class keeps."""
        self.made_with: set[int] = set()
        """Those among them that do so while they are made."""
        waiting = self._direct(is_shared)
        users = self._users()
        for node, hops in waiting:  # grows while it is read
            for user in users.get(node, ()):
                further = hops + (user[0] != node[0])
                if user not in self._chains and further <= HOPS:
                    self._chains[user] = (self._named(node), *self._chains[node])
                    waiting.append((user, further))

    def of(self, nodes: Iterable[Node]) -> Chain:
        """The chain from the first of some members to something shared; () where none comes to anything."""
        return next((self._chains[node] for node in nodes if node in self._chains), ())

    def _direct(self, is_shared: Callable[[int], bool]) -> list[tuple[Node, int]]:
        table, states = self.codebase.bonds, self.states
        found: list[tuple[Node, int]] = []
        texts = self.codebase.text_lookups.members
        shared = states.rows.union(table.rows_of_kind("lookup"))
        for row in sorted(shared.union(table.rows_of_kind("static-call", "static-field"))):
            node = (table.source[row], table.source_member[row])
            target = table.target[row]
            if states.is_cross_cutting(node[0]) or (target, table.text_of("callee", row)) in texts:
                continue
            is_static = node not in self._chains and self._is_static(node)
            makes = table.context[row] in _MAKING and node[0] not in self.made_with
            if not is_static and not makes and node[0] in self.users:
                continue
            if row in shared or (target >= 0 and target != node[0] and is_shared(row)):
                self.users.add(node[0])
                if makes:
                    self.made_with.add(node[0])
                if is_static:
                    self._chains[node] = (self._asked(row),)
                    found.append((node, 0))
        return found

    @remembered
    def _is_static(self, node: Node) -> bool:
        number, index = node
        if index < 0 or not self.states.is_production(number):
            return False
        member = self.codebase.symbols.types[number].members[index]
        return member.kind == "method" and (member.is_static or self.codebase.symbols.is_module(number))

    def _users(self) -> dict[Node, list[Node]]:
        """Static member to the static members that call it."""
        table, symbols = self.codebase.bonds, self.codebase.symbols
        found: dict[Node, list[Node]] = defaultdict(list)
        for row, kind in enumerate(table.kind):
            target = table.target[row]
            if target < 0 or not (kind in (*_STATIC, OWN_CALL) or (kind == _CALL and symbols.is_module(target))):
                continue
            user = (table.source[row], table.source_member[row])
            if self._is_static(user):
                for node in self.codebase.effects.declared(target, table.text_of("callee", row)):
                    found[node].append(user)
        return found

    def _asked(self, row: int) -> str:
        table = self.codebase.bonds
        target = self.codebase.target_name(table.target[row]).replace("#", ".").replace("\\", ".").rpartition(".")[2]
        callee = table.text_of("callee", row)
        return f"{target}.{callee}" if callee else target

    def _named(self, node: Node) -> str:
        declared = self.codebase.symbols.types[node[0]]
        return f"{declared.name}.{declared.members[node[1]].name}"
