"""Places where the program is put together, beside the classes that do nothing else: what starts it, and scripts."""

from __future__ import annotations

from collections import defaultdict
from functools import cached_property

from isodesm.codebase.model import Codebase
from isodesm.inference.evidence import SERVICE_LIKE, is_start
from isodesm.linking.bonds import CONTEXT_NUMBER, KIND_NUMBER, KINDS

LEAST_MADE = 3
"""Services that a class which starts the program must make while it is constructed, so that this is putting it together."""
_CONSTRUCTING = frozenset(CONTEXT_NUMBER[each] for each in ("constructor", "field-initializer"))


class Roots:
    """Knows the members and files in which deciding on classes is in its place."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase, self.symbols = codebase, codebase.symbols

    def is_root(self, number: int, index: int) -> bool:
        """Whether a member constructs the class that the program starts with, out of services."""
        if number not in self._putting_together:
            return False
        return index < 0 or self.symbols.types[number].members[index].kind in ("constructor", "field", "instance")

    def is_script(self, file: int) -> bool:
        """Whether a file is one that nothing else in the tree uses anything of, so that its statements are a program."""
        return file not in self._used_files

    def covers(self, row: int) -> bool:
        """Whether a bond stands where the program is put together, or among the statements of a script."""
        table = self.codebase.bonds
        if self.is_root(table.source[row], table.source_member[row]) or self._is_told_to_a_container(row):
            return True
        if table.kind[row] == KIND_NUMBER["lookup"] and table.source[row] in self._registrars:
            return True
        context = table.context[row]
        module = self.symbols.is_module(table.source[row])
        at_top = context == CONTEXT_NUMBER["module"] or (module and context == CONTEXT_NUMBER["field-initializer"])
        return at_top and self.is_script(table.file[row])

    def _is_told_to_a_container(self, row: int) -> bool:
        """Whether a bond stands inside a call that registers something, or in a method whose result a container hands out."""
        table = self.codebase.bonds
        file, path = table.file[row], self.symbols.files[table.file[row]].path
        places = self._registering.get(path)
        if not places:
            return False
        index = table.source_member[row]
        member = self.symbols.types[table.source[row]].members[index] if index >= 0 else None
        if member is not None and (member.place.line, 0) in places:
            return True
        sites, at = self.codebase.content(file).sites, table.site[row]
        while at >= 0:
            if (sites[at].place.line, sites[at].place.column) in places and sites[at].kind == "call":
                return True
            at = sites[at].inside
        return False

    @cached_property
    def _registering(self) -> dict[str, set[tuple[int, int]]]:
        """File to the places of calls that register something, and of methods that do, with column 0."""
        found: dict[str, set[tuple[int, int]]] = defaultdict(set)
        for each in self.codebase.registrations:
            if each.how == "call":
                found[each.file].add((each.line, each.column))
            elif each.how == "method":
                found[each.file].add((each.line, 0))
        return found

    @cached_property
    def _registrars(self) -> frozenset[int]:
        """Classes that tell a container by calls what serves what: what they ask it for, they hand out."""
        places: dict[str, set[tuple[int, int]]] = defaultdict(set)
        for each in self.codebase.registrations:
            if each.how == "call" and each.family:
                places[each.file].add((each.line, each.column))
        return frozenset(
            self.symbols.first[number] + site.type
            for number, facts in enumerate(self.symbols.files)
            if facts.path in places
            for site in self.codebase.content(number).sites
            if site.kind == "call" and site.type >= 0 and (site.place.line, site.place.column) in places[facts.path]
        )

    @cached_property
    def _putting_together(self) -> frozenset[int]:
        """Classes that hold the program's start, or are the frame that it shows, and make services in their construction."""
        table, roles = self.codebase.bonds, self.codebase.roles
        creation = KIND_NUMBER["creation"]
        started: set[int] = set()
        made: dict[int, set[int]] = defaultdict(set)
        for row, kind in enumerate(table.kind):
            source, target = table.source[row], table.target[row]
            if kind != creation or target < 0:
                continue
            index = table.source_member[row]
            members = self.symbols.types[source].members
            if roles.name(source) == "composition-root" or (index >= 0 and is_start(members[index])):
                started.add(target)
            if table.context[row] in _CONSTRUCTING and roles.name(target) in SERVICE_LIKE:
                made[source].add(target)
        frames = {number for number in started if roles.name(number) == "presentation"}
        frames.update(n for n in made if any(is_start(member) for member in self.symbols.types[n].members))
        return frozenset(number for number in frames if len(made[number]) >= LEAST_MADE)

    @cached_property
    def _used_files(self) -> frozenset[int]:
        table, file_of = self.codebase.bonds, self.symbols.file_of
        return frozenset(
            file_of[target]
            for kind, target, file in zip(table.kind, table.target, table.file, strict=True)
            if kind < len(KINDS) and target >= 0 and file_of[target] != file
        )
