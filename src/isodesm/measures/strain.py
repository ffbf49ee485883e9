"""Strain: the additive coupling score of a class. Its parts are shown, and they add up to it exactly.

Own strain of a class is the sum over its hard bonds out of
    weight(kind) × (1 + min(locked effects of the target, most)) × (wrong-way factor where it points to an outer layer)
and borne strain is the same sum over its hard bonds in. Findings of level `note` are seams already and carry none.
The score is our own; weights and factors are settings, and `docs/measures.md` works an example.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

import msgspec

from isodesm.diagnosis.shared.findings import Finding
from isodesm.settings import StrainWeights


class Strain(msgspec.Struct, frozen=True):
    """Strain of one class in its parts: own strain by kind of finding, and borne strain."""

    own: dict[str, float] = {}
    borne: float = 0.0
    hard_out: dict[str, int] = {}
    hard_in: int = 0

    @property
    def own_total(self) -> float:
        """The sum of the own parts."""
        return sum(self.own.values())

    @property
    def total(self) -> float:
        """Own and borne strain together."""
        return self.own_total + self.borne


def weigh(finding: Finding, weights: StrainWeights) -> float:
    """The strain of one hard bond; 0 for a note."""
    if finding.level == "note":
        return 0.0
    base = {
        "hard-wired-creation": weights.hard_wired_creation,
        "static-singleton": weights.static_singleton,
        "static-effect": weights.static_effect,
        "service-lookup": weights.service_lookup,
        "ambient-state": weights.ambient_state,
    }.get(finding.kind, 0.0)
    effects = min(len(finding.effects), weights.most_effects)
    return base * (1 + effects) * (weights.wrong_way if finding.crossing else 1.0)


def measure_strain(findings: Iterable[Finding], weights: StrainWeights) -> dict[int, Strain]:
    """Strain of each class that has any, by type number."""
    own: dict[int, dict[str, float]] = defaultdict(lambda: defaultdict(float))
    hard_out: dict[int, dict[str, int]] = defaultdict(lambda: defaultdict(int))
    borne: dict[int, float] = defaultdict(float)
    hard_in: dict[int, int] = defaultdict(int)
    for finding in findings:
        weight = weigh(finding, weights)
        if not weight:
            continue
        own[finding.source_number][finding.kind] += weight
        hard_out[finding.source_number][finding.kind] += 1
        if finding.target_number >= 0:
            borne[finding.target_number] += weight
            hard_in[finding.target_number] += 1
    return {
        number: Strain(
            own=dict(sorted(own[number].items())) if number in own else {},
            borne=borne.get(number, 0.0),
            hard_out=dict(sorted(hard_out[number].items())) if number in hard_out else {},
            hard_in=hard_in.get(number, 0),
        )
        for number in sorted({*own, *borne})
    }
