"""Which programs a tree holds: projects with a start of their own, and the projects that each takes in."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

from isodesm.linking.bonds import BondTable
from isodesm.linking.symbols import Symbols


class Programs:
    """Programs by the folders of their projects.

    `folders` are those with a project file, `starts` the numbers of types that start a program, `tests` those of test code.
    A project that no start takes in belongs to all programs, for who takes it in lies outside the tree.
    """

    def __init__(
        self, symbols: Symbols, bonds: BondTable, folders: Iterable[str], starts: Iterable[int], tests: Iterable[int]
    ) -> None:
        known = {each: f"{each}/" if each else "" for each in folders}
        nearest = sorted(known, key=len, reverse=True)
        self.project_of = [
            next((each for each in nearest if facts.path.startswith(known[each])), "") for facts in symbols.files
        ]
        """The project folder of each file, '' for the root's."""
        beginning = {self.project_of[symbols.file_of[number]] for number in starts}
        self._within: dict[str, frozenset[str]] = {}
        """Project to the programs that take it in."""
        if len(set(self.project_of)) > 1 and len(beginning) > 1:
            self._within = self._reached(beginning, self._needs(symbols, bonds, frozenset(tests)))
        self.names = tuple(sorted(set().union(*self._within.values()))) if self._within else ()
        """The programs, '' for that of the root; none where the tree is one program."""

    def _needs(self, symbols: Symbols, bonds: BondTable, tests: frozenset[int]) -> dict[str, set[str]]:
        """Project to the projects whose types its production code names."""
        found: dict[str, set[str]] = defaultdict(set)
        for source, target in zip(bonds.source, bonds.target, strict=True):
            if target >= 0 and source not in tests:
                one, other = self.project_of[symbols.file_of[source]], self.project_of[symbols.file_of[target]]
                if one != other:
                    found[one].add(other)
        return found

    @staticmethod
    def _reached(beginning: set[str], needs: dict[str, set[str]]) -> dict[str, frozenset[str]]:
        within: dict[str, set[str]] = defaultdict(set)
        for start in beginning:
            waiting, seen = [start], {start}
            while waiting:
                each = waiting.pop()
                within[each].add(start)
                waiting += [other for other in needs.get(each, ()) if other not in seen]
                seen |= needs.get(each, set())
        taken_in = {project for start in beginning for project in needs.get(start, ()) if project in beginning}
        roots = beginning - {each for each in taken_in if len(within[each]) > 1}
        return {project: frozenset(found & roots) for project, found in within.items() if found & roots}

    def of(self, file: int) -> frozenset[str]:
        """The programs that a file belongs to; none for all."""
        return self._within.get(self.project_of[file], frozenset())

    def together(self, one: int, other: int) -> bool:
        """Whether two files may be part of one program."""
        first, second = self.of(one), self.of(other)
        return not first or not second or not first.isdisjoint(second)


def scripts_of(symbols: Symbols, bonds: BondTable) -> frozenset[int]:
    """Modules that declare no class and that nobody uses: what is run by its file."""
    used = {target for source, target in zip(bonds.source, bonds.target, strict=True) if target >= 0 and source != target}
    alone = (symbols.first[file] for file, facts in enumerate(symbols.files) if len(facts.types) == 1)
    return frozenset(each for each in alone if symbols.is_module(each) and each not in used)
