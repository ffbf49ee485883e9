"""The measures after steps that have not been carried out: the same findings, with the bonds that steps loosened cut.

A cut is a (source, target) pair of types: the source is handed its target instead of making it. Cutting changes three
things: the findings of the pair go, effects no longer travel over it, and so what others reach through the source shrinks.
"""

from __future__ import annotations

from collections.abc import Iterable

import msgspec

from isodesm.codebase.effects import SEVERE, UNSURE
from isodesm.codebase.model import Codebase
from isodesm.diagnosis.findings import Finding
from isodesm.measures.strain import weigh
from isodesm.planning.steps import Measures

Cut = tuple[int, int]


class Projection:
    """A state of the hard bonds; `cutting` gives the next one and leaves this as it is.

    `cuts` hold for everybody. `bridged` pairs only free their source: who still calls its old constructor gets what that
    supplies, effects and all.
    """

    def __init__(
        self, codebase: Codebase, findings: Iterable[Finding], cuts: frozenset[Cut] = frozenset(),
        bridged: frozenset[Cut] = frozenset(),
    ) -> None:  # fmt: skip
        self.codebase, self.findings, self.cuts, self.bridged = codebase, tuple(findings), cuts, bridged
        self._weights = {finding.id: weigh(finding, codebase.settings.strain) for finding in self.findings}

    def cutting(self, pair: Cut, *, bridge: bool) -> Projection:
        """The state after the source of a pair is handed its target, with or without a bridging constructor."""
        left = [finding for finding in self.findings if (finding.source_number, finding.target_number) != pair]
        if bridge:
            return Projection(self.codebase, left, self.cuts, self.bridged | {pair})
        cuts = self.cuts | {pair}
        return Projection(self.codebase, [self._weakened(finding, cuts, {pair[0]}) for finding in left], cuts, self.bridged)

    def _weakened(self, finding: Finding, cuts: frozenset[Cut], changed: set[int]) -> Finding:
        """The finding with the effects that its target still has; the target of a creation may have lost some."""
        target = finding.target_number
        if target < 0 or not finding.effects or not self._reaches(target, changed):
            return finding
        effects = self.codebase.effects.through(finding.source_number, target, cuts)
        effects = tuple(effect for effect in finding.effects if effect in effects)
        if effects == finding.effects:
            return finding
        grave = SEVERE.union(UNSURE).intersection(effects)
        strategy = any(tag.endswith(("-implementation", "-implementations")) for tag in finding.why)
        level = finding.level if grave or finding.crossing or strategy or finding.level == "note" else "warning"
        return msgspec.structs.replace(finding, effects=effects, level=level)

    def _reaches(self, target: int, changed: set[int]) -> bool:
        """Whether a chain of hard bonds leads from a type to one of those that changed (itself included)."""
        reached = self.codebase.effects.types_below(target)
        return not changed.isdisjoint(reached)

    def measures(self, number: int) -> Measures:
        """Totals of the codebase, and strain, hard bonds and locked effects of one class."""
        own = [self._weights[finding.id] for finding in self.findings if finding.source_number == number]
        borne = [self._weights[finding.id] for finding in self.findings if finding.target_number == number]
        weights = self._weights.values()
        return Measures(
            strain=sum(weights), hard_bonds=sum(1 for weight in weights if weight), class_strain=sum(own) + sum(borne),
            class_hard_bonds=sum(1 for weight in own if weight),
            locked_effects=self.codebase.effects.type_without(number, self.cuts | self.bridged),
        )  # fmt: skip
