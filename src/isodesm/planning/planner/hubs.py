"""Classes that many of one folder ask for by themselves: what these could be handed together."""

from __future__ import annotations

from collections import defaultdict
from typing import NamedTuple

from isodesm.measures.strain import weigh
from isodesm.planning.model.decision import Decision
from isodesm.planning.planner.reconcile import Scanned

LEAST_USERS = 3
"""Classes of one folder from which on it pays to hand them something in one go."""


class Hub(NamedTuple):
    """A target that classes of one folder decide on: the decisions, and the strain of these."""

    target: int
    folder: str
    decisions: tuple[Decision, ...]
    strain: float

    @property
    def pairs(self) -> frozenset[tuple[int, int]]:
        """The classes, each with the target."""
        return frozenset((each.source, each.target) for each in self.decisions)


def hubs_of(now: Scanned, decisions: list[Decision]) -> list[Hub]:
    """The hubs of a codebase, those in front that weigh most for what has to be handed in."""
    symbols, weights = now.codebase.symbols, now.codebase.settings.strain
    groups: dict[tuple[int, str], list[Decision]] = defaultdict(list)
    for each in decisions:
        if each.target >= 0 and not symbols.is_module(each.source):
            groups[each.target, symbols.path(each.source).rpartition("/")[0]].append(each)
    found = [
        Hub(target, folder, tuple(own), sum(weigh(finding, weights) for each in own for finding in each.findings))
        for (target, folder), own in groups.items()
        if len({each.source for each in own}) >= LEAST_USERS
    ]
    return sorted(found, key=lambda hub: (-hub.strain / (1 + len(hub.decisions)), symbols.names[hub.target], hub.folder))


def users_of(now: Scanned, target: str) -> set[str]:
    """Names of the classes that decide on a target at level `error` or `warning`."""
    return {each.source for each in now.diagnosis.hard if each.target == target and each.level != "note"}
