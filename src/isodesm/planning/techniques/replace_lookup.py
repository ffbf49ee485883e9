"""replace-lookup: what is pulled out of a container or locator is handed in, and the composition root looks it up."""

from __future__ import annotations

import re

import msgspec

from isodesm.facts.records import Member
from isodesm.inference.use_graph import INSTANCE
from isodesm.planning.analysis.expressions import SELF_WORDS, bound_names, expression
from isodesm.planning.analysis.statefulness import is_set_once, of_state
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.dependency import DefaultExpression
from isodesm.planning.model.proposal import Proposal, WantedDependency
from isodesm.planning.model.refusal import Hazard, Reason, Refusal, Risk
from isodesm.planning.model.step import TechniqueName
from isodesm.planning.state.abstraction_choice import concrete_class
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.remove_parameter import without_parameter
from isodesm.planning.techniques.by_abstraction import as_abstraction
from isodesm.planning.wording.injection import lookup_of

NAME = TechniqueName.REPLACE_LOOKUP


def propose(context: PlanContext, decision: Decision) -> Proposal | Refusal | None:
    """The thing looked up, under its abstraction."""
    if decision.target < 0 or decision.target in context.codebase.locators:
        return Refusal(Reason.LOOKUP_UNTYPED)
    if decision.target in context.codebase.roles.ancestors(decision.source):
        return Refusal(Reason.MAY_BE_ITSELF)
    hidden = set().union(*(bound_names(context.sources, decision, place)[0] for place in decision.places)) - SELF_WORDS
    if len({expression(context.sources, place) for place in decision.places}) > 1:
        return Refusal(Reason.LOOKUP_WORKED_OUT_INSIDE)
    default = _default(context, decision)
    if isinstance(default, Refusal):
        return default
    if hidden and not default.depends:
        return Refusal(Reason.LOOKUP_WORKED_OUT_INSIDE)
    if not any(place.member is not None and place.member.kind == "method" for place in decision.places):
        return as_abstraction(context, decision, NAME, default, legacy_only=default.depends)
    if why := _why_late(context, decision.target):
        return _looked_up_late(context, decision, default, why)
    hazards = (Hazard(Risk.LOOKED_UP_ONCE),)
    return as_abstraction(context, decision, NAME, default, legacy_only=default.depends, hazards=hazards)


def _default(context: PlanContext, decision: Decision) -> DefaultExpression | Refusal:
    """What looks it up: the expression as it is, or for a container that the class is handed itself, by its parameter."""
    first = decision.places[0]
    text = expression(context.sources, first)
    found = _HEAD.match(text)
    field = _own_field(context, decision.source, found["name"]) if found is not None else None
    if found is None or field is None:
        return DefaultExpression(text, first.file)
    parameter = _filled_from(context, decision.source, field)
    if not parameter:
        return Refusal(Reason.CONTAINER_NO_PARAMETER)
    return DefaultExpression(
        f"{context.sources.language(decision.source).argument(parameter)}{text[found.end() :]}", first.file, depends=True
    )


_HEAD = re.compile(r"(?:this\s*+\.\s*+|self\s*+\.\s*+|\$this\s*+->\s*+)?(?P<name>[\w#]++)(?=\s*+[!?]?(?:\.|->))")


def _own_field(context: PlanContext, number: int, name: str) -> Member | None:
    """A field of a class by its name."""
    members = context.symbols.types[number].members
    return next((m for m in members if m.kind in ("field", "property") and not m.is_static and m.name == name), None)


def _filled_from(context: PlanContext, number: int, field: Member) -> str:
    """The parameter that a constructor keeps in a field, which nothing else sets; '' where it is none."""
    constructor = context.sources.constructor(number)
    if (
        constructor is None
        or context.sources.has_several_constructors(number)
        or not is_set_once(context.sources, number, field)
    ):
        return ""
    names = {each.name.lstrip("$"): each for each in constructor.parameters}
    if constructor.whole == field.whole or (field.name in names and names[field.name].modifiers.words):
        return field.name  # a parameter that declares the field
    body = context.codebase.text(context.symbols.file_of[number])[slice(*constructor.body)].decode("utf-8", "replace")
    pattern = rf"(?<![\w.>])(?:this\.|self\.|\$this->)?{re.escape(field.name)}\s*(?::[^=\n]+)?=\s*\$?(\w+)\s*(?:;|\n|$)"
    found = re.findall(pattern, body)
    return found[0] if len(found) == 1 and found[0] in names else ""


def remove_container_parameter(context: PlanContext, number: int) -> None:
    """Leave out the container that a class is handed, where it looked up in it all that it takes by now, and nothing else."""
    for given in context.state.dependencies_of(number):
        taken = context.state.proposals.get((number, given.name))
        if taken is None or taken.technique != NAME or not given.default.depends:
            continue
        found = _HEAD.match(expression(context.sources, taken.decision.places[0]))
        field = _own_field(context, number, found["name"]) if found is not None else None
        if field is not None and (parameter := _filled_from(context, number, field)):
            context.state = without_parameter(context.sources, context.state, number, field, parameter) or context.state
            return


def _why_late(context: PlanContext, target: int) -> Hazard | None:
    """Why something must go on being looked up when it is asked for; None where once, and earlier, is as good."""
    services = context.codebase.wiring.by_abstraction.get(target, ())
    name = context.name(target)
    for each in (target, *(one.implementation for one in services)):
        if each >= 0 and (effects := context.codebase.effects.of_node((each, INSTANCE))):
            chain = context.codebase.effects.chain((each, INSTANCE), effects[0])
            return Hazard(Risk.BRINGS_EFFECT, name=name, effect=effects[0], chain=" → ".join(chain))
    anew = [each.implementation for each in services if each.lifetime in ("transient", "scoped") and each.implementation >= 0]
    return Hazard(Risk.MAY_BE_ANOTHER, name=name) if any(of_state(context.sources, each) for each in anew) else None


def _looked_up_late(
    context: PlanContext, decision: Decision, default: DefaultExpression, why: Hazard
) -> Proposal | Refusal | None:
    """A function that looks it up whenever it is asked for."""
    concrete = concrete_class(context, decision.target).typed
    function = context.sources.language(decision.source).reader(concrete.text, default.text, concrete.needs)
    if function is None:
        return Refusal(Reason.LOOKUP_UNTYPED)
    name = context.name(decision.target)
    wanted = WantedDependency(
        function.typed, name, msgspec.structs.replace(default, text=function.text), use=function.use, makes=concrete
    )
    hazards = (Hazard(Risk.LOOKED_UP_AS_BEFORE, because=why),)
    return Proposal(NAME, decision, wanted, lookup_of(name), legacy_only=default.depends, hazards=hazards)
