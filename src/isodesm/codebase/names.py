"""Resolves type names of one file as the language's own rules say.

A *target* is an integer: a type number when >= 0, else `-1 - n` for the external name number n. UNKNOWN stands for
no type at all (a primitive, a type variable without a bound, a name nothing can be said about).
"""

from __future__ import annotations

from typing import Any

from isodesm.catalogue import catalogue_of, known_types
from isodesm.codebase.bonds import Names
from isodesm.codebase.symbols import Symbols
from isodesm.facts import typetext
from isodesm.facts.languages import dialect_of
from isodesm.facts.records import DeclaredType, Import

UNKNOWN = -(2**31)
"""No type; far below any external number, and it fits a 32-bit column."""


class Hierarchy:
    """Bases, member types and members through inheritance; shared by all files that one process links."""

    def __init__(self, symbols: Symbols, externals: Names) -> None:
        self.symbols, self.externals = symbols, externals
        self.guesses: set[tuple[int, str]] = set()
        """(file, name) pairs whose target was one of two equally good ones."""
        self._files: dict[int, FileNames] = {}
        self._bases: dict[int, tuple[tuple[int, str], ...]] = {}
        self._member_types: dict[tuple[int, str], int] = {}
        self._external_base: dict[int, bool] = {}
        self.inherited: dict[int, tuple[Any, ...]] = {}
        """Type to the values of what it inherits from, kept here because all files of a process ask for the same."""

    def file(self, number: int) -> FileNames:
        """The names of one file."""
        found = self._files.get(number)
        if found is None:
            found = self._files[number] = FileNames(self, number)
        return found

    def external(self, name: str) -> int:
        """The target that stands for an external qualified name."""
        return -1 - self.externals.number(name)

    def bases(self, number: int) -> tuple[tuple[int, str], ...]:
        """Resolved bases of a type, each with its text; superclass first. A base being resolved right now has none yet."""
        found = self._bases.get(number)
        if found is None:
            self._bases[number] = ()  # a type that inherits from itself, or asks while its own bases are settled
            declared = self.symbols.types[number]
            names = self.file(self.symbols.file_of[number])
            local = number - self.symbols.first[self.symbols.file_of[number]]
            found = tuple(
                (names.resolve_base(typetext.head(text), local), text)
                for text in (*declared.extends, *declared.implements)
            )
            self._bases[number] = found
        return found

    def ancestors(self, number: int) -> list[int]:
        """The type and everything declared in the tree that it inherits from, nearest first, each once."""
        seen = {number: None}
        waiting = [number]
        for each in waiting:
            for base, _ in self.bases(each):
                if base >= 0 and base not in seen:
                    seen[base] = None
                    waiting.append(base)
        return list(seen)

    def has_external_base(self, number: int) -> bool:
        """Whether anything may be inherited from a type outside the tree, the root of all types aside."""
        found = self._external_base.get(number)
        if found is None:
            found = any(
                base < 0 for each in self.ancestors(number) for base, _ in self.bases(each)
            )
            self._external_base[number] = found
        return found

    def member_type(self, number: int, name: str) -> int:
        """The member type `name` of a type, its own or inherited; UNKNOWN if there is none."""
        key = (number, name)
        found = self._member_types.get(key)
        if found is None:
            self._member_types[key] = UNKNOWN
            found = self.symbols.nested.get(key, UNKNOWN)
            if found == UNKNOWN:
                for base, _ in self.bases(number):
                    if base >= 0 and (found := self.member_type(base, name)) != UNKNOWN:
                        break
                else:
                    found = UNKNOWN
            self._member_types[key] = found
        return found


