"""replace-lookup: what is pulled out of a container or locator is handed in, and the composition root looks it up."""

from __future__ import annotations

from isodesm.planning.decisions import Decision
from isodesm.planning.drafting.handed import Supply
from isodesm.planning.techniques.proposal import ITSELF, SELF_WORDS, Proposal, as_abstraction, bound_names, expression
from isodesm.planning.workshop import Workshop

NAME = "replace-lookup"


def propose(shop: Workshop, decision: Decision) -> Proposal | str:
    """The thing looked up, under its abstraction."""
    if decision.target < 0 or decision.target in shop.codebase.locators:
        return "what it looks up has no type here: give the lookup one first"
    if decision.target in shop.codebase.roles.ancestors(decision.source):
        return ITSELF
    hidden = set().union(*(bound_names(shop, decision, place)[0] for place in decision.places)) - SELF_WORDS
    locator = [place for place in decision.places if _through_own_field(shop, decision, expression(shop, place))]
    if locator:
        return "it is looked up in a container that the class is handed: hand it in where the class is registered"
    if hidden or len({expression(shop, place) for place in decision.places}) > 1:
        return "what it looks up is worked out inside the class"
    first = decision.places[0]
    hazards = tuple(
        ["it is looked up when the object is made, no longer each time: it has to be registered by then"]
        if any(place.member is not None and place.member.kind == "method" for place in decision.places)
        else []
    )
    return as_abstraction(shop, decision, NAME, Supply(expression(shop, first), first.file), hazards=hazards)


def _through_own_field(shop: Workshop, decision: Decision, text: str) -> bool:
    """Whether a lookup goes through a member of the class."""
    head = text.removeprefix("this.").removeprefix("self.").removeprefix("$this->").split(".")[0].split("->")[0]
    return any(
        m.kind in ("field", "property") and not m.is_static and m.name == head
        for m in shop.symbols.types[decision.source].members
    )
