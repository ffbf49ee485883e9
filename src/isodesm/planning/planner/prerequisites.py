"""What has to be there before a class can be handed something: an interface, a gateway, a word to the container."""

from __future__ import annotations

from typing import Any

import msgspec

from isodesm.planning.containers.definition_files import definitions_of
from isodesm.planning.containers.registration_edits import is_served, knows, makes, tell
from isodesm.planning.model.abstraction import NEW
from isodesm.planning.model.gateways import DataHolder, ExternalGateway, FactoryInterface, StaticGateway
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.model.step import step_id
from isodesm.planning.planner.final_phase import Finishing
from isodesm.planning.techniques.extract_interface.interface import interface_id, plan_interface
from isodesm.planning.techniques.give_instance.wrap import gateway_id, plan_gateway
from isodesm.planning.techniques.introduce_factory.factory_interface import maker_id, plan_maker_of
from isodesm.planning.techniques.move_effect_out.data import holder_id, plan_holder
from isodesm.planning.techniques.move_effect_out.effect import around_id, plan_around
from isodesm.planning.techniques.register import TOLD, plan_defining, plan_telling

_BESIDE: dict[type, tuple[Any, Any]] = {
    ExternalGateway: (around_id, plan_around),
    DataHolder: (holder_id, plan_holder),
    FactoryInterface: (maker_id, plan_maker_of),
}
"""What is written beside a class to the id of the step that writes it, and that step."""


class Preparing(Finishing):
    """The steps that go before one that hands something in."""

    def _unused(self, wanted: str) -> str:
        raise NotImplementedError

    def _extract(self, proposal: Proposal) -> tuple[str, ...]:
        """The step that an abstraction has to be written in first, planned if it is not yet; its id."""
        abstraction, decision = proposal.abstraction, proposal.decision
        if isinstance(proposal.gateway, FactoryInterface):
            needs = self._extract(msgspec.structs.replace(proposal, gateway=None))
            return (*needs, *self._put_beside(proposal.gateway))
        if isinstance(proposal.gateway, DataHolder | ExternalGateway):
            return self._put_beside(proposal.gateway)
        if proposal.gateway is not None:
            return self._give_instance(proposal.gateway, decision.target)
        if abstraction is None or (abstraction.number != NEW and not abstraction.lacks):
            return ()
        if decision.target not in self.shop.extracted and self._is_wanted(
            interface_id(self.shop, decision.target, abstraction)
        ):
            self.steps.append(
                plan_interface(self.shop, self.recorder, self.state, decision.target, decision.source, abstraction)
            )
        name = self.codebase.symbols.names[decision.target]
        return tuple(step.id for step in self.steps if step.technique == "extract-interface" and step.classes[0] == name)

    def _put_beside(self, gateway: ExternalGateway | DataHolder | FactoryInterface) -> tuple[str, ...]:
        """The step that puts a gateway around what a class calls outside, keeps its data, or makes it; its id."""
        wanted, make = _BESIDE[type(gateway)]
        if (gateway.number, gateway.effect) not in self.shop.around and self._is_wanted(wanted(self.shop, gateway)):
            self.steps.append(make(self.shop, self.recorder, self.state, gateway))
        return (wanted(self.shop, gateway),)

    def _give_instance(self, gateway: StaticGateway, target: int) -> tuple[str, ...]:
        """The step that puts an object in the place of a static class, planned if it is not yet; its id."""
        if gateway.standing >= 0:
            return ()
        wanted = gateway_id(self.shop, target)
        if target not in self.shop.gateways and self._is_wanted(wanted):
            self.steps.append(plan_gateway(self.shop, self.recorder, self.state, target, gateway))
        return (wanted,) if target in self.shop.gateways else ()

    def _tell(self, proposal: Proposal) -> tuple[str, ...]:
        """The step by which the container that makes a class is told of what it shall hand in; its id."""
        abstraction, target = proposal.abstraction, proposal.decision.target
        if abstraction is None or not makes(self.shop, proposal.decision.source) or not knows(self.shop, proposal):
            return ()
        step = None
        if definitions_of(self.shop, proposal.decision.source):
            step = plan_defining(self.shop, self.recorder, self.state, proposal)
        elif (
            not is_served(self.shop, abstraction, target, proposal.decision.source)
            and (telling := tell(self.shop, abstraction, target, proposal.decision.source)) is not None
        ):
            step = plan_telling(self.shop, self.recorder, self.state, telling, abstraction)
        if step is not None:
            own = tuple(
                each.id for each in self.steps if each.technique == "extract-interface" and each.classes[0] == step.classes[0]
            )
            self.steps.append(msgspec.structs.replace(step, id=self._unused(step.id), needs=own))
            return (self.steps[-1].id,)
        told = step_id(TOLD, self.codebase.symbols.names[target])
        return (told,) if any(each.id == told for each in self.steps) else ()
