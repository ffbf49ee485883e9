"""The measures after steps that have not been carried out: the same findings, with the bonds that steps loosened cut.

A cut is a (source, target) pair of types: the source is handed its target instead of deciding on it. Cutting changes three
things: the findings of the decision go, effects no longer travel over it, and so what others reach through the source shrinks.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable
from functools import cached_property
from typing import Any, NamedTuple

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.hard_bonds.cases import Case
from isodesm.diagnosis.hard_bonds.judging import judge_creation, judge_lookup, judge_static
from isodesm.diagnosis.hard_bonds.usage import Usage
from isodesm.diagnosis.shared.findings import Finding
from isodesm.inference.effects import NOTHING_MOVED, Moved
from isodesm.inference.use_graph import INSTANCE
from isodesm.linking.bonds import KIND_NUMBER
from isodesm.measures.strain import weigh
from isodesm.planning.model.amendment import LAST
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.step import Measures

Cut = tuple[int, int]


class ProjectedEffects:
    """What `Effects` answers about single bonds, as it would be after the steps of a projection."""

    def __init__(self, state: Projection) -> None:
        self.state, self.real = state, state.codebase.effects
        self._left: dict[tuple[int, int], tuple[str, ...]] = {}

    def without(self, node: tuple[int, int]) -> tuple[str, ...]:
        """Effects of a node, each worked out once."""
        found = self._left.get(node)
        if found is None:
            found = self._left[node] = self.real.without(
                node, self.state.loosened.cuts, self.state.loosened.gone, self.state.loosened.moved
            )
        return found

    def take_over(self, before: ProjectedEffects, changed: int) -> None:
        """Keep what was worked out for the state before, but for nodes of types that lead to the one that changed."""
        above = self.real.types_above(changed)
        self._left = {node: found for node, found in before._left.items() if node[0] not in above}

    @property
    def used(self) -> ProjectedEffects:
        """By type, as `get` gives it."""
        return self

    def get(self, number: int, default: Any = ()) -> Any:
        """The uses of APIs by a type."""
        return [use for use in self.real.used.get(number, default) if use.row not in self.state.loosened.dropped]

    def through(self, source: int, target: int) -> tuple[str, ...]:
        """Effects that come with a target in the hands of a source."""
        return self.real.through(source, target, self.state.loosened.dropped, self.without)

    def near(self, node: tuple[int, int]) -> tuple[str, ...]:
        """Effects that a call of a member brings at once."""
        known = self.real.near(node)
        return tuple(effect for effect in known if effect in self.without(node)) if known else ()

    # --- what is asked of the tree as it is, since no step changes what judging makes of it

    def is_cross_cutting(self, number: int) -> bool:
        """Whether a type is a logger or the like."""
        return self.real.is_cross_cutting(number)

    def of_type(self, number: int) -> tuple[str, ...]:
        """Effects of a class that others are judged by."""
        return self.real.of_type(number)

    def of_node(self, node: tuple[int, int]) -> tuple[str, ...]:
        """Effects of a member that others are judged by."""
        return self.real.of_node(node)

    def chain(self, node: tuple[int, int], effect: str) -> tuple[str, ...]:
        """The way to an effect."""
        return self.real.chain(node, effect)

    def chain_through(self, source: int, target: int, effect: str) -> tuple[str, ...]:
        """The way to an effect that comes with a target."""
        return self.real.chain_through(source, target, effect)


class Loosened(NamedTuple):
    """What steps have loosened.

    `cuts` hold for everybody. `bridged` pairs only free their source: who still calls its legacy constructor gets what that
    supplies, effects and all. `gone` are rows of uses of APIs that no member makes by itself any more, `dropped` those of them
    that are not even a default.
    """

    cuts: frozenset[Cut] = frozenset()
    bridged: frozenset[Cut] = frozenset()
    gone: frozenset[int] = frozenset()
    dropped: frozenset[int] = frozenset()
    moved: Moved = NOTHING_MOVED


class Projection:
    """A state of the hard bonds; `cutting` gives the next one and leaves this as it is.

    What depends on it: the findings, and what they are judged by of `Usage` and `Effects`.
    """

    def __init__(
        self, codebase: Codebase, findings: Iterable[Finding], loosened: Loosened, before: Projection | None = None
    ) -> None:
        self.codebase, self.findings, self.loosened = codebase, tuple(findings), loosened
        self._usage = before.usage if before is not None else None
        self.effects = ProjectedEffects(self)
        self._known: dict[int, Measures] = {}

    @property
    def usage(self) -> Usage:
        """Who creates whom, worked out once for all states."""
        if self._usage is None:
            self._usage = Usage(self.codebase)
        return self._usage

    def cutting(self, decision: Decision, *, bridge: bool, deferred: bool = False) -> Projection:
        """The state after the source of a decision is handed what it decided on, with or without a bridging constructor;
        `deferred` says that it is a function which makes it or does it."""
        removed = {finding.id for finding in decision.findings}
        left = [finding for finding in self.findings if finding.id not in removed]
        loosened, rows = self._loosened_by(decision, bridge=bridge, deferred=deferred)
        following = Projection(self.codebase, left, loosened, self)
        following.effects.take_over(self.effects, decision.source)
        totals = dict(self._totals)
        for finding in self.findings:
            if finding.id in removed:
                _count(totals, finding.layer, self._weight(finding), -1)
        following._judge_again(decision.source, self._changed(following, decision.source, rows), totals)
        following._totals = dict(sorted(totals.items()))
        return following

    def loosening(self, decision: Decision, *, bridge: bool) -> Projection:
        """The same for who asks for effects alone: no finding is judged again."""
        loosened, _ = self._loosened_by(decision, bridge=bridge, deferred=False)
        return Projection(self.codebase, self.findings, loosened, self)

    def _loosened_by(self, decision: Decision, *, bridge: bool, deferred: bool) -> tuple[Loosened, frozenset[int]]:
        """What is loose after a decision is handed in, and the rows of APIs that no member of the source uses any more."""
        pairs, rows = self._uses(decision)
        cuts, bridged = (
            (self.loosened.cuts, self.loosened.bridged | pairs)
            if bridge
            else (self.loosened.cuts | pairs, self.loosened.bridged)
        )
        dropped = self.loosened.dropped if bridge else self.loosened.dropped | rows
        moved = self._moving(decision, deferred or not bridge) if bridge or _calls_functions(decision) else self.loosened.moved
        return Loosened(cuts, bridged, self.loosened.gone | rows, dropped, moved), rows

    def _judge_again(self, changed: int, changes: frozenset[str], totals: dict[str, tuple[float, int]]) -> None:
        """Bring the findings, and totals that go by them, up to what they are now that a class is rid of some effects."""
        found: list[Finding] = []
        for finding in self.findings:
            judged = self._judged(finding, changed, changes)
            if judged is not finding:
                _count(totals, finding.layer, self._weight(finding), -1)
            if judged is not None:
                found.append(judged)
                if judged is not finding:
                    _count(totals, judged.layer, self._weight(judged), 1)
        self.findings = tuple(found)

    def _moving(self, decision: Decision, deferred: bool) -> Moved:
        """The uses that a bridging constructor has in the place of the members which had them."""
        table, real = self.codebase.bonds, self.codebase.effects
        to, away = dict(self.loosened.moved.to), set(self.loosened.moved.away)
        start = (decision.source, INSTANCE)
        for place in decision.places:
            row = place.row
            user = (decision.source, table.source_member[row])
            target = table.target[row]
            if target < 0:
                continue
            callee = table.text_of("callee", row)
            made = table.kind[row] == KIND_NUMBER["creation"]
            used = [(target, INSTANCE)] if made else list(real.declared(target, callee))
            away.update((user, each) for each in used)
            if not deferred:
                to[start] = tuple(dict.fromkeys((*to.get(start, ()), *used)))
        return Moved(frozenset(away), to)

    def _changed(self, following: Projection, source: int, rows: frozenset[int]) -> frozenset[str]:
        """Effects that some member of a class, or its construction, is rid of in the following state, or has by then."""
        found = {use.effect for use in self.codebase.effects.used.get(source, ()) if use.row in rows}
        for member in range(INSTANCE, len(self.codebase.symbols.types[source].members)):
            found.update(set(self.effects.without((source, member))) ^ set(following.effects.without((source, member))))
        return frozenset(found)

    def _uses(self, decision: Decision) -> tuple[frozenset[Cut], frozenset[int]]:
        """What the places of a decision use: pairs of types, and rows of APIs outside the tree."""
        table = self.codebase.bonds
        spans = {
            (place.file, table.site[row])
            for place in decision.places
            for row in (place.row, *(each.row for each in place.nested))
        }
        whole = sorted((place.file, *place.span) for place in decision.places if place.finding.kind == "hard-wired-creation")
        for row in table.rows_of_source(decision.source) if whole else ():
            if table.site[row] >= 0:  # what is made on the way goes with what it is made for
                start = self.codebase.content(table.file[row]).sites[table.site[row]].place.start
                at = bisect_right(whole, (table.file[row], start, LAST)) - 1
                if at >= 0 and whole[at][0] == table.file[row] and start < whole[at][2]:
                    spans.add((table.file[row], table.site[row]))
        rows = [row for row in table.rows_of_source(decision.source) if (table.file[row], table.site[row]) in spans]
        pairs = {(decision.source, table.target[row]) for row in rows if table.target[row] >= 0}
        if decision.target >= 0:
            pairs.add((decision.source, decision.target))
        if _calls_functions(decision):  # of the same class or module it may call others, which stay
            pairs.discard((decision.source, decision.target))
        return frozenset(pairs), frozenset(row for row in rows if table.target[row] < 0)

    def _judged(self, finding: Finding, changed: int, changes: frozenset[str]) -> Finding | None:
        """A finding as it would be judged now that some effects of a class changed; None where it has an excuse by then."""
        if finding.target_number < 0 or finding.row < 0 or not changes or not self._reaches(finding.target_number, changed):
            return finding
        judge = {"hard-wired-creation": judge_creation, "service-lookup": judge_lookup, "ambient-state": None}.get(
            finding.kind, judge_static
        )
        if judge is None:
            return finding
        case = Case(self.codebase, self.usage, finding.row, self.effects)
        verdict = judge(case)
        if verdict is None or verdict.excuse:
            return None
        effects = case.effects if finding.kind != "service-lookup" else case.known.through(case.source, case.target)
        return msgspec.structs.replace(finding, effects=effects, level=verdict.level)

    def _reaches(self, target: int, changed: int) -> bool:
        """Whether a chain of hard bonds leads from a type to the one that changed (itself included)."""
        return changed in self.codebase.effects.types_below(target)

    def _weight(self, finding: Finding) -> float:
        return weigh(finding, self.codebase.settings.strain)

    @cached_property
    def _totals(self) -> dict[str, tuple[float, int]]:
        """Layer to the strain and the hard bonds of its classes' own; together they are the totals."""
        found: dict[str, tuple[float, int]] = {}
        for finding in self.findings:
            _count(found, finding.layer, self._weight(finding), 1)
        return dict(sorted(found.items()))

    def measures(self, number: int) -> Measures:
        """Totals of the codebase, and strain, hard bonds and locked effects of one class."""
        found = self._known.get(number)
        if found is None:
            found = self._known[number] = self._measure(number)
        return found

    def way_to(self, number: int, effect: str, light: frozenset[int] = frozenset()) -> tuple[tuple[int, int], ...]:
        """The nodes by which a class reaches an effect in this state, but for the uses in some rows; () where it does not."""
        own_defaults = frozenset(pair for pair in self.loosened.bridged if pair[0] == number)
        loosened = self.loosened
        return self.codebase.effects.way_without(number, effect, loosened.cuts | own_defaults, loosened.gone, loosened.moved)

    def _measure(self, number: int) -> Measures:
        own = [self._weight(finding) for finding in self.findings if finding.source_number == number]
        borne = [self._weight(finding) for finding in self.findings if finding.target_number == number]
        own_defaults = frozenset(pair for pair in self.loosened.bridged if pair[0] == number)
        return Measures(
            strain=round(sum(strain for strain, _ in self._totals.values()), 9),
            hard_bonds=sum(bonds for _, bonds in self._totals.values()),
            class_strain=sum(own, 0.0) + sum(borne, 0.0),
            class_hard_bonds=sum(1 for weight in own if weight),
            locked_effects=self.codebase.effects.type_without(
                number, self.loosened.cuts | own_defaults, self.loosened.gone, self.loosened.moved
            ),
            by_layer=self._totals,
        )


def _calls_functions(decision: Decision) -> bool:
    """Whether a class calls static functions of the tree, so that no object stands for all that it asks of their owner."""
    return decision.kind == "static-effect" and decision.target >= 0


def _count(totals: dict[str, tuple[float, int]], layer: str, weight: float, sign: int) -> None:
    strain, bonds = totals.get(layer, (0.0, 0))
    totals[layer] = (round(strain + sign * weight, 9), bonds + sign * bool(weight))
