"""Effects of members, and the ones a class can't be freed of: those it reaches over hard bonds only.

An object that a class makes or fetches for itself lets in what its construction does, and what the methods do that the
class calls on it; not what the object could do in other hands.
"""

from __future__ import annotations

from collections import defaultdict
from functools import cached_property
from typing import NamedTuple

from isodesm.catalogue import shared_catalogue
from isodesm.facts import typetext
from isodesm.inference.apis import Apis
from isodesm.inference.bases import Bases
from isodesm.linking.bonds import ARGUMENTS, AT_SEAM, KIND_NUMBER, OWN_CALL, WITH_CLOCK, BondTable
from isodesm.linking.symbols import Symbols, simple_name

REACH = 3
"""Hard hops that a grave effect is followed backwards. Beyond that nearly everything reaches something somewhere,
and a warning that is always on is none."""
SHORT_REACH = 1
"""The same for the other effects: a clock read two classes further on is hardly what keeps a test from running."""

EFFECTS = (
    "network", "database", "file", "process", "gui", "sleep", "thread", "clock", "random", "environment", "console",
)  # fmt: skip
"""All effects, the gravest for a unit test first; lists of effects keep this order."""
_GRAVITY = {effect: rank for rank, effect in enumerate(EFFECTS)}

SEVERE = frozenset(("network", "database", "process", "file", "sleep", "gui"))
"""Effects that stop a unit test or slow it down."""
UNSURE = frozenset(("clock", "random", "thread"))
"""Effects that make the result of a unit test uncertain. What is left, console and environment, is a nuisance."""
GRAVE = SEVERE | UNSURE

OWN_TYPES = ("self", "static", "Self")
"""Words for the type that a member stands in."""
HANDED_IN = frozenset(("database",))
"""Effects whose calls are made on an object that somebody else opened, so that a double can stand in for it."""

CREATION, CALL = KIND_NUMBER["creation"], KIND_NUMBER["call"]
STATIC_CALL, STATIC_FIELD = KIND_NUMBER["static-call"], KIND_NUMBER["static-field"]

Node = tuple[int, int]
"""(type, member index): one member of a type; member INSTANCE stands for the construction of an object of it."""
INSTANCE, HEAD = -2, -1


class Direct(NamedTuple):
    """An API with an effect that a member uses."""

    effect: str
    api: str
    row: int


