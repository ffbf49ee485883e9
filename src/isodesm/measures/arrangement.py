"""An order of classes in which those that belong together stand together, for drawing the matrix of their bonds."""

from __future__ import annotations

from isodesm.codebase.model import Codebase
from isodesm.linking.bonds import KINDS

MOST = 60
"""Classes in the matrix: those with the most bonds."""


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


def arranged(codebase: Codebase, pairs: set[tuple[int, int]]) -> list[int]:
    """The classes with the most bonds, outer layers first; inside a layer neighbours beside each other."""
    import numpy
    from scipy.sparse import csr_array
    from scipy.sparse.csgraph import reverse_cuthill_mckee

    degree: dict[int, int] = {}
    for pair in pairs:
        for number in pair:
            degree[number] = degree.get(number, 0) + 1
    chosen = sorted(sorted(degree, key=lambda number: (-degree[number], number))[:MOST])
    index = {number: position for position, number in enumerate(chosen)}
    inside = [(index[one], index[other]) for one, other in sorted(pairs) if one in index and other in index]
    if not inside:
        return chosen
    rows, columns = zip(*inside, strict=True)
    graph = csr_array((numpy.ones(2 * len(rows)), (rows + columns, columns + rows)), shape=(len(chosen), len(chosen)))
    near = {
        chosen[position]: place for place, position in enumerate(reverse_cuthill_mckee(graph, symmetric_mode=True).tolist())
    }
    rings = {layer.name: layer.ring for layer in codebase.layers.layers}
    return sorted(chosen, key=lambda number: (-rings.get(codebase.layers.name(number), -9), near[number]))
