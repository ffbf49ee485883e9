"""What has to be there before something can be injected into a class: an interface, an adapter, a registration."""

from __future__ import annotations

import msgspec

from isodesm.planning.containers.definition_files import definitions_of
from isodesm.planning.containers.registration_edits import is_served, knows, makes, registration_for
from isodesm.planning.model.abstraction import NEW
from isodesm.planning.model.gateways import DataHolder, ExternalGateway, FactoryInterface, StaticGateway
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.model.step import TechniqueName, step_id
from isodesm.planning.planner.planning import Planning
from isodesm.planning.techniques.extract_interface.interface import interface_id, plan_interface
from isodesm.planning.techniques.give_instance.wrap import gateway_id, plan_gateway
from isodesm.planning.techniques.introduce_factory.factory_interface import factory_id, plan_factory_interface
from isodesm.planning.techniques.move_effect_out.data import holder_id, plan_holder
from isodesm.planning.techniques.move_effect_out.effect import external_gateway_id, plan_external_gateway
from isodesm.planning.techniques.register import TOLD, plan_definition, plan_registration


def write_types(planning: Planning, proposal: Proposal) -> tuple[str, ...]:
    """The steps that write what a proposal asks for, planned where they are not yet; their ids."""
    gateway = proposal.gateway
    if isinstance(gateway, FactoryInterface):
        return (*_extract(planning, proposal), _beside(planning, gateway))
    if isinstance(gateway, StaticGateway):
        return _adapter(planning, gateway, proposal.decision.target)
    return _extract(planning, proposal) if gateway is None else (_beside(planning, gateway),)


def _extract(planning: Planning, proposal: Proposal) -> tuple[str, ...]:
    """The step that an abstraction has to be written in first."""
    abstraction, decision, context = proposal.abstraction, proposal.decision, planning.context
    if abstraction is None or (abstraction.number != NEW and not abstraction.lacks):
        return ()
    known = decision.target in context.state.interfaces
    if not known and planning.is_wanted(interface_id(context, decision.target, abstraction)):
        planning.add(plan_interface(context, decision.target, decision.source, abstraction))
    name = context.symbols.names[decision.target]
    extracting = (each for each in planning.steps if each.technique == TechniqueName.EXTRACT_INTERFACE)
    return tuple(each.id for each in extracting if each.classes[0] == name)


def _beside(planning: Planning, gateway: ExternalGateway | DataHolder | FactoryInterface) -> str:
    """The step that writes something beside a class; its id."""
    context = planning.context
    if isinstance(gateway, ExternalGateway):
        id = external_gateway_id(context, gateway)
    else:
        id = holder_id(context, gateway) if isinstance(gateway, DataHolder) else factory_id(context, gateway)
    if (gateway.number, gateway.effect) in context.state.beside or not planning.is_wanted(id):
        return id
    if isinstance(gateway, ExternalGateway):
        planning.add(plan_external_gateway(context, gateway))
    elif isinstance(gateway, DataHolder):
        planning.add(plan_holder(context, gateway))
    else:
        planning.add(plan_factory_interface(context, gateway))
    return id


def _adapter(planning: Planning, gateway: StaticGateway, target: int) -> tuple[str, ...]:
    """The step that puts an adapter in the place of a static class."""
    if gateway.existing >= 0:
        return ()
    id = gateway_id(planning.context, target)
    if target not in planning.context.state.adapters and planning.is_wanted(id):
        planning.add(plan_gateway(planning.context, target, gateway))
    return (id,) if target in planning.context.state.adapters else ()


def register(planning: Planning, proposal: Proposal) -> tuple[str, ...]:
    """The step by which the container that creates a class learns what it shall inject; its id."""
    context, abstraction, decision = planning.context, proposal.abstraction, proposal.decision
    target, source = decision.target, decision.source
    if abstraction is None or not makes(context, source) or not knows(context, proposal):
        return ()
    planned = None
    if definitions_of(context, source):
        planned = plan_definition(context, proposal)
    elif not is_served(context, abstraction, target, source):
        edit = registration_for(context, proposal)
        planned = plan_registration(context, edit, abstraction) if edit is not None else None
    if planned is not None:
        name = context.symbols.names[planned.classes[0]]
        extracting = (each for each in planning.steps if each.technique == TechniqueName.EXTRACT_INTERFACE)
        needs = tuple(each.id for each in extracting if each.classes[0] == name)
        return (planning.add(msgspec.structs.replace(planned, id=planning.unused(planned.id)), needs),)
    known = step_id(TOLD, context.symbols.names[target])
    return (known,) if any(each.id == known for each in planning.steps) else ()
