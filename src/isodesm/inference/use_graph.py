"""Who uses what over hard bonds: the edges that effects travel along, member by member."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, MutableMapping
from functools import cached_property
from typing import Any, NamedTuple

from isodesm.facts import typetext
from isodesm.facts.records import FileSites
from isodesm.inference.apis import Apis
from isodesm.inference.bases import Bases
from isodesm.inference.effect_kinds import HANDED_IN
from isodesm.linking.bonds import (
    ARGUMENTS,
    ASKED,
    AT_SEAM,
    DEFERRED,
    INTO_GIVEN,
    KIND_NUMBER,
    OWN_CALL,
    SEVERAL,
    UNKNOWN,
    WITH_CLOCK,
    BondTable,
)
from isodesm.linking.remembering import remembered
from isodesm.linking.symbols import Symbols, simple_name

_USES = frozenset((OWN_CALL, ASKED, *(KIND_NUMBER[kind] for kind in ("creation", "call", "static-call", "static-field"))))
_TELLING = ARGUMENTS | INTO_GIVEN | SEVERAL | WITH_CLOCK
"""Flags that say whether a use of an API has its effect."""
OWN_TYPES = ("self", "static", "Self")
"""Words for the type that a member stands in."""
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
    sort: str = ""
    """`probe`, `timer` or `drawing`: its effect is felt on the spot, and does not travel to who uses the member."""


HUSHED = Direct("", "", -1)
"""A use of an API that nobody feels, and that is no use of a class either."""


class UseGraph:
    """Uses of APIs with an effect, and the edges from what is used to who uses it, read from linked bonds."""

    def __init__(self, symbols: Symbols, bonds: BondTable, bases: Bases, content: Callable[[int], FileSites]) -> None:
        """`content(file)` gives the sites of a file."""
        self.symbols, self.bonds, self.bases, self._content = symbols, bonds, bases, content
        self.direct: dict[Node, list[Direct]] = defaultdict(list)
        """Uses that lock their effect in, by member."""
        self.used: dict[int, list[Direct]] = defaultdict(list)
        """All uses of APIs with an effect by type, also those on objects that may have been handed in."""
        self._users: dict[Node, list[Node]] = defaultdict(list)
        """Edges against the direction of use: from what is used to who uses it over a hard bond."""
        self._instances: set[int] = set()
        self._held: dict[int, set[int]] = defaultdict(set)
        """Type to the types of the objects that it makes or fetches for itself."""
        self._defaults: dict[int, set[tuple[int, int]]] = defaultdict(set)
        """Type to the (type, target) pairs of what its bridging constructors supply."""
        self._called: dict[tuple[int, int], dict[Node, None]] = defaultdict(dict)
        """(type, type of an object it holds so) to the members it calls on it."""
        self._tables = {
            language: Apis(symbols.catalogues, language) for language in {facts.language for facts in symbols.files}
        }
        self._collect()

    def type_of_static(self, number: int, name: str) -> int:
        """The declared type, if it is one of the tree, of what a static field holds; else -1."""
        return next((held for node in self.declared(number, name) if (held := self._field_types.get(node, -1)) >= 0), -1)

    def type_handed_out(self, number: int, name: str) -> int:
        """The type of the tree, not its own, that a static member gives back; -1 for any other."""
        found = (self._returned.get(node, -1) for node in self.declared(number, name))
        return next((each for each in found if each >= 0 and each != number), -1)

    @remembered
    def chosen(self, number: int, name: str) -> tuple[int, ...]:
        """The classes of which a static member makes one by its own choice, to hand it out as their base; () where it does not
        choose."""
        kinds = self.bases.implementers.get(self.type_handed_out(number, name), ())
        nodes = self.declared(number, name) if kinds else []
        made = dict.fromkeys(each for node in nodes for each in self._made_in.get(node, ()) if each in kinds)
        return tuple(made) if len(made) > 1 else ()

    @cached_property
    def _made_in(self) -> dict[Node, list[int]]:
        """Member to the types of the tree that it creates."""
        found: dict[Node, list[int]] = defaultdict(list)
        for row in self.bonds.rows_of_kind("creation"):
            if self.bonds.target[row] >= 0:
                found[self.bonds.source[row], self.bonds.source_member[row]].append(self.bonds.target[row])
        return found

    @cached_property
    def _returned(self) -> dict[Node, int]:
        """Member to the type of the tree that it says to give back."""
        kind, table = KIND_NUMBER["return"], self.bonds
        return {
            (source, member): target
            for each, source, member, target in zip(table.kind, table.source, table.source_member, table.target, strict=True)
            if each == kind and target >= 0
        }

    @remembered
    def hands_out_itself(self, number: int, name: str) -> bool:
        """Whether a static member returns its own class or a base of it, as accessors and named constructors do."""
        names = {*OWN_TYPES, *(self.symbols.types[each].name for each in self.bases.ancestors(number))}
        return any(
            simple_name(typetext.head(self.symbols.types[each].members[index].type)) in names
            for each, index in self.declared(number, name)
        )

    def _collect(self) -> None:
        """Edges of construction and static use first, since they say on which objects a call is a hard one."""
        table = self.bonds
        columns = zip(
            table.kind,
            table.source,
            table.source_member,
            table.target,
            table.callee,
            table.flags,
            table.file,
            strict=True,
        )
        strings, languages = table.names.strings, [facts.language for facts in self.symbols.files]
        calls: list[tuple[Node, int, str]] = []
        uses: dict[tuple[str, int, int, int, int], tuple[Direct | None, bool]] = {}
        for row, (kind, source, member, target, callee, flags, file) in enumerate(columns):
            if kind not in _USES:
                continue
            node = (source, member)
            key = (languages[file], kind, target, callee, flags & _TELLING)
            if key not in uses:
                uses[key] = self._meaning(*key)
            use, opaque = uses[key]
            if use is HUSHED:
                continue
            if use is not None:
                given = self._given(table, self._content, row)
                if given == "":
                    continue
                use = use._replace(row=row, effect=given or use.effect)
                self.used[source].append(use)
                if (kind != CALL or use.effect not in HANDED_IN) and not flags & AT_SEAM:
                    self.direct[node].append(use)
            elif target in self.bases.errors:
                continue  # what an error does while it is made is not why anybody would stand something in for it
            elif target >= 0 and not opaque:
                if kind in (CALL, ASKED) and not self.symbols.is_module(target):
                    calls.append((node, target, strings[callee]))
                else:
                    if not self._is_handed_on(kind, target, strings[callee], flags):
                        self._use(node, kind, target, strings[callee])
                    if kind in (CREATION, STATIC_CALL, STATIC_FIELD) and flags & AT_SEAM:
                        self._defaults[source].add((source, target))
        self._use_objects(calls)
        self._drop_repeated()

    def _meaning(self, language: str, kind: int, target: int, callee: int, flags: int) -> tuple[Direct | None, bool]:
        """The use of an API that such rows are, and whether effects are not followed into what they use."""
        table, apis = self.bonds, self._tables[language]
        qualified = table.external(target) if target < 0 else self.symbols.names[target]
        name = table.names.strings[callee]
        return self._use_of_api(apis, -1, kind, qualified, name, flags), apis.is_opaque(qualified, name)

    def _given(self, table: BondTable, content: Callable[[int], FileSites], row: int) -> str | None:
        """The effect that what is passed decides; None where it decides nothing."""
        file, site, target = table.file[row], table.site[row], table.target[row]
        apis = self._tables[self.symbols.files[file].language]
        if not apis.given or target >= 0 or site < 0:
            return None
        return apis.by_arguments(
            table.external(target), table.text_of("callee", row), lambda: content(file).sites[site].arguments
        )

    def _use_of_api(self, apis: Any, row: int, kind: int, qualified: str, callee: str, flags: int) -> Direct | None:
        """The use of an API with an effect that a row is; None where it is none, HUSHED where it is felt by nobody."""
        effect = apis.effect(kind, qualified, callee, 2 if flags & SEVERAL else int(bool(flags & ARGUMENTS)))
        if effect == "console" and flags & INTO_GIVEN:
            return HUSHED
        if not effect or (effect == "clock" and flags & WITH_CLOCK):
            return None
        name = simple_name(qualified)
        called = callee if qualified == apis.built_in else f"{name}.{callee}"
        return Direct(effect, name if kind == CREATION else called, row, apis.sort(qualified, callee))

    def used_in(self, table: BondTable, rows: Iterable[int], content: Callable[[int], FileSites]) -> dict[int, list[Direct]]:
        """Class to the APIs with effects that it uses in some rows of a table, be it another one with the same numbers, where
        `content(file)` gives the sites of a file."""
        found: dict[int, list[Direct]] = defaultdict(list)
        for row in rows:
            kind, target = table.kind[row], table.target[row]
            if kind in (CREATION, CALL, STATIC_CALL, STATIC_FIELD):
                apis = self._tables[self.symbols.files[table.file[row]].language]
                qualified = table.external(target) if target < 0 else self.symbols.names[target]
                use = self._use_of_api(apis, row, kind, qualified, table.text_of("callee", row), table.flags[row])
                if use is None or use is HUSHED or (given := self._given(table, content, row)) == "":
                    continue
                found[table.source[row]].append(use._replace(effect=given or use.effect))
        return found

    def _is_handed_on(self, kind: int, target: int, callee: str, flags: int) -> bool:
        """Whether a default is a function that is not called here."""
        if not flags & AT_SEAM:
            return False
        named = kind == STATIC_FIELD and any(
            self.symbols.types[each].members[index].kind == "method" for each, index in self.declared(target, callee)
        )
        return bool(flags & DEFERRED) or named

    def _drop_repeated(self) -> None:
        """Of an object that is named and of a call on it only the call is a use."""
        table = self.bonds

        def place(use: Direct) -> tuple[int, int, int]:
            return table.file[use.row], table.line[use.row], table.column[use.row]

        tables: tuple[MutableMapping[Any, list[Direct]], ...] = (self.used, self.direct)
        for found in tables:
            for key, uses in found.items():
                called = {place(use) for use in uses if table.kind[use.row] != STATIC_FIELD}
                kept = [use for use in uses if table.kind[use.row] != STATIC_FIELD or place(use) not in called]
                if len(kept) < len(uses):
                    found[key] = kept

    def _use(self, user: Node, kind: int, target: int, callee: str) -> None:
        """One edge of construction, or of static or own use."""
        if kind == CREATION:
            self._users[target, INSTANCE].append(user)
            self._open_instance(target)
            self._held[user[0]].add(target)
            return
        for node in self.declared(target, callee):
            if node != user:
                self._users[node].append(user)
            if kind == STATIC_FIELD and (held := self._field_types.get(node, -1)) >= 0:
                self._held[user[0]].add(held)
        if kind == STATIC_CALL and self.hands_out_itself(target, callee):
            self._held[user[0]].add(target)
        if kind in (STATIC_CALL, CALL):
            self._held[user[0]].update(self.chosen(target, callee))

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
                for node in self.declared(held, callee):
                    self._users[node].append(user)
                    self._called[source, held][node] = None

    def _by_base(self, held: set[int]) -> dict[int, list[int]]:
        """Each type of the tree that held objects are known under, to their own types, sorted."""
        found: dict[int, list[int]] = defaultdict(list)
        for each in sorted(held):
            for base in self.bases.ancestors(each):
                found[base].append(each)
        return found

    def declared(self, target: int, name: str) -> list[Node]:
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
                built = member.kind in ("constructor", "instance") or (
                    member.kind in ("field", "component") and not member.is_static
                )
                if built or (hosted and member.kind == "method" and not member.is_static):
                    self._users[each, index].append((each, INSTANCE))
            self._open_device(each)
            for base in self.bases.in_tree.get(each, ()):
                language = self.symbols.files[self.symbols.file_of[base]].language
                if not self.symbols.catalogues.is_value(self.symbols.names[base], language):
                    self._users[base, INSTANCE].append((each, INSTANCE))
                    waiting.append(base)

    def _open_device(self, number: int) -> None:
        """An object whose class extends an API with an effect is one of those."""
        apis = self._tables[self.symbols.files[self.symbols.file_of[number]].language]
        for base, row in self._extended.get(number, ()):
            effect = apis.effect(CREATION, base, "", True)
            if effect and effect != "gui":
                use = Direct(effect, simple_name(base), row)
                self.used[number].append(use)
                self.direct[number, INSTANCE].append(use)

    @cached_property
    def _extended(self) -> dict[int, list[tuple[str, int]]]:
        """Type to the external classes that it extends itself, with the row of the bond."""
        found: dict[int, list[tuple[str, int]]] = defaultdict(list)
        extends, table = KIND_NUMBER["extends"], self.bonds
        for row, (kind, source, target) in enumerate(zip(table.kind, table.source, table.target, strict=True)):
            if kind == extends and target < 0 and target != UNKNOWN:
                found[source].append((table.external(target), row))
        return found

    @cached_property
    def _callbacks(self) -> frozenset[int]:
        """Types that implement an interface of the host, whose methods run without being called here."""
        found = set()
        names = {
            facts.language: frozenset(self.symbols.catalogues.of(facts.language).callbacks.types.split())
            for facts in self.symbols.files
        }
        wanted = (KIND_NUMBER["extends"], KIND_NUMBER["implements"])
        table = self.bonds
        for kind, source, target, file in zip(table.kind, table.source, table.target, table.file, strict=True):
            if kind in wanted and target < 0 and self.bonds.external(target) in names[self.symbols.files[file].language]:
                found.add(source)
        return frozenset(found)

    @cached_property
    def _field_types(self) -> dict[Node, int]:
        """Declared type of each static field: also its class's own, which makes no bond, and that of an enum's constants."""
        found: dict[Node, int] = {}
        field = KIND_NUMBER["field"]
        table = self.bonds
        for kind, source, member, target in zip(table.kind, table.source, table.source_member, table.target, strict=True):
            if kind == field:
                found[source, member] = target
            elif kind == CREATION and target >= 0 and member >= 0:
                each = self.symbols.types[source].members[member]
                if each.kind == "field" and each.is_static and not each.type and self._is_made(each.value, target):
                    found.setdefault((source, member), target)  # what it holds its value says
        for number, declared in enumerate(self.symbols.types):
            for index, each in enumerate(declared.members):
                own = each.kind == "field" and each.is_static and typetext.head(each.type) == declared.name
                if own or (declared.kind == "enum" and each.kind == "constant"):
                    found[number, index] = number
        return found

    def _is_made(self, value: str, target: int) -> bool:
        """Whether the value of a field is an object of a type, made on the spot."""
        text, name = value.removeprefix("new").lstrip(), self.symbols.types[target].name
        return text.startswith(name) and text[len(name) :].lstrip()[:1] in ("(", "<", "")
