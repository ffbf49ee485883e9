"""retire-bridge: the old constructor goes when nobody calls it any more."""

from __future__ import annotations

from isodesm.planning.drafting.making import Recorder
from isodesm.planning.projection import Projection
from isodesm.planning.steps import Balance, Step, step_id
from isodesm.planning.techniques.pass_on import left_makers
from isodesm.planning.visibility import hides, is_hidden_from
from isodesm.planning.workshop import Workshop

NAME = "retire-bridge"


def plan_retirement(shop: Workshop, recorder: Recorder, state: Projection, number: int) -> Step | None:
    """The step that takes the bridging constructor away; None while somebody may need it."""
    draft = shop.draft
    if number not in draft.bridged or number in draft.retired or _still_needed(shop, number):
        return None
    others = {
        file
        for owner, handed in draft.handed.items()
        for file in draft.files_of(owner)
        if any(number in each.supply.makes for each in handed)
    }
    edits, code = recorder.change(draft.files_of(number) | others, lambda: draft.retired.add(number))
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
    """Whether somebody calls the old constructor: another class, a subclass, or a host without arguments.

    Tests don't count, nor do old constructors of others: they can pass what this one makes.
    """
    draft, creators = shop.draft, shop.creators.get(number, ())
    roots, tests = [each for each in creators if each.root], [each for each in creators if each.test]
    makers = [
        each
        for owner, handed in draft.handed.items()
        for each in handed
        if number in each.supply.makes and owner not in draft.retired
    ]
    told = [*(each.source for each in tests), *(each.owner for each in makers)]
    return (
        len(tests) == len(creators)
        or (bool(roots) and number not in draft.wired)
        or shop.has_default_fields(number)
        or bool(left_makers(shop, number))
        or bool(shop.subclasses(number))
        or draft.has_several_constructors(number)
        or (not draft.writer(number).overloads and shop.is_named_elsewhere(number, all_pass=True))
        or any(not _can_be_told(shop, each.supply.text, number) for each in makers)
        or any(each.supply.depends for each in draft.handed[number])
        or any(is_hidden_from(shop, told, given.supply.creates) for given in draft.handed[number])
        or any(hides(shop, each, given.supply.text) for each in told for given in draft.handed[number])
    )


def _can_be_told(shop: Workshop, text: str, number: int) -> bool:
    """Whether code that makes a class can pass more: it says what it passes, or refers to the one constructor there is."""
    alone = sum(1 for each in shop.symbols.types[number].members if each.kind == "constructor") < 2
    return bool(shop.draft.creations_in(text, number)) or ("::new" in text and alone)
