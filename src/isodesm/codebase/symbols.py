"""The declared types of a whole tree under global numbers, and what can be asked of them without linking.

A *type number* counts the declared types of all files in order of path; anonymous ones have numbers too.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

from isodesm.facts.languages import dialect_of
from isodesm.facts.records import DeclaredType, FileFacts, Member


class Symbols:
    """Built once from the facts of all files; read-only afterwards, so that forked workers can share it."""

    def __init__(self, files: Iterable[FileFacts]) -> None:
        self.files: list[FileFacts] = list(files)
        self.first: list[int] = []
        """File number to the number of its first type."""
        self.types: list[DeclaredType] = []
        self.file_of: list[int] = []
        self.names: list[str] = []
        """Qualified names; an anonymous type has that of the named type around it."""
        self.by_name: dict[str, tuple[int, ...]] = {}
        self.nested: dict[tuple[int, str], int] = {}
        """(type, simple name) to the member type of that name."""
        self.packages: set[str] = set()
        """Every package that holds a type, and every prefix of one."""
        self._members: dict[int, dict[str, list[tuple[int, Member]]]] = {}
        for number, facts in enumerate(self.files):
            self._add(number, facts)

    def _add(self, number: int, facts: FileFacts) -> None:
        first = len(self.types)
        self.first.append(first)
        prefix = f"{facts.package}." if facts.package else ""
        if facts.package not in self.packages:
            parts = facts.package.split(".")
            self.packages.update(".".join(parts[:end]) for end in range(1, len(parts) + 1))
        for index, declared in enumerate(facts.types):
            name = prefix + declared.path
            self.types.append(declared)
            self.file_of.append(number)
            self.names.append(name)
            if declared.kind == "anonymous":
                continue
            self.by_name[name] = (*self.by_name.get(name, ()), first + index)
            if declared.outer >= 0 and declared.outer_member < 0:
                self.nested.setdefault((first + declared.outer, declared.name), first + index)

    def __len__(self) -> int:
        return len(self.types)

    def outer(self, number: int) -> int:
        """The type around a type; -1 for a top-level one."""
        outer = self.types[number].outer
        return self.first[self.file_of[number]] + outer if outer >= 0 else -1

    def named(self, number: int) -> int:
        """The innermost named type around an anonymous one; a named one itself."""
        while self.types[number].kind == "anonymous":
            number = self.outer(number)
        return number

    def path(self, number: int) -> str:
        """The file a type is declared in."""
        return self.files[self.file_of[number]].path

    def find(self, name: str, asker: int) -> tuple[int, bool]:
        """The type of qualified `name` as file number `asker` sees it, and whether that is a guess; (-1, False): none.

        Where a name is declared more than once (source sets, modules), the one nearest in the folders is taken;
        it is a guess only when two are equally near.
        """
        found = self.by_name.get(name)
        if found is None:
            return -1, False
        if len(found) == 1:
            return found[0], False
        here = self.files[asker].path.split("/")
        nearness = [_shared(here, self.path(each).split("/")) for each in found]
        best = max(nearness)
        return found[nearness.index(best)], nearness.count(best) > 1

    def members(self, number: int) -> dict[str, list[tuple[int, Member]]]:
        """The members of one type by name, each with its index."""
        table = self._members.get(number)
        if table is None:
            table = defaultdict(list)
            for index, member in enumerate(self.types[number].members):
                table[member.name].append((index, member))
            self._members[number] = table = dict(table)
        return table

    def dialect(self, number: int):  # noqa: ANN201 - a module
        """The dialect of the language that a type is written in."""
        return dialect_of(self.files[self.file_of[number]].language)


def _shared(one: list[str], other: list[str]) -> int:
    """How many leading segments two paths share."""
    count = 0
    for left, right in zip(one, other, strict=False):
        if left != right:
            break
        count += 1
    return count
