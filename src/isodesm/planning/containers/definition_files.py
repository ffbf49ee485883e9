"""How containers that go by definition files are told: the service, its other names, and the arguments of who takes it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from isodesm.facts.definitions import Definition, read_definitions
from isodesm.planning.analysis.interface_names import variable_name
from isodesm.planning.containers.creatable import can_be_made
from isodesm.planning.model.abstraction import CONCRETE, Abstraction
from isodesm.planning.state.lifetimes import lifetime_of
from isodesm.planning.text.definition_edits import with_alias, with_argument, with_service

if TYPE_CHECKING:
    from isodesm.planning.model.proposal import Proposal
    from isodesm.planning.state.context import PlanContext


def definitions_of(context: PlanContext, number: int) -> list[Definition]:
    """The definitions by which a container makes a class with its constructor."""
    wiring = context.codebase.wiring
    found = (
        wiring.by_id.get(each.registration.id)
        for each in wiring.by_implementation.get(number, ())
        if each.registration.how == "definition" and not each.registration.alias and not each.registration.factory
    )
    return [each for each in found if each is not None and each.type and not each.parent]


def id_of(context: PlanContext, target: int) -> str:
    """The id under which a class is defined, or will be by then; '' where there is none, or several."""
    if target in context.state.service_ids:
        return context.state.service_ids[target]
    ids = {each.id for each in definitions_of(context, target)}
    return ids.pop() if len(ids) == 1 else ""


def can_pass_argument(context: PlanContext, proposal: Proposal) -> bool:
    """Whether all definitions of a class can be told of what a proposal would hand in."""
    target, abstraction, number = proposal.decision.target, proposal.abstraction, proposal.decision.source
    if target < 0 or abstraction is None or proposal.wanted.makes is not None:
        return False
    if not id_of(context, target) and not _may_define(context, target):
        return False
    if proposal.decision.places[0].finding.target_number in context.codebase.locators:
        return False  # what a registry of the tree gives is another object than the one that the files define
    constructor = context.sources.constructor(number)
    count = len(constructor.parameters) if constructor is not None else 0
    taken = [each for each in context.state.dependencies_of(number) if (number, each.name) in context.state.injected]
    if len(taken) < len(context.state.dependencies_of(number)):
        return False  # what it takes before it can't be left out
    return all(
        each.autowired or (all(one.name for one in each.arguments) and bool(each.arguments)) or len(each.arguments) == count
        for each in definitions_of(context, number)
    )


def _may_define(context: PlanContext, target: int) -> bool:
    """Whether a class that nothing defines yet can be: it takes nothing, or what is defined."""
    return not definitions_of(context, target) and can_be_made(context, target)


def define_service(context: PlanContext, proposal: Proposal) -> None:
    """What the files have to know before a class takes something: the service, and the name of its interface for those that
    find theirs by type."""
    target, abstraction, number = proposal.decision.target, proposal.abstraction, proposal.decision.source
    assert abstraction is not None
    behind = as_it_stands(context, definitions_of(context, number)[0])
    content = context.content(behind.path)
    id = id_of(context, target)
    if not id:
        id = _new_id(context, behind, target)
        insertion = with_service(
            content, behind, id, _as_written(behind, context.symbols.names[target]), lifetime_of(context, target)
        )
        if insertion is None:
            raise ValueError(f"nothing can be defined behind `{behind.id}` as it is written")
        context.state = context.state.with_service_id(target, id)
        context.change_content(behind.path, insertion, f"defines `{id}`")
        content = context.content(behind.path)
    name = _qualified(context, number, abstraction)
    asked_by_type = any(each.autowired for each in definitions_of(context, number))
    if (
        asked_by_type
        and abstraction.number != CONCRETE
        and not behind.path.endswith("beans.xml")
        and not _is_known(context, name)
    ):
        if (insertion := with_alias(content, behind, name, id)) is not None:
            context.change_content(behind.path, insertion, f"`{name}` is another name of `{id}`")
            context.state = context.state.with_service_alias(name)


def pass_argument(context: PlanContext, proposal: Proposal, name: str) -> None:
    """Give the definitions of a class the argument that it takes from here on, where they name theirs one by one."""
    number = proposal.decision.source
    id = id_of(context, proposal.decision.target)
    for each in definitions_of(context, number):
        if each.autowired:
            continue
        now = as_it_stands(context, each)
        insertion = with_argument(context.content(now.path), now, id, name)
        if insertion is None:
            raise ValueError(f"`{each.id}` can't be given a further argument as it is written")
        context.change_content(each.path, insertion, f"`{each.id}` is handed `{id}`")
    context.state = context.state.with_injected(number, name)


def as_it_stands(context: PlanContext, definition: Definition) -> Definition:
    """A definition where it stands after the steps so far."""
    found, _ = read_definitions(definition.path, context.content(definition.path))
    return next((each for each in found if (each.id, each.condition) == (definition.id, definition.condition)), definition)


def _is_known(context: PlanContext, name: str) -> bool:
    return name in context.codebase.wiring.by_id or name in context.state.service_aliases


def _qualified(context: PlanContext, number: int, abstraction: Abstraction) -> str:
    separator = context.symbols.dialect(number).separator
    return f"{abstraction.home}{separator}{abstraction.name}" if abstraction.home else abstraction.name


def _as_written(behind: Definition, name: str) -> str:
    """A class as the definition file writes others: with or without a separator in front."""
    return f"\\{name}" if behind.type.startswith("\\") else name


def _new_id(context: PlanContext, behind: Definition, target: int) -> str:
    """An id for a class, after the pattern of another definition: the class itself, or its name in small letters behind the
    prefix that others have."""
    name = context.name(target)
    if behind.id in (behind.type, behind.type.lstrip("\\")):
        return context.symbols.names[target]
    prefix, dot, _ = behind.id.rpartition(".")
    known = context.codebase.wiring.by_id
    own = variable_name(name, set(), snake=bool(dot) or "_" in behind.id)
    return next(each for each in (f"{prefix}{dot}{own}", context.symbols.names[target]) if each not in known)
