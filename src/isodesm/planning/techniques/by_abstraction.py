"""The proposal to inject an object under the abstraction of its class."""

from __future__ import annotations

from isodesm.planning.analysis.expressions import held_as
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.dependency import DefaultExpression
from isodesm.planning.model.proposal import Proposal, WantedDependency
from isodesm.planning.model.refusal import Hazard
from isodesm.planning.state.abstraction_choice import abstraction_for
from isodesm.planning.state.context import PlanContext


def as_abstraction(
    context: PlanContext,
    decision: Decision,
    technique: str,
    default: DefaultExpression,
    *,
    legacy_only: bool = False,
    hazards: tuple[Hazard, ...] = (),
    gone: tuple[Amendment, ...] = (),
) -> Proposal:
    """The proposal to hand in an object of the target's abstraction."""
    abstraction = abstraction_for(context, decision, held_as(context.sources, decision))
    concrete = context.name(decision.target) if abstraction.name != context.symbols.types[decision.target].path else ""
    wanted = WantedDependency(abstraction.typed, abstraction.name.rpartition(".")[2], default, concrete=concrete, gone=gone)
    return Proposal(technique, decision, wanted, abstraction.name, abstraction, legacy_only, hazards)
