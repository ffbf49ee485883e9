"""The ranking: which classes first, with the numbers that say why."""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import Diagnosis
from isodesm.measures.churn import Churn
from isodesm.measures.coupling import Coupling, measure_coupling
from isodesm.measures.graph import ClassGraph
from isodesm.measures.needs import depth_of_needs
from isodesm.measures.ripple import Chance, Ripple, measure_ripple
from isodesm.measures.strain import Strain, measure_strain
from isodesm.measures.testable import Testing, logic_of
from isodesm.reading.history import History, read_history


class RankedClass(msgspec.Struct, frozen=True):
    """One row of the ranking. Strain parts add up: `strain = sum(own.values()) + borne`. Measures: `docs/measures.md`."""

    rank: int
    name: str
    file: str
    line: int
    role: str
    layer: str
    strain: float
    own: dict[str, float]
    borne: float
    hard_out: dict[str, int]
    hard_in: int
    fan_in: int
    fan_out: int
    coupled: int
    external: int
    instability: float
    abstractness: float
    distance: float
    reach: int
    knot: int
    ripple: float
    chain_depth: int
    chain_count: int
    needs_depth: int
    places: int
    others: int
    to_extend: int
    members: int
    members_used: int
    lines: int
    statements: int
    commits: int
    authors: int
    partners: int
    locked_effects: tuple[str, ...]
    logic: int = 0
    obstacles: int = 0
    number: int = -1

    @property
    def hard_bonds(self) -> int:
        """Hard bonds out, of all kinds."""
        return sum(self.hard_out.values())


ORDERS: dict[str, Callable[[RankedClass], float]] = {
    "strain": lambda row: row.strain,
    "own": lambda row: sum(row.own.values()),
    "borne": lambda row: row.borne,
    "hard-bonds": lambda row: row.hard_bonds,
    "hard-in": lambda row: row.hard_in,
    "ripple": lambda row: row.ripple,
    "fan-in": lambda row: row.fan_in,
    "fan-out": lambda row: row.fan_out,
    "coupled": lambda row: row.coupled,
    "instability": lambda row: row.instability,
    "distance": lambda row: row.distance,
    "reach": lambda row: row.reach,
    "knot": lambda row: row.knot,
    "chain": lambda row: row.chain_count,
    "needs-depth": lambda row: row.needs_depth,
    "places": lambda row: row.places,
    "to-extend": lambda row: row.to_extend,
    "members": lambda row: row.members,
    "lines": lambda row: row.lines,
    "effects": lambda row: len(row.locked_effects),
    "logic": lambda row: row.logic,
    "locked-logic": lambda row: row.logic if row.obstacles else 0,
    "commits": lambda row: row.commits,
    "authors": lambda row: row.authors,
    "partners": lambda row: row.partners,
}
"""What a ranking can be sorted by; always the largest first, then by strain, ties by name."""


class Ranking(msgspec.Struct, frozen=True):
    """All ranked classes and the totals over the whole codebase.

    `chances` are those that ripple was worked out with, `radius` bounds their matrix; `history` says what git gave.
    """

    by: str
    classes: tuple[RankedClass, ...]
    total_classes: int
    total_strain: float
    total_hard_bonds: int
    chances: tuple[Chance, ...] = ()
    radius: float = 0.0
    scale: float = 1.0
    commits: int = 0
    history: str = ""


def history_of(codebase: Codebase, since: str = "") -> History:
    """The history of a codebase's tree, kept where its settings keep facts."""
    return read_history(codebase.root, since, codebase.settings.cache_folder, codebase.settings.cache_limit)


def rank(codebase: Codebase, diagnosis: Diagnosis, by: str = "strain", churn: Churn | None = None) -> Ranking:
    """Production classes in order of `by` (one of ORDERS), the largest first.

    Classes that neither bind hard nor are bound so are in it too, with strain 0; tests and anonymous classes are not.
    """
    graph, churn = ClassGraph(codebase), churn if churn is not None else Churn(codebase, history_of(codebase))
    coupling, ripple = measure_coupling(codebase, graph), measure_ripple(graph, churn)
    strains = measure_strain(diagnosis.places, codebase.settings.strain)
    shown = [number for number in range(len(codebase.symbols)) if _is_ranked(codebase, number, strains)]
    depth, testing = depth_of_needs(codebase, shown), Testing(codebase, diagnosis)
    rows = [
        msgspec.structs.replace(
            _row(codebase, number, strains.get(number, Strain()), coupling[number], ripple, churn, depth[number]),
            logic=logic_of(codebase, number),
            obstacles=len(testing.of(number).against),
        )
        for number in shown
    ]
    ranking = Ranking(
        by=by,
        classes=tuple(rows),
        total_classes=len(rows),
        total_strain=sum((strain.own_total for strain in strains.values()), 0.0),
        total_hard_bonds=sum(sum(strain.hard_out.values()) for strain in strains.values()),
        chances=ripple.chances,
        radius=round(ripple.radius, 4),
        scale=round(ripple.scale, 4),
        commits=len(churn.history.commits),
        history=churn.history.remark,
    )
    return ordered(ranking, by)


def ordered(ranking: Ranking, by: str) -> Ranking:
    """A ranking in another order: one of ORDERS."""
    measure = ORDERS[by]
    rows = sorted(ranking.classes, key=lambda row: (-measure(row), -row.strain, row.name, row.file))
    classes = tuple(msgspec.structs.replace(row, rank=index) for index, row in enumerate(rows, 1))
    return msgspec.structs.replace(ranking, by=by, classes=classes)


def only(ranking: Ranking, layer: str = "", role: str = "") -> Ranking:
    """The part of a ranking in one layer or of one role; ranks stay those of the whole."""
    rows = tuple(row for row in ranking.classes if (not layer or row.layer == layer) and (not role or row.role == role))
    return msgspec.structs.replace(ranking, classes=rows)


def _is_ranked(codebase: Codebase, number: int, strains: dict[int, Strain]) -> bool:
    idle = codebase.symbols.is_module(number) and not (number in strains and strains[number].total)
    return codebase.symbols.is_shown(number) and not idle and codebase.roles.name(number) != "test"


def _row(
    codebase: Codebase, number: int, strain: Strain, fans: Coupling, ripple: Ripple, churn: Churn, depth: int
) -> RankedClass:
    symbols = codebase.symbols
    file = symbols.file_of[number]
    return RankedClass(
        rank=0,
        name=symbols.names[number],
        file=symbols.path(number),
        line=symbols.types[number].place.line,
        role=codebase.roles.name(number),
        layer=codebase.layers.name(number),
        strain=strain.total,
        own=strain.own,
        borne=strain.borne,
        hard_out=strain.hard_out,
        hard_in=strain.hard_in,
        instability=round(fans.instability, 3),
        ripple=round(float(ripple.values[number]), 2),
        commits=round(float(churn.commits_of[file])),
        authors=churn.authors_of[file],
        partners=len(churn.partners(file, 100)),
        locked_effects=codebase.effects.of_type(number),
        number=number,
        needs_depth=depth,
        **msgspec.structs.asdict(fans),
    )
