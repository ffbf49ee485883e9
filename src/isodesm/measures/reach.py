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
    from scipy.sparse import csr_array

    labels, sizes = graph.knots
    count = len(sizes)
    if not count:
        return numpy.zeros(0, dtype=numpy.int64)
    pairs = graph.pairs
    rows, columns = labels[pairs[:, 0]], labels[pairs[:, 1]]
    apart = rows != columns
    condensed = csr_array((numpy.ones(apart.sum(), dtype=numpy.int8), (rows[apart], columns[apart])), shape=(count, count))
    order = _topological(condensed, count)
    dependents = numpy.zeros(count, dtype=numpy.int64)
    for first in range(0, graph.count, BLOCK):
        dependents += _counted(condensed, order, labels, first, min(first + BLOCK, graph.count))
    return dependents[labels] - 1


def _topological(condensed: Any, count: int) -> list[int]:
    """Components so that each comes before those it depends on."""
    import numpy

    waiting = numpy.bincount(condensed.indices, minlength=count)
    ready = numpy.flatnonzero(waiting == 0).tolist()
    order: list[int] = []
    while ready:
        node = ready.pop()
        order.append(node)
        for each in condensed.indices[condensed.indptr[node] : condensed.indptr[node + 1]].tolist():
            waiting[each] -= 1
            if waiting[each] == 0:
                ready.append(each)
    return order


def _counted(condensed: Any, order: list[int], labels: NDArray[Any], first: int, last: int) -> NDArray[Any]:
    """How many of the types `first` to `last` depend on, or lie in, each component."""
    import numpy

    bits = numpy.zeros((condensed.shape[0], (last - first + 7) // 8), dtype=numpy.uint8)
    for position, label in enumerate(labels[first:last].tolist()):
        bits[label, position >> 3] |= 1 << (position & 7)
    indices, indptr = condensed.indices, condensed.indptr
    for node in order:  # dependents first: what depends on the user depends on what is used
        used = indices[indptr[node] : indptr[node + 1]]
        if len(used):
            bits[used] |= bits[node]
    return numpy.unpackbits(bits, axis=1).sum(axis=1, dtype=numpy.int64)