class Effects:
    """Built from linked bonds; `of_node` and `of_type` answer what is locked in, `direct` what is used on the spot."""

    def __init__(self, symbols: Symbols, bonds: BondTable, bases: Bases) -> None:
        self.symbols, self.bonds, self.bases = symbols, bonds, bases
        self.direct: dict[Node, list[Direct]] = defaultdict(list)
        """Uses that lock their effect in, by member."""
        self.used: dict[int, list[Direct]] = defaultdict(list)
        """All uses of APIs with an effect by type, also those on objects that may have been handed in."""
        self._users: dict[Node, list[Node]] = defaultdict(list)
        """Edges against the direction of use: from what is used to who uses it over a hard bond."""
        self._next: dict[tuple[Node, str], tuple[Node | str, int]] = {}
        """(node, effect) to the next node of the shortest chain (an API name at its end) and the hops left."""
        self._instances: set[int] = set()
        self._held: dict[int, set[int]] = defaultdict(set)
        """Type to the types of the objects that it makes or fetches for itself."""
        self._defaults: dict[int, set[tuple[int, int]]] = defaultdict(set)
        """Type to the (type, target) pairs of what its bridging constructors supply."""
        self._called: dict[tuple[int, int], list[Node]] = defaultdict(list)
        """(type, type of an object it holds so) to the members it calls on it."""
        self._below: dict[int, frozenset[int]] = {}
        self._collect()
        self._spread()

    # --- asking ---------------------------------------------------------------------------

    def of_node(self, node: Node) -> tuple[str, ...]:
        """Effects that a member can't be freed of, sorted."""
        return self._by_node.get(node, ())

    def near(self, node: Node) -> tuple[str, ...]:
        """Effects that a call of a member brings at once: grave ones over one more class, others of its own class."""
        found = self.of_node(node)
        return tuple(effect for effect in found if self._next[node, effect][1] <= (1 if effect in SEVERE else 0))

    def of_type(self, number: int) -> tuple[str, ...]:
        """Locked effects of a class: those of all its members, sorted.

        What a bridging constructor supplies does not count: a test can call the other one. It does for those who don't.
        """
        if number in self._defaults and self._by_type.get(number):
            return self.type_without(number, frozenset())
        return self._by_type.get(number, ())

    def through(
        self, source: int, target: int, cut: frozenset[tuple[int, int]] | None = None, gone: frozenset[int] = frozenset(),
        dropped: frozenset[int] = frozenset(),
    ) -> tuple[str, ...]:  # fmt: skip
        """Effects that come with a target which the source makes or fetches.

        Those of its construction and of the methods called on it, and the grave ones that it has of itself, whoever
        calls it. With `cut`, what is left if for each (source, target) in it the source were handed its target, and without
        the uses of APIs in the rows `gone`, of which `dropped` are not even a default any more.
        """
        nodes = [(target, INSTANCE), *self._called.get((source, target), ())]
        found = {effect for node in nodes for effect in (self.of_node(node) if cut is None else self.without(node, cut, gone))}
        found.update(use.effect for use in self.used.get(target, ()) if use.effect in SEVERE and use.row not in dropped)
        return tuple(sorted(found, key=_GRAVITY.__getitem__))

    def chain_through(self, source: int, target: int, effect: str) -> tuple[str, ...]:
        """The shortest chain from a target to an effect that comes with it in the hands of a source."""
        nodes = [(target, INSTANCE), *self._called.get((source, target), ())]
        known = [(self._next[node, effect][1], node) for node in nodes if (node, effect) in self._next]
        return self.chain(min(known)[1], effect) if known else self.chain_of_type(target, effect)

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
        return -1

    def chain_of_type(self, number: int, effect: str) -> tuple[str, ...]:
        """The shortest chain by which a class reaches one of its locked effects."""
        nodes = [(number, member) for member in range(HEAD, len(self.symbols.types[number].members))]
        known = [(self._next[node, effect][1], node) for node in [*nodes, (number, INSTANCE)] if (node, effect) in self._next]
        return self.chain(min(known)[1], effect) if known else ()

    def without(self, start: Node, cut: frozenset[tuple[int, int]], gone: frozenset[int] = frozenset()) -> tuple[str, ...]:
        """Effects of a node if, for each (source, target) in `cut`, the source were handed its target, without the rows `gone`."""
        if not self.of_node(start):
            return ()  # nothing to be rid of
        seen, frontier, found = {start}, [start], set()
        for hops in range(REACH + 1):
            following: list[Node] = []
            for node in frontier:  # grows while it is read
                uses = self.direct.get(node, ())
                found.update(use.effect for use in uses if (use.effect in SEVERE or self._is_near(node, hops)) and use.row not in gone)
                for used in self._used_by.get(node, ()):
                    if used in seen or (node[0], used[0]) in cut:
                        continue
                    seen.add(used)
                    free = used[0] == node[0] or node[1] == INSTANCE
                    (frontier if free else following).append(used)
            frontier = following
        return tuple(sorted(found, key=_GRAVITY.__getitem__))

    def _is_near(self, node: Node, hops: int) -> bool:
        """Whether an effect that is not grave is still felt from so many hops away."""
        return hops == 0 or (hops <= SHORT_REACH and node[0] not in self._cross_cutting)

    @cached_property
    def _cross_cutting(self) -> frozenset[int]:
        """Loggers, tracers, text bundles: known by their name, provided that they do nothing graver than print or ask the time."""
        suffixes = tuple(shared_catalogue().cross_cutting.suffixes.split())
        return frozenset(
            number for number, declared in enumerate(self.symbols.types)
            if declared.name.endswith(suffixes) and not SEVERE.intersection(use.effect for use in self.used.get(number, ()))
        )  # fmt: skip

    def is_cross_cutting(self, number: int) -> bool:
        """Whether a type of the tree is a logger, tracer or the like, which nobody injects."""
        return number in self._cross_cutting

    def type_without(self, number: int, cut: frozenset[tuple[int, int]], gone: frozenset[int] = frozenset()) -> tuple[str, ...]:
        """Locked effects of a class under the same assumption as `without`; what its own bridging constructors supply never counts."""
        cut |= frozenset(self._defaults.get(number, ()))
        members = range(HEAD, len(self.symbols.types[number].members))
        found = {effect for member in members for effect in self.without((number, member), cut, gone)}
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

    def type_of_static(self, number: int, name: str) -> int:
        """The declared type, if it is one of the tree, of what a static field holds; else -1."""
        return next((held for node in self._declared(number, name) if (held := self._field_types.get(node, -1)) >= 0), -1)

    def hands_out_itself(self, number: int, name: str) -> bool:
        """Whether a static member returns its own class or a base of it, as accessors and named constructors do."""
        names = {*OWN_TYPES, *(self.symbols.types[each].name for each in self.bases.ancestors(number))}
        return any(
            simple_name(typetext.head(self.symbols.types[each].members[index].type)) in names
            for each, index in self._declared(number, name)
        )

    # --- building -------------------------------------------------------------------------

    def _collect(self) -> None:
        """Edges of construction and static use first, since they say on which objects a call is a hard one."""
        table = self.bonds
        tables = {language: Apis(self.symbols.catalogues, language) for language in {facts.language for facts in self.symbols.files}}
        columns = zip(
            table.kind, table.source, table.source_member, table.target, table.callee, table.flags, table.file,
            strict=True,
        )  # fmt: skip
        strings, externals = table.names.strings, table.externals.strings
        calls: list[tuple[Node, int, str]] = []
        for row, (kind, source, member, target, callee, flags, file) in enumerate(columns):
            if kind != OWN_CALL and kind not in (CREATION, CALL, STATIC_CALL, STATIC_FIELD):
                continue
            node = (source, member)
            qualified = externals[-1 - target] if target < 0 else self.symbols.names[target]
            apis = tables[self.symbols.files[file].language]
            effect = apis.effect(kind, qualified, strings[callee], bool(flags & ARGUMENTS))
            if effect and not (effect == "clock" and flags & WITH_CLOCK):
                name = simple_name(qualified)
                called = strings[callee] if qualified == apis.built_in else f"{name}.{strings[callee]}"
                use = Direct(effect, name if kind == CREATION else called, row)
                self.used[source].append(use)
                if (kind != CALL or effect not in HANDED_IN) and not flags & AT_SEAM:
                    self.direct[node].append(use)
            elif target >= 0 and not apis.is_opaque(qualified, strings[callee]):
                if kind == CALL:
                    calls.append((node, target, strings[callee]))
                else:
                    self._use(node, kind, target, strings[callee])
                    if kind in (CREATION, STATIC_CALL, STATIC_FIELD) and flags & AT_SEAM:
                        self._defaults[source].add((source, target))
        self._use_objects(calls)

    def _use(self, user: Node, kind: int, target: int, callee: str) -> None:
        """One edge of construction, or of static or own use."""
        if kind == CREATION:
            self._users[target, INSTANCE].append(user)
            self._open_instance(target)
            self._held[user[0]].add(target)
            return
        for node in self._declared(target, callee):
            self._users[node].append(user)
            if kind == STATIC_FIELD and (held := self._field_types.get(node, -1)) >= 0:
                self._held[user[0]].add(held)
        if kind == STATIC_CALL and self.hands_out_itself(target, callee):
            self._held[user[0]].add(target)

    def _use_objects(self, calls: list[tuple[Node, int, str]]) -> None:
        """Calls on an object that the class made or fetched itself, or on a base of such an object, are hard as well."""
        behind: dict[int, dict[int, list[int]]] = {}
        for user, target, callee in calls:
            source = user[0]
            if source not in self._held:
                continue
            if source not in behind:
                behind[source] = self._by_base(self._held[source])
            for held in behind[source].get(target, ()):
                for node in self._declared(held, callee):
                    self._users[node].append(user)
                    self._called[source, held].append(node)

    def _by_base(self, held: set[int]) -> dict[int, list[int]]:
        """Each type of the tree that held objects are known under, to their own types, sorted."""
        found: dict[int, list[int]] = defaultdict(list)
        for each in sorted(held):
            for base in self.bases.ancestors(each):
                found[base].append(each)
        return found

    def _declared(self, target: int, name: str) -> list[Node]:
        """The members of that name in the nearest type of the line that declares one."""
        for each in self.bases.ancestors(target):
            found = self.symbols.members(each).get(name)
            if found:
                return [(each, index) for index, _ in found]
        return []

    def _open_instance(self, number: int) -> None:
        """Construction runs constructors and instance initialisers, those of the bases too; a host runs its callbacks."""
        waiting = [number]
        while waiting:
            each = waiting.pop()
            if each in self._instances:
                continue
            self._instances.add(each)
            hosted = each in self._callbacks
            for index, member in enumerate(self.symbols.types[each].members):
                built = member.kind in ("constructor", "instance") or (member.kind in ("field", "component") and not member.is_static)
                if built or (hosted and member.kind == "method" and not member.is_static):
                    self._users[each, index].append((each, INSTANCE))
            for base in self.bases.in_tree.get(each, ()):
                language = self.symbols.files[self.symbols.file_of[base]].language
                if not self.symbols.catalogues.is_value(self.symbols.names[base], language):
                    self._users[base, INSTANCE].append((each, INSTANCE))
                    waiting.append(base)

    @cached_property
    def _callbacks(self) -> frozenset[int]:
        """Types that implement an interface of the host, whose methods run without being called here."""
        found = set()
        names = {facts.language: frozenset(self.symbols.catalogues.of(facts.language).callbacks.types.split()) for facts in self.symbols.files}
        wanted = (KIND_NUMBER["extends"], KIND_NUMBER["implements"])
        table = self.bonds
        for kind, source, target, file in zip(table.kind, table.source, table.target, table.file, strict=True):
            if kind in wanted and target < 0 and self.bonds.external(target) in names[self.symbols.files[file].language]:
                found.add(source)
        return frozenset(found)

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
            if node[1] != INSTANCE:
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
                if not free and hops == (REACH if effect in SEVERE else SHORT_REACH):
                    continue
                if effect not in SEVERE and node[0] in self._cross_cutting and user[0] != node[0]:
                    continue
                self._next[user, effect] = (node, hops if free else hops + 1)
                (frontier if free else following).append((user, effect))
        return following
