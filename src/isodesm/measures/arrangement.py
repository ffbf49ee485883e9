"""An order of classes, or of the packages they are in, in which those that belong together stand together."""

from __future__ import annotations

from collections import Counter
from typing import NamedTuple

from isodesm.codebase.model import Codebase
from isodesm.linking.bonds import KINDS

MOST = 34
"""Rows of a matrix that can have their names beside them: of more classes, whole packages are a row."""


class Cell(NamedTuple):
    """What one row has to do with a column: pairs of classes that are bound, hard ones and wrong-way ones among them."""

    pairs: int
    hard: int
    wrong: int


class Grid(NamedTuple):
    """A matrix: the names and layers of its rows in order, what they are (`classes` or `packages`), and the cells that are not
    empty, by row and column."""

    names: tuple[str, ...]
    layers: tuple[str, ...]
    of: str
    cells: dict[tuple[int, int], Cell]


def bound_pairs(codebase: Codebase) -> set[tuple[int, int]]:
    """(source, target) of all bonds between production classes."""
    table, symbols, roles = codebase.bonds, codebase.symbols, codebase.roles
    found = set()
    for kind, source, target in zip(table.kind, table.source, table.target, strict=True):
        if kind < len(KINDS) and target >= 0:
            other = symbols.named(target)
            if (
                source != other
                and "test" not in (roles.name(source), roles.name(other))
                and not symbols.is_module(source)
                and not symbols.is_module(other)
            ):
                found.add((source, other))
    return found


def grid_of(codebase: Codebase, hard: set[tuple[int, int]]) -> Grid:
    """The matrix of all bound classes, or, where they are too many to name, of their packages; `hard` are pairs of classes."""
    pairs = bound_pairs(codebase)
    numbers = sorted({number for pair in pairs for number in pair})
    grouped = len(numbers) > MOST
    group = _packages(codebase, numbers) if grouped else {each: codebase.symbols.types[each].name for each in numbers}
    members: dict[tuple[str, str], None] = {}
    row_of = {}
    for number in numbers:
        key = (codebase.layers.name(number), group[number] if grouped else str(number))
        members.setdefault(key)
        row_of[number] = key
    keys = sorted(members)
    index = {key: at for at, key in enumerate(keys)}
    near = _near(len(keys), {(index[row_of[one]], index[row_of[other]]) for one, other in pairs})
    rings = {layer.name: layer.ring for layer in codebase.layers.layers}
    order = sorted(keys, key=lambda key: (-rings.get(key[0], -9), near[index[key]]))
    place = {key: at for at, key in enumerate(order)}
    found: dict[tuple[int, int], list[int]] = {}
    for one, other in pairs:
        cell = found.setdefault((place[row_of[one]], place[row_of[other]]), [0, 0, 0])
        for at, counts in enumerate((True, (one, other) in hard, bool(codebase.layers.crossing(one, other)))):
            cell[at] += counts
    names = [group[next(each for each in numbers if row_of[each] == key)] for key in order]
    cells = {key: Cell(*counts) for key, counts in sorted(found.items())}
    return Grid(tuple(names), tuple(key[0] for key in order), "packages" if grouped else "classes", cells)


def _packages(codebase: Codebase, numbers: list[int]) -> dict[int, str]:
    """Class to the package, namespace or folder it is shown under, the smallest joined to the one around them until there are
    few enough to name."""
    parts = {each: _place(codebase, each) for each in numbers}
    while len(set(parts.values())) > MOST:
        sizes = Counter(parts.values())
        deep = [each for each in sizes if len(each) > 1]
        if not deep:
            return _largest(parts)
        least = min(deep, key=lambda each: (sizes[each], -len(each), each))
        parts = {number: each[:-1] if each == least else each for number, each in parts.items()}
    shared = _shared({each for each in parts.values()})
    return {number: "/".join(each[shared:]) or "/".join(each) or "." for number, each in parts.items()}


def _largest(parts: dict[int, tuple[str, ...]]) -> dict[int, str]:
    """The packages with the most classes, and all others under one name."""
    kept = {each for each, _ in Counter(parts.values()).most_common(MOST - 1)}
    return {number: "/".join(each) if each in kept else "others" for number, each in parts.items()}


def _shared(places: set[tuple[str, ...]]) -> int:
    """How many parts all places begin with, one being left to each."""
    first = min(places)
    count = 0
    while all(len(each) > count + 1 and each[count] == first[count] for each in places):
        count += 1
    return count


def _place(codebase: Codebase, number: int) -> tuple[str, ...]:
    symbols = codebase.symbols
    if symbols.dialect(number).style == "modules":
        return tuple(symbols.path(number).split("/")[:-1]) or (".",)
    space = symbols.types[number].space or symbols.files[symbols.file_of[number]].package
    return tuple(space.replace("\\", ".").split(".")) if space else (".",)


def _near(count: int, pairs: set[tuple[int, int]]) -> list[int]:
    """The place of each row in an order in which bound ones are near each other."""
    import numpy
    from scipy.sparse import csr_array
    from scipy.sparse.csgraph import reverse_cuthill_mckee

    inside = sorted(pair for pair in pairs if pair[0] != pair[1])
    if not inside:
        return list(range(count))
    rows, columns = zip(*inside, strict=True)
    graph = csr_array((numpy.ones(2 * len(rows)), (rows + columns, columns + rows)), shape=(count, count))
    found = [0] * count
    for place, position in enumerate(reverse_cuthill_mckee(graph, symmetric_mode=True).tolist()):
        found[position] = place
    return found
