"""Ripple: the expected number of other classes that feel a change of a class.

With A[i, j] the chance that a change of class j makes class i change too, the expected number of changes after one of j
is the sum of column j of I + A + A² + … = (I − A)⁻¹, that is r = (I − Aᵀ)⁻¹·1; ripple is r − 1. The series converges
where the spectral radius of A is below 1: a bound on it is worked out, and A scaled down where the bound is too near.
The idea of a change that spreads by chances over dependencies is that of change-propagation models (design structure
matrices); the chances by kind of bond, and how they are estimated, are our own.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any, NamedTuple

import msgspec

from isodesm.linking.bonds import KINDS
from isodesm.measures.churn import Churn
from isodesm.measures.graph import ClassGraph

if TYPE_CHECKING:
    from numpy.typing import NDArray

USUAL = {
    "extends": 0.30,
    "implements": 0.25,
    "creation": 0.20,
    "lookup": 0.15,
    "static-call": 0.15,
    "static-field": 0.12,
    "call": 0.12,
    "field": 0.10,
    "parameter": 0.08,
    "return": 0.08,
    "local": 0.06,
    "cast": 0.06,
    "generic": 0.05,
    "throws": 0.05,
    "catch": 0.05,
    "annotation": 0.03,
}
"""Chances where history says too little: the harder the bond, the likelier."""
LEAST_CHANGES = 60.0
"""Changes of targets of a kind from which its chance is estimated."""
MOST_CHANCE = 0.9
HIGHEST_RADIUS = 0.9
"""Spectral radius up to which chances are taken as they are."""
ROUNDS = 60
"""Steps of the power iteration that bounds the radius."""
PRECISION = 1e-10
Z = 1.96
"""Standard normal quantile of a 95 % interval."""


class Chance(msgspec.Struct, frozen=True):
    """The chance of one kind of bond: estimated from `changes` of targets (with a 95 % interval), or the usual one."""

    kind: str
    chance: float
    estimated: bool
    changes: int
    low: float
    high: float


class Ripple(msgspec.Struct, frozen=True):
    """Ripple of each type, the chances used, the bound on the spectral radius, and what chances were scaled by."""

    values: Any
    chances: tuple[Chance, ...]
    radius: float
    scale: float


class Sparse(NamedTuple):
    """A square matrix of so many rows by its entries that are not 0; times a vector it gives a vector."""

    values: NDArray[Any]
    rows: NDArray[Any]
    columns: NDArray[Any]
    size: int

    def __matmul__(self, vector: NDArray[Any]) -> NDArray[Any]:
        import numpy

        return numpy.bincount(self.rows, weights=self.values * vector[self.columns], minlength=self.size)

    @property
    def turned(self) -> Sparse:
        """Rows and columns exchanged."""
        return self._replace(rows=self.columns, columns=self.rows)


def measure_ripple(graph: ClassGraph, churn: Churn | None = None) -> Ripple:
    """The ripple of every type; chances come from `churn` where that has seen enough."""
    import numpy

    chances = estimate_chances(graph, churn)
    by_kind = numpy.array([each.chance for each in chances])
    width = max(graph.count, 1)
    keys = numpy.unique((graph.sources * width + graph.targets) * len(KINDS) + graph.kinds)
    kinds, pairs = keys % len(KINDS), keys // len(KINDS)
    spared = numpy.log1p(-by_kind[kinds])  # that no kind of bond between the two carries the change
    distinct, where = numpy.unique(pairs, return_inverse=True)
    values = numpy.minimum(-numpy.expm1(numpy.bincount(where, weights=spared, minlength=len(distinct))), MOST_CHANCE)
    matrix = Sparse(values, distinct // width, distinct % width, graph.count)
    radius = radius_bound(matrix)
    scale = min(1.0, HIGHEST_RADIUS / radius) if radius else 1.0
    return Ripple(spread(matrix._replace(values=values * scale)) - 1, chances, radius, scale)


def radius_bound(matrix: Sparse) -> float:
    """An upper bound on the spectral radius of a matrix without negative entries.

    For any x > 0 the radius is at most max (A·x)ᵢ / xᵢ; power steps with A + I, which keep x positive, tighten it.
    """
    import numpy

    if not len(matrix.values):
        return 0.0
    x = numpy.ones(matrix.size)
    bound = math.inf
    for _ in range(ROUNDS):
        y = matrix @ x
        bound = min(bound, float((y / x).max()))
        x = y + x
        x /= x.max()
        x = numpy.maximum(x, 1e-12)
    return bound


def spread(matrix: Sparse) -> NDArray[Any]:
    """(I − Aᵀ)⁻¹·1 as the sum of its series; the caller sees to it that this converges."""
    import numpy

    turned = matrix.turned
    total = numpy.ones(matrix.size)
    step = total
    while step.size and step.max() > PRECISION:
        step = turned @ step
        total = total + step
    return total


def estimate_chances(graph: ClassGraph, churn: Churn | None) -> tuple[Chance, ...]:
    """The chance of each kind of bond, in order of KINDS.

    Over all pairs of files bound by a kind: commits that touched both, by commits that touched the target's file; less
    what chance alone would give. The interval is the score interval of a share seen in so many commits: pairs of one commit
    are no cases of their own. Where it holds what chance alone gives, the usual chance stays.
    """
    usual = [Chance(kind, USUAL[kind], False, 0, 0.0, 1.0) for kind in KINDS]
    if churn is None or churn.is_empty:
        return tuple(usual)
    import numpy

    files = numpy.array(graph.codebase.symbols.file_of, dtype=numpy.int64)
    source, target = files[graph.sources], files[graph.targets]
    width = churn.count
    total = float(churn.weights.sum())
    found = []
    for number, each in enumerate(usual):
        chosen = (graph.kinds == number) & (source != target)
        keys = numpy.unique(source[chosen] * width + target[chosen])
        rows, columns = keys // width, keys % width
        changes = float(churn.commits_of[columns].sum()) if len(keys) else 0.0
        if changes < LEAST_CHANGES:
            found.append(msgspec.structs.replace(each, changes=round(changes)))
            continue
        both = float(numpy.asarray(churn.together[rows, columns]).sum())
        alone = float((churn.commits_of[rows] * churn.commits_of[columns]).sum()) / total
        share, base = min(both / changes, 1.0), min(alone / changes, 0.99)
        seen = churn.touched[:, numpy.unique(columns)].sum(axis=1) > 0
        low, high = score_interval(share, max(float(churn.weights[seen].sum()), 1.0))
        if low <= base:
            found.append(msgspec.structs.replace(each, changes=round(changes)))
            continue
        chance, low, high = (min(max((value - base) / (1 - base), 0.0), MOST_CHANCE) for value in (share, low, high))
        found.append(Chance(each.kind, round(chance, 4), True, round(changes), round(low, 4), round(high, 4)))
    return tuple(found)


def score_interval(share: float, count: float) -> tuple[float, float]:
    """The 95 % interval of a share seen in so many cases (the score interval)."""
    middle = share + Z * Z / (2 * count)
    margin = Z * math.sqrt(share * (1 - share) / count + Z * Z / (4 * count * count))
    return max((middle - margin) / (1 + Z * Z / count), 0.0), min((middle + margin) / (1 + Z * Z / count), 1.0)
