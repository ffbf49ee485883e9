"""How containers that go by definition files are told: the service, its other names, and the arguments of who takes it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from isodesm.facts.definitions import Definition, read_definitions
from isodesm.planning.analysis.homes import CONCRETE, Abstraction
from isodesm.planning.analysis.interface_names import variable_name
from isodesm.planning.state.lifetimes import lifetime_of
from isodesm.planning.text.definition_edits import with_alias, with_argument, with_service

if TYPE_CHECKING:
    from isodesm.planning.state.context import Workshop
    from isodesm.planning.techniques.proposal import Proposal


def definitions_of(shop: Workshop, number: int) -> list[Definition]:
    """The definitions by which a container makes a class with its constructor."""
    wiring = shop.codebase.wiring
    found = (
        wiring.by_id.get(each.registration.id)
        for each in wiring.by_implementation.get(number, ())
        if each.registration.how == "definition" and not each.registration.alias and not each.registration.factory
    )
    return [each for each in found if each is not None and each.type and not each.parent]


def id_of(shop: Workshop, target: int) -> str:
    """The id under which a class is defined, or will be by then; '' where there is none, or several."""
    if target in shop.new_ids:
        return shop.new_ids[target]
    ids = {each.id for each in definitions_of(shop, target)}
    return ids.pop() if len(ids) == 1 else ""


def can_feed(shop: Workshop, proposal: Proposal) -> bool:
    """Whether all definitions of a class can be told of what a proposal would hand in."""
    target, abstraction, number = proposal.decision.target, proposal.abstraction, proposal.decision.source
    if target < 0 or abstraction is None or proposal.wanted.makes is not None:
        return False
    if not id_of(shop, target) and not _may_define(shop, target):
        return False
    if proposal.decision.places[0].finding.target_number in shop.codebase.locators:
        return False  # what a registry of the tree gives is another object than the one that the files define
    constructor = shop.draft.constructor(number)
    count = len(constructor.parameters) if constructor is not None else 0
    taken = [each for each in shop.draft.handed.get(number, ()) if (number, each.name) in shop.fed]
    if len(taken) < len(shop.draft.handed.get(number, ())):
        return False  # what it takes before it can't be left out
    return all(
        each.autowired or (all(one.name for one in each.arguments) and bool(each.arguments)) or len(each.arguments) == count
        for each in definitions_of(shop, number)
    )


def _may_define(shop: Workshop, target: int) -> bool:
    """Whether a class that nothing defines yet can be: it takes nothing, or what is defined."""
    from isodesm.planning.containers.registration_edits import can_be_made

    return not definitions_of(shop, target) and can_be_made(shop, target)


def telling(shop: Workshop, proposal: Proposal) -> None:
    """What the files have to know before a class takes something: the service, and the name of its interface for those that
    find theirs by type."""
    target, abstraction, number = proposal.decision.target, proposal.abstraction, proposal.decision.source
    assert abstraction is not None
    behind = as_it_stands(shop, definitions_of(shop, number)[0])
    content = shop.draft.projects.content(behind.path)
    id = id_of(shop, target)
    if not id:
        id = _new_id(shop, behind, target)
        insertion = with_service(
            content, behind, id, _as_written(behind, shop.symbols.names[target]), lifetime_of(shop, target)
        )
        if insertion is None:
            raise ValueError(f"nothing can be defined behind `{behind.id}` as it is written")
        shop.new_ids[target] = id
        shop.draft.projects.change(behind.path, insertion, f"defines `{id}`")
        content = shop.draft.projects.content(behind.path)
    name = _qualified(shop, number, abstraction)
    asked_by_type = any(each.autowired for each in definitions_of(shop, number))
    if asked_by_type and abstraction.number != CONCRETE and not behind.path.endswith("beans.xml") and not _is_known(shop, name):
        if (insertion := with_alias(content, behind, name, id)) is not None:
            shop.draft.projects.change(behind.path, insertion, f"`{name}` is another name of `{id}`")
            shop.aliases.add(name)


def feed(shop: Workshop, proposal: Proposal, name: str) -> None:
    """Give the definitions of a class the argument that it takes from here on, where they name theirs one by one."""
    number = proposal.decision.source
    id = id_of(shop, proposal.decision.target)
    for each in definitions_of(shop, number):
        if each.autowired:
            continue
        now = as_it_stands(shop, each)
        insertion = with_argument(shop.draft.projects.content(now.path), now, id, name)
        if insertion is None:
            raise ValueError(f"`{each.id}` can't be given a further argument as it is written")
        shop.draft.projects.change(each.path, insertion, f"`{each.id}` is handed `{id}`")
    shop.fed.add((number, name))


def as_it_stands(shop: Workshop, definition: Definition) -> Definition:
    """A definition where it stands after the steps so far."""
    found, _ = read_definitions(definition.path, shop.draft.projects.content(definition.path))
    return next((each for each in found if (each.id, each.condition) == (definition.id, definition.condition)), definition)


def _is_known(shop: Workshop, name: str) -> bool:
    return name in shop.codebase.wiring.by_id or name in shop.aliases


def _qualified(shop: Workshop, number: int, abstraction: Abstraction) -> str:
    separator = shop.symbols.dialect(number).separator
    return f"{abstraction.home}{separator}{abstraction.name}" if abstraction.home else abstraction.name


def _as_written(behind: Definition, name: str) -> str:
    """A class as the definition file writes others: with or without a separator in front."""
    return f"\\{name}" if behind.type.startswith("\\") else name


def _new_id(shop: Workshop, behind: Definition, target: int) -> str:
    """An id for a class, after the pattern of another definition: the class itself, or its name in small letters behind the
    prefix that others have."""
    name = shop.name(target)
    if behind.id in (behind.type, behind.type.lstrip("\\")):
        return shop.symbols.names[target]
    prefix, dot, _ = behind.id.rpartition(".")
    known = shop.codebase.wiring.by_id
    own = variable_name(name, set(), snake=bool(dot) or "_" in behind.id)
    return next(each for each in (f"{prefix}{dot}{own}", shop.symbols.names[target]) if each not in known)
