"""The proposal to inject an object under the abstraction of its class."""

from __future__ import annotations

from isodesm.facts import typetext
from isodesm.linking.symbols import simple_name
from isodesm.planning.analysis.expressions import held_as
from isodesm.planning.analysis.names_in_code import needs_of_text
from isodesm.planning.model.abstraction import Abstraction
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import Typed
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.dependency import DefaultExpression
from isodesm.planning.model.proposal import Proposal, WantedDependency
from isodesm.planning.model.refusal import Hazard, Reason, Refusal
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
) -> Proposal | Refusal:
    """The proposal to hand in an object of the target's abstraction; why there can be none where nothing says of what a generic
    class is."""
    abstraction = abstraction_for(context, decision, held_as(context.sources, decision))
    concrete = context.name(decision.target) if abstraction.name != context.symbols.types[decision.target].path else ""
    typed = abstraction.typed
    generic = abstraction.number < 0 or context.symbols.types[abstraction.number].generics
    if generic and context.symbols.types[decision.target].generics and context.sources.language(decision.source).typed:
        spelled = _with_arguments(context, decision, abstraction)
        if spelled is None:
            return Refusal(Reason.GENERIC_OR_ANONYMOUS)
        typed = spelled
    wanted = WantedDependency(typed, abstraction.name.rpartition(".")[2], default, concrete=concrete, gone=gone)
    return Proposal(technique, decision, wanted, abstraction.name, abstraction, legacy_only, hazards)


def _with_arguments(context: PlanContext, decision: Decision, abstraction: Abstraction) -> Typed | None:
    """The type of what a decision on a generic class gives, with its type arguments as the fields that keep it are declared,
    else as it is created; None where neither says."""
    fields = {m.name: m.type for m in context.symbols.types[decision.source].members if m.kind == "field"}
    texts = {
        fields.get(each.field, "") or "".join(typetext.arguments(each.site.generics)) or each.site.text
        for each in decision.places
    }
    text = texts.pop() if len(texts) == 1 else ""
    if "<" not in text or not typetext.arguments(text) or simple_name(typetext.head(text)) != simple_name(abstraction.name):
        return None
    file = decision.places[0].file
    needs = needs_of_text(context.codebase, file, context.symbols.local_in(decision.source, file), text)
    return Typed(text, tuple(dict.fromkeys((*abstraction.typed.needs, *needs))))
