"""The phases of a plan in their order, as data: what each plans, and that each is attempted step by step."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any, NamedTuple

from isodesm.diagnosis.form.responsibilities import LITERALS, RULES
from isodesm.diagnosis.shared.findings import Finding
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.refusal import Refusal
from isodesm.planning.model.step import TechniqueName, step_id
from isodesm.planning.planner.injection import inject
from isodesm.planning.planner.planning import Planning
from isodesm.planning.techniques.lift_creation.container_factory import container_factory_id, plan_container_factory
from isodesm.planning.techniques.lift_creation.forward import callers_of, creators_first, forwarding_id, plan_forwarding
from isodesm.planning.techniques.move_effect_out.data import KIND, table_decisions
from isodesm.planning.techniques.move_effect_out.effect import MIXED, mixed_decision, mixed_findings, plan_move
from isodesm.planning.techniques.move_effect_out.rules import plan_rules, rules_id
from isodesm.planning.techniques.register import plan_wiring
from isodesm.planning.techniques.registry import CLOSING, Closing, Scope
from isodesm.planning.techniques.retire_bridge.retire import plan_retirement


class Phase(NamedTuple):
    """A part of a plan that begins once the one before it has ended."""

    name: str
    run: Callable[[Planning], None]


def inject_decisions(planning: Planning, waiting: list[Decision]) -> list[Decision]:
    """Take decisions on until there is enough, and wire each class once it has all its dependencies; those left waiting."""
    waiting = list(waiting)
    while waiting and not planning.is_enough():
        decision = waiting.pop(0)
        planning.attempt(partial(inject, planning, decision), decision)
        if planning.tells_callers and not any(each.source == decision.source for each in waiting):
            planning.attempt(partial(_wire, planning, decision.source), decision, keeps_words=False)
    return waiting


# --- one class at a time -------------------------------------------------------------------


def _wire(planning: Planning, number: int) -> None:
    """Let the composition roots inject all that a class takes."""
    if planning.is_wanted(step_id(TechniqueName.REGISTER, planning.codebase.symbols.names[number])):
        planning.add(plan_wiring(planning.context, number))


def _forward(planning: Planning, number: int) -> None:
    """The steps by which all callers of a constructor forward what it takes; none where one of them can't."""
    callers = callers_of(planning.context, number)
    if isinstance(callers, Refusal):
        return
    names = planning.codebase.symbols.names
    for owner, spots in sorted(callers.items(), key=lambda each: names[each[0]]):
        if planning.is_wanted(forwarding_id(planning.context, owner, number)):
            planning.add(plan_forwarding(planning.context, number, owner, spots))


def _retire(planning: Planning, number: int) -> None:
    planning.add(plan_retirement(planning.context, number))


def _write_factory(planning: Planning, number: int) -> None:
    planning.add(plan_container_factory(planning.context, number))


# --- phases --------------------------------------------------------------------------------


def separate_jobs(planning: Planning) -> None:
    """Effects go out of members that decide, and data out of boundary classes; what only a person can part is kept for the
    last phase."""
    for finding in mixed_findings(planning.diagnosis.findings, planning.options.focus):
        refusals: list[Refusal] = []
        if not _separated(planning, finding, refusals):
            planning.by_hand.append((finding, refusals[-1] if refusals else None))


def _separated(planning: Planning, finding: Finding, refusals: list[Refusal]) -> bool:
    """Whether a member is rid of its effect, or a class of its data: by earlier steps, or by a gateway now."""
    context = planning.context
    if finding.kind == KIND:
        moved = [_is_moved(planning, each, refusals) for each in table_decisions(context, finding)]
        if any(tag.endswith(RULES) for tag in finding.why) and planning.is_wanted(rules_id(context, finding)):
            steps = len(planning.steps)
            planning.attempt(partial(_move_rules, planning, finding))
            moved.append(len(planning.steps) > steps)
        return all(moved) and all(tag.endswith((LITERALS, RULES)) for tag in finding.why) and bool(moved)
    decision = mixed_decision(context, finding) if finding.kind == MIXED else None
    return finding.kind == MIXED if decision is None else _is_moved(planning, decision, refusals)


def _move_rules(planning: Planning, finding: Finding) -> None:
    if (planned := plan_rules(planning.context, finding)) is not None:
        planning.add(planned)


def _is_moved(planning: Planning, decision: Decision, refusals: list[Refusal]) -> bool:
    steps, left = len(planning.steps), len(planning.so_far.left)
    planning.attempt(partial(inject, planning, decision), decision)
    refusals[:] = [each.refusal for each in planning.take_back_left(left)]  # which are no hard bonds
    return len(planning.steps) > steps


def forward_dependencies(planning: Planning) -> None:
    """Callers forward what classes take, those first whose callers are created themselves."""
    for number in creators_first(planning.context):
        behind = planning.options.goal and number not in planning.options.goal
        if number in planning.context.state.legacy and (planning.tells_callers or behind):
            planning.attempt(partial(_forward, planning, number))


def wire_roots(planning: Planning) -> None:
    """Composition roots inject what classes take by now."""
    if not planning.tells_callers:
        return
    for number in _by_name(planning, planning.context.state.legacy):
        planning.attempt(partial(_wire, planning, number))


def retire_legacy(planning: Planning) -> None:
    """Legacy constructors go, and again while one that went has kept another; at last what a container's factory creates."""
    if not planning.tells_callers:
        return
    context, names = planning.context, planning.codebase.symbols.names
    count = -1
    while len(context.state.retired) > count:
        count = len(context.state.retired)
        for number in _by_name(planning, context.state.legacy - context.state.retired):
            if planning.is_wanted(step_id(TechniqueName.RETIRE_BRIDGE, names[number])):
                planning.attempt(partial(_retire, planning, number))
        if len(context.state.retired) == count:  # for what such a factory creates can't change any more
            for number in _by_name(planning, context.state.legacy - context.state.retired):
                if planning.is_wanted(container_factory_id(context, number)):
                    planning.attempt(partial(_write_factory, planning, number))


def _by_name(planning: Planning, numbers: frozenset[int]) -> list[int]:
    return sorted(numbers, key=planning.codebase.symbols.names.__getitem__)


def close(planning: Planning) -> None:
    """The techniques that need no decision: each of their subjects is attempted."""
    options, context = planning.options, planning.context
    scope = Scope(planning.diagnosis.findings, options.focus, options.techniques)
    for closing in CLOSING:
        for subject in closing.subjects(context, scope):
            planning.attempt(partial(_close, planning, closing, subject))


def _close(planning: Planning, closing: Closing, subject: Any) -> None:
    id = closing.id(planning.context, subject)
    if not id or planning.is_wanted(id):
        for planned in closing.plan(planning.context, subject):
            planning.add(planned)


def advise(planning: Planning) -> None:
    """What only a person can do."""
    for finding, refusal in planning.by_hand:
        planned = plan_move(planning.context, finding, refusal)
        if planning.is_wanted(planned.id) and not planning.options.whole:
            planning.add(planned)


PHASES = (
    Phase("separate", separate_jobs),
    Phase("forward", forward_dependencies),
    Phase("wire", wire_roots),
    Phase("retire", retire_legacy),
    Phase("close", close),
    Phase("advise", advise),
)
"""What follows once all decisions are taken on, in this order."""
OF_GOALS = (forward_dependencies, wire_roots, retire_legacy)
"""What follows in a plan with a goal, which does nothing else."""
