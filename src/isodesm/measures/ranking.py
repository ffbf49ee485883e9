"""The ranking: which classes first, with the numbers that say why."""

from __future__ import annotations

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.findings import Diagnosis
from isodesm.measures.coupling import measure_coupling
from isodesm.measures.strain import Strain, measure_strain

ORDERS = ("strain", "own", "borne", "hard-bonds", "fan-in", "fan-out", "instability")
"""What a ranking can be sorted by; always the largest first, ties by name."""


class RankedClass(msgspec.Struct, frozen=True):
    """One row of the ranking. Strain parts add up: `strain = sum(own.values()) + borne`."""

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
    external: int
    instability: float
    locked_effects: tuple[str, ...]
    number: int = -1

    @property
    def hard_bonds(self) -> int:
        """Hard bonds out, of all kinds."""
        return sum(self.hard_out.values())


class Ranking(msgspec.Struct, frozen=True):
    """All ranked classes and the totals over the whole codebase."""

    by: str
    classes: tuple[RankedClass, ...]
    total_classes: int
    total_strain: float
    total_hard_bonds: int


def rank(codebase: Codebase, diagnosis: Diagnosis, by: str = "strain") -> Ranking:
    """Production classes in order of `by` (one of ORDERS), the largest first.

    Classes that neither bind hard nor are bound so are in it too, with strain 0; tests and anonymous classes are not.
    """
    coupling = measure_coupling(codebase)
    strains = measure_strain(diagnosis.findings, codebase.settings.strain)
    symbols = codebase.symbols
    rows = []
    for number, declared in enumerate(symbols.types):
        strain, fans = strains.get(number, Strain()), coupling[number]
        idle = symbols.is_module(number) and not strain.total
        if not symbols.is_shown(number) or idle or codebase.roles.name(number) == "test":
            continue
        rows.append(RankedClass(
            rank=0, name=symbols.names[number], file=symbols.path(number), line=declared.place.line,
            role=codebase.roles.name(number), layer=codebase.layers.name(number), strain=strain.total, own=strain.own,
            borne=strain.borne, hard_out=strain.hard_out, hard_in=strain.hard_in, fan_in=fans.fan_in,
            fan_out=fans.fan_out, external=fans.external, instability=round(fans.instability, 3),
            locked_effects=codebase.effects.of_type(number), number=number,
        ))  # fmt: skip
    rows.sort(key=lambda row: (-_measure(row, by), -row.strain, row.name, row.file))
    return Ranking(
        by=by, classes=tuple(msgspec.structs.replace(row, rank=index) for index, row in enumerate(rows, 1)),
        total_classes=len(rows), total_strain=sum(strain.own_total for strain in strains.values()),
        total_hard_bonds=sum(sum(strain.hard_out.values()) for strain in strains.values()),
    )  # fmt: skip


def _measure(row: RankedClass, by: str) -> float:
    values = {
        "strain": row.strain, "own": sum(row.own.values()), "borne": row.borne, "hard-bonds": row.hard_bonds,
        "fan-in": row.fan_in, "fan-out": row.fan_out, "instability": row.instability,
    }  # fmt: skip
    return values[by]
