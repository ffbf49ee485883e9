"""introduce-factory: a function that makes the object is handed in, where its arguments are known only at run time."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from isodesm.facts.records import Member, Parameter
from isodesm.facts.typetext import split_top
from isodesm.inference.effect_kinds import SEVERE
from isodesm.planning.analysis.expressions import SELF_WORDS, free_names, held_as, passed
from isodesm.planning.analysis.names_in_code import EVERYTHING, as_others_name, need_of_type, needs_of_text
from isodesm.planning.analysis.preconditions import bound_to_owner
from isodesm.planning.language.base import Language
from isodesm.planning.model.abstraction import Abstraction
from isodesm.planning.model.code import Need, Typed
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.dependency import DefaultExpression
from isodesm.planning.model.proposal import Proposal, WantedDependency
from isodesm.planning.model.refusal import Reason, Refusal
from isodesm.planning.model.step import TechniqueName
from isodesm.planning.state.abstraction_choice import abstraction_for
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.introduce_factory.factory_interface import propose_factory
from isodesm.planning.wording.injection import factory_of

NAME = TechniqueName.INTRODUCE_FACTORY
MADE_ALL_OVER = 5
"""Classes that make a thing from which it is one of the words of the codebase, like a value."""

_BY_REFERENCE = frozenset(("out", "ref"))
"""Words by which a constructor hands something back through a parameter."""


def propose(context: PlanContext, decision: Decision) -> Proposal | Refusal | None:
    """A function with the parameters of the constructor that is called."""
    if decision.target < 0:
        return Refusal(Reason.NEEDS_WRAPPER)
    target = context.symbols.types[decision.target]
    if reason := bound_to_owner(context.sources, decision.target):
        return reason
    if any(place.member is not None and place.member.kind == "field" for place in decision.places):
        return Refusal(Reason.CREATED_IN_FIELD)
    if any(
        SELF_WORDS
        & free_names(passed(context.sources, place))
        & {each.strip() for each in split_top(passed(context.sources, place))}
        for place in decision.places
    ):
        return Refusal(Reason.HELPER_OF_ITS_CREATOR)
    makers = {each.source for each in context.sources.creators.get(decision.target, ()) if not each.root and not each.test}
    if len(makers) >= MADE_ALL_OVER and not any(SEVERE.intersection(each.effects) for each in decision.findings):
        return Refusal(Reason.CREATED_ALL_OVER, count=len(makers))
    if target.generics or any(place.site.anonymous >= 0 for place in decision.places):
        return Refusal(Reason.GENERIC_OR_ANONYMOUS)
    counts = {
        len(split_top(passed(context.sources, place))) if passed(context.sources, place).strip() else 0
        for place in decision.places
    }
    if len(counts) > 1:
        return Refusal(Reason.DIFFERENT_ARGUMENT_COUNTS)
    constructor = _called(context, decision.target, counts.pop())
    if isinstance(constructor, Refusal):
        return constructor
    return factory(context, decision, constructor, NAME)


def _called(context: PlanContext, target: int, count: int) -> Member | None | Refusal:
    """The constructor that takes so many arguments; None for one that is not written out."""
    own = [m for m in context.symbols.types[target].members if m.kind == "constructor"]
    if not own and count and (inherited := context.sources.inherited(target)) is not None:
        own = [inherited[1]]
    if not own:
        return None if count == 0 else Refusal(Reason.CONSTRUCTOR_NOT_FOUND)
    fitting = [
        m
        for m in own
        if sum(not each.default for each in m.parameters) <= count <= len(m.parameters)
        and not any(each.variadic for each in m.parameters)
    ]
    if len(fitting) != 1:
        return Refusal(Reason.SEVERAL_CONSTRUCTORS_FIT)
    if any(_BY_REFERENCE & set(each.modifiers.words) for each in fitting[0].parameters[:count]):
        return Refusal(Reason.GIVES_BACK_BY_REFERENCE)
    return fitting[0]


def factory(context: PlanContext, decision: Decision, constructor: Member | None, technique: str) -> Proposal | Refusal | None:
    """The proposal to hand in a function that makes objects of the target's abstraction."""
    language = context.sources.language(decision.source)
    count = (
        len(split_top(passed(context.sources, decision.places[0])))
        if passed(context.sources, decision.places[0]).strip()
        else 0
    )
    own = constructor.parameters[:count] if constructor is not None else ()
    taken = (
        _names_around(context, decision.source) if language.lambdas_hide_no_names else set()
    )  # where a lambda may hide no parameter
    may_miss = _may_miss(context, decision.target, constructor)
    names = [each.name if each.name not in taken else f"its{each.name[:1].upper()}{each.name[1:]}" for each in own]
    types = [as_others_name(context.codebase, decision.target, _taken(each, language, may_miss)) for each in own]
    parameters = list(zip(types, names, strict=True))
    abstraction: Abstraction = abstraction_for(context, decision, held_as(context.sources, decision))
    if constructor is not None and not language.has_function_type(own, constructor.throws):
        if context.no_new:
            return Refusal(Reason.NO_FUNCTION_TYPE)
        return propose_factory(context, decision, constructor, parameters, abstraction)
    target, file = context.symbols.types[decision.target], context.symbols.file_of[decision.target]
    function = language.factory(target.path, parameters, abstraction.name)
    needs = (
        need_of_type(context.codebase, decision.target),
        *function.typed.needs,
        *abstraction.typed.needs,
        *needs_of_text(
            context.codebase, file, decision.target - context.symbols.first[file], " ".join(each.type for each in own)
        ),
    )
    in_type, in_text = (tuple(_named(text, needs)) for text in (function.typed.text, function.text))
    by_default = dict.fromkeys((need_of_type(context.codebase, decision.target), *in_text))
    given = DefaultExpression(function.text, decision.places[0].file, needs=tuple(by_default), arity=count)
    name = f"new{target.name}"
    wanted = WantedDependency(
        Typed(function.typed.text, in_type),
        name,
        given,
        use=function.use,
        concrete=target.name if abstraction.name != target.path else "",
        makes=abstraction.typed,
    )
    return Proposal(technique, decision, wanted, factory_of(abstraction.name), abstraction)


