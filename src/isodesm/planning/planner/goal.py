"""What a plan with a goal has to take out of classes, and of what lies behind them, until a test can have them alone."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from itertools import pairwise

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.hard_bonds.cases import Case
from isodesm.diagnosis.hard_bonds.explaining import Explainer
from isodesm.diagnosis.shared.findings import Finding
from isodesm.inference.use_graph import Node
from isodesm.linking.bonds import KINDS
from isodesm.measures.testable import STOPPING, Testing, logic_of, stands_in_the_way
from isodesm.planning.analysis.decisions import find_decisions
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.stage import Goal
from isodesm.planning.model.step import Step
from isodesm.planning.planner.projection import Projection
from isodesm.planning.planner.reconcile import Scanned
from isodesm.planning.wording import goals as wording

MOST_BEHIND = 12
"""Decisions that no finding speaks of, or of other classes, that are taken on for one goal at most: beyond that a person takes
the chain apart."""
KIND_OF = {"creation": "hard-wired-creation", "lookup": "service-lookup"}
"""Kind of a bond to that of the finding that it could be; of all others a static effect."""


def decisions_for(start: Projection, decisions: list[Decision], goal: frozenset[int], light: frozenset[int]) -> list[Decision]:
    """The decisions that keep the classes of a goal from being testable alone: those of their own that stand in a test's way,
    and those on the ways by which they reach effects all the same, be they no faults by themselves.

    `light` are rows of uses that no test is bothered by.
    """
    found = [each for each in decisions if each.source in goal and any(map(stands_in_the_way, each.findings))]
    state = start
    for each in found:
        state = state.loosening(each, bridge=True)
    for _ in range(MOST_BEHIND * len(goal)):
        following = next(_on_the_way(state, decisions, goal, light, found), None)
        if following is None:
            break
        found.append(following)
        state = state.loosening(following, bridge=following.source in goal)
    return found


def goals_of(now: Scanned, then: Scanned | None, goal: Iterable[int], steps: Sequence[Step]) -> Iterator[Goal]:
    """What comes of the classes of a goal by some steps, after which the tree was scanned."""
    names, then = now.codebase.symbols.names, then or now
    before, after = Testing(*now), Testing(*then)
    numbers = {name: number for number, name in reversed(list(enumerate(then.codebase.symbols.names)))}
    files = len({edit.file for step in steps for edit in step.edits})
    for number in sorted(goal, key=names.__getitem__):
        at = numbers.get(names[number], -1)
        was, left = before.of(number).against, after.of(at).against if at >= 0 else ()
        facts = wording.Freed(
            name=now.codebase.symbols.types[number].name,
            branches=logic_of(now.codebase, number),
            before=was,
            after=left,
            steps=len(steps),
            files=files,
        )
        yield Goal(
            name=names[number],
            file=now.codebase.symbols.path(number),
            line=now.codebase.symbols.types[number].place.line,
            branches=facts.branches,
            before=was,
            after=left,
            steps=len(steps),
            files=files,
            said=wording.freed(facts),
            made_by=_made_by(then.codebase, at) if at >= 0 and not left else "",
        )


def _made_by(codebase: Codebase, number: int) -> str:
    """A constructor that takes what a class asks for, as a test would call it; '' where it takes nothing."""
    taken = codebase.wiring.injections.of_constructor(number)
    given = ", ".join(f"{each.name}: {each.text}" if each.text else each.name for each in taken)
    return f"{codebase.symbols.types[number].name}({given})"


def _on_the_way(
    state: Projection, decisions: list[Decision], goal: frozenset[int], light: frozenset[int], taken: list[Decision]
) -> Iterator[Decision]:
    """Decisions that stand on a way from a class of the goal to an effect, the nearest first."""
    table, effects = state.codebase.bonds, state.codebase.effects
    known = {place.row for each in taken for place in each.places}
    for number in sorted(goal):
        for effect in state.measures(number).locked_effects:
            way = state.way_to(number, effect, light) if effect in STOPPING else ()
            for user, used in pairwise(way):
                if user[0] != used[0]:
                    rows = (row for row in table.rows_of_source(user[0]) if _is_use(state, row, user, used))
                    yield from _deciding(state, decisions, set(rows) - known, effect)
            if way:
                rows = (use.row for use in effects.direct.get(way[-1], ()) if use.effect == effect)
                yield from _deciding(state, decisions, set(rows) - known - light, effect)


def _is_use(state: Projection, row: int, user: Node, used: Node) -> bool:
    """Whether a bond is what leads on from one node of a way to the next."""
    table = state.codebase.bonds
    if table.target[row] != used[0] or (user[1] >= 0 and table.source_member[row] != user[1]):
        return False
    if used[1] < 0:
        return KINDS[table.kind[row]] in ("creation", "lookup")
    return table.text_of("callee", row) == state.codebase.symbols.types[used[0]].members[used[1]].name


def _deciding(state: Projection, decisions: list[Decision], rows: set[int], effect: str) -> Iterator[Decision]:
    """The decisions that some uses belong to: those that findings speak of, else made of all uses of the same by that class."""
    if not rows:
        return
    known = [each for each in decisions if any(place.row in rows for place in each.places)]
    yield from known or find_decisions(state.codebase, _as_findings(state, _alike(state, rows), effect))


def _alike(state: Projection, rows: Iterable[int]) -> list[int]:
    """All uses of the same things by the same classes, in order."""
    table = state.codebase.bonds
    keys = {(table.source[row], table.target[row], table.callee[row], table.kind[row]) for row in rows}
    found = {
        row
        for source in {key[0] for key in keys}
        for row in table.rows_of_source(source)
        if (source, table.target[row], table.callee[row], table.kind[row]) in keys
    }
    return sorted(found)


def _as_findings(state: Projection, rows: Iterable[int], effect: str) -> Iterator[Finding]:
    explainer = Explainer(state.codebase, state.usage)
    for row in rows:
        kind = KIND_OF.get(KINDS[state.codebase.bonds.kind[row]], "static-effect")
        bare = explainer.bare(Case(state.codebase, state.usage, row), kind)
        yield msgspec.structs.replace(bare, level="warning", effects=(effect,))
