"""introduce-factory: a function that makes the object is handed in, where its arguments are known only at run time."""

from __future__ import annotations

from isodesm.facts.records import Member, Parameter
from isodesm.facts.typetext import split_top
from isodesm.inference.effect_kinds import SEVERE
from isodesm.planning.analysis.decisions import Decision
from isodesm.planning.analysis.homes import Abstraction
from isodesm.planning.analysis.names_in_code import need_of_type, needs_of_text
from isodesm.planning.analysis.preconditions import bound_to_owner
from isodesm.planning.language import Typed
from isodesm.planning.language.java import MOST_ARGUMENTS, WIDENING
from isodesm.planning.model.dependency import Supply
from isodesm.planning.state.context import Workshop
from isodesm.planning.state.injection import Wanted
from isodesm.planning.techniques.introduce_factory.factory_interface import propose_maker
from isodesm.planning.techniques.proposal import SELF_WORDS, Proposal, free_names, held_as, passed

NAME = "introduce-factory"
MADE_ALL_OVER = 5
"""Classes that make a thing from which it is one of the words of the codebase, like a value."""


def propose(shop: Workshop, decision: Decision) -> Proposal | str:
    """A function with the parameters of the constructor that is called."""
    if decision.target < 0:
        return "needs `wrap-static`: a class of your own around the library's"
    target = shop.symbols.types[decision.target]
    if reason := bound_to_owner(shop.codebase, decision.target):
        return reason
    if any(place.member is not None and place.member.kind == "field" for place in decision.places):
        return "is made where its field is declared, from what only this object knows: move it into the constructor first"
    if any(
        SELF_WORDS & free_names(passed(shop, place)) & {each.strip() for each in split_top(passed(shop, place))}
        for place in decision.places
    ):
        return "is made for the object that makes it, which passes itself on: better left as its helper"
    makers = {each.source for each in shop.creators.get(decision.target, ()) if not each.root and not each.test}
    if len(makers) >= MADE_ALL_OVER and not any(SEVERE.intersection(each.effects) for each in decision.findings):
        return (
            f"is made in {len(makers)} classes and reaches nothing grave: as good as a value, and better left where it is made"
        )
    if target.generics or any(place.site.anonymous >= 0 for place in decision.places):
        return "is generic, or a class of its own: write a factory by hand"
    counts = {len(split_top(passed(shop, place))) if passed(shop, place).strip() else 0 for place in decision.places}
    if len(counts) > 1:
        return "is made with different numbers of arguments: write a factory by hand"
    constructor = _called(shop, decision.target, counts.pop())
    if isinstance(constructor, str):
        return constructor
    return factory(shop, decision, constructor, NAME)


def _called(shop: Workshop, target: int, count: int) -> Member | None | str:
    """The constructor that takes so many arguments; None for one that is not written out."""
    own = [m for m in shop.symbols.types[target].members if m.kind == "constructor"]
    if not own and count and (inherited := shop.draft.inherited(target)) is not None:
        own = [inherited[1]]
    if not own:
        return None if count == 0 else "its constructor could not be found"
    fitting = [
        m
        for m in own
        if sum(not each.default for each in m.parameters) <= count <= len(m.parameters)
        and not any(each.variadic for each in m.parameters)
    ]
    if len(fitting) != 1:
        return "several of its constructors fit: write a factory by hand"
    return fitting[0]


def _has_no_type(language: str, constructor: Member | None, count: int) -> bool:
    """Whether no function type of a language has the form of a constructor."""
    if language != "java" or constructor is None:
        return False
    wide = any(each.type in WIDENING for each in constructor.parameters)
    return bool(constructor.throws) or wide or count > MOST_ARGUMENTS


def factory(shop: Workshop, decision: Decision, constructor: Member | None, technique: str) -> Proposal | str:
    """The proposal to hand in a function that makes objects of the target's abstraction."""
    writer = shop.draft.writer(decision.source)
    assert writer.factory is not None
    count = len(split_top(passed(shop, decision.places[0]))) if passed(shop, decision.places[0]).strip() else 0
    own = constructor.parameters[:count] if constructor is not None else ()
    taken = (
        _names_around(shop, decision.source) if writer.language == "csharp" else set()
    )  # where a lambda may hide no parameter
    may_miss = _may_miss(shop, decision.target, constructor)
    names = [each.name if each.name not in taken else f"its{each.name[:1].upper()}{each.name[1:]}" for each in own]
    parameters = [(_taken(each, writer.language, may_miss), name) for each, name in zip(own, names, strict=True)]
    abstraction: Abstraction = shop.abstraction(decision, held_as(shop, decision))
    if constructor is not None and _has_no_type(writer.language, constructor, count):
        if shop.no_new:
            return "no function type has the form of its constructor, and no new abstractions were asked for"
        return propose_maker(shop, decision, constructor, parameters, abstraction)
    target, file = shop.symbols.types[decision.target], shop.symbols.file_of[decision.target]
    typed, supply, use = writer.factory(target.path, parameters, abstraction.name)
    needs = (
        *typed.needs,
        *abstraction.typed.needs,
        *needs_of_text(shop.codebase, file, decision.target - shop.symbols.first[file], " ".join(each.type for each in own)),
    )
    given = Supply(supply, decision.places[0].file, needs=(need_of_type(shop.codebase, decision.target),), arity=count)
    name = f"new{target.name}"
    wanted = Wanted(
        Typed(typed.text, needs),
        name,
        given,
        use=use,
        concrete=target.name if abstraction.name != target.path else "",
        makes=abstraction.typed,
    )
    return Proposal(technique, decision, wanted, f"maker of {abstraction.name}", abstraction)


def _may_miss(shop: Workshop, target: int, constructor: Member | None) -> set[str]:
    """Names of the parameters that a constructor marks as ones that may be left out."""
    home = next((each for each in shop.codebase.roles.ancestors(target) if constructor in shop.symbols.types[each].members), -1)
    if constructor is None or home < 0 or constructor.whole == (0, 0) or shop.language(target) != "typescript":
        return set()
    syntax = shop.draft.syntax(shop.symbols.file_of[home])
    _, own = syntax.parameters(constructor)
    return {each.name for each, node in zip(constructor.parameters, own, strict=False) if node.type == "optional_parameter"}


def _taken(parameter: Parameter, language: str, may_miss: set[str]) -> str:
    """The type by which a function takes what a constructor does: what may be left out there may be missing here."""
    if language != "typescript":
        return parameter.type
    missing = (parameter.default or parameter.name in may_miss) and "undefined" not in parameter.type
    return f"{parameter.type} | undefined" if parameter.type and missing else parameter.type or "any"


def _names_around(shop: Workshop, source: int) -> set[str]:
    """Names of the parameters between which the function will stand."""
    own = {
        parameter.name
        for member in shop.symbols.types[source].members
        if member.kind == "constructor"
        for parameter in member.parameters
    }
    roots = {each.file for each in shop.creators.get(source, ()) if each.root}
    local = {each.name for file in roots for each in shop.codebase.content(file).locals}
    return own | local | {each.name for each in shop.draft.handed.get(source, ())}
