"""The decisions that a plan is about, and what they ask of their targets; all is known before the first step is planned."""

from __future__ import annotations

from collections import defaultdict

from isodesm.planning.analysis.member_use import asked_members
from isodesm.planning.analysis.sources import Sources
from isodesm.planning.model.decision import Decision


class Considered:
    """Mutable while decisions are found and parted; read only from then on."""

    def __init__(self, sources: Sources) -> None:
        self.sources = sources
        self.members: dict[Decision, frozenset[str] | None] = {}
        """Decision to the members asked of its target; None where its very class is needed."""
        self.on: dict[int, list[Decision]] = defaultdict(list)
        """Target to the decisions on it, in the order in which they were taken note of."""
        self.of: dict[int, list[Decision]] = defaultdict(list)
        """Class to its decisions, in the same order."""
        self.names: dict[int, set[str]] = defaultdict(set)
        """Target to the names that decisions on it ask for."""
        self.outside: dict[int, list[Decision]] = defaultdict(list)
        """Class to the decisions on what lies outside the codebase."""
        self.spans: set[tuple[int, int, int]] = set()
        """File, start and end of every place that is decided on."""

    def add(self, decision: Decision) -> None:
        """Take note of what a decision asks its target for, so that one abstraction serves all."""
        self.spans.update((place.file, *place.span) for place in decision.places)
        if decision.target >= 0 and decision.kind in ("static-effect", "ambient-state"):
            self._asks(decision, None)
        elif decision.target < 0:
            self.outside[decision.source].append(decision)
        else:
            asked = asked_members(self.sources, decision)
            self._asks(decision, asked)
            self.names[decision.target] |= asked or set()

    def _asks(self, decision: Decision, asked: frozenset[str] | None) -> None:
        if decision not in self.members:
            self.on[decision.target].append(decision)
            self.of[decision.source].append(decision)
        self.members[decision] = asked
