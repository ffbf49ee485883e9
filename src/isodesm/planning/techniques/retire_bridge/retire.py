"""retire-bridge: the old constructor goes when nobody calls it any more."""

from __future__ import annotations

from isodesm.planning.analysis.callers import has_default_fields
from isodesm.planning.analysis.creators import Creator
from isodesm.planning.analysis.visibility import hides, is_hidden_from, is_named_elsewhere
from isodesm.planning.containers.registration_edits import makes
from isodesm.planning.model.refusal import Reason, Refusal
from isodesm.planning.model.step import PlannedStep, TechniqueName, step_id
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.recorder import Changes, record
from isodesm.planning.techniques.lift_creation.forward import callers_above, callers_of, hidden_in, remaining_callers
from isodesm.planning.techniques.replace_lookup import remove_container_parameter
from isodesm.planning.wording import steps as wording

NAME = TechniqueName.RETIRE_BRIDGE


def plan_retirement(context: PlanContext, number: int) -> PlannedStep | None:
    """The step that takes the legacy constructor away; None while somebody may need it."""
    if not context.state.keeps_legacy(number) or why_kept(context, number):
        return None
    others = {file for owner in callers_above(context, number) for file in context.draft.files_of(owner)}

    def apply() -> None:
        context.state = context.state.with_retired(number)
        remove_container_parameter(context, number)

    changes = record(context, context.draft.files_of(number) | others, apply)
    return retirement(context, number, changes) if changes.edits else None


def retirement(context: PlanContext, number: int, changes: Changes) -> PlannedStep:
    """The step of which the changes are given."""
    return PlannedStep(
        technique=NAME,
        id=step_id(NAME, context.symbols.names[number]),
        about=number,
        follows=number,
        classes=(number,),
        text=wording.legacy_removed(context.name(number), overloads=context.sources.language(number).overloads),
        edits=tuple(changes.edits),
        code=tuple(changes.code),
    )


def why_kept(context: PlanContext, number: int, *, told: bool = False) -> Refusal | None:
    """Who still calls the legacy constructor of a class, so that it stays; None where nobody does, or where only its container
    does and will be `told` of all.

    Tests don't count, nor do legacy constructors of others: they can pass what this one creates.
    """
    if refusal := _of_container(context, number, told=told) or _of_class(context, number):
        return refusal
    if remaining_callers(context, number):
        found = callers_of(context, number)
        return found if isinstance(found, Refusal) else Refusal(Reason.CALLERS_DO_NOT_FORWARD)
    creators = context.sources.creators.get(number, ())
    if any(each.root for each in creators) and number not in context.state.wired:
        return Refusal(Reason.ROOT_CANT_NAME)
    if not context.sources.language(number).overloads and is_named_elsewhere(context.sources, number, all_pass=True):
        return Refusal(Reason.NAMED_ELSEWHERE)
    tests = [each for each in creators if each.test]
    return Refusal(Reason.CALLERS_CANT_NAME) if _is_out_of_reach(context, number, tests) else None


def _of_container(context: PlanContext, number: int, *, told: bool) -> Refusal | None:
    """Why a container, or nobody that is known, keeps a legacy constructor."""
    contained, state = makes(context, number), context.state
    unfed = [f"`{each.name}`" for each in state.dependencies_of(number) if (number, each.name) not in state.injected]
    if contained and unfed and not told:
        return Refusal(Reason.CONTAINER_NOT_TOLD, names=", ".join(unfed))
    creators = context.sources.creators.get(number, ())
    if not contained and all(each.test for each in creators):
        return Refusal(Reason.NOBODY_BUT_TESTS) if creators else Refusal(Reason.NOBODY)
    return None


def _of_class(context: PlanContext, number: int) -> Refusal | None:
    """Why the class itself, or one near it, keeps its legacy constructor."""
    if context.draft.arguments.depends(number, texts=_making(context, number)):
        return Refusal(Reason.ONLY_CLASS_KNOWS)
    factories = (each for maker in context.state.container_factories for each in context.state.dependencies_of(maker))
    if any(number in each.default.makes for each in factories):
        return Refusal(Reason.CONTAINER_FACTORY_CALLS)
    if context.sources.subclasses(number):
        return Refusal(Reason.SUBCLASSES_CALL)
    if context.sources.own_sites.get(number):  # then what it hands over by itself would be hard-wired once more
        return Refusal(Reason.OWN_ACCESSOR_CALLS)
    several = context.sources.has_several_constructors(number) or has_default_fields(context.sources, number)
    return Refusal(Reason.SEVERAL_WAYS_TO_CREATE) if several else None


def _making(context: PlanContext, number: int) -> list[str]:
    """What stands for things that others are handed, and makes a class on the way."""
    return [each.default.text for own in context.state.dependencies.values() for each in own if number in each.default.makes]


def _is_out_of_reach(context: PlanContext, number: int, tests: list[Creator]) -> bool:
    """Whether tests, or old constructors of others, can't pass on what a class takes."""
    makers = [
        each
        for owner, handed in context.state.dependencies.items()
        for each in handed
        if number in each.default.makes and owner not in context.state.retired
    ]
    roots = [
        each.source
        for owner in context.draft.made_from(number)
        for each in context.sources.creators.get(owner, ())
        if each.root
    ]
    told = [*(each.source for each in tests), *(each.owner for each in makers), *roots]
    given = context.state.dependencies_of(number)
    return (
        any(not _can_be_registered(context, each.default.text, number) for each in makers)
        or any(is_hidden_from(context.sources, told, each.default.creates) for each in given)
        or any(hidden_in(context, owner, each) for owner in _spelling_out(context, number) for each in given)
        or any(hides(context.sources, source, each.default.text) for source in told for each in given)
    )


def _spelling_out(context: PlanContext, number: int) -> list[int]:
    """The classes whose old constructors make a class somewhere in what stands for their dependencies, and so have to name what
    it takes once that has to be passed."""
    found, before = {number}, 0
    while len(found) > before:
        before = len(found)
        found |= {
            owner
            for owner, handed in context.state.dependencies.items()
            if any(found.intersection(each.default.makes) for each in handed)
        }
    return sorted(found - {number} - context.state.retired)


def _can_be_registered(context: PlanContext, text: str, number: int) -> bool:
    """Whether code that makes a class can pass more: it says what it passes, or refers to the one constructor there is."""
    alone = sum(1 for each in context.symbols.types[number].members if each.kind == "constructor") < 2
    return bool(context.sources.creations_in(text, number)) or ("::new" in text and alone)
