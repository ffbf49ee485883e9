"""The graph of classes as sparse matrices: who is bound to whom, and how."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING, Any

from isodesm.codebase.model import Codebase
from isodesm.linking.bonds import KINDS

if TYPE_CHECKING:
    from numpy.typing import NDArray


class ClassGraph:
    """Bonds between the named types of a tree. Bonds of anonymous types count for the type around them; none to itself."""

    def __init__(self, codebase: Codebase) -> None:
        import numpy

        table = codebase.bonds
        self.count = len(codebase.symbols)
        self.codebase = codebase
        named = numpy.array([codebase.symbols.named(number) for number in range(self.count)], dtype=numpy.int64)
        column = {
            name: numpy.frombuffer(table.columns[name], dtype=numpy.int32).astype(numpy.int64)
            for name in ("source", "target", "kind")
        }
        real = column["kind"] < len(KINDS)
        inside = real & (column["target"] >= 0)
        sources, targets, kinds = column["source"][inside], named[column["target"][inside]], column["kind"][inside]
        apart = sources != targets
        self.sources, self.targets, self.kinds = sources[apart], targets[apart], kinds[apart]
        """One entry a bond: the types and the kind, by number."""
        self.outside = (column["source"][real & (column["target"] < 0)], column["target"][real & (column["target"] < 0)])

    @cached_property
    def pairs(self) -> NDArray[Any]:
        """Distinct (source, target) pairs, two columns, sorted."""
        import numpy

        width = max(self.count, 1)
        keys = numpy.unique(self.sources * width + self.targets)
        return numpy.stack((keys // width, keys % width), axis=1)

    @cached_property
    def matrix(self) -> Any:
        """A sparse matrix with a 1 where the class of the row depends on that of the column."""
        import numpy
        from scipy.sparse import csr_array

        pairs = self.pairs
        return csr_array((numpy.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(self.count, self.count))

    @cached_property
    def external(self) -> NDArray[Any]:
        """Distinct types outside the tree that each type is bound to."""
        import numpy

        source, target = self.outside
        span = len(self.codebase.bonds.externals.strings) + 1
        return numpy.bincount(numpy.unique(source * span - target) // span, minlength=self.count)

    @cached_property
    def fan_in(self) -> NDArray[Any]:
        """Distinct types with a bond to each type."""
        import numpy

        return numpy.bincount(self.pairs[:, 1], minlength=self.count)

    @cached_property
    def fan_out(self) -> NDArray[Any]:
        """Distinct types that each type has a bond to."""
        import numpy

        return numpy.bincount(self.pairs[:, 0], minlength=self.count)

    @cached_property
    def coupled(self) -> NDArray[Any]:
        """Distinct types that each type is bound to in either direction (coupling between objects)."""
        both = self.matrix + self.matrix.T
        return both.indptr[1:] - both.indptr[:-1]

    @cached_property
    def knots(self) -> tuple[NDArray[Any], NDArray[Any]]:
        """The strongly connected component of each type, and the size of each component."""
        import numpy
        from scipy.sparse.csgraph import connected_components

        number, labels = connected_components(self.matrix, directed=True, connection="strong")
        return labels, numpy.bincount(labels, minlength=number)
