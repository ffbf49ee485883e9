"""Resolves type names by scope: type variables, local types, member types, types around. What lies beyond is the file's."""

from __future__ import annotations

from typing import NamedTuple, Protocol

from isodesm.facts import typetext
from isodesm.facts.languages import dialect_of
from isodesm.facts.records import DeclaredType, Import
from isodesm.linking.bonds import UNKNOWN, Names
from isodesm.linking.symbols import Symbols


class Prefix(NamedTuple):
    """What the first names of a chain spell: a type, and the names of the chain that are left behind it."""

    target: int
    rest: tuple[str, ...] = ()


NO_PREFIX = Prefix(UNKNOWN)


class TypeTree(Protocol):
    """What the names of a file ask of all types: their bases, and what they hold."""

    symbols: Symbols
    externals: Names
    guesses: set[tuple[int, str]]

    def file(self, number: int) -> FileNames:
        """The names of one file."""

    def imports_everywhere(self, language: str) -> list[tuple[str, Import]]:
        """Imports that hold for a whole project, each with the folder below which they do."""

    def external(self, name: str) -> int:
        """The target that stands for an external qualified name."""

    def bases(self, number: int) -> tuple[tuple[int, str], ...]:
        """Resolved bases of a type, each with its text; superclass first."""

    def member_type(self, number: int, name: str) -> int:
        """The member type `name` of a type, its own or inherited; UNKNOWN if there is none."""

    def has_external_base(self, number: int) -> bool:
        """Whether anything may be inherited from a type outside the tree."""


