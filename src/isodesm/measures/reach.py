"""Reach: how many classes depend on a class over any path. Exact, by bit sets over the knots of the graph."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from isodesm.measures.graph import ClassGraph

if TYPE_CHECKING:
    from numpy.typing import NDArray

BLOCK = 4096
"""Classes whose dependents are gathered at a time: memory stays at types × 512 bytes, whatever the size of the tree."""


def measure_reach(graph: ClassGraph) -> NDArray[Any]:
    """For each type, the number of other types that depend on it directly or over others."""
    import numpy

    labels, sizes = graph.knots
    count = len(sizes)
    if not count:
        return numpy.zeros(0, dtype=numpy.int64)
    keys = numpy.unique(labels[graph.pairs[:, 0]] * count + labels[graph.pairs[:, 1]])
    users, used = keys // count, keys % count
    starts = numpy.searchsorted(users, numpy.arange(count + 1)).tolist()
    dependents = numpy.zeros(count, dtype=numpy.int64)
    for first in range(0, graph.count, BLOCK):
        dependents += _counted(starts, used, labels, first, min(first + BLOCK, graph.count))
    return dependents[labels] - 1


def _counted(starts: list[int], used: NDArray[Any], labels: NDArray[Any], first: int, last: int) -> NDArray[Any]:
    """How many of the types `first` to `last` depend on, or lie in, each component; component n depends on
    `used[starts[n] : starts[n + 1]]`, all of lower numbers."""
    import numpy

    count = len(starts) - 1
    bits = numpy.zeros((count, (last - first + 7) // 8), dtype=numpy.uint8)
    for position, label in enumerate(labels[first:last].tolist()):
        bits[label, position >> 3] |= 1 << (position & 7)
    for node in range(count - 1, -1, -1):  # dependents first: what depends on the user depends on what is used
        if starts[node] < starts[node + 1]:
            bits[used[starts[node] : starts[node + 1]]] |= bits[node]
    return numpy.unpackbits(bits, axis=1).sum(axis=1, dtype=numpy.int64)
