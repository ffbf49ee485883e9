"""Makes a plan: which decisions, by which technique, in which order."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import Diagnosis
from isodesm.measures.testable import light_uses
from isodesm.planning.analysis.decisions import find_decisions
from isodesm.planning.model.step import Plan, Step
from isodesm.planning.planner.fitting import fitted
from isodesm.planning.planner.goal import decisions_for, goals_of
from isodesm.planning.planner.leftovers import choices_of, keeping_of, kept_of, left_over, waiting_of
from isodesm.planning.planner.options import Options
from isodesm.planning.planner.order import order_decisions
from isodesm.planning.planner.phases import OF_GOALS, PHASES, inject_decisions
from isodesm.planning.planner.planning import Planning
from isodesm.planning.planner.progress import find_done
from isodesm.planning.planner.projection import Loosened, Projection
from isodesm.planning.planner.reconcile import MOST_SCANS, Scanned, expected_of, scan_after, settled, touched
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.give_instance.static_gateway import SEAMS
from isodesm.planning.techniques.move_effect_out.effect import MIXED, mixed_decision, mixed_findings

LARGE = 5_000
"""Files from which on two codebases at a time, each with all that was inferred, take too much memory."""


def plan(
    codebase: Codebase, diagnosis: Diagnosis, options: Options | None = None, mistakes: list[Exception] | None = None
) -> Plan:
    """The plan for a codebase. What fails at single decisions is left out of it, and added to `mistakes`."""
    return planned(codebase, diagnosis, options or Options(), mistakes).plan


class Planned(NamedTuple):
    """A plan, and the tree after its steps where it was scanned."""

    plan: Plan
    after: Scanned | None


def planned(codebase: Codebase, diagnosis: Diagnosis, options: Options, mistakes: list[Exception] | None) -> Planned:
    """The same with the scan."""
    if not len(codebase.symbols):
        return Planned(Plan(steps=(), left=(), strain=(0.0, 0.0), hard_bonds=(0, 0)), None)
    only = options.only or None
    if options.techniques:  # planned once more with those alone, for each step counts on those before it
        every = msgspec.structs.replace(options, steps=0, until=None, techniques=frozenset())
        whole = _begin(codebase, diagnosis, every, None)
        _take(whole)
        only = with_needs(whole.steps, (step.id for step in whole.steps if step.technique in options.techniques))
        del whole
    planning = _begin(codebase, diagnosis, options, only)
    waiting = _take(planning)
    if mistakes is not None:
        mistakes += planning.failed
    return _cut(planning, waiting)


def _begin(codebase: Codebase, diagnosis: Diagnosis, options: Options, only: frozenset[str] | None) -> Planning:
    """A plan before its first step."""
    start, focus = Projection(codebase, diagnosis.hard, Loosened()), options.focus
    decisions = find_decisions(codebase, diagnosis.hard, start.usage.states)
    if options.goal:
        wanted = decisions_for(start, decisions, options.goal, light_uses(diagnosis))
    elif options.pairs:
        wanted = [each for each in decisions if (each.source, each.target) in options.pairs]
    else:
        wanted = [each for each in decisions if not focus or each.source in focus or each.target in focus]
    context = PlanContext(
        codebase, wanted, all_members=options.all_members, no_new=options.no_new_abstractions, goal=options.goal
    )
    if options.pairs or (
        options.goal and options.production
    ):  # one object for all who ask a static class, be it in a later stage
        asked = {each.target for each in wanted if each.kind in SEAMS and each.target >= 0}
        for each in decisions:
            if each.target in asked and each.kind in SEAMS:
                context.considered.add(each)
    for finding in () if options.for_some else mixed_findings(diagnosis.findings, focus):
        if finding.kind == MIXED and (mixed := mixed_decision(context, finding)) is not None:
            context.considered.outside[mixed.source].append(mixed)
    return Planning(context, wanted, diagnosis, options, start, only)


def _take(planning: Planning) -> int:
    """Plan until there is enough; how many decisions are left waiting."""
    fitting = [each for decision in planning.decisions for each in fitted(planning, decision)]
    waiting = inject_decisions(planning, order_decisions(planning.codebase, fitting))
    if not waiting and not planning.is_enough():
        for phase in PHASES:
            if not planning.options.for_some or phase.run in OF_GOALS:
                phase.run(planning)
    return len(waiting)


def _cut(planning: Planning, waiting: int) -> Planned:
    """The plan, cut to the steps that were asked for, with what a scan of the codebase after them finds."""
    codebase, options = planning.codebase, planning.options
    cut: Sequence[Step] = planning.steps[: options.steps] if options.steps else planning.steps
    made, keeping = _around(planning, len(cut), waiting), keeping_of(planning.context)
    scan = scan_after(codebase, cut) if cut and options.for_some else None
    if options.goal:
        goals = goals_of(Scanned(codebase, planning.diagnosis), scan, options.goal, cut)
        made = msgspec.structs.replace(made, goals=tuple(goals))
    if cut and options.settle:
        if len(codebase.symbols.files) > LARGE:  # it needs all that once more of the codebase after the steps
            last = planning.projection_after(len(cut)).findings
            expected, scans = expected_of(codebase, lambda _: last), 0
            planning.let_go()
        else:
            expected, scans = expected_of(codebase, lambda count: planning.projection_after(count).findings), MOST_SCANS
        cut = settled(codebase, cut, expected, 0 if options.for_some else scans, scan)
    steps = (
        msgspec.structs.replace(step, number=number, files=files)
        for number, (step, files) in enumerate(zip(cut, touched(codebase, cut), strict=True), 1)
    )
    end = cut[-1].after if cut else None
    plan = msgspec.structs.replace(
        made,
        steps=tuple(steps),
        strain=(made.strain[0], end.strain if end else made.strain[0]),
        hard_bonds=(made.hard_bonds[0], end.hard_bonds if end else made.hard_bonds[0]),
        waiting=waiting_of(keeping, cut),
    )
    return Planned(plan, scan)


def _around(planning: Planning, shown: int, waiting: int) -> Plan:
    """All that a plan says beside its steps and what they lead to."""
    begin, context, steps = planning.start.measures(0), planning.context, planning.steps
    wrapped = {context.symbols.names[each] for each in context.state.adapters}
    return Plan(
        steps=(),
        left=tuple(left_over(each.decision, each.refusal, wrapped) for each in planning.so_far.left),
        strain=(begin.strain, begin.strain),
        hard_bonds=(begin.hard_bonds, begin.hard_bonds),
        not_shown=len(steps) - shown + waiting,
        kept=() if waiting or shown < len(steps) else kept_of(context),
        done=find_done(context, planning.options.earlier),
        choices=choices_of(context, planning.diagnosis.findings, steps),
        unproven=dict(sorted(planning.unproven.items())),
    )


def with_needs(steps: Sequence[Step], ids: Iterable[str]) -> frozenset[str]:
    """The ids of some steps, and of those before them that they need."""
    wanted = set(ids)
    for step in reversed(steps):
        if step.id in wanted:
            wanted.update(step.needs)
    return frozenset(wanted)
