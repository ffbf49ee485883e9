"""replace-lookup: what is pulled out of a container or locator is handed in, and the composition root looks it up."""

from __future__ import annotations

import re

import msgspec

from isodesm.facts.records import Member
from isodesm.inference.use_graph import INSTANCE
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.dependency import DefaultExpression
from isodesm.planning.model.proposal import Proposal, WantedDependency
from isodesm.planning.state.abstraction_choice import concrete_class
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.remove_parameter import spare
from isodesm.planning.techniques.proposal import (
    ITSELF,
    SELF_WORDS,
    as_abstraction,
    bound_names,
    expression,
    is_set_once,
    of_state,
)
from isodesm.planning.techniques.wrap_static.provider import reading_function

NAME = "replace-lookup"
LOOKED_UP = "look-up of {}"
"""What a class is handed where it goes on looking something up."""
AT_ONCE = "`{}` brings {} as soon as it is made ({})"
ANEW = "each look-up may give another `{}`, with state of its own"


def propose(context: PlanContext, decision: Decision) -> Proposal | str:
    """The thing looked up, under its abstraction."""
    if decision.target < 0 or decision.target in context.codebase.locators:
        return "what it looks up has no type here: give the lookup one first"
    if decision.target in context.codebase.roles.ancestors(decision.source):
        return ITSELF
    hidden = set().union(*(bound_names(context, decision, place)[0] for place in decision.places)) - SELF_WORDS
    if len({expression(context, place) for place in decision.places}) > 1:
        return "what it looks up is worked out inside the class"
    supply = _supply(context, decision)
    if isinstance(supply, str):
        return supply
    if hidden and not supply.depends:
        return "what it looks up is worked out inside the class"
    if not any(place.member is not None and place.member.kind == "method" for place in decision.places):
        return as_abstraction(context, decision, NAME, supply, bridge_only=supply.depends)
    if why := _why_late(context, decision.target):
        return _looked_up_late(context, decision, supply, why)
    hazards = ("it is looked up when the object is made, no longer each time: it has to be registered by then",)
    return as_abstraction(context, decision, NAME, supply, bridge_only=supply.depends, hazards=hazards)


def _supply(context: PlanContext, decision: Decision) -> DefaultExpression | str:
    """What looks it up: the expression as it is, or for a container that the class is handed itself, by its parameter."""
    first = decision.places[0]
    text = expression(context, first)
    found = _HEAD.match(text)
    field = _own_field(context, decision.source, found["name"]) if found is not None else None
    if found is None or field is None:
        return DefaultExpression(text, first.file)
    parameter = _filled_from(context, decision.source, field)
    if not parameter:
        return "the container that it is looked up in is no plain parameter of its constructor: hand it in by hand"
    return DefaultExpression(
        f"{context.sources.writer(decision.source).argument(parameter)}{text[found.end() :]}", first.file, depends=True
    )


_HEAD = re.compile(r"(?:this\s*+\.\s*+|self\s*+\.\s*+|\$this\s*+->\s*+)?(?P<name>[\w#]++)(?=\s*+[!?]?(?:\.|->))")


def _own_field(context: PlanContext, number: int, name: str) -> Member | None:
    """A field of a class by its name."""
    members = context.symbols.types[number].members
    return next((m for m in members if m.kind in ("field", "property") and not m.is_static and m.name == name), None)


def _filled_from(context: PlanContext, number: int, field: Member) -> str:
    """The parameter that a constructor keeps in a field, which nothing else sets; '' where it is none."""
    constructor = context.sources.constructor(number)
    if constructor is None or context.sources.has_several_constructors(number) or not is_set_once(context, number, field):
        return ""
    names = {each.name.lstrip("$"): each for each in constructor.parameters}
    if constructor.whole == field.whole or (field.name in names and names[field.name].modifiers.words):
        return field.name  # a parameter that declares the field
    body = context.codebase.text(context.symbols.file_of[number])[slice(*constructor.body)].decode("utf-8", "replace")
    pattern = rf"(?<![\w.>])(?:this\.|self\.|\$this->)?{re.escape(field.name)}\s*(?::[^=\n]+)?=\s*\$?(\w+)\s*(?:;|\n|$)"
    found = re.findall(pattern, body)
    return found[0] if len(found) == 1 and found[0] in names else ""


def spare_container(context: PlanContext, number: int) -> None:
    """Leave out the container that a class is handed, where it looked up in it all that it takes by now, and nothing else."""
    for given in context.state.dependencies_of(number):
        taken = context.state.proposals.get((number, given.name))
        if taken is None or taken.technique != NAME or not given.supply.depends:
            continue
        found = _HEAD.match(expression(context, taken.decision.places[0]))
        field = _own_field(context, number, found["name"]) if found is not None else None
        if field is not None and (parameter := _filled_from(context, number, field)):
            context.state = without_parameter(context.sources, context.state, number, field, parameter) or context.state
            return


def _why_late(context: PlanContext, target: int) -> str:
    """Why something must go on being looked up when it is asked for; '' where once, and earlier, is as good."""
    services = context.codebase.wiring.by_abstraction.get(target, ())
    name = context.name(target)
    for each in (target, *(one.implementation for one in services)):
        if each >= 0 and (effects := context.codebase.effects.of_node((each, INSTANCE))):
            chain = context.codebase.effects.chain((each, INSTANCE), effects[0])
            return AT_ONCE.format(name, effects[0], " → ".join(chain))
    anew = [each.implementation for each in services if each.lifetime in ("transient", "scoped") and each.implementation >= 0]
    return ANEW.format(name) if any(of_state(context, each) for each in anew) else ""


def _looked_up_late(context: PlanContext, decision: Decision, supply: DefaultExpression, why: str) -> Proposal | str:
    """A function that looks it up whenever it is asked for."""
    concrete = concrete_class(context, decision.target).typed
    function = reading_function(context.sources.language(decision.source), concrete.text, supply.text, concrete.needs)
    if function is None:
        return "what it looks up has no type here: give the lookup one first"
    typed, text, use = function
    name = context.name(decision.target)
    wanted = WantedDependency(typed, name, msgspec.structs.replace(supply, text=text), use=use, makes=concrete)
    hazards = (f"{why}: it is looked up when it is asked for, as before",)
    return Proposal(NAME, decision, wanted, LOOKED_UP.format(name), bridge_only=supply.depends, hazards=hazards)
