"""What a class should ask for in the place of the one that it depends on: a type of the codebase, a new one, or the class."""

from __future__ import annotations

import re

from isodesm.facts import typetext
from isodesm.facts.records import Member
from isodesm.linking.symbols import simple_name
from isodesm.planning.analysis.file_names import path_beside
from isodesm.planning.analysis.homes import module_home, only_declares, unit_of
from isodesm.planning.analysis.interface_names import interface_name, usual_home
from isodesm.planning.analysis.metaclasses import has_metaclass
from isodesm.planning.analysis.names_in_code import home_of, need_of_type
from isodesm.planning.analysis.signatures import takes_undeclared, visible
from isodesm.planning.model.abstraction import CONCRETE, NEW, Abstraction
from isodesm.planning.model.decision import Decision
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.internal_types import is_internal


def used_members(context: PlanContext, target: int) -> tuple[tuple[tuple[int, Member], ...], int]:
    """Methods and properties that others ask a class for, in order of declaration, with the types that declare them; and
    how many ask.

    Inherited ones are found in the bases of the tree.
    """
    calls = context.sources.calls.get(target, {})
    wanted = set(calls) | context.names_asked_of(target)
    users = {user for name in wanted for user in calls.get(name, ())}
    found: dict[str, tuple[int, Member]] = {}
    for each in context.codebase.roles.ancestors(target):
        for member in context.symbols.types[each].members:
            asked = member.name in wanted or (context.all_members and each == target and "public" in member.modifiers.words)
            kinds = context.sources.language(target).offered_kinds
            if (
                member.kind in kinds
                and asked
                and not member.is_static
                and not member.is_private
                and _has_accessors(context, each, member)
            ):
                found.setdefault(member.name, (each, member))
    own = [(number, member) for number, member in found.values()]
    overloads = [
        (target, m)
        for m in context.symbols.types[target].members
        if (target, m) not in own
        and m.name in calls
        and m.kind == "method"
        and m.name in found
        and not m.is_private
        and not m.is_static
    ]
    return tuple(sorted([*own, *overloads], key=lambda each: (each[0] != target, each[1].whole))), max(len(users), 1)


def _has_accessors(context: PlanContext, number: int, member: Member) -> bool:
    """Whether what is read as a field is a property, or an event."""
    if member.kind != "field" or "event" in member.modifiers.words:
        return True
    text = context.codebase.text(context.symbols.file_of[context.symbols.part_of_member(number, member)])
    return b"{" in text[slice(*member.whole)].partition(b"=")[0]


def concrete_class(context: PlanContext, target: int) -> Abstraction:
    """The class itself in the place of an abstraction."""
    declared = context.symbols.types[target]
    need = need_of_type(context.codebase, target)
    return Abstraction(declared.path, need.home, CONCRETE, member=need.member)


def abstraction_for(context: PlanContext, decision: Decision, held_as: str = "") -> Abstraction:
    """What the source of a decision should ask for in the place of its target.

    That is what it declares already, else an interface that offers all that is asked for, else a new one; the class
    itself where the source passes it on, or nothing is asked of it. A new one lives with its users where the target is in
    an outer layer, so that the dependency turns round; otherwise beside the target, or where such things live here.
    """
    target = decision.target
    declared = context.symbols.types[target]
    if declared.kind == "interface" or declared.is_abstract or only_declares(declared):
        need = need_of_type(context.codebase, target)
        return Abstraction(declared.path, need.home, target, member=need.member)
    if held_as and held_as != declared.name:
        return _as_held(context, decision, held_as)
    asked = context.asked_of(decision)
    if context.sources.language(target).containers_go_by_classes and decision.source in context.codebase.wiring.managed:
        return concrete_class(context, target)  # containers of this language go by classes
    if asked is None or not context.sources.language(target).typed or declared.generics:
        return concrete_class(context, target)
    for base in context.codebase.roles.ancestors(target)[1:]:
        kind = context.symbols.types[base]
        offered = {m.name for each in context.codebase.roles.ancestors(base) for m in context.symbols.types[each].members}
        if (
            (kind.kind == "interface" or "abstract" in kind.modifiers.words)
            and asked
            and asked <= offered
            and _agrees(context, base, target, asked)
        ):
            need = need_of_type(context.codebase, base)
            return Abstraction(kind.path, need.home, base, member=need.member)
    if extended := _nearly_fitting(context, target):
        return extended
    if target in context.state.interfaces:
        return (
            context.state.interfaces[target]
            if asked <= {m.name for _, m in context.state.interfaces[target].members}
            else concrete_class(context, target)
        )
    return _new(context, decision, asked)


def _as_held(context: PlanContext, decision: Decision, held_as: str) -> Abstraction:
    """The base by which a class keeps what it decides on, if that has all that is asked of it; else the class itself."""
    for base in context.codebase.roles.ancestors(decision.target)[1:]:
        if context.symbols.types[base].name == held_as and _offers(context, base, context.asked_of(decision)):
            need = need_of_type(context.codebase, base)
            return Abstraction(context.symbols.types[base].path, need.home, base, member=need.member)
    return concrete_class(context, decision.target)


def _offers(context: PlanContext, base: int, asked: frozenset[str] | None) -> bool:
    """Whether a base has all that is asked of a class, as far as that is known."""
    line = context.codebase.roles.ancestors(base)
    return asked is None or asked <= {m.name for each in line for m in context.symbols.types[each].members}


