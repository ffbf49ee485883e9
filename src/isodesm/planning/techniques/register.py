"""register: the composition root hands a class what it takes, so that its old constructor loses its last production caller."""

from __future__ import annotations

from isodesm.planning.analysis.visibility import hides
from isodesm.planning.containers.definition_files import telling
from isodesm.planning.containers.registration_edits import RegistrationEdit
from isodesm.planning.model.abstraction import Abstraction
from isodesm.planning.model.proposal import Proposal
from isodesm.planning.model.step import Balance, Step, step_id
from isodesm.planning.planner.projection import Projection
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.lifetimes import lifetime_of
from isodesm.planning.state.recorder import Recorder

NAME = "register"
TOLD = "tell-container"
"""What ids of steps begin with that tell a container of a class."""


def plan_registration(context: PlanContext, recorder: Recorder, state: Projection, number: int) -> Step | None:
    """The step that lets every composition root which makes a class hand it all that it takes by now; None where none makes
    it."""
    draft = context.draft
    roots = [each for each in context.creators.get(number, ()) if each.root]
    handed = draft.handed.get(number, ())
    behind = [each for each in _made_below(context, number) if each not in draft.wired]
    if (
        not roots
        or not handed
        or number in context.unseen
        or draft.has_several_constructors(number)
        or draft.depends(number)
        or (number in draft.wired and not behind)
        or any(
            hides(context, each.source, text) for each in roots for one in (number, *behind) for text in _supplied(context, one)
        )
    ):
        return None

    def apply() -> None:
        draft.wired.update((number, *behind))

    files = {file for each in (number, *behind) for other in draft.made_from(each) for file in draft.files_of(other)}
    edits, code = recorder.change(files, apply)
    if not edits:
        return None
    names = sorted({context.name(each.source) for each in roots})
    lives = {
        context.name(each.supply.creates): lifetime_of(context, each.supply.creates)
        for each in handed
        if each.supply.creates >= 0
    }
    measures = state.measures(number)
    below = f", and with it {', '.join(context.name(each) for each in behind)}" if behind else ""
    return Step(
        number=0,
        id=step_id(NAME, context.symbols.names[number]),
        technique=NAME,
        title=f"Wire {context.name(number)} in {', '.join(names[:2])}",
        classes=(
            context.symbols.names[number],
            *(context.symbols.names[each] for each in (*behind, *sorted({each.source for each in roots})[:1])),
        ),
        layer=context.codebase.layers.name(roots[0].source),
        why_now=f"`{names[0]}` is where objects are put together: one place shows what `{context.name(number)}` runs with{below}, "
        "and the old constructors lose their last production caller.",
        edits=edits,
        code=code,
        frees=(),
        hazards=_shared(context, number),
        check="The program starts and does what it did.",
        balance=Balance((), tuple(f"{names[0]} → {each.name}" for each in handed)),
        before=measures,
        after=measures,
        lifetime=", ".join(f"{name} {lives[name]}" for name in sorted(lives)),
    )


def _supplied(context: PlanContext, number: int) -> list[str]:
    """What stands for all that a class is handed."""
    return [each.supply.text for each in context.draft.handed.get(number, ())]


def plan_telling(
    context: PlanContext, recorder: Recorder, state: Projection, telling: RegistrationEdit, abstraction: Abstraction
) -> Step:
    """The step that tells the container in use of a class, before another takes it. Nothing else changes yet."""
    name, measures = context.name(telling.target), state.measures(telling.target)

    def apply() -> None:
        context.told.add(telling.target)
        telling.write(context.draft)

    edits, code = recorder.change(telling.files, apply)
    return Step(
        number=0,
        id=step_id(TOLD, context.symbols.names[telling.target]),
        technique=NAME,
        title=f"Register {name} in the container",
        classes=(context.symbols.names[telling.target],),
        layer=context.codebase.layers.name(telling.target),
        why_now=f"The container has to have `{name}` before it can hand it in as `{abstraction.name}`; it is told as it "
        f"is told of others here.",
        edits=edits,
        code=code,
        frees=(),
        hazards=(),
        check="The program starts; `isodesm wiring` shows the registration.",
        balance=Balance((), (f"container → {name}",)),
        before=measures,
        after=measures,
        lifetime=telling.lifetime,
    )


def plan_defining(context: PlanContext, recorder: Recorder, state: Projection, proposal: Proposal) -> Step | None:
    """The step that defines what a class is to take, and the name of its interface, in the container's own files; None where
    they know both."""
    target, abstraction = proposal.decision.target, proposal.abstraction
    assert abstraction is not None
    name, measures = context.name(target), state.measures(target)
    edits, code = recorder.change([], lambda: _define(context, proposal))
    if not edits:
        return None
    return Step(
        number=0,
        id=step_id(TOLD, context.symbols.names[target]),
        technique=NAME,
        title=f"Define {name} for the container",
        classes=(context.symbols.names[target],),
        layer=context.codebase.layers.name(target),
        why_now=f"The container finds what it hands in by its definitions: it has to have `{abstraction.name}` there before a "
        "constructor asks for it.",
        edits=edits,
        code=code,
        frees=(),
        hazards=(),
        check="The program starts; `isodesm wiring` shows the definition.",
        balance=Balance((), (f"container → {name}",)),
        before=measures,
        after=measures,
        lifetime=lifetime_of(context, target),
    )


def _define(context: PlanContext, proposal: Proposal) -> None:
    telling(context, proposal)


def _made_below(context: PlanContext, number: int) -> list[int]:
    """Classes that what a class is handed makes in turn, and that take something themselves by now."""
    found: list[int] = []
    waiting = [number]
    while waiting:
        made = [each for given in context.draft.handed.get(waiting.pop(), ()) for each in given.supply.makes]
        for target in made:
            if (
                target not in found
                and context.draft.handed.get(target)
                and target not in context.unseen
                and not context.draft.has_several_constructors(target)
                and not context.draft.depends(target, texts=_supplied(context, number))
            ):
                found.append(target)
                waiting.append(target)
    return found


def _shared(context: PlanContext, number: int) -> tuple[str, ...]:
    """What several classes are handed an object of their own of, though it could be one for all."""
    found = []
    for given in context.draft.handed.get(number, ()):
        target = given.supply.creates
        others = {
            each
            for each, handed in context.draft.handed.items()
            if each != number and any(one.supply.creates == target for one in handed)
        }
        if target >= 0 and others and lifetime_of(context, target) == "singleton":
            names = ", ".join(sorted(context.name(each) for each in others))
            found.append(
                f"`{context.name(target)}` could be one object for {context.name(number)} and {names}: as before, each gets its own"
            )
    return tuple(found)
