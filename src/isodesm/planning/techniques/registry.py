"""All techniques as data: for which kinds of finding each is tried, and what those that need no decision are about."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from typing import Any

import msgspec

from isodesm.diagnosis.shared.findings import Finding
from isodesm.planning.analysis.preconditions import of_class, of_place
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.model.refusal import Reason, Refusal
from isodesm.planning.model.step import PlannedStep, TechniqueName
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques import (
    break_cycle,
    inject_through_parameter,
    register_by_convention,
    replace_lookup,
    replace_singleton,
    settle_lifetime,
)
from isodesm.planning.techniques.extract_interface import bulk
from isodesm.planning.techniques.inject_through_constructor import inject, setters
from isodesm.planning.techniques.introduce_factory import factory
from isodesm.planning.techniques.lift_creation import lift
from isodesm.planning.techniques.move_effect_out import data, effect
from isodesm.planning.techniques.retire_bridge import earlier
from isodesm.planning.techniques.wrap_static import provider, wrap


class Technique(msgspec.Struct, frozen=True):
    """One way to take a decision out of a class: what it proposes, and the kinds of finding that it is tried for."""

    name: TechniqueName
    propose: Callable[[PlanContext, Decision], Proposal | Refusal | None]
    kinds: frozenset[str]


CREATION, SINGLETON, LOOKUP = "hard-wired-creation", "static-singleton", "service-lookup"
EFFECT, STATE, MIXED, BOUNDARY = "static-effect", "ambient-state", "mixed-responsibility", "oversized-boundary"

TECHNIQUES = (
    Technique(TechniqueName.BREAK_CYCLE, break_cycle.propose, frozenset((CREATION,))),
    Technique(TechniqueName.LIFT_CREATION, lift.propose, frozenset((CREATION,))),
    Technique(TechniqueName.INJECT_THROUGH_CONSTRUCTOR, inject.propose, frozenset((CREATION, STATE))),
    Technique(TechniqueName.REPLACE_SINGLETON, replace_singleton.propose, frozenset((SINGLETON,))),
    Technique(TechniqueName.REPLACE_LOOKUP, replace_lookup.propose, frozenset((LOOKUP,))),
    Technique(TechniqueName.WRAP_STATIC, wrap.propose, frozenset((CREATION, EFFECT))),
    Technique(TechniqueName.WRAP_STATIC, provider.propose, frozenset((STATE,))),
    Technique(TechniqueName.INTRODUCE_FACTORY, factory.propose, frozenset((CREATION,))),
    Technique(TechniqueName.MOVE_EFFECT_OUT, effect.propose, frozenset((CREATION, EFFECT, MIXED))),
    Technique(TechniqueName.MOVE_EFFECT_OUT, data.propose, frozenset((BOUNDARY,))),
)
"""Those that are tried for a decision, in this order."""

PARAMETER_ANSWERS = inject_through_parameter.ANSWERED
"""Reasons of preconditions to which a parameter of the function is the answer."""
GATEWAY_ANSWERS = frozenset((Reason.NEEDS_GATEWAY, Reason.NEEDS_WRAPPER))
"""Reasons of others to which a gateway is the answer; with any other one none is tried."""


def precondition(context: PlanContext, decision: Decision) -> Refusal | None:
    """Why a class can take nothing, or nothing in the place of what it decides on; None where it can."""
    if refusal := of_class(context.sources, decision.source):
        return refusal
    found = (of_place(context.sources, decision, place) for place in decision.places)
    return next((each for each in found if each is not None), None)


def propose(context: PlanContext, decision: Decision) -> Proposal | Refusal:
    """What the first technique that fits a decision proposes; else why none does."""
    if refusal := precondition(context, decision):
        taken = inject_through_parameter.propose(context, decision) if refusal.reason in PARAMETER_ANSWERS else None
        return taken or refusal
    for technique in (each for each in TECHNIQUES if decision.kind in each.kinds):
        gateway = technique.name == TechniqueName.MOVE_EFFECT_OUT
        if gateway and refusal is not None and refusal.reason not in GATEWAY_ANSWERS:
            continue
        found = technique.propose(context, decision)
        if isinstance(found, Proposal):
            return found
        refusal = found or refusal
    return refusal or Refusal(Reason.NO_TECHNIQUE)


# --- without a decision --------------------------------------------------------------------


class Scope(msgspec.Struct, frozen=True):
    """What closing techniques are about: findings, the classes in focus (none: all), and the techniques asked for."""

    findings: tuple[Finding, ...] | list[Finding]
    focus: frozenset[int]
    techniques: frozenset[str]

    def has(self, number: int) -> bool:
        """Whether a class is in focus."""
        return not self.focus or number in self.focus


class Closing(msgspec.Struct, frozen=True):
    """A technique that needs no decision: what it is about, the id of its step for one of these ('' where it may have
    several), and the steps."""

    name: TechniqueName
    subjects: Callable[[PlanContext, Scope], Iterable[Any]]
    id: Callable[[PlanContext, Any], str]
    plan: Callable[[PlanContext, Any], Iterator[PlannedStep]]


def _one(plan: Callable[[PlanContext, Any], PlannedStep | None]) -> Callable[[PlanContext, Any], Iterator[PlannedStep]]:
    """The steps of a technique that has one at most."""

    def planned(context: PlanContext, subject: Any) -> Iterator[PlannedStep]:
        if (found := plan(context, subject)) is not None:
            yield found

    return planned


def _bulk_subjects(context: PlanContext, scope: Scope) -> Iterable[Any]:
    asked = scope.focus and TechniqueName.EXTRACT_INTERFACE in scope.techniques
    return bulk.handed_as_classes(context, scope.focus).items() if asked else ()


CLOSING = (
    Closing(
        TechniqueName.RETIRE_BRIDGE,
        lambda context, scope: (each for each in earlier.earlier_constructors(context) if scope.has(each.number)),
        earlier.earlier_id,
        _one(earlier.plan_earlier),
    ),
    Closing(
        TechniqueName.REGISTER_BY_CONVENTION,
        lambda context, scope: () if scope.focus else register_by_convention.conventions(context),
        register_by_convention.convention_id,
        _one(register_by_convention.plan_convention),
    ),
    Closing(TechniqueName.EXTRACT_INTERFACE, _bulk_subjects, lambda context, subject: "", bulk.plan_asking),
    Closing(
        TechniqueName.INJECT_THROUGH_CONSTRUCTOR,
        lambda context, scope: setters.late_findings(scope.findings, scope.focus),
        setters.early_id,
        _one(setters.plan_early),
    ),
    Closing(
        TechniqueName.SETTLE_LIFETIME,
        lambda context, scope: settle_lifetime.captives(scope.findings, scope.focus),
        settle_lifetime.lifetime_id,
        _one(settle_lifetime.plan_lifetime),
    ),
)
"""In this order, once all decisions are taken on."""
