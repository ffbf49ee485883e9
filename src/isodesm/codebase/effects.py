"""Effects of members, and the ones a class can't be freed of: those it reaches over hard bonds only."""

from __future__ import annotations

from collections import defaultdict
from functools import cached_property
from typing import NamedTuple

from isodesm.catalogue import catalogue_of, is_value
from isodesm.codebase.bonds import ARGUMENTS, AT_SEAM, KIND_NUMBER, OWN_CALL, BondTable
from isodesm.codebase.symbols import Symbols

REACH = 4
"""Hard hops that an effect is followed backwards. Beyond that nearly everything reaches a clock or a console somewhere,
and a warning that is always on is none."""

EFFECTS = (
    "network", "database", "file", "process", "gui", "sleep", "thread", "clock", "random", "environment", "console",
)  # fmt: skip
"""All effects, the gravest for a unit test first; lists of effects keep this order."""
_GRAVITY = {effect: rank for rank, effect in enumerate(EFFECTS)}

HANDED_IN = frozenset(("database",))
"""Effects whose calls are made on an object that somebody else opened, so that a double can stand in for it."""

CREATION, CALL = KIND_NUMBER["creation"], KIND_NUMBER["call"]
STATIC_CALL, STATIC_FIELD = KIND_NUMBER["static-call"], KIND_NUMBER["static-field"]

Node = tuple[int, int]
"""(type, member index): one member of a type; member INSTANCE stands for all that an object of it can do."""
SEAM, INSTANCE, HEAD = -3, -2, -1
"""Member SEAM of a type stands for the defaults its bridging constructors supply: they come with every object that is
made through them, but the class itself can be freed of them."""


class Direct(NamedTuple):
    """An API with an effect that a member uses."""

    effect: str
    api: str
    row: int