class FileNames:
    """What names mean in one file. Subclasses say what a name means that no enclosing type explains."""

    def __init__(self, hierarchy: TypeTree, number: int) -> None:
        self.hierarchy, self.symbols, self.number = hierarchy, hierarchy.symbols, number
        self.facts = self.symbols.files[number]
        self.first = self.symbols.first[number]
        self.dialect = dialect_of(self.facts.language)
        self.catalogue = self.symbols.catalogues.of(self.facts.language)
        self.by_name = self.symbols.by_language[self.facts.language]
        self.static: dict[str, list[Import]] = {}
        self.wildcards: list[Import] = []
        self._file_level: dict[tuple[str, str], int] = {}
        self._known: dict[tuple[str, int, int, bool], int] = {}
        self._local_types = [
            (index, declared)
            for index, declared in enumerate(self.facts.types)
            if declared.outer_member >= 0 and declared.name and declared.kind != "anonymous"
        ]

    def type_number(self, local: int) -> int:
        """The number of a type by its index in the file; that of the whole for a part."""
        found = self.first + local
        return self.symbols.whole.get(found, found)

    # --- what a style says -------------------------------------------------------------------

    def look_up(self, name: str, space: str) -> int:
        """The target of a simple name that no enclosing type explains, in a namespace of this file."""
        raise NotImplementedError

    def qualified(self, name: str) -> int:
        """The type of a fully qualified name, nested types included; UNKNOWN if it isn't in the tree."""
        raise NotImplementedError

    def best_known(self, name: str) -> str:
        """The likeliest qualified name of an external type."""
        return name

    def type_prefix(self, parts: list[str], local: int, member: int, at: int = -1) -> Prefix:
        """What the first names of a chain spell when they spell a type; `at` is the byte it stands at, if known."""
        raise NotImplementedError

    # --- by scope -------------------------------------------------------------------------

    def resolve(self, name: str, local: int, member: int = -1) -> int:
        """The target of a dotted type name used in type `local` of this file (-1: outside any), in its `member`."""
        first, _, rest = name.partition(".")
        if not rest:
            return self._simple(name, local, member)
        target = self._simple(first, local, member, guess=False)
        if target == UNKNOWN:
            target = self.dotted(name, local)
            return target if target != UNKNOWN else self.hierarchy.external(self.external_dotted(name))
        return self.step_down(target, rest)

    def resolve_type(self, text: str, local: int, member: int = -1) -> int:
        """The target of the type that a text names first; where it may be generic or not, the one with as many arguments."""
        return self.resolve(typetext.head(text), local, member)

    def dotted(self, name: str, local: int) -> int:
        """The type of a dotted name whose first part is no type."""
        return self.qualified(name)

    def external_dotted(self, name: str) -> str:
        """The best-known name of a dotted name that is outside the tree."""
        return name

    def resolve_base(self, name: str, local: int) -> int:
        """The target of a base: resolved outside the type's own members, but inside those of the types around it."""
        declared = self.facts.types[local]
        if declared.name and declared.name == name and declared.outer < 0:
            return self.file_level(name, declared.space)
        if not name:
            return UNKNOWN
        if declared.outer < 0 and "." not in name:
            return self._at_top(name, local)
        return self.resolve(name, declared.outer, declared.outer_member)

    def _at_top(self, name: str, local: int) -> int:
        """A simple name in the head of a top-level type."""
        if name in self.dialect.primitives:
            return UNKNOWN
        found, bound = self._variable(name, self.facts.types[local], -1, local)
        if found:
            return bound
        target = self.file_level(name, self.facts.types[local].space)
        return target if target != UNKNOWN else self.hierarchy.external(self.best_known(name))

    def step_down(self, target: int, rest: str) -> int:
        """The member type `rest` (dotted) below a target."""
        for step in rest.split("."):
            if target < 0:
                return self.hierarchy.external(f"{self.hierarchy.externals.strings[-1 - target]}.{step}")
            below = self.hierarchy.member_type(target, step)
            target = below if below != UNKNOWN else self.hierarchy.external(f"{self.symbols.names[target]}.{step}")
        return target

    def _simple(self, name: str, local: int, member: int, *, guess: bool = True) -> int:
        """The target of a simple name; kept, since the same few names are asked for all over a file."""
        generic = local >= 0 and member >= 0 and self.facts.types[local].members[member].generics
        key = (name, local, member if generic or self._local_types or not self.dialect.implicit_self else -1, guess)
        found = self._known.get(key)
        if found is None:
            found = self._known[key] = self._by_scope(name, local, member, guess)
        return found

    def _by_scope(self, name: str, local: int, member: int, guess: bool) -> int:
        if name in self.dialect.primitives or not name:
            return UNKNOWN
        if self.dialect.self_types and (target := self._own_word(name, local)) is not None:
            return target
        space = self.facts.types[local].space if local >= 0 else ""
        while local >= 0:
            declared = self.facts.types[local]
            found, bound = self._variable(name, declared, member, local)
            if found:
                return bound
            if (target := self._local_type(name, local, member)) != UNKNOWN:
                return target
            if declared.name == name and declared.kind != "module":
                return self.type_number(local)
            if self.dialect.implicit_self or member < 0 or declared.kind == "namespace":
                if (target := self.hierarchy.member_type(self.type_number(local), name)) != UNKNOWN:
                    return target
            local, member = declared.outer, declared.outer_member
        target = self.file_level(name, space)
        if target == UNKNOWN and guess:
            target = self.hierarchy.external(self.best_known(name))
        return target

    def _own_word(self, name: str, local: int) -> int | None:
        """The type that a word like `self` or `parent` stands for; None if it is no such word."""
        word = name.lower()
        if word in self.dialect.self_types:
            return (
                self.type_number(local)
                if local >= 0 and self.facts.types[local].kind not in ("module", "anonymous")
                else UNKNOWN
            )
        if word == self.dialect.parent_type:
            bases = self.hierarchy.bases(self.type_number(local)) if local >= 0 else ()
            return bases[0][0] if bases and self.facts.types[local].extends else UNKNOWN
        return None

    def _variable(self, name: str, declared: DeclaredType, member: int, local: int) -> tuple[bool, int]:
        """Whether `name` is a type variable here, and the target of its first bound."""
        lists = [declared.generics] if declared.generics else []
        if member >= 0 and declared.members[member].generics:
            lists.insert(0, declared.members[member].generics)
        for text in lists:
            for variable, bounds in typetext.type_parameters(text):
                if variable == name:
                    bound = typetext.head(bounds[0]) if bounds else ""
                    return True, self.resolve(bound, local, member) if bound and bound != name else UNKNOWN
        return False, UNKNOWN

    def _local_type(self, name: str, local: int, member: int) -> int:
        for index, declared in self._local_types:
            if declared.name == name and declared.outer == local and declared.outer_member == member:
                return self.type_number(index)
        return UNKNOWN

    # --- by file --------------------------------------------------------------------------

    def file_level(self, name: str, space: str = "") -> int:
        """What `look_up` says, kept."""
        key = (name, space)
        found = self._file_level.get(key)
        if found is None:
            self._file_level[key] = UNKNOWN  # a name that is asked for while it is looked up
            found = self._file_level[key] = self.look_up(name, space)
        return found

    def find(self, qualified: str) -> int:
        """The type of a qualified name as this file sees it; UNKNOWN if there is none."""
        number, guess = self.symbols.find(qualified, self.number)
        if guess:
            self.hierarchy.guesses.add((self.number, qualified.rpartition(self.dialect.separator)[2]))
        return number if number >= 0 else UNKNOWN

    def is_type(self, name: str, local: int, member: int) -> int:
        """The target of a simple name that is no variable, if it can be told to be a type; else UNKNOWN."""
        target = self._simple(name, local, member, guess=False)
        if target != UNKNOWN:
            return target
        looks_constant = name.isupper()
        if not name[:1].isupper() or (looks_constant and name in self.static):
            return UNKNOWN
        while (looks_constant or self.dialect.style == "namespaces") and local >= 0:
            if self.hierarchy.has_external_base(self.type_number(local)):
                return UNKNOWN  # may as well be a constant or property that is inherited from outside the tree
            local = self.facts.types[local].outer
        return self.hierarchy.external(self.best_known(name))

    def step_chain(self, target: int, parts: list[str], used: int) -> Prefix:
        """Go on from a type through the member types that the next names of a chain spell."""
        while used < len(parts):
            if target >= 0:
                below = self.hierarchy.member_type(target, parts[used])
                if below == UNKNOWN:
                    break
            elif (
                self.dialect.style == "packages"
                and parts[used][:1].isupper()
                and not parts[used].isupper()
                and not self._is_number(parts[0])
            ):
                below = self.hierarchy.external(f"{self.hierarchy.externals.strings[-1 - target]}.{parts[used]}")
            else:
                break
            target, used = below, used + 1
        return Prefix(target, tuple(parts[used:]))

    def _is_number(self, name: str) -> bool:
        """Whether a name is that of an implicit type with fields that are spelt like types: `Double.NaN`."""
        return name in ("Double", "Float") and name in self.catalogue.implicit.names
