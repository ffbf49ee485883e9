"""Which states belong to nobody: shared ones that somebody else than their keeper sets, and everybody who uses those."""

from __future__ import annotations

from collections import defaultdict
from functools import cached_property

from isodesm.catalogue import shared_catalogue
from isodesm.codebase.model import Codebase
from isodesm.facts import typetext
from isodesm.facts.records import Member
from isodesm.inference.shared_state import Key, is_plain
from isodesm.inference.state_uses import AT_LOAD, Use, member_of
from isodesm.linking.bonds import UNKNOWN, WRITE
from isodesm.linking.remembering import remembered

OF_HOST = frozenset(("location", "name", "document", "status", "opener", "title", "scrollX", "scrollY", "event"))
"""Members of the host's global object that setting makes no state of one's own."""
NEXT = 8
"""Bytes behind a use in which an assignment shows."""
MANY_TEXTS, MOSTLY = 10, 0.8
"""Static texts from which a class is a catalogue of them, and the share of its states that they must be."""


class States:
    """All shared states that are set at run time, with their uses in order of place."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase, self.symbols, self.shared = codebase, codebase.symbols, codebase.shared
        self.uses = defaultdict(list, codebase.state_uses)

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
        if self.is_cross_cutting(key[0]) or self._holds_logger(member) or self._serves_messages(key):
            return False
        outside = [use for use in self.uses[key] if self.is_outside(use, key) and self.is_production(use.source)]
        if any(use.writes and not self._registers(use) for use in outside):
            return True
        shown = any(not use.through or (use.handed and not is_plain(member.type)) for use in outside)
        return shown and self.is_set_by_keeper(key)

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
        return member_of(self.shared, key)

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

    def is_set_by_keeper(self, key: Key) -> bool:
        """Whether the keeper sets the state while the program runs, otherwise than to fill it when it is first asked for."""
        number, name = key
        return any(
            name in touch.changes and not touch.gives_value and self._may_be_called(number, index)
            for index, touch in self.shared.touches(number).items()
        )

    def _may_be_called(self, number: int, index: int) -> bool:
        """Whether a member runs after start-up because others call it: no initialiser, none that is private, and none that is
        only called while modules are loaded."""
        member = self.symbols.types[number].members[index]
        return member.kind != "static" and not member.is_private and (number, member.name) not in self._called_while_loading

    def _registers(self, use: Use) -> bool:
        """Whether a module, while it is loaded, puts something into what another keeps, as a declaration would."""
        table = self.codebase.bonds
        if use.through or table.kind[use.row] == WRITE or table.context[use.row] != AT_LOAD or table.site[use.row] < 0:
            return False
        place = self.codebase.content(table.file[use.row]).sites[table.site[use.row]].place
        behind = self.codebase.text(table.file[use.row])[place.end : place.end + NEXT]
        return not behind.lstrip().startswith(b"=")

    @cached_property
    def _called_while_loading(self) -> set[tuple[int, str]]:
        """Keepers, with the members of theirs that are asked for, but only while modules are loaded."""
        table, names = self.codebase.bonds, self.codebase.bonds.names.strings
        keepers = {number for number, _ in self.uses if number >= 0 and self.symbols.is_module(number)}
        loading: set[tuple[int, str]] = set()
        otherwise: set[tuple[int, str]] = set()
        for target, callee, context in zip(table.target, table.callee, table.context, strict=True):
            if target in keepers:
                (loading if context == AT_LOAD else otherwise).add((target, names[callee]))
        return loading - otherwise

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

    def _serves_messages(self, key: Key) -> bool:
        """Whether all that touches a state writes to the console and gives nothing back: it remembers what was said."""
        number, name = key
        touching = [
            (number, index) for index, touch in self.shared.touches(number).items() if name in touch.reads | touch.changes
        ]
        effects = self.codebase.effects
        return bool(touching) and all(
            "console" in effects.of_node(node) and not self.shared.touch(node).gives_value for node in touching
        )

    def _holds_texts(self, number: int) -> bool:
        states = self.shared.fields(number).values()
        texts = sum(1 for each in states if typetext.head(each.type).lower() in ("string", "str"))
        return texts >= MANY_TEXTS and texts >= MOSTLY * len(states)

    def _outermost(self, number: int) -> int:
        symbols = self.symbols
        while not symbols.is_module(number) and (outer := symbols.outer(number)) >= 0 and not symbols.is_module(outer):
            number = outer
        return number