class Effects:
    """Built from linked bonds; `of_node` and `of_type` answer what is locked in, `direct` what is used on the spot."""

    def __init__(self, symbols: Symbols, bonds: BondTable) -> None:
        self.symbols, self.bonds = symbols, bonds
        self.direct: dict[Node, list[Direct]] = defaultdict(list)
        """Uses that lock their effect in, by member."""
        self.used: dict[int, list[Direct]] = defaultdict(list)
        """All uses of APIs with an effect by type, also those on objects that may have been handed in."""
        self._users: dict[Node, list[Node]] = defaultdict(list)
        """Edges against the direction of use: from what is used to who uses it over a hard bond."""
        self._next: dict[tuple[Node, str], tuple[Node | str, int]] = {}
        """(node, effect) to the next node of the shortest chain (an API name at its end) and the hops left."""
        self._instances: set[int] = set()
        self._below: dict[int, frozenset[int]] = {}
        self._collect()
        self._spread()

    # --- asking ---------------------------------------------------------------------------

    def of_node(self, node: Node) -> tuple[str, ...]:
        """Effects that a member can't be freed of, sorted."""
        return self._by_node.get(node, ())

    def of_type(self, number: int) -> tuple[str, ...]:
        """Locked effects of a class: those of all its members, sorted."""
        return self._by_type.get(number, ())

    def of_object(self, number: int) -> tuple[str, ...]:
        """Effects that come with every object of a type, its inherited members included."""
        return self._by_node.get((number, INSTANCE), ())

    def chain(self, node: Node, effect: str) -> tuple[str, ...]:
        """The shortest chain from a node to an effect: simple names of the classes, the API last."""
        names: list[str] = []
        step: Node | str = node
        while not isinstance(step, str):
            name = self.symbols.types[self.symbols.named(step[0])].name
            if not names or names[-1] != name:
                names.append(name)
            following = self._next.get((step, effect))
            if following is None:
                return ()
            step = following[0]
        return (*names, step)

    def chain_of_type(self, number: int, effect: str) -> tuple[str, ...]:
        """The shortest chain by which a class reaches one of its locked effects."""
        nodes = [(number, member) for member in range(HEAD, len(self.symbols.types[number].members))]
        known = [(self._next[node, effect][1], node) for node in [*nodes, (number, INSTANCE)] if (node, effect) in self._next]
        return self.chain(min(known)[1], effect) if known else ()

    def without(self, start: Node, cut: frozenset[tuple[int, int]]) -> tuple[str, ...]:
        """Effects of a node if, for each (source, target) in `cut`, the source were handed its target."""
        seen, frontier, found = {start}, [start], set()
        for _ in range(REACH + 1):
            following: list[Node] = []
            for node in frontier:  # grows while it is read
                found.update(use.effect for use in self.direct.get(node, ()))
                for used in self._used_by.get(node, ()):
                    if used in seen or (node[0], used[0]) in cut:
                        continue
                    seen.add(used)
                    free = used[0] == node[0] or node[1] == INSTANCE
                    (frontier if free else following).append(used)
            frontier = following
        return tuple(sorted(found, key=_GRAVITY.__getitem__))

    def type_without(self, number: int, cut: frozenset[tuple[int, int]]) -> tuple[str, ...]:
        """Locked effects of a class under the same assumption as `without`."""
        members = range(HEAD, len(self.symbols.types[number].members))
        found = {effect for member in members for effect in self.without((number, member), cut)}
        return tuple(sorted(found, key=_GRAVITY.__getitem__))

    def types_below(self, number: int) -> frozenset[int]:
        """The type and all types that hard bonds lead to from an object of it, within REACH hops."""
        found = self._below.get(number)
        if found is None:
            seen, frontier = {number}, [number]
            for _ in range(REACH + 1):
                frontier = [each for node in frontier for each in self._type_edges.get(node, ()) if each not in seen]
                seen.update(frontier)
            found = self._below[number] = frozenset(seen)
        return found

    @cached_property
    def _type_edges(self) -> dict[int, set[int]]:
        """Type to the types that it uses over hard bonds."""
        found: dict[int, set[int]] = defaultdict(set)
        for used, users in self._users.items():
            for user in users:
                found[user[0]].add(used[0])
        return found

    @cached_property
    def _used_by(self) -> dict[Node, list[Node]]:
        """Edges in the direction of use."""
        found: dict[Node, list[Node]] = defaultdict(list)
        for used, users in self._users.items():
            for user in users:
                found[user].append(used)
        return found

    # --- building -------------------------------------------------------------------------

    def _collect(self) -> None:
        table = self.bonds
        tables = {facts.language: _Apis(facts.language) for facts in self.symbols.files}
        columns = zip(
            table.kind, table.source, table.source_member, table.target, table.callee, table.flags, table.file,
            strict=True,
        )  # fmt: skip
        strings, externals = table.names.strings, table.externals.strings
        for row, (kind, source, member, target, callee, flags, file) in enumerate(columns):
            if kind != OWN_CALL and kind not in (CREATION, CALL, STATIC_CALL, STATIC_FIELD):
                continue
            node = (source, member)
            qualified = externals[-1 - target] if target < 0 else self.symbols.names[target]
            apis = tables[self.symbols.files[file].language]
            if effect := apis.effect(kind, qualified, strings[callee], bool(flags & ARGUMENTS)):
                name = qualified.rpartition(".")[2]
                use = Direct(effect, name if kind == CREATION else f"{name}.{strings[callee]}", row)
                self.used[source].append(use)
                if kind != CALL or effect not in HANDED_IN:
                    self.direct[node].append(use)
                continue
            if target < 0 or is_value(qualified, self.symbols.files[file].language):
                continue
            if kind == CREATION:
                self._use_instance((source, SEAM) if flags & AT_SEAM else node, target)
            elif kind != CALL:
                self._use_member(node, target, strings[callee], static_field=kind == STATIC_FIELD)

    def _use_instance(self, user: Node, target: int) -> None:
        self._users[target, INSTANCE].append(user)
        self._open_instance(target)

    def _open_instance(self, number: int) -> None:
        """An object can do what its instance members do, its own and inherited ones."""
        waiting = [number]
        while waiting:
            each = waiting.pop()
            if each in self._instances:
                continue
            self._instances.add(each)
            self._users[each, SEAM].append((each, INSTANCE))
            for index, member in enumerate(self.symbols.types[each].members):
                if not member.is_static and member.kind not in ("static", "constant"):
                    self._users[each, index].append((each, INSTANCE))
            for base in self.bases.get(each, ()):
                if is_value(self.symbols.names[base], self.symbols.files[self.symbols.file_of[base]].language):
                    continue
                self._users[base, INSTANCE].append((each, INSTANCE))
                waiting.append(base)

    @cached_property
    def _field_types(self) -> dict[Node, int]:
        """Declared type of each static field, an enum constant's own type included."""
        found: dict[Node, int] = {}
        field = KIND_NUMBER["field"]
        table = self.bonds
        for kind, source, member, target in zip(table.kind, table.source, table.source_member, table.target, strict=True):
            if kind == field:
                found[source, member] = target
        for number, declared in enumerate(self.symbols.types):
            if declared.kind == "enum":
                found.update({(number, index): number for index, m in enumerate(declared.members) if m.kind == "constant"})
        return found

    @cached_property
    def bases(self) -> dict[int, list[int]]:
        """Types of the tree that a type extends, from its bonds."""
        found: dict[int, list[int]] = defaultdict(list)
        extends = KIND_NUMBER["extends"]
        for kind, source, target in zip(self.bonds.kind, self.bonds.source, self.bonds.target, strict=True):
            if kind == extends and target >= 0:
                found[source].append(target)
        return dict(found)

    def _use_member(self, user: Node, target: int, name: str, *, static_field: bool) -> None:
        """A static member, or one of the own hierarchy, is used by name: the nearest declaration counts."""
        waiting, seen = [target], {target}
        for each in waiting:
            found = self.symbols.members(each).get(name)
            if found:
                for index, _ in found:
                    self._users[each, index].append(user)
                    if static_field and (held := self._field_types.get((each, index), -1)) >= 0:
                        self._use_instance((each, index), held)
                return
            below = [base for base in self.bases.get(each, ()) if base not in seen]
            seen.update(below)
            waiting += below

    def _spread(self) -> None:
        """Breadth first from the APIs backwards, one effect at a time, REACH hops at most; edges inside a class are free."""
        frontier: list[tuple[Node, str]] = []
        for node in sorted(self.direct):
            for use in self.direct[node]:
                if (node, use.effect) not in self._next:
                    self._next[node, use.effect] = (use.api, 0)
                    frontier.append((node, use.effect))
        for hops in range(REACH + 1):
            frontier = self._spread_once(frontier, hops)
        by_node: dict[Node, set[str]] = defaultdict(set)
        by_type: dict[int, set[str]] = defaultdict(set)
        for node, effect in self._next:
            by_node[node].add(effect)
            if node[1] not in (INSTANCE, SEAM):
                by_type[node[0]].add(effect)
        self._by_node = {node: tuple(sorted(found, key=_GRAVITY.__getitem__)) for node, found in by_node.items()}
        self._by_type = {number: tuple(sorted(found, key=_GRAVITY.__getitem__)) for number, found in by_type.items()}

    def _spread_once(self, frontier: list[tuple[Node, str]], hops: int) -> list[tuple[Node, str]]:
        """Take in everything reached without another hop, and return what is one hop further."""
        following: list[tuple[Node, str]] = []
        for node, effect in frontier:  # grows while it is read
            for user in self._users.get(node, ()):
                if (user, effect) in self._next:
                    continue
                free = user[0] == node[0] or user[1] == INSTANCE
                if not free and hops == REACH:
                    continue
                self._next[user, effect] = (node, hops if free else hops + 1)
                (frontier if free else following).append((user, effect))
        return following


class _Apis:
    """The catalogued effects of one language, turned for looking up."""

    def __init__(self, language: str) -> None:
        catalogue = catalogue_of(language)
        self.by_type: dict[str, dict[str, str]] = defaultdict(dict)
        for effect, types in catalogue.effects.items():
            for name, members in types.items():
                self.by_type[name].update({member: effect for member in members})
        self.calls = {call: effect for effect, calls in catalogue.effect_calls.items() for call in calls}

    def effect(self, kind: int, target: str, callee: str, arguments: bool) -> str:
        """The effect of using an external type so; '' for none."""
        members = self.by_type.get(target)
        if kind == CREATION:
            if not members:
                return ""
            return members.get("new") or ("" if arguments else members.get("new/0", "")) or members.get("*", "")
        if kind == CALL:
            return self.calls.get(f"{target}.{callee}", "")
        return (members.get(callee) or members.get("*", "")) if members else ""
