"""How well rankings foretell what changes together: the newest fifth of the history is held out and asked."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import Diagnosis
from isodesm.measures.churn import Churn
from isodesm.measures.graph import ClassGraph
from isodesm.measures.ripple import measure_ripple
from isodesm.measures.strain import measure_strain
from isodesm.reading.history import History

if TYPE_CHECKING:
    from numpy.typing import NDArray

HELD_OUT = 0.2
"""Share of the commits, the newest, that the rankings are asked about."""
LEAST_FILES, LEAST_COMMITS = 8, 30
"""Files that must have changed there, and commits that must be held out, before anything can be said."""
SAMPLES = 1000
"""Resamplings for the interval."""
SEED = 20260101


class Correlation(msgspec.Struct, frozen=True):
    """Rank correlation of a ranking with what changed together, and its 95 % interval (percentile bootstrap over commits)."""

    ranking: str
    rho: float
    low: float
    high: float


class Evaluation(msgspec.Struct, frozen=True):
    """`commits` were held out, `files` of the tree changed in them; `remark` says why nothing can be said."""

    commits: int
    files: int
    correlations: tuple[Correlation, ...]
    remark: str = ""


def evaluate(codebase: Codebase, diagnosis: Diagnosis, history: History) -> Evaluation:
    """Ripple (its chances from the older commits only), strain and plain fan-in, against the held-out commits.

    What is foretold is, for each file that changed there, how many other files of the tree changed with it on average,
    bulk commits counted for less; a file stands for its largest class. The code is today's for all of them.
    """
    import numpy

    split = len(history.commits) - max(int(len(history.commits) * HELD_OUT), 1)
    older, newer = Churn(codebase, history, history.commits[:split]), Churn(codebase, history, history.commits[split:])
    changed = numpy.flatnonzero(newer.commits_of > 0) if not newer.is_empty else numpy.zeros(0, dtype=int)
    if len(newer.commits) < LEAST_COMMITS or len(changed) < LEAST_FILES:
        remark = history.remark or (
            f"only {len(newer.commits)} commits are held out, and {len(changed)} files of the tree changed in them; "
            "that is too little for a verdict"
        )
        return Evaluation(len(newer.commits), len(changed), (), remark)
    felt = _felt(newer, changed)
    graph = ClassGraph(codebase)
    files = numpy.array(codebase.symbols.file_of)
    strains = measure_strain(diagnosis.places, codebase.settings.strain)
    by_class = {
        "ripple": measure_ripple(graph, older).values,
        "fan-in": graph.fan_in,
        "strain": numpy.array([strains[number].total if number in strains else 0.0 for number in range(graph.count)]),
    }
    correlations = []
    for name, values in by_class.items():
        largest = numpy.zeros(len(codebase.symbols.files))
        numpy.maximum.at(largest, files, numpy.asarray(values, dtype=float))
        correlations.append(_correlation(name, largest[changed], felt))
    return Evaluation(len(newer.commits), len(changed), tuple(correlations))


def _felt(churn: Churn, changed: NDArray[Any]) -> NDArray[Any]:
    """For samples of the commits, all of them as they are first: how many other files changed with each file, on average.

    Commits by files are `touched`; a commit of k files, drawn n times, adds n·w·(k − 1) to each of its files, by n·w.
    """
    import numpy

    generator = numpy.random.default_rng(SEED)
    count = len(churn.commits)
    drawn = generator.multinomial(count, numpy.full(count, 1 / count), size=SAMPLES)
    weights = numpy.vstack([numpy.ones(count), drawn]) * churn.weights
    touched = churn.touched[:, changed]
    others = numpy.asarray(churn.touched.sum(axis=1)).ravel() - 1
    own = weights @ touched
    with numpy.errstate(invalid="ignore", divide="ignore"):
        return numpy.where(own > 0, ((weights * others) @ touched) / own, numpy.nan)


def _correlation(name: str, foretold: NDArray[Any], felt: NDArray[Any]) -> Correlation:
    """The correlation over all commits, and its interval over samples of them; files that a sample misses are left out."""
    import numpy

    found = []
    for row in felt:
        known = ~numpy.isnan(row)
        found.append(rank_correlation(foretold[known], row[known]) if known.sum() > 2 else 0.0)
    low, high = numpy.quantile(found[1:], (0.025, 0.975))
    return Correlation(name, round(found[0], 3), round(float(low), 3), round(float(high), 3))


def rank_correlation(one: NDArray[Any], other: NDArray[Any]) -> float:
    """Correlation of the ranks of two rows of numbers, ties at their mean rank; 0 where one of them is constant."""
    import numpy
    from scipy.stats import rankdata

    first, second = rankdata(one), rankdata(other)
    if numpy.ptp(first) == 0 or numpy.ptp(second) == 0:
        return 0.0
    return float(numpy.corrcoef(first, second)[0, 1])
