"""How strongly each class is coupled: fans, instability, reach, counted over the distinct types it is bound to."""

from __future__ import annotations

import msgspec

from isodesm.codebase.bonds import KINDS
from isodesm.codebase.model import Codebase


class Coupling(msgspec.Struct, frozen=True):
    """Counts for one class.

    `fan_out` and `fan_in` are distinct declared types it depends on and that depend on it (afferent and efferent
    coupling as R. Martin defined them, here per class); `external` the distinct types outside the tree.
    """

    fan_in: int
    fan_out: int
    external: int

    @property
    def instability(self) -> float:
        """`out / (in + out)`, from 0 (only used) to 1 (only uses); 0 where there is neither. Martin, 1994."""
        total = self.fan_in + self.fan_out
        return self.fan_out / total if total else 0.0


def measure_coupling(codebase: Codebase) -> list[Coupling]:
    """The coupling of every type, by number. Bonds of nested and anonymous types count for the type they are written in."""
    import numpy

    table = codebase.bonds
    count = len(codebase.symbols)
    source = numpy.frombuffer(table.source, dtype=numpy.int32).astype(numpy.int64)
    target = numpy.frombuffer(table.target, dtype=numpy.int32).astype(numpy.int64)
    kind = numpy.frombuffer(table.kind, dtype=numpy.int32)
    real = (kind < len(KINDS)) & (source != target)
    inside = real & (target >= 0)
    named = numpy.array([codebase.symbols.named(number) for number in range(count)], dtype=numpy.int64)
    pairs = numpy.unique(source[inside] * count + named[target[inside]]) if count else numpy.array([], dtype=numpy.int64)
    pairs = pairs[pairs // max(count, 1) != pairs % max(count, 1)]
    fan_out = numpy.bincount(pairs // max(count, 1), minlength=count)
    fan_in = numpy.bincount(pairs % max(count, 1), minlength=count)
    outside = real & (target < 0)
    span = len(table.externals.strings) + 1
    outward = numpy.unique(source[outside] * span - target[outside])
    external = numpy.bincount(outward // span, minlength=count)
    return [Coupling(*row) for row in zip(fan_in.tolist(), fan_out.tolist(), external.tolist(), strict=True)]
