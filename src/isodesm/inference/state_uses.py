"""Who uses shared state: by naming it, or through a member that touches it. Nothing but what is linked is asked."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from functools import cached_property
from typing import NamedTuple

import msgspec

from isodesm.facts.records import FileSites, Member
from isodesm.inference.bases import Bases
from isodesm.inference.shared_state import CHANGED, Key, SharedState
from isodesm.linking.bonds import CONTEXT_NUMBER, KIND_NUMBER, OWN_CALL, STATE, WRITE, BondTable
from isodesm.linking.symbols import Symbols

STATIC_FIELD, STATIC_CALL, CALL = KIND_NUMBER["static-field"], KIND_NUMBER["static-call"], KIND_NUMBER["call"]
_LOADING = frozenset(CONTEXT_NUMBER[each] for each in ("module", "static-initializer", "field-initializer"))
AT_LOAD = CONTEXT_NUMBER["module"]
HOPS = 1
"""Other classes between a static member and a global variable up to which it is plainly about that."""
_BEHIND = 60
"""Bytes behind a use that are read to see whether it alters what the state holds."""


class Use(NamedTuple):
    """One place where a class reads a state or, with `writes`, sets it; `through` is the member it calls for that."""

    row: int
    source: int
    writes: bool
    through: str = ""
    handed: bool = False
    """Whether that member hands the state out as it is."""


Uses = dict[Key, list[Use]]
"""Shared state to its uses in order of place."""


def packed(uses: Uses) -> bytes:
    """Uses as a process sends them to another."""
    return msgspec.msgpack.encode(list(uses.items()))


def unpacked(content: bytes) -> Uses:
    """The same, as they were."""
    return dict(msgspec.msgpack.decode(content, type=list[tuple[Key, list[Use]]]))


class Gathering:
    """Gathers the uses of all states of a tree; `content(file)` gives the sites of a file and `text(file)` its bytes."""

    def __init__(
        self,
        symbols: Symbols,
        bonds: BondTable,
        shared: SharedState,
        bases: Bases,
        content: Callable[[int], FileSites],
        text: Callable[[int], bytes],
    ) -> None:
        self.symbols, self.bonds, self.shared, self.bases = symbols, bonds, shared, bases
        self.content, self.text = content, text
        self.host = -1 - bonds.externals.number("globalThis")
        self._homes: dict[Key, int] = {}
        self._known: dict[tuple[int, int], list[tuple[Key, bool, bool]]] = {}

    def uses(self) -> Uses:
        """All uses by state."""
        self._uses: Uses = defaultdict(list)
        self._collect_direct()
        self._collect_calls()
        return dict(self._uses)

    def _collect_direct(self) -> None:
        """Uses that name the state: writes, and reads of what is a state."""
        table = self.bonds
        names, uses = table.names.strings, self._uses
        of_host = {-1 - number for number, name in enumerate(table.externals.strings) if name in ("window", "globalThis")}
        for row, (kind, source, target, callee) in enumerate(
            zip(table.kind, table.source, table.target, table.callee, strict=True)
        ):
            if kind not in (WRITE, STATE, STATIC_FIELD):
                continue
            name = names[callee]
            key = (self.host, name) if target in of_host else (self._home(target, name), name)
            if kind == WRITE:
                if not self._is_initial(row, key):
                    uses[key].append(Use(row, source, True))
            elif key[0] < 0:
                if kind == STATE:
                    uses[key].append(Use(row, source, False))
            elif member_of(self.shared, key) is not None:
                if not self._is_initial(row, key):
                    uses[key].append(Use(row, source, self._alters(row)))
            elif source != target:  # a property with a body of its own
                for state, writes, handed in self._touched_by(target, callee):
                    uses[state].append(Use(row, source, writes, name, handed))

    def _collect_calls(self) -> None:
        """Uses through a member of the keeper that touches the state."""
        table = self.bonds
        names = table.names.strings
        for row, (kind, source, target, callee) in enumerate(
            zip(table.kind, table.source, table.target, table.callee, strict=True)
        ):
            if target < 0 or source == target or kind not in (STATIC_CALL, CALL):
                continue
            if kind == CALL and not self.symbols.is_module(target):
                continue
            if kind == CALL and table.context[row] == AT_LOAD and not self.symbols.dialect(source).ignores_case:
                continue  # a module that makes something known while it is loaded, once, as a declaration would
            for key, writes, handed in self._touched_by(target, callee):
                self._uses[key].append(Use(row, source, writes, names[callee], handed))

    def _touched_by(self, target: int, callee: int) -> list[tuple[Key, bool, bool]]:
        """The states that a static member touches, each with whether calling it sets the state, and hands it out."""
        found = self._known.get((target, callee))
        if found is None:
            line = self.bases.ancestors(target)
            found = self._known[target, callee] = self._touched(line, self.bonds.names.strings[callee])
        return found

    def _touched(self, line: tuple[int, ...], name: str) -> list[tuple[Key, bool, bool]]:
        """The same, by the line of a type and the name of the member."""
        for each in line:
            found = self.symbols.members(each).get(name, ())
            if not found:
                continue
            states: dict[str, bool] = {}
            handed: set[str] = set()
            if requested := next((asked for index, _ in found if (asked := self._requests.get((each, index)))), None):
                return [(requested, False, False)]
            for index, _ in found:
                touch = self.shared.touch((each, index))
                handed |= touch.hands_out
                for state in (*touch.reads, *touch.changes):
                    states[state] = states.get(state, False) or (state in touch.changes and not touch.gives_value)
            homes = {state: (self._home(each, state), state) for state in sorted(states)}
            return [(home, states[state], state in handed) for state, home in homes.items()]
        return []

    @cached_property
    def _requests(self) -> dict[tuple[int, int], Key]:
        """Member to the global variable that it reads, itself, through another member of its class, or through a static one of
        another."""
        table = self.bonds
        found: dict[tuple[int, int], Key] = {}
        calls: dict[tuple[int, str], list[tuple[int, int]]] = defaultdict(list)
        wanted = {-1 - number: name for number, name in enumerate(table.externals.strings) if name.startswith("$")}
        if not wanted:
            return found
        for row, (kind, source, target) in enumerate(zip(table.kind, table.source, table.target, strict=True)):
            node = (source, table.source_member[row])
            if kind == STATE and target in wanted and not self.symbols.is_module(source):
                found.setdefault(node, (target, wanted[target]))
            elif target >= 0 and (kind == STATIC_CALL or (target == source and kind in (CALL, OWN_CALL))):
                calls[self._home(target, name := table.text_of("callee", row)), name].append(node)
        waiting = [(node, 0) for node in found]
        for (number, index), hops in waiting:  # grows while it is read
            for user in calls.get((number, self.symbols.types[number].members[index].name), ()) if index >= 0 else ():
                further = hops + (user[0] != number)
                if user not in found and further <= HOPS:
                    found[user] = found[number, index]
                    waiting.append((user, further))
        return found

    def _home(self, target: int, name: str) -> int:
        """The type that declares a static member which is reached through a subclass."""
        if target < 0:
            return target
        key = (target, name)
        if key not in self._homes:
            line = self.bases.ancestors(target)
            self._homes[key] = next((each for each in line if name in self.symbols.members(each)), target)
        return self._homes[key]

    def _is_initial(self, row: int, key: Key) -> bool:
        """Whether a write only gives the state its first value: while its class or module is loaded."""
        table = self.bonds
        source = table.source[row]
        beside = self.symbols.is_module(source) and key[0] >= 0 and self.symbols.file_of[source] == self.symbols.file_of[key[0]]
        return table.context[row] in _LOADING and (source == key[0] or beside)

    def _alters(self, row: int) -> bool:
        """Whether what stands behind a use alters what the state holds."""
        table = self.bonds
        if table.site[row] < 0:
            return False
        place = self.content(table.file[row]).sites[table.site[row]].place
        text = self.text(table.file[row])
        if text[max(place.start - _BEHIND, 0) : place.start].rstrip().endswith((b":", b"|")):
            return False  # the type of something that is set, or one of its types
        return CHANGED.match(text[place.end : place.end + _BEHIND].decode("utf-8", "replace")) is not None


def member_of(shared: SharedState, key: Key) -> Member | None:
    """The static field or variable that a state is; None for a state outside the tree, or no variable."""
    return shared.fields(key[0]).get(key[1].lstrip("$")) if key[0] >= 0 else None