def _named(text: str, needs: Iterable[Need]) -> Iterator[Need]:
    """The needs that a text has; all of a package may be in any."""
    return (each for each in needs if each.name == EVERYTHING or re.search(rf"\b{re.escape(each.name)}\b", text))


def _may_miss(context: PlanContext, target: int, constructor: Member | None) -> set[str]:
    """Names of the parameters that a constructor marks as ones that may be left out."""
    home = next(
        (each for each in context.codebase.roles.ancestors(target) if constructor in context.symbols.types[each].members), -1
    )
    if (
        constructor is None
        or home < 0
        or constructor.whole == (0, 0)
        or not context.sources.language(target).marks_optional_parameters
    ):
        return set()
    syntax = context.sources.syntax(context.symbols.file_of[home])
    _, own = syntax.parameters(constructor)
    return {each.name for each, node in zip(constructor.parameters, own, strict=False) if node.type == "optional_parameter"}


def _taken(parameter: Parameter, language: Language, may_miss: set[str]) -> str:
    """The type by which a function takes what a constructor does: what may be left out there may be missing here."""
    if not language.marks_optional_parameters:
        return parameter.type
    missing = (parameter.default or parameter.name in may_miss) and "undefined" not in parameter.type
    own = f"({parameter.type})" if "=>" in parameter.type else parameter.type  # else only its result could be missing
    return f"{own} | undefined" if parameter.type and missing else parameter.type or "any"


def _names_around(context: PlanContext, source: int) -> set[str]:
    """Names of the parameters between which the function will stand."""
    own = {
        parameter.name
        for member in context.symbols.types[source].members
        if member.kind == "constructor"
        for parameter in member.parameters
    }
    roots = {each.file for each in context.sources.creators.get(source, ()) if each.root}
    local = {each.name for file in roots for each in context.codebase.content(file).locals}
    return own | local | {each.name for each in context.state.dependencies_of(source)}