class FileNames:
    """What names mean in one file."""

    def __init__(self, hierarchy: Hierarchy, number: int) -> None:
        self.hierarchy, self.symbols, self.number = hierarchy, hierarchy.symbols, number
        self.facts = self.symbols.files[number]
        self.first = self.symbols.first[number]
        self.dialect = dialect_of(self.facts.language)
        self.catalogue = catalogue_of(self.facts.language)
        self.single: dict[str, Import] = {}
        self.static: dict[str, list[Import]] = {}
        self.wildcards: list[Import] = []
        for each in self.facts.imports:
            if each.wildcard:
                self.wildcards.append(each)
            elif each.static:
                self.static.setdefault(each.alias, []).append(each)
            else:
                self.single[each.alias] = each
        self._file_level: dict[str, int] = {}
        self._dotted: dict[str, int] = {}
        self._known: dict[tuple[str, int, int, bool], int] = {}
        self._local_types = [
            (index, declared)
            for index, declared in enumerate(self.facts.types)
            if declared.outer_member >= 0 and declared.name
        ]

    # --- by scope -------------------------------------------------------------------------

    def resolve(self, name: str, local: int, member: int = -1) -> int:
        """The target of a dotted type name used in type `local` of this file (-1: outside any), in its `member`."""
        first, _, rest = name.partition(".")
        if not rest:
            return self._simple(name, local, member)
        target = self._simple(first, local, member, guess=False)
        if target == UNKNOWN:
            target = self._qualified(name)
            return target if target != UNKNOWN else self.hierarchy.external(name)
        return self.step_down(target, rest)

    def resolve_base(self, name: str, local: int) -> int:
        """The target of a base: resolved outside the type's own members, but inside those of the types around it."""
        declared = self.facts.types[local]
        if declared.name and declared.name == name and declared.outer < 0:
            return self._file_level_target(name)
        return self.resolve(name, declared.outer, declared.outer_member) if name else UNKNOWN

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
        key = (name, local, member if generic or self._local_types else -1, guess)
        found = self._known.get(key)
        if found is None:
            found = self._known[key] = self._by_scope(name, local, member, guess)
        return found

    def _by_scope(self, name: str, local: int, member: int, guess: bool) -> int:
        if name in self.dialect.PRIMITIVES or not name:
            return UNKNOWN
        while local >= 0:
            declared = self.facts.types[local]
            found, bound = self._variable(name, declared, member, local)
            if found:
                return bound
            if (target := self._local_type(name, local, member)) != UNKNOWN:
                return target
            if declared.name == name:
                return self.first + local
            if (target := self.hierarchy.member_type(self.first + local, name)) != UNKNOWN:
                return target
            local, member = declared.outer, declared.outer_member
        target = self._file_level_target(name)
        if target == UNKNOWN and guess:
            target = self.hierarchy.external(self._best_known(name))
        return target

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
                return self.first + index
        return UNKNOWN

    # --- by file --------------------------------------------------------------------------

    def _file_level_target(self, name: str) -> int:
        found = self._file_level.get(name)
        if found is None:
            found = self._file_level[name] = self._look_up_file_level(name)
        return found

    def _look_up_file_level(self, name: str) -> int:
        """Single import, same package, static import, wildcard import, implicit package: in the language's order."""
        if name in self.single:
            target = self._qualified(self.single[name].name)
            return target if target != UNKNOWN else self.hierarchy.external(self.single[name].name)
        package = self.facts.package
        if (target := self._find(f"{package}.{name}" if package else name)) != UNKNOWN:
            return target
        for each in self.static.get(name, ()):
            if (target := self._qualified(each.name)) != UNKNOWN:
                return target
        implicit = self.catalogue.implicit.package
        for each in (*self.wildcards, Import(name=implicit, wildcard=True)):
            if (target := self._below(each.name, name)) != UNKNOWN:
                return target
        known = known_types(self.facts.language)
        candidates = [f"{each.name}.{name}" for each in self.wildcards if not each.static]
        for qualified in (f"{implicit}.{name}", *candidates):
            if qualified in known:
                return self.hierarchy.external(qualified)
        return UNKNOWN

    def _below(self, container: str, name: str) -> int:
        """The type `name` in a package, or as a member of the type, called `container`."""
        if (target := self._find(f"{container}.{name}")) != UNKNOWN:
            return target
        if container not in self.symbols.packages or container in self.symbols.by_name:
            outer = self._qualified(container)
            if outer >= 0:
                return self.hierarchy.member_type(outer, name)
        return UNKNOWN

    def _best_known(self, name: str) -> str:
        """The likeliest qualified name of an external type that no single import names."""
        outside = [each.name for each in self.wildcards if not each.static and each.name not in self.symbols.packages]
        return f"{outside[0]}.{name}" if len(outside) == 1 else name

    def _find(self, qualified: str) -> int:
        number, guess = self.symbols.find(qualified, self.number)
        if guess:
            self.hierarchy.guesses.add((self.number, qualified.rpartition(".")[2]))
        return number if number >= 0 else UNKNOWN

    def _qualified(self, name: str) -> int:
        """The type of a fully qualified dotted name, nested types included; UNKNOWN if it isn't in the tree."""
        found = self._dotted.get(name)
        if found is None:
            found = self._find(name)
            if found == UNKNOWN:
                container, _, last = name.rpartition(".")
                if container and "." in container and container not in self.symbols.packages:
                    outer = self._qualified(container)
                    found = self.hierarchy.member_type(outer, last) if outer >= 0 else UNKNOWN
                elif container in self.symbols.by_name:
                    outer = self._find(container)
                    found = self.hierarchy.member_type(outer, last)
            self._dotted[name] = found
        return found

    def is_type(self, name: str, local: int, member: int) -> int:
        """The target of a simple name that is no variable, if it can be told to be a type; else UNKNOWN."""
        target = self._simple(name, local, member, guess=False)
        if target != UNKNOWN:
            return target
        looks_constant = name.isupper()
        if not name[:1].isupper() or (looks_constant and name in self.static):
            return UNKNOWN
        while looks_constant and local >= 0:
            if self.hierarchy.has_external_base(self.first + local):
                return UNKNOWN  # may as well be a constant that is inherited from outside the tree
            local = self.facts.types[local].outer
        return self.hierarchy.external(self._best_known(name))