def _agrees(context: PlanContext, base: int, target: int, asked: frozenset[str]) -> bool:
    """Whether a base declares what is asked of a class with the results that the class gives, rather than wider ones, and with
    no errors that the class does not throw."""

    def results(number: int, name: str) -> set[str]:
        found = context.symbols.members(number).get(name, ())
        return {
            simple_name(typetext.head(member.type)) + member.type.partition("<")[2]
            for _, member in found
            if member.type and not member.is_private  # a field may have the name of a method
        }

    def thrown(number: int, name: str) -> set[str]:
        return {each for _, member in context.symbols.members(number).get(name, ()) for each in member.throws}

    def declares(number: int, name: str) -> bool:
        return bool(context.symbols.members(number).get(name))

    lines = [context.codebase.roles.ancestors(each) for each in (base, target)]
    for name in asked:
        above, own = (next((thrown(each, name) for each in line if declares(each, name)), set()) for line in lines)
        if not above <= own:
            return False
        wide, own = (next((found for each in line if (found := results(each, name))), set()) for line in lines)
        if wide and own and not own <= wide:
            return False
    return True


def _nearly_fitting(context: PlanContext, target: int) -> Abstraction | None:
    """An interface of the tree that lacks one member of all that is asked of a class, and that nobody else implements."""
    members, users = used_members(context, target)
    if (
        context.no_new or context.sources.language(target).structural_types
    ):  # there, anything of the right shape is an implementer
        return None
    for base in context.codebase.roles.ancestors(target)[1:]:
        declared = context.symbols.types[base]
        offered = {m.name for each in context.codebase.roles.ancestors(base) for m in context.symbols.types[each].members}
        lacking = tuple((number, member) for number, member in members if member.name not in offered)
        one_method = (
            context.sources.language(target).lambdas_implement_interfaces and len(declared.members) < 2
        )  # a lambda may implement it
        alone = context.sources.subclasses(base) == [target] and not declared.generics
        if (
            declared.kind == "interface"
            and alone
            and not one_method
            and len(lacking) == 1
            and lacking[0][0] == target
            and visible(context.sources, *lacking[0])
        ):
            return Abstraction(
                declared.path, need_of_type(context.codebase, base).home, base, base, lacking, users, declared.path, lacks=True
            )
    return None


def planned_names(context: PlanContext) -> set[str]:
    """Names of the abstractions that steps have written, and of all that new files declare."""
    written = [*context.state.interfaces.values(), *(each.abstraction for each in context.state.adapters.values())]
    return {each.name for each in written if each.number == NEW} | context.state.new_types


def _is_overridden(context: PlanContext, target: int, name: str) -> bool:
    """Whether a class below declares a member anew, which would have to become public with it."""
    return any(name in context.symbols.members(each) for each in context.sources.subclasses(target))


def _stays_inside(context: PlanContext, target: int, members: tuple[tuple[int, Member], ...]) -> bool:
    """Whether a public class keeps a member to its own assembly for what that names, so that it can't become public."""
    if "public" not in context.symbols.types[target].modifiers.words:
        return False
    inner = (member for _, member in members if "public" not in member.modifiers.words)
    return any(
        is_internal(
            context.sources,
            context.state,
            target,
            set(re.findall(r"[A-Z]\w*", " ".join([m.type, *(each.type for each in m.parameters)]))),
        )
        for m in inner
    )


def _new(context: PlanContext, decision: Decision, asked: frozenset[str]) -> Abstraction:
    target = decision.target
    members, users = used_members(context, target)
    known = {member.name for _, member in members}
    hidden = any(
        not visible(context.sources, number, member)
        and (number != target or _is_overridden(context, target, member.name))
        or takes_undeclared(context.sources, number, member)
        for number, member in members
    )
    if context.no_new or not members or not asked <= known or hidden or _stays_inside(context, target, members):
        return concrete_class(context, target)
    if context.sources.language(target).metaclasses and has_metaclass(context.sources, target):
        return concrete_class(context, target)
    outward = context.codebase.layers.crossing(decision.source, target)
    beside = (
        decision.source if outward and unit_of(context.sources, decision.source) == unit_of(context.sources, target) else target
    )
    home = home_of(context.codebase, beside)
    usual, there = usual_home(
        context.codebase,
        context.codebase.layers.name(beside),
        context.sources.language(target).name,
        lambda each: home_of(context.codebase, each),
    )
    if (
        there >= 0
        and not home.startswith("/")
        and unit_of(context.sources, there) == unit_of(context.sources, target) == unit_of(context.sources, beside)
    ):
        home, beside = usual, there
    name = interface_name(context.codebase, target, context.sources.habit(target), home, planned_names(context))
    language = context.sources.language(target)
    stem = context.sources.path(target).rpartition("/")[2].partition(".")[0]
    alike = language.named_like_type and stem == context.sources.name(target)
    folder = context.sources.path(beside).rpartition("/")[0]
    path = f"{folder}/{name}{language.suffix}".lstrip("/") if alike else path_beside(context.sources, beside, name)
    home = module_home(context.sources, beside, home, path)
    return Abstraction(name, home, NEW, beside, members, users, path)
