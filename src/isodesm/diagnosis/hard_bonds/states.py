"""Which states belong to nobody: shared ones that somebody else than their keeper sets, and everybody who uses those."""

from __future__ import annotations

from collections import defaultdict
from functools import cached_property
from typing import NamedTuple

from isodesm.catalogue import shared_catalogue
from isodesm.codebase.model import Codebase
from isodesm.facts import typetext
from isodesm.facts.records import Member
from isodesm.inference.shared_state import CHANGED, Key, is_plain
from isodesm.inference.standing_evidence import REQUEST_VARIABLES
from isodesm.linking.bonds import CONTEXT_NUMBER, KIND_NUMBER, OWN_CALL, STATE, WRITE
from isodesm.linking.hierarchy import UNKNOWN
from isodesm.linking.remembering import remembered

STATIC_FIELD, STATIC_CALL, CALL = KIND_NUMBER["static-field"], KIND_NUMBER["static-call"], KIND_NUMBER["call"]
CREATION = KIND_NUMBER["creation"]
_LOADING = frozenset(CONTEXT_NUMBER[each] for each in ("module", "static-initializer", "field-initializer"))
OF_HOST = frozenset(("location", "name", "document", "status", "opener", "title", "scrollX", "scrollY", "event"))
"""Members of the host's global object that setting makes no state of one's own."""
MANY_TEXTS, MOSTLY = 10, 0.8
"""Static texts from which a class is a catalogue of them, and the share of its states that they must be."""
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


