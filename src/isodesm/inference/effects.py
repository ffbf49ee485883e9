"""Effects of members, and the ones a class can't be freed of: those it reaches over hard bonds only.

An object that a class makes or fetches for itself lets in what its construction does, and what the methods do that the
class calls on it; not what the object could do in other hands.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping
from functools import cached_property
from typing import Any, NamedTuple

from isodesm.catalogue import shared_catalogue
from isodesm.facts.records import FileSites
from isodesm.inference.effect_kinds import GRAVITY, SEVERE
from isodesm.inference.shared_state import SharedState
from isodesm.inference.use_graph import HEAD, INSTANCE, Direct, Node, UseGraph
from isodesm.linking.bonds import BondTable
from isodesm.linking.symbols import Symbols

REACH = 3
"""Hard hops that a grave effect is followed backwards. Beyond that nearly everything reaches something somewhere,
and a warning that is always on is none."""
NEAR = 2
"""Classes between a static call and a grave effect up to which it is plainly what the call is for."""
SHORT_REACH = 1
"""The same for the other effects: a clock read two classes further on is hardly what keeps a test from running."""


KEEPS_LOGS = frozenset(("file", "gui", "network", "sleep"))
"""Grave effects that a class may have and still be one that logs, or loads icons."""


class Moved(NamedTuple):
    """Uses that no longer are in the member that had them, by (user, used), and where they are instead."""

    away: frozenset[tuple[Node, Node]]
    to: dict[Node, tuple[Node, ...]]


NOTHING_MOVED = Moved(frozenset(), {})


class Effects(UseGraph):
    """Built from linked bonds; `of_node` and `of_type` answer what is locked in, `direct` what is used on the spot."""

    def __init__(
        self,
        symbols: Symbols,
        bonds: BondTable,
        shared: SharedState,
        content: Callable[[int], FileSites],
        texts: frozenset[int] = frozenset(),
    ) -> None:
        """`content(file)` gives the sites of a file; `texts` are the types that look texts up."""
        super().__init__(symbols, bonds, shared.bases, content)
        self.shared, self._texts = shared, texts
        self._next: dict[tuple[Node, str], tuple[Node | str, int]] = {}
        """(node, effect) to the next node of the shortest chain (an API name at its end) and the hops left."""
        self._below: dict[int, frozenset[int]] = {}
        self._spread()

    # --- asking ---------------------------------------------------------------------------

    def of_node(self, node: Node) -> tuple[str, ...]:
        """Effects that a member can't be freed of, sorted."""
        return self._by_node.get(node, ())

    def near(self, node: Node) -> tuple[str, ...]:
        """Effects that a call of a member plainly brings: grave ones over two more classes, others of its own class."""
        found = () if self.shared.is_memo(node) else self.of_node(node)
        return tuple(effect for effect in found if self._next[node, effect][1] <= (NEAR if effect in SEVERE else 0))

    def within(self, node: Node) -> tuple[str, ...]:
        """Effects that a member has by itself, or by way of others of its class."""
        return tuple(effect for effect in self.of_node(node) if self._next[node, effect][1] == 0)

    def of_type(self, number: int) -> tuple[str, ...]:
        """Locked effects of a class: those of all its members, sorted.

        What a bridging constructor supplies does not count: a test can call the other one. It does for those who don't.
        """
        if number in self._defaults and self._by_type.get(number):
            return self.type_without(number, frozenset())
        return self._by_type.get(number, ())

    def through(
        self,
        source: int,
        target: int,
        dropped: frozenset[int] = frozenset(),
        of_node: Callable[[Node], Iterable[str]] | None = None,
    ) -> tuple[str, ...]:
        """Effects that come with a target which the source makes or fetches.

        Those of its construction and of the methods called on it, and the grave ones that it has of itself, whoever
        calls it; `of_node` gives those of a node where they are no longer what they were, and uses of APIs in the rows
        `dropped` are not even a default any more.
        """
        nodes = [(target, INSTANCE), *self._called.get((source, target), ())]
        found = {effect for node in nodes for effect in (of_node or self.of_node)(node)}
        own = (use for use in self.used.get(target, ()) if use.row not in dropped and not use.sort)
        found.update(use.effect for use in own if use.effect in SEVERE)
        return tuple(sorted(found, key=GRAVITY.__getitem__))

    def chain_through(self, source: int, target: int, effect: str) -> tuple[str, ...]:
        """The shortest chain from a target to an effect that comes with it in the hands of a source."""
        nodes = [(target, INSTANCE), *self._called.get((source, target), ())]
        known = [(self._next[node, effect][1], node) for node in nodes if (node, effect) in self._next]
        if chain := self.chain(min(known)[1], effect) if known else self.chain_of_type(target, effect):
            return chain
        own = self._own_use(target, effect)
        return (self.symbols.types[target].name, own.api) if own else ()

    def _own_use(self, number: int, effect: str) -> Direct | None:
        """The first use that a class itself makes of an API with an effect, also of one on an object that it was handed."""
        return next((use for use in self.used.get(number, ()) if use.effect == effect and not use.sort), None)

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

    def use_behind(self, number: int, effect: str) -> int:
        """The row of the API use that the shortest chain from a class to an effect ends in; -1 where there is none."""
        members = range(INSTANCE, len(self.symbols.types[number].members))
        known = [(self._next[node, effect][1], node) for node in ((number, m) for m in members) if (node, effect) in self._next]
        step: Node | str = min(known)[1] if known else ""
        while not isinstance(step, str):
            following = self._next[step, effect][0]
            if isinstance(following, str):
                return next((use.row for use in self.direct.get(step, ()) if use.effect == effect), -1)
            step = following
        own = self._own_use(number, effect)
        return own.row if own else -1

    def chain_of_type(self, number: int, effect: str) -> tuple[str, ...]:
        """The shortest chain by which a class reaches one of its locked effects."""
        nodes = [(number, member) for member in range(HEAD, len(self.symbols.types[number].members))]
        known = [(self._next[node, effect][1], node) for node in [*nodes, (number, INSTANCE)] if (node, effect) in self._next]
        return self.chain(min(known)[1], effect) if known else ()

    def without(
        self,
        start: Node,
        cut: frozenset[tuple[int, int]],
        gone: frozenset[int] = frozenset(),
        moved: Moved = NOTHING_MOVED,
    ) -> tuple[str, ...]:
        """Effects of a node if, for each (source, target) in `cut`, the source were handed its target, without the rows
        `gone`, and with some uses `moved` to construction."""
        if not self.of_node(start) and not moved.to:
            return ()  # nothing to be rid of
        found = {
            use.effect
            for node, hops in self._reached(start, cut, moved, {start: None})
            for use in self.direct.get(node, ())
            if not use.sort and self._is_felt(node, use.effect, hops) and use.row not in gone
        }
        return tuple(sorted(found, key=GRAVITY.__getitem__))

    def way_without(
        self,
        number: int,
        effect: str,
        cut: frozenset[tuple[int, int]],
        gone: frozenset[int] = frozenset(),
        moved: Moved = NOTHING_MOVED,
    ) -> tuple[Node, ...]:
        """The nodes of a shortest way from a class to an effect that is locked in under the same assumption as `type_without`,
        the one that uses the API last; () where none is."""
        cut |= frozenset(self._defaults.get(number, ()))
        for member in range(HEAD, len(self.symbols.types[number].members)):
            before: dict[Node, Node | None] = {(number, member): None}
            for node, hops in self._reached((number, member), cut, moved, before):
                uses = (use for use in self.direct.get(node, ()) if use.effect == effect and not use.sort)
                if self._is_felt(node, effect, hops) and any(use.row not in gone for use in uses):
                    way: list[Node] = []
                    step: Node | None = node
                    while step is not None:
                        way.append(step)
                        step = before[step]
                    return tuple(reversed(way))
        return ()

    def _reached(
        self, start: Node, cut: frozenset[tuple[int, int]], moved: Moved, before: dict[Node, Node | None]
    ) -> Iterator[tuple[Node, int]]:
        """The nodes that one leads to, itself first, each with the hops to it; `before` gets the node that each is used by."""
        frontier = [start]
        for hops in range(REACH + 1):
            following: list[Node] = []
            for node in frontier:  # grows while it is read
                yield node, hops
                for used in (*self._used_by.get(node, ()), *moved.to.get(node, ())):
                    if (
                        used in before
                        or (node, used) in moved.away
                        or (node[0], used[0]) in cut
                        or (used[0] != node[0] and self.shared.is_memo(used))
                    ):
                        continue
                    before[used] = node
                    free = used[0] == node[0] or node[1] == INSTANCE
                    (frontier if free else following).append(used)
            frontier = following

    def _is_felt(self, node: Node, effect: str, hops: int) -> bool:
        """Whether an effect is still felt from so many hops away."""
        return hops == 0 or (node[0] not in self._cross_cutting and (effect in SEVERE or hops <= SHORT_REACH))

    @cached_property
    def _cross_cutting(self) -> frozenset[int]:
        """Loggers, tracers, text bundles: known by their name, provided that they do nothing graver than print or ask the
        time."""
        suffixes = tuple(shared_catalogue().cross_cutting.suffixes.split())
        return frozenset(
            number
            for number, declared in enumerate(self.symbols.types)
            if (number in self._texts or _in_capitals(declared.name).endswith(suffixes))
            and not (SEVERE - KEEPS_LOGS).intersection(use.effect for use in self.used.get(number, ()) if not use.sort)
        )

    def is_cross_cutting(self, number: int) -> bool:
        """Whether a type of the tree is a logger, tracer or the like, which nobody injects."""
        return number in self._cross_cutting

    def type_without(
        self,
        number: int,
        cut: frozenset[tuple[int, int]],
        gone: frozenset[int] = frozenset(),
        moved: Moved = NOTHING_MOVED,
    ) -> tuple[str, ...]:
        """Locked effects of a class under the same assumption as `without`; what its own bridging constructors supply never
        counts."""
        cut |= frozenset(self._defaults.get(number, ()))
        members = range(HEAD, len(self.symbols.types[number].members))
        found = {effect for member in members for effect in self.without((number, member), cut, gone, moved)}
        found.update(use.effect for use in self.used.get(number, ()) if use.sort == "probe" and use.row not in gone)
        return tuple(sorted(found, key=GRAVITY.__getitem__))

    def used_by(self, node: Node) -> list[Node]:
        """What a member uses over hard bonds and calls inside its class."""
        return self._used_by.get(node, [])

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

    def types_above(self, number: int) -> set[int]:
        """The type and all types from which hard bonds lead to it, over any number of hops."""
        found, waiting = {number}, [number]
        while waiting:
            for each in self._type_users.get(waiting.pop(), ()):
                if each not in found:
                    found.add(each)
                    waiting.append(each)
        return found

    @cached_property
    def _type_users(self) -> dict[int, set[int]]:
        """The same edges between types, in the other direction."""
        return {used: set(users) for used, users in _turned(self._type_edges).items()}

    @cached_property
    def _used_by(self) -> dict[Node, list[Node]]:
        """Edges in the direction of use."""
        return _turned(self._users)

    def _spread(self) -> None:
        """Breadth first from the APIs backwards, one effect at a time, REACH hops at most; edges inside a class are free."""
        frontier: list[tuple[Node, str]] = []
        for node in sorted(self.direct):
            for use in self.direct[node]:
                if use.sort:
                    continue
                if (node, use.effect) not in self._next:
                    self._next[node, use.effect] = (use.api, 0)
                    frontier.append((node, use.effect))
        for hops in range(REACH + 1):
            frontier = self._spread_once(frontier, hops)
        by_node: dict[Node, set[str]] = defaultdict(set)
        by_type: dict[int, set[str]] = defaultdict(set)
        for number, uses in self.used.items():
            by_type[number].update(use.effect for use in uses if use.sort == "probe")
        for node, effect in self._next:
            by_node[node].add(effect)
            if node[1] != INSTANCE:
                by_type[node[0]].add(effect)
        self._by_node = {node: tuple(sorted(found, key=GRAVITY.__getitem__)) for node, found in by_node.items()}
        self._by_type = {number: tuple(sorted(found, key=GRAVITY.__getitem__)) for number, found in by_type.items()}

    def _spread_once(self, frontier: list[tuple[Node, str]], hops: int) -> list[tuple[Node, str]]:
        """Take in everything reached without another hop, and return what is one hop further."""
        following: list[tuple[Node, str]] = []
        for node, effect in frontier:  # grows while it is read
            for user in self._users.get(node, ()):
                if (user, effect) in self._next:
                    continue
                free = user[0] == node[0] or user[1] == INSTANCE
                if not free and hops == (REACH if effect in SEVERE else SHORT_REACH):
                    continue
                if user[0] != node[0] and (node[0] in self._cross_cutting or self.shared.is_memo(node)):
                    continue
                self._next[user, effect] = (node, hops if free else hops + 1)
                (frontier if free else following).append((user, effect))
        return following


def _in_capitals(name: str) -> str:
    """A name as a class would have it: modules are written small."""
    return name[:1].upper() + name[1:]


def _turned(edges: Mapping[Any, Iterable[Any]]) -> dict[Any, list[Any]]:
    """Edges in the other direction, in order."""
    found: dict[Any, list[Any]] = defaultdict(list)
    for one, others in edges.items():
        for other in others:
            found[other].append(one)
    return found
