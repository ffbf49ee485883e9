"""The declared types of a whole tree under global numbers, and what can be asked of them without linking.

A *type number* counts the declared types of all files in order of path; anonymous ones have numbers too.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from functools import cached_property

import msgspec

from isodesm.catalogue import Catalogues
from isodesm.facts.languages import dialect_of
from isodesm.facts.languages.dialect import Dialect
from isodesm.facts.records import DeclaredType, FileFacts, Member
from isodesm.linking.remembering import remembered
from isodesm.reading.modules import Modules, without_suffix
from isodesm.reading.projects import Projects

ByName = dict[str, tuple[tuple[int, Member], ...]]
"""Name to the members that have it, each with its index."""


def simple_name(qualified: str) -> str:
    """The last part of a qualified name of any language."""
    return qualified[max(qualified.rfind("."), qualified.rfind("\\"), qualified.rfind("#")) + 1 :]


class Symbols:
    """Built once from the facts of all files; read-only afterwards, so that forked workers can share it."""

    def __init__(
        self, files: Iterable[FileFacts], projects: Projects | None = None, catalogues: Catalogues | None = None
    ) -> None:
        self.catalogues = catalogues or Catalogues()
        self.files: list[FileFacts] = list(files)
        self.first: list[int] = []
        """File number to the number of its first type."""
        self.types: list[DeclaredType] = []
        self.file_of: list[int] = []
        self.names: list[str] = []
        """Qualified names; an anonymous type has that of the named type around it."""
        self.by_language: dict[str, dict[str, tuple[int, ...]]] = defaultdict(dict)
        """Language to qualified name (in lower case where case does not count) to types."""
        self.nested: dict[tuple[int, str], int] = {}
        """(type, simple name) to the member type of that name."""
        self.packages: set[str] = set()
        """Every package that holds a type, and every prefix of one."""
        self.projects = projects or Projects()
        self.modules: dict[str, Modules] = self._find_modules(self.projects)
        self._members: dict[int, ByName] = {}
        self.parts: dict[int, tuple[int, ...]] = {}
        """Type declared in several parts to all of them, itself first."""
        self.whole: dict[int, int] = {}
        """Part of a type to the type."""
        self._shifts: dict[int, int] = {}
        """Part of a type to the index that its first member has in the whole."""
        for number, facts in enumerate(self.files):
            self._add(number, facts)
        self._join_parts()

    @cached_property
    def properties(self) -> frozenset[str]:
        """Names of all properties that have a body."""
        return frozenset(
            member.name
            for declared in self.types
            for member in declared.members
            if member.kind == "property" and member.body != (0, 0)
        )

    def _join_parts(self) -> None:
        """Make one type of those that are declared in parts: the first part gets all members and bases."""
        for language, by_name in self.by_language.items():
            if not dialect_of(language).partial_types:
                continue
            for name, numbers in by_name.items():
                parts = tuple(each for each in numbers if "partial" in self.types[each].modifiers.words)
                if len(parts) > 1:
                    parts = tuple(sorted(parts, key=self._standing))
                    by_name[name] = (parts[0], *(each for each in numbers if each not in parts))
                    self._join(parts)
        for (outer, name), number in list(self.nested.items()):
            if outer in self.whole:
                self.nested.setdefault((self.whole[outer], name), number)

    def _standing(self, part: int) -> tuple[bool, bool]:
        """Sorts the part first that a reader takes for the class itself: not generated, and with its constructor."""
        made = any(member.kind == "constructor" for member in self.types[part].members)
        return self.files[self.file_of[part]].generated, not made

    def _join(self, parts: tuple[int, ...]) -> None:
        members: list[Member] = []
        for each in parts:
            self._shifts[each] = len(members)
            members += self.types[each].members
        declared = [self.types[each] for each in parts]
        self.types[parts[0]] = msgspec.structs.replace(
            declared[0],
            members=tuple(members),
            extends=_each_once(each.extends for each in declared),
            implements=_each_once(each.implements for each in declared),
        )
        self.parts[parts[0]] = parts
        for each in parts[1:]:
            self.whole[each] = parts[0]
            self.types[each] = msgspec.structs.replace(self.types[each], kind="part", members=(), extends=(), implements=())

    def member_of_whole(self, number: int, member: int) -> int:
        """The index in the whole type of a member of one of its parts."""
        return member + self._shifts.get(number, 0) if member >= 0 else member

    def origin(self, number: int, member: int) -> tuple[int, int]:
        """The part, and the index in it, that a member of a type comes from; the same two for a type in one piece."""
        for part in reversed(self.parts.get(number, ())):
            if member >= self._shifts[part]:
                return part, member - self._shifts[part]
        return number, member

    def part_of_member(self, number: int, member: Member) -> int:
        """The part of a type that declares one of its members; the type itself where it is in one piece."""
        members = self.types[number].members
        index = next((at for at, each in enumerate(members) if each is member), -1)
        return self.origin(number, index if index >= 0 else members.index(member))[0]

    def local_in(self, number: int, file: int) -> int:
        """The place among the types of a file of a type, or of its part that stands there; the file's first where none does,
        -1 where it declares none."""
        part = next((each for each in self.parts.get(number, (number,)) if self.file_of[each] == file), -1)
        return part - self.first[file] if part >= 0 else 0 if self.files[file].types else -1

    def own_part(self, number: int) -> DeclaredType:
        """A type as its own file declares it, without what other parts add."""
        file = self.file_of[number]
        return self.files[file].types[number - self.first[file]]

    def own_members(self, number: int) -> tuple[Member, ...]:
        """The members of a type that are declared in its own file, rather than in another part."""
        return self.own_part(number).members

    @remembered
    def is_generated(self, number: int) -> bool:
        """Whether a generator made all of a type; one that people add parts to is theirs."""
        return all(self.files[self.file_of[part]].generated for part in self.parts.get(number, (number,)))

    def is_shown(self, number: int) -> bool:
        """Whether a type stands for itself: it has a name, and is no part of another."""
        return self.types[number].kind not in ("anonymous", "part")

    def _find_modules(self, projects: Projects) -> dict[str, Modules]:
        by_language: dict[str, list[tuple[int, FileFacts]]] = defaultdict(list)
        for number, facts in enumerate(self.files):
            if dialect_of(facts.language).style == "modules":
                by_language[facts.language].append((number, facts))
        return {language: Modules(language, files, projects) for language, files in by_language.items()}

    def _add(self, number: int, facts: FileFacts) -> None:
        first = len(self.types)
        self.first.append(first)
        dialect = dialect_of(facts.language)
        by_name = self.by_language[facts.language]
        for index, declared in enumerate(facts.types):
            name = self._qualify(number, facts, declared, dialect)
            self.types.append(declared)
            self.file_of.append(number)
            self.names.append(name)
            if declared.kind == "anonymous" or (declared.kind == "module" and dialect.style != "modules"):
                continue  # neither can be named in source
            key = name.lower() if dialect.ignores_case else name
            by_name[key] = (*by_name.get(key, ()), first + index)
            if declared.outer >= 0 and declared.outer_member < 0:
                self.nested.setdefault((first + declared.outer, declared.name), first + index)
            package = facts.package if dialect.style == "packages" else declared.space
            if package not in self.packages:
                parts = package.split(dialect.separator)
                self.packages.update(dialect.separator.join(parts[:end]) for end in range(1, len(parts) + 1))

    def _qualify(self, number: int, facts: FileFacts, declared: DeclaredType, dialect: Dialect) -> str:
        if dialect.style == "modules":
            module = self.modules[facts.language].names[number]
            return f"{module}{dialect.module_separator}{declared.path}" if declared.path else module
        if declared.kind == "module":
            return without_suffix(facts.path)
        package = facts.package if dialect.style == "packages" else declared.space
        return f"{package}{dialect.separator}{declared.path}" if package else declared.path

    def __len__(self) -> int:
        return len(self.types)

    def is_module(self, number: int) -> bool:
        """Whether a type stands for a module or namespace, which holds functions and variables but has no objects."""
        return self.types[number].kind in ("module", "namespace")

    def outer(self, number: int) -> int:
        """The type around a type; -1 for a top-level one."""
        outer = self.types[number].outer
        if outer < 0:
            return -1
        found = self.first[self.file_of[number]] + outer
        return self.whole.get(found, found)

    def named(self, number: int) -> int:
        """The innermost named type around an anonymous one; a named one itself."""
        while self.types[number].kind == "anonymous":
            outer = self.outer(number)
            if outer < 0:
                return self.first[self.file_of[number]]
            number = outer
        return self.whole.get(number, number)

    def path(self, number: int) -> str:
        """The file a type is declared in."""
        return self.files[self.file_of[number]].path

    def find(self, name: str, asker: int) -> tuple[int, bool]:
        """The type of qualified `name` as file number `asker` sees it, and whether that is a guess; (-1, False): none.

        Where a name is declared more than once (source sets, modules), the one nearest in the folders is taken;
        it is a guess only when two are equally near.
        """
        language = self.files[asker].language
        found = self.by_language[language].get(name.lower() if dialect_of(language).ignores_case else name)
        if found is None:
            return -1, False
        if len(found) == 1:
            return found[0], False
        here = self.files[asker].path.split("/")
        nearness = [_shared(here, self.path(each).split("/")) for each in found]
        best = max(nearness)
        return found[nearness.index(best)], nearness.count(best) > 1

    def members(self, number: int) -> ByName:
        """The members of one type by name, each with its index."""
        table = self._members.get(number)
        if table is None:
            table = self._members[number] = {}
            for index, member in enumerate(self.types[number].members):
                table[member.name] = (*table.get(member.name, ()), (index, member))
        return table

    def forget_members(self) -> None:
        """Let go of members by name; they are found again when somebody asks."""
        self._members.clear()

    def dialect(self, number: int) -> Dialect:
        """The dialect of the language that a type is written in."""
        return dialect_of(self.files[self.file_of[number]].language)


def _each_once(lists: Iterable[tuple[str, ...]]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(each for texts in lists for each in texts))


def _shared(one: list[str], other: list[str]) -> int:
    """How many leading segments two paths share."""
    count = 0
    for left, right in zip(one, other, strict=False):
        if left != right:
            break
        count += 1
    return count
