"""retire-bridge: the old constructor goes when nobody calls it any more."""

from __future__ import annotations

from isodesm.planning.drafting.making import Recorder
from isodesm.planning.projection import Projection
from isodesm.planning.steps import Balance, Step, step_id
from isodesm.planning.workshop import Workshop

NAME = "retire-bridge"


def plan_retirement(shop: Workshop, recorder: Recorder, state: Projection, number: int) -> Step | None:
    """The step that takes the bridging constructor away; None while somebody may need it."""
    draft = shop.draft
    if number not in draft.bridged or number in draft.retired or number not in draft.wired or _still_needed(shop, number):
        return None
    edits, code = recorder.change({*draft.files_of(number)}, lambda: draft.retired.add(number))
    if not edits:
        return None
    name = shop.name(number)
    measures = state.measures(number)
    what = "constructor" if draft.writer(number).overloads else "default"
    return Step(
        number=0,
        id=step_id(NAME, shop.symbols.names[number]),
        technique=NAME,
        title=f"Retire the old constructor of {name}",
        classes=(shop.symbols.names[number],),
        layer=shop.codebase.layers.name(number),
        why_now=f"Every place that makes `{name}` passes what it takes: the {what} that still names concrete classes "
        f"has no caller left.",
        edits=edits,
        code=code,
        frees=(f"`{name}` names none of the classes it works with any more",),
        hazards=("code outside this tree may call the old constructor",),
        check="The code compiles, which shows that nobody calls it.",
        balance=Balance((), ()),
        before=measures,
        after=measures,
    )


def _still_needed(shop: Workshop, number: int) -> bool:
    """Whether somebody calls the old constructor: another class, a test, a subclass, or a host without arguments."""
    creators = shop.creators.get(number, ())
    makers = {owner for owner, handed in shop.draft.handed.items() for each in handed if each.supply.creates == number}
    at_supply = {(place.file, place.site) for place in creators if place.source in makers}
    left = [each for each in creators if not each.root and (each.file, each.site) not in at_supply]
    unretired = [each for each in makers if each in shop.draft.bridged and each not in shop.draft.retired]
    return (
        not creators
        or shop.has_default_fields(number)
        or bool(left)
        or bool(shop.subclasses(number))
        or (not shop.draft.writer(number).overloads and shop.is_named_elsewhere(number))
        or bool(unretired)
        or any(each.supply.depends for each in shop.draft.handed[number])
    )
