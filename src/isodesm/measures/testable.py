"""Testable alone: whether a unit test can create a class with nothing but values and test doubles, and what speaks against it.

A class is testable alone if no effect is locked in that stops a unit test or makes its result uncertain, and if it asks no
locator, singleton or state of everybody by itself at level `error` or `warning`. What it makes or calls that brings none of
these is no obstacle, whatever its level: a test runs it along. Nor is what only measures how long something took, or asks
whether a file is there. What a test gains is the logic: the branches of the members.
"""

from __future__ import annotations

from collections import defaultdict
from itertools import groupby

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import Diagnosis, Finding
from isodesm.inference.effect_kinds import SEVERE, UNSURE
from isodesm.inference.evidence import DATA
from isodesm.inference.use_graph import Node
from isodesm.measures.narrower_role import narrower_role

STOPPING = SEVERE | {"clock", "random"}
"""Locked effects with which a class can't be tested alone: a test would stop at them, or not come out the same twice."""
ASKING = frozenset(("static-singleton", "ambient-state", "service-lookup"))
"""Kinds of hard bonds that keep a test from having a class alone whatever comes with them: it would have to set up what all
share."""
WEIGHTLESS = DATA | {"test", "composition-root", "exception", "abstraction"}
"""Roles of classes that nobody writes a unit test for."""


class Obstacle(msgspec.Struct, frozen=True):
    """One thing that keeps a test from having a class alone: an `effect` with the way to it, or a `decision` that it takes
    itself, with its target."""

    kind: str
    what: str
    said: str
    file: str
    line: int


class Testability(msgspec.Struct, frozen=True):
    """What speaks against a class being testable alone, effects first; nothing where it is."""

    against: tuple[Obstacle, ...] = ()

    @property
    def alone(self) -> bool:
        """Whether a test can have the class with nothing but values and test doubles."""
        return not self.against


def stands_in_the_way(finding: Finding) -> bool:
    """Whether a hard bond keeps a test from having its class alone."""
    return finding.level != "note" and (finding.kind in ASKING or not STOPPING.isdisjoint(finding.effects))


def light_uses(diagnosis: Diagnosis) -> frozenset[int]:
    """Rows of the uses of a clock or of chance that no test is bothered by."""
    return frozenset(each.row for each in diagnosis.hard if each.level == "note" and UNSURE.issuperset(each.effects))


class Testing:
    """What a test can have alone, in a codebase with its findings."""

    def __init__(self, codebase: Codebase, diagnosis: Diagnosis) -> None:
        self.codebase, self._light = codebase, light_uses(diagnosis)
        self._grave: dict[int, list[Finding]] = defaultdict(list)
        for each in diagnosis.hard:
            if stands_in_the_way(each):
                self._grave[each.source_number].append(each)

    def of(self, number: int) -> Testability:
        """What speaks against a class."""
        path, line = self.codebase.symbols.path(number), self.codebase.symbols.types[number].place.line
        effects = (
            Obstacle("effect", effect, " → ".join(self._chain(way, effect)), path, line)
            for effect in self.codebase.effects.of_type(number)
            if effect in STOPPING and (way := self.codebase.effects.way_without(number, effect, frozenset(), self._light))
        )
        first: dict[str, Obstacle] = {}
        for each in self._grave.get(number, ()):
            first.setdefault(each.target, Obstacle("decision", each.target, each.message, each.file, each.line))
        return Testability((*effects, *first.values()))

    def _chain(self, way: tuple[Node, ...], effect: str) -> list[str]:
        symbols, uses = self.codebase.symbols, self.codebase.effects.direct.get(way[-1], ())
        names = [symbols.types[symbols.named(number)].name for number, _ in groupby(way, key=lambda node: node[0])]
        return [*names, next(use.api for use in uses if use.effect == effect and not use.sort)]


def logic_of(codebase: Codebase, number: int) -> int:
    """The branches of a class's members that a test could try: none of views, adapters, data, start-up code and tests."""
    declared = codebase.symbols.types[number]
    if codebase.roles.name(number) in WEIGHTLESS or not declared.name or declared.kind in ("interface", "annotation"):
        return 0
    if codebase.symbols.is_module(number) or "private" in declared.modifiers.words:
        return 0  # nobody but its owner can make one
    branches = sum(member.branches for member in declared.members)
    narrower = narrower_role(codebase, number) if branches else None
    return 0 if narrower is not None and narrower.name in ("view", "adapter") else branches
