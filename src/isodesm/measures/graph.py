"""The graph of classes: who is bound to whom, and how."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING, Any

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.reach import knots_of
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
        import numpy

        width, (one, other) = max(self.count, 1), self.pairs.T
        keys = numpy.unique(numpy.concatenate((one * width + other, other * width + one)))
        return numpy.bincount(keys // width, minlength=self.count)

    @cached_property
    def knots(self) -> tuple[NDArray[Any], NDArray[Any]]:
        """The strongly connected component of each type, and the size of each component. What one of them depends on has a
        lower number."""
        import numpy

        users, used = self.pairs.T
        starts = numpy.searchsorted(users, numpy.arange(self.count + 1)).tolist()
        labels = numpy.array(knots_of(starts, used.tolist()), dtype=numpy.int64)
        return labels, numpy.bincount(labels)