class States:
    """All shared states that are set at run time, with their uses in order of place."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase, self.symbols, self.shared = codebase, codebase.symbols, codebase.shared
        self.uses: dict[Key, list[Use]] = defaultdict(list)
        self._homes: dict[Key, int] = {}
        self._known: dict[tuple[int, int], list[tuple[Key, bool, bool]]] = {}
        self._collect_direct()
        self._collect_calls()

    # --- asking ---------------------------------------------------------------------------

    @cached_property
    def open(self) -> tuple[Key, ...]:
        """The states that belong to nobody, sorted."""
        return tuple(key for key in sorted(self.uses) if (self.is_open(key) if key[0] >= 0 else self.is_global(key)))

    @cached_property
    def rows(self) -> frozenset[int]:
        """Rows of all uses of an open state by others than its keeper."""
        return frozenset(use.row for key in self.open for use in self.uses[key] if use.source != key[0])

    def is_open(self, key: Key) -> bool:
        """Whether production code outside its class sets the state after start-up, itself or through a member."""
        member = self.member(key)
        if member is None or key[0] in self.codebase.locators or key[1] in self.shared.own_instances(key[0]):
            return False  # fetching the one instance, or looking something up, is reported as that
        if self.is_cross_cutting(key[0]) or self._holds_logger(member):
            return False
        outside = [use for use in self.uses[key] if self.is_outside(use, key) and self.is_production(use.source)]
        if any(use.writes for use in outside):
            return True
        shown = any(not use.through or (use.handed and not is_plain(member.type)) for use in outside)
        return shown and self._is_set_by_keeper(key)

    def is_global(self, key: Key) -> bool:
        """Whether a global variable is one that code of this tree shares."""
        if key[0] == UNKNOWN:
            return False
        name = self.codebase.bonds.external(key[0])
        if name.startswith("$"):
            return True
        sources = {use.source for use in self.uses[key]}
        written = any(use.writes for use in self.uses[key])
        return written and len(sources) > 1 and key[1] not in OF_HOST and not key[1].startswith("on")

    def is_kept_by_own_class(self, key: Key) -> bool:
        """Whether the state changes, but only at the hands of its own class."""
        return any(use.writes for use in self.uses[key]) and self.is_production(key[0])

    def member(self, key: Key) -> Member | None:
        """The static field or variable; None for a state outside the tree, or no variable."""
        return self.shared.fields(key[0]).get(key[1].lstrip("$")) if key[0] >= 0 else None

    def is_outside(self, use: Use, key: Key) -> bool:
        """Whether a use is made by a class that neither lies around the state's nor in it, nor inherits it: what is nested is
        lent. The variable of a module belongs to its file."""
        if self.symbols.is_module(key[0]):
            return self.codebase.bonds.file[use.row] != self.symbols.file_of[key[0]]
        inherited = key[0] in self.codebase.roles.ancestors(use.source)
        return not inherited and self._outermost(use.source) != self._outermost(key[0])

    @remembered
    def users(self, key: Key) -> frozenset[int]:
        """The types that use a state."""
        return frozenset(use.source for use in self.uses[key])

    @remembered
    def writers(self, key: Key) -> frozenset[int]:
        """The types of production code, with a name of their own, that set a state."""
        return frozenset(
            use.source
            for use in self.uses[key]
            if use.writes and self.symbols.is_shown(use.source) and self.is_production(use.source)
        )

    @remembered
    def is_production(self, number: int) -> bool:
        """Whether a type is neither test nor generated code."""
        return self.codebase.roles.name(number) != "test" and not self.symbols.is_generated(number)

    # --- gathering ------------------------------------------------------------------------

    def _collect_direct(self) -> None:
        """Uses that name the state: writes, and reads of what is a state."""
        table = self.codebase.bonds
        names = table.names.strings
        host = -1 - table.externals.number("globalThis")
        of_host = {-1 - number for number, name in enumerate(table.externals.strings) if name in ("window", "globalThis")}
        for row, (kind, source, target, callee) in enumerate(
            zip(table.kind, table.source, table.target, table.callee, strict=True)
        ):
            if kind not in (WRITE, STATE, STATIC_FIELD):
                continue
            name = names[callee]
            key = (host, name) if target in of_host else (self._home(target, name), name)
            if kind == WRITE:
                if not self._is_initial(row, key):
                    self.uses[key].append(Use(row, source, True))
            elif key[0] < 0:
                if kind == STATE:
                    self.uses[key].append(Use(row, source, False))
            elif self.member(key) is not None:
                if not self._is_initial(row, key):
                    self.uses[key].append(Use(row, source, self._alters(row)))
            elif source != target:  # a property with a body of its own
                for state, writes, handed in self._touched_by(target, callee):
                    self.uses[state].append(Use(row, source, writes, name, handed))

    def _collect_calls(self) -> None:
        """Uses through a member of the keeper that touches the state."""
        table = self.codebase.bonds
        names = table.names.strings
        for row, (kind, source, target, callee) in enumerate(
            zip(table.kind, table.source, table.target, table.callee, strict=True)
        ):
            if target < 0 or source == target or kind not in (STATIC_CALL, CALL):
                continue
            if kind == CALL and not self.symbols.is_module(target):
                continue
            for key, writes, handed in self._touched_by(target, callee):
                self.uses[key].append(Use(row, source, writes, names[callee], handed))

    def _touched_by(self, target: int, callee: int) -> list[tuple[Key, bool, bool]]:
        """The states that a static member touches, each with whether calling it sets the state, and hands it out."""
        found = self._known.get((target, callee))
        if found is None:
            line = self.codebase.roles.ancestors(target)
            found = self._known[target, callee] = self._touched(line, self.codebase.bonds.names.strings[callee])
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
        """Member to the global variable of the request that it reads, itself or through another member of its class."""
        table = self.codebase.bonds
        found: dict[tuple[int, int], Key] = {}
        calls: dict[tuple[int, str], list[tuple[int, int]]] = defaultdict(list)
        wanted = {
            -1 - number: name
            for number, name in enumerate(table.externals.strings)
            if name in REQUEST_VARIABLES | {"$_SESSION"}
        }
        if not wanted:
            return found
        for row, (kind, source, target) in enumerate(zip(table.kind, table.source, table.target, strict=True)):
            node = (source, table.source_member[row])
            if kind == STATE and target in wanted and not self.symbols.is_module(source):
                found.setdefault(node, (target, wanted[target]))
            elif target == source and kind in (STATIC_CALL, CALL, OWN_CALL):
                calls[source, table.text_of("callee", row)].append(node)
        waiting = list(found)
        for number, index in waiting:  # grows while it is read
            for user in calls.get((number, self.symbols.types[number].members[index].name), ()) if index >= 0 else ():
                if user not in found:
                    found[user] = found[number, index]
                    waiting.append(user)
        return found

    def _home(self, target: int, name: str) -> int:
        """The type that declares a static member which is reached through a subclass."""
        if target < 0:
            return target
        key = (target, name)
        if key not in self._homes:
            line = self.codebase.roles.ancestors(target)
            self._homes[key] = next((each for each in line if name in self.symbols.members(each)), target)
        return self._homes[key]

    def _is_initial(self, row: int, key: Key) -> bool:
        """Whether a write only gives the state its first value: while its class or module is loaded."""
        table = self.codebase.bonds
        source = table.source[row]
        beside = self.symbols.is_module(source) and key[0] >= 0 and self.symbols.file_of[source] == self.symbols.file_of[key[0]]
        return table.context[row] in _LOADING and (source == key[0] or beside)

    def _alters(self, row: int) -> bool:
        """Whether what stands behind a use alters what the state holds."""
        table = self.codebase.bonds
        if table.site[row] < 0:
            return False
        place = self.codebase.content(table.file[row]).sites[table.site[row]].place
        text = self.codebase.text(table.file[row])
        if text[max(place.start - _BEHIND, 0) : place.start].rstrip().endswith(b":"):
            return False  # the type of something that is set
        return CHANGED.match(text[place.end : place.end + _BEHIND].decode("utf-8", "replace")) is not None

    def _is_set_by_keeper(self, key: Key) -> bool:
        """Whether the keeper sets the state while the program runs, otherwise than to fill it when it is first asked for."""
        number, name = key
        return any(
            name in touch.changes and not touch.gives_value and self._may_be_called(number, index)
            for index, touch in self.shared.touches(number).items()
        )

    def _may_be_called(self, number: int, index: int) -> bool:
        """Whether a member runs after start-up because others call it: no initialiser, and none that is private."""
        member = self.symbols.types[number].members[index]
        return member.kind != "static" and not member.is_private

    @cached_property
    def chatter(self) -> dict[int, list[Use]]:
        """Loggers, texts, icons and the like whose state can change, with all uses from outside."""
        found: dict[int, list[Use]] = defaultdict(list)
        for (number, name), uses in self.uses.items():
            if number >= 0 and self.is_cross_cutting(number) and any(use.writes for use in uses):
                found[number] += [
                    use for use in uses if self.is_outside(use, (number, name)) and self.is_production(use.source)
                ]
        return found

    def is_cross_cutting(self, number: int) -> bool:
        """Whether a class logs, or holds texts or icons: nobody hands those in one by one."""
        return self.codebase.effects.is_cross_cutting(number) or self._holds_texts(number)

    def _holds_logger(self, member: Member) -> bool:
        """Whether a state keeps a logger or the like, by its type or its name."""
        suffixes = tuple(shared_catalogue().cross_cutting.suffixes.split())
        name = member.name.lstrip("$_")
        return typetext.head(member.type).endswith(suffixes) or (name[:1].upper() + name[1:]).endswith(suffixes)

    def _holds_texts(self, number: int) -> bool:
        states = self.shared.fields(number).values()
        texts = sum(1 for each in states if typetext.head(each.type).lower() in ("string", "str"))
        return texts >= MANY_TEXTS and texts >= MOSTLY * len(states)

    def _outermost(self, number: int) -> int:
        symbols = self.symbols
        while not symbols.is_module(number) and (outer := symbols.outer(number)) >= 0 and not symbols.is_module(outer):
            number = outer
        return number
