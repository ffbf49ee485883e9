"""What history says of classes: how often their files changed, by how many people, and what changed with them."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING, Any

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.reading.history import Commit, History

if TYPE_CHECKING:
    from numpy.typing import NDArray

BULK = 24
"""Files of a commit beyond which it counts for less: reformatting and licence headers bind nothing to anything."""
LEAST_TOGETHER = 2
"""Commits that two files must share to be called partners."""
LEAST_SHARE = 0.25
"""Share of the file's own commits that a partner must have been in."""


class Partner(msgspec.Struct, frozen=True):
    """A file that changes with another: the class it holds, commits of both, and their share of the other's commits."""

    file: str
    name: str
    together: int
    share: float


class Churn:
    """Commits of a tree's files, as a sparse matrix of commits by files. Where no commit is known, the library of sparse
    matrices, which takes longer to load than all else here, is not asked for."""

    def __init__(self, codebase: Codebase, history: History, commits: tuple[Commit, ...] | None = None) -> None:
        import numpy

        self.codebase, self.history = codebase, history
        self.commits = history.commits if commits is None else commits
        files = {facts.path: number for number, facts in enumerate(codebase.symbols.files)}
        self.count = len(files)
        numbers = [files.get(path, -1) for path in history.paths]
        rows, columns, sizes = [], [], []
        for row, commit in enumerate(self.commits):
            sizes.append(len(commit.changes))
            for change in commit.changes:
                if (column := numbers[change.path]) >= 0:
                    rows.append(row)
                    columns.append(column)
        self.weights = numpy.array([weight_of(size) for size in sizes]) if sizes else numpy.zeros(0)
        """Weight of each commit, from 1 down towards 0 for bulk commits."""
        self._entries = rows, columns
        self.is_empty = not rows
        """Whether no commit touched a file of the tree."""

    @cached_property
    def touched(self) -> Any:
        """Commits by files, 1 where a commit touched the file."""
        import numpy
        from scipy.sparse import csr_array

        found = csr_array((numpy.ones(len(self._entries[0])), self._entries), shape=(len(self.commits), self.count))
        found.data[:] = 1.0
        return found

    @cached_property
    def weighted(self) -> Any:
        """Commits by files, each entry the weight of the commit."""
        from scipy.sparse import diags_array

        return (diags_array(self.weights) @ self.touched).tocsr()

    @cached_property
    def commits_of(self) -> NDArray[Any]:
        """Commits of each file, bulk ones counted for less."""
        import numpy

        if self.is_empty:
            return numpy.zeros(self.count)
        return self.weighted.sum(axis=0)

    @cached_property
    def authors_of(self) -> list[int]:
        """People who changed each file."""
        seen = {(column, self.commits[row].author) for row, column in zip(*self._entries, strict=True)}
        counts = [0] * self.count
        for column, _ in seen:
            counts[column] += 1
        return counts

    @cached_property
    def together(self) -> Any:
        """Files by files: commits that touched both, bulk ones counted for less."""
        return (self.touched.T @ self.weighted).tocsr()

    def partners(self, file: int, most: int = 8) -> tuple[Partner, ...]:
        """The files that changed with a file in a good part of its commits, the closest first."""
        if self.is_empty:
            return ()
        own = float(self.commits_of[file])
        start, end = self.together.indptr[file], self.together.indptr[file + 1]
        found = [
            (float(value), other)
            for value, other in zip(
                self.together.data[start:end].tolist(), self.together.indices[start:end].tolist(), strict=True
            )
            if other != file and value >= LEAST_TOGETHER and own and value / own >= LEAST_SHARE
        ]
        found.sort(key=lambda each: (-each[0], self.codebase.symbols.files[each[1]].path))
        return tuple(
            Partner(self.codebase.symbols.files[other].path, self._holds(other), round(value), round(value / own, 2))
            for value, other in found[:most]
        )

    def _holds(self, file: int) -> str:
        """The first named class of a file, or its module."""
        symbols = self.codebase.symbols
        numbers = range(symbols.first[file], symbols.first[file] + len(symbols.files[file].types))
        classes = [number for number in numbers if symbols.is_shown(number) and not symbols.is_module(number)]
        return symbols.names[next(iter(classes or numbers), 0)] if len(symbols) and len(numbers) else ""


def weight_of(files: int) -> float:
    """Weight of a commit that touched so many files: 1 up to BULK, then falling with the square."""
    return 1.0 if files <= BULK else (BULK / files) ** 2
