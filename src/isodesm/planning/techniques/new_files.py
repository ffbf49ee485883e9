"""The step that writes new files beside a class, so that later steps can use what is in them. Nothing that is there changes."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from isodesm.planning.model.step import Edit, PlannedStep, StepText
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.recorder import record


def new_files(
    context: PlanContext,
    number: int,
    id: str,
    technique: str,
    text: StepText,
    named: Mapping[str, str],
    write: Callable[[], None],
) -> PlannedStep:
    """The step in which `write` puts new files into the state; `named` has the types in them by path."""
    changes = record(context, [], write)
    return PlannedStep(
        technique=technique,
        id=id,
        about=number,
        classes=(number,),
        text=text,
        edits=tuple(said_by_names(changes.edits, named)),
        code=tuple(changes.code),
    )


def said_by_names(edits: list[Edit], named: Mapping[str, str]) -> list[Edit]:
    """Edits, those of new files said by the names of the types in them."""
    return [
        Edit(each.file, each.line, f"new file: `{named[each.file]}`", text=each.text, new=True) if each.new else each
        for each in edits
    ]
