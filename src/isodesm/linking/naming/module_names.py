"""Names in modules: what a module binds, and what it hands on of others."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import cached_property
from typing import NamedTuple

from isodesm.facts.records import Import, Member
from isodesm.linking.bonds import UNKNOWN
from isodesm.linking.naming.names import NO_PREFIX, FileNames, Prefix, TypeTree
from isodesm.linking.symbols import ByName

_CLASS_VALUE = re.compile(r"class\s+(\w+)")
CHAIN_LIMIT = 12
"""Modules that a name is followed through; longer ways are taken for circles."""


class Binding(NamedTuple):
    """What a name is bound to: a `type`, a `module` (by file number), a `member` of a module, or something `external`."""

    kind: str
    number: int = UNKNOWN
    name: str = ""
    whole: bool = False
    """Whether something external is a whole module."""


class ModuleNames(FileNames):
    """One file of a language whose files are modules that import names from one another."""

    def __init__(self, hierarchy: TypeTree, number: int) -> None:
        super().__init__(hierarchy, number)
        self.modules = self.symbols.modules[self.facts.language]
        self.imports: dict[str, list[Import]] = {}
        self.scoped: dict[str, list[Import]] = {}
        """Imports inside functions."""
        self.handed_on: list[Import] = []
        for each in self.facts.imports:
            if each.wildcard:
                self.wildcards.append(each)
            elif each.exported:
                self.handed_on.append(each)
            elif each.within != (0, 0):
                self.scoped.setdefault(each.alias, []).append(each)
            else:
                self.imports.setdefault(each.alias, []).append(each)
        self.types: dict[str, int] = {}
        for index, declared in enumerate(self.facts.types):
            if declared.outer < 0 and declared.kind not in ("module", "anonymous"):
                self.types.setdefault(declared.name, self.first + index)
        self._bound: dict[str, Binding | None] = {}

    @property
    def members(self) -> ByName:
        """Functions and variables of the module by name."""
        return self.symbols.members(self.first)

    # --- binding ------------------------------------------------------------------------------

    def bind(self, name: str, depth: int = 0) -> Binding | None:
        """What a bare name means at the top of this module; None for a name it does not bind."""
        if name in self._bound:
            return self._bound[name]
        self._bound[name] = None
        found = self._bound[name] = self._bind(name, depth)
        return found

    def bind_at(self, name: str, at: int) -> Binding | None:
        """What a bare name means at a byte offset: an import in the function around it goes first."""
        for each in self.scoped.get(name, ()):
            if each.within[0] <= at < each.within[1] and (found := self._imported(each, 0)):
                return found
        return self.bind(name)

    def _bind(self, name: str, depth: int) -> Binding | None:
        if name in self.types:
            return Binding("type", self.types[name], name)
        best = None
        for each in self.imports.get(name, ()):
            best = self._imported(each, depth)
            if best is not None and best.kind != "external":
                return best
        if name in self.members:
            return self._alias_of(self.members[name], depth) or best or Binding("member", self.first, name)
        if best is not None:
            return best
        for each in self.scoped.get(name, ()):
            if found := self._imported(each, depth):
                return found
        below = self.modules.below(self.number, name, self.facts.path)
        found = self._by_star(name, depth)
        if below >= 0 and (found is None or found.kind == "module"):
            return Binding("module", below, name)
        return found

    def _by_star(self, name: str, depth: int) -> Binding | None:
        """What a star import brings in under a name: not what begins with an underscore, nor what a list leaves out."""
        for each in self.wildcards:
            file = self._find(each.name)
            if file < 0 or each.exported:
                continue
            names = self._of(file)
            hidden = name.startswith("_") if names.listed is None else name not in names.listed
            if not hidden and (found := names.export(name, depth + 1)):
                return found
        return None

    @cached_property
    def listed(self) -> frozenset[str] | None:
        """The names that the module lists as those it hands out to a star import; None where it has no readable list."""
        for _, member in self.members.get("__all__", ()):
            if re.fullmatch(r"[\[(](?:\s*[\"'][\w]+[\"']\s*,?)*\s*[\])]", member.value):
                return frozenset(re.findall(r"[\"'](\w+)[\"']", member.value))
        return None

    def _alias_of(self, members: Sequence[tuple[int, Member]], depth: int) -> Binding | None:
        """The class or module that a variable is only another name of."""
        for _, member in members:
            named = _CLASS_VALUE.match(member.value) if member.kind == "field" else None
            if named and named.group(1) in self.types:
                return Binding("type", self.types[named.group(1)], named.group(1))
            value = self.dialect.read_chain(member.value) if member.kind == "field" and member.value and not member.type else ""
            if value and value != member.name and depth < CHAIN_LIMIT:
                found = self.follow(value.split("."), depth + 1)
                if found and not found[1] and found[0].kind in ("type", "external") and self._looks_like_type(found[0]):
                    return found[0]
        return None

    def _looks_like_type(self, binding: Binding) -> bool:
        return binding.kind in ("type", "module") or binding.name.rpartition(".")[2][:1].isupper()

    def _find(self, module: str) -> int:
        return self.modules.find(module, self.number, self.facts.path)

    def _of(self, file: int) -> ModuleNames:
        names = self.hierarchy.file(file)
        assert isinstance(names, ModuleNames)
        return names

    def _imported(self, each: Import, depth: int) -> Binding | None:
        if depth > CHAIN_LIMIT:
            return None
        if not each.name and each.member:  # handed on under another name, or the default
            return self.bind(each.member, depth + 1)
        file = self._find(each.name)
        if file < 0:
            return self._outside(each)
        if not each.member:
            return Binding("module", file, each.name)
        if found := self._of(file).export(each.member, depth + 1):
            return found
        below = self.modules.below(file, each.member, self.symbols.files[file].path)
        if below >= 0:
            return Binding("module", below, each.member)
        return Binding("external", UNKNOWN, f"{self.modules.names[file]}{self.dialect.module_separator}{each.member}")

    def _outside(self, each: Import) -> Binding:
        """A module, or a name of one, that is not in the tree; a folder without a package file may lead back into it."""
        if self.dialect.dotted_modules:
            if each.member:
                joined = f"{each.name}.{each.member}" if not each.name.endswith(".") else each.name + each.member
                if (file := self._find(joined)) >= 0:
                    return Binding("module", file, joined)
            elif self.modules.is_folder(each.name, self.number):
                return Binding("folder", UNKNOWN, each.name)
        separator = self.dialect.module_separator
        return (
            Binding("external", UNKNOWN, f"{each.name}{separator}{each.member}")
            if each.member
            else Binding("external", UNKNOWN, each.name, True)
        )

    def export(self, name: str, depth: int) -> Binding | None:
        """What this module hands out under a name."""
        if depth > CHAIN_LIMIT:
            return None
        for each in self.handed_on:
            if each.alias == name and (found := self._imported(each, depth)):
                return found
        if name == "default" and not self.dialect.dotted_modules and (found := self._default()):
            return found
        if found := self.bind(name, depth):
            return found
        for each in self.wildcards:
            file = self._find(each.name)
            if file >= 0 and each.exported and (found := self._of(file).export(name, depth + 1)):
                return found
        return None

    def _default(self) -> Binding | None:
        for index, declared in enumerate(self.facts.types):
            if declared.outer < 0 and "default" in declared.modifiers.words:
                return Binding("type", self.first + index, declared.name)
        return next(
            (Binding("member", self.first, m.name) for m in self.facts.types[0].members if "default" in m.modifiers.words), None
        )

    def follow(self, parts: list[str], depth: int = 0, at: int = -1) -> tuple[Binding, tuple[str, ...]] | None:
        """What a chain of names means from its front: the last binding reached, and the names left behind it."""
        binding = self.bind(parts[0], depth) if at < 0 else self.bind_at(parts[0], at)
        used = 1
        while binding is not None and used < len(parts):
            step = parts[used]
            if binding.kind == "module":
                below = self._of(binding.number).export(step, depth + 1)
                if below is None:
                    break
            elif binding.kind == "folder":
                file = self._find(f"{binding.name}.{step}")
                if file >= 0:
                    below = Binding("module", file, f"{binding.name}.{step}")
                elif self.modules.is_folder(f"{binding.name}.{step}", self.number):
                    below = Binding("folder", UNKNOWN, f"{binding.name}.{step}")
                else:
                    break
            elif binding.kind == "type":
                target = self.hierarchy.member_type(binding.number, step)
                if target == UNKNOWN:
                    break
                below = Binding("type", target, step)
            elif binding.kind == "external":
                below = Binding(
                    "external", UNKNOWN, f"{binding.name}{self.dialect.module_separator if binding.whole else '.'}{step}"
                )
            else:
                break
            binding, used = below, used + 1
        return (binding, tuple(parts[used:])) if binding is not None else None

    # --- as types -----------------------------------------------------------------------------

    def look_up(self, name: str, space: str) -> int:
        return self._target(self.bind(name), ())

    def _target(self, binding: Binding | None, rest: tuple[str, ...]) -> int:
        if binding is None or rest:
            return UNKNOWN
        if binding.kind == "type":
            return binding.number
        return self.hierarchy.external(binding.name) if binding.kind == "external" else UNKNOWN

    def qualified(self, name: str) -> int:
        found = self.follow(name.split("."))
        return self._target(*found) if found else UNKNOWN

    def type_prefix(self, parts: list[str], local: int, member: int, at: int = -1) -> Prefix:
        """A type, or a module, which holds functions and variables as a type does."""
        scoped = at >= 0 and parts[0] in self.scoped
        if not scoped and (target := self._simple(parts[0], local, member, guess=False)) >= 0:
            return self.step_chain(target, parts, 1)
        found = self.follow(parts, 0, at)
        if found is None:
            return self._known_prefix(parts)
        binding, rest = found
        if binding.kind == "type":
            return Prefix(binding.number, rest)
        if binding.kind == "module":
            return Prefix(self.symbols.first[binding.number], rest)
        if binding.kind == "member":
            return Prefix(binding.number, (binding.name, *rest))
        return Prefix(self.hierarchy.external(binding.name), rest) if binding.kind == "external" else NO_PREFIX

    def _known_prefix(self, parts: list[str]) -> Prefix:
        """Objects and classes of the host, which no import brings in, where the catalogue knows them."""
        known = self.symbols.catalogues.known_types(self.facts.language)
        for end in range(len(parts), 0, -1):
            if (name := ".".join(parts[:end])) in known:
                return Prefix(self.hierarchy.external(name), tuple(parts[end:]))
        return NO_PREFIX
