"""register: the composition root hands a class what it takes, so that its old constructor loses its last production caller."""

from __future__ import annotations

from isodesm.planning.analysis.creators import Creator
from isodesm.planning.analysis.visibility import hides
from isodesm.planning.containers.definition_files import define_service
from isodesm.planning.containers.registration_edits import RegistrationEdit
from isodesm.planning.model.abstraction import Abstraction
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.model.step import PlannedStep, StepText, TechniqueName, step_id
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.lifetimes import lifetime_of
from isodesm.planning.state.recorder import Changes, record
from isodesm.planning.wording import steps as wording

NAME = TechniqueName.REGISTER
TOLD = "tell-container"
"""What ids of steps begin with that tell a container of a class."""


def plan_wiring(context: PlanContext, number: int) -> PlannedStep | None:
    """The step that lets every composition root which creates a class inject all that it takes by now; None where none
    creates it."""
    roots = [each for each in context.sources.creators.get(number, ()) if each.root]
    behind = [each for each in _made_below(context, number) if each not in context.state.wired]
    if not roots or not _may_wire(context, number, behind, roots):
        return None
    numbers = (number, *behind)
    files = {file for each in numbers for other in context.draft.made_from(each) for file in context.draft.files_of(other)}

    def apply() -> None:
        context.state = context.state.with_wired(*numbers)

    changes = record(context, files, apply)
    if not changes.edits:
        return None
    given = context.state.dependencies_of(number)
    names = sorted({context.name(each.source) for each in roots})
    created = {each.default.creates for each in given if each.default.creates >= 0}
    lives = {context.name(each): lifetime_of(context, each) for each in created}
    below = [context.name(each) for each in behind]
    return PlannedStep(
        technique=NAME,
        id=step_id(NAME, context.symbols.names[number]),
        about=number,
        follows=number,
        classes=(*numbers, *sorted({each.source for each in roots})[:1]),
        text=wording.wired(
            context.name(number),
            names,
            below,
            _shared(context, number),
            overloads=context.sources.language(number).overloads,
        ),
        edits=tuple(changes.edits),
        code=tuple(changes.code),
        added=tuple(f"{names[0]} → {each.name}" for each in given),
        lifetime=", ".join(f"{name} {lives[name]}" for name in sorted(lives)),
        layer_of=roots[0].source,
    )


def _may_wire(context: PlanContext, number: int, behind: list[int], roots: list[Creator]) -> bool:
    """Whether composition roots can name all that a class takes, and what that creates in turn, and do not do so yet."""
    state, sources = context.state, context.sources
    if not state.dependencies_of(number) or (number in state.wired and not behind) or number in state.out_of_reach:
        return False
    if sources.has_several_constructors(number) or context.draft.arguments.depends(number):
        return False
    texts = [text for one in (number, *behind) for text in _supplied(context, one)]
    return not any(hides(sources, each.source, text) for each in roots for text in texts)


def _supplied(context: PlanContext, number: int) -> list[str]:
    """What stands for all that a class is handed."""
    return [each.default.text for each in context.state.dependencies_of(number)]


def plan_registration(context: PlanContext, registration: RegistrationEdit, abstraction: Abstraction) -> PlannedStep:
    """The step that registers a class in the container in use, before another takes it. Nothing else changes yet."""
    target = registration.target

    def apply() -> None:
        context.state = context.state.with_registered(target)
        registration.write(context)

    changes = record(context, registration.files, apply)
    text = wording.registered(context.name(target), abstraction.name, like=registration.like)
    return _known_to_container(context, target, text, changes, registration.lifetime)


def _known_to_container(context: PlanContext, target: int, text: StepText, changes: Changes, lifetime: str) -> PlannedStep:
    return PlannedStep(
        technique=NAME,
        id=step_id(TOLD, context.symbols.names[target]),
        about=target,
        classes=(target,),
        text=text,
        edits=tuple(changes.edits),
        code=tuple(changes.code),
        added=(f"container → {context.name(target)}",),
        lifetime=lifetime,
    )


def plan_definition(context: PlanContext, proposal: Proposal) -> PlannedStep | None:
    """The step that defines what a class is to take, and the name of its interface, in the container's own files; None where
    they know both."""
    target, abstraction = proposal.decision.target, proposal.abstraction
    assert abstraction is not None
    changes = record(context, [], lambda: define_service(context, proposal))
    if not changes.edits:
        return None
    text = wording.defined(context.name(target), abstraction.name)
    return _known_to_container(context, target, text, changes, lifetime_of(context, target))


def _made_below(context: PlanContext, number: int) -> list[int]:
    """Classes that what a class is handed makes in turn, and that take something themselves by now."""
    found: list[int] = []
    waiting = [number]
    while waiting:
        made = [each for given in context.state.dependencies_of(waiting.pop()) for each in given.default.makes]
        for target in made:
            if (
                target not in found
                and context.state.dependencies_of(target)
                and target not in context.state.out_of_reach
                and not context.sources.has_several_constructors(target)
                and not context.draft.arguments.depends(target, texts=_supplied(context, number))
            ):
                found.append(target)
                waiting.append(target)
    return found


def _shared(context: PlanContext, number: int) -> tuple[str, ...]:
    """What several classes are handed an object of their own of, though it could be one for all."""
    found = []
    for given in context.state.dependencies_of(number):
        target = given.default.creates
        others = {
            each
            for each, handed in context.state.dependencies.items()
            if each != number and any(one.default.creates == target for one in handed)
        }
        if target >= 0 and others and lifetime_of(context, target) == "singleton":
            names = sorted(context.name(each) for each in others)
            found.append(wording.could_be_shared(context.name(target), context.name(number), names))
    return tuple(found)
