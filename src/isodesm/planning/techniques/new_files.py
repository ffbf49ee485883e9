"""The step that writes new files beside a class, so that later steps can use what is in them. Nothing that is there changes."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from isodesm.planning.model.step import Balance, Edit, Step
from isodesm.planning.planner.projection import Projection
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.recorder import Recorder


def plan_new_files(
    context: PlanContext,
    recorder: Recorder,
    state: Projection,
    number: int,
    write: Callable[[], None],
    *,
    id: str,
    technique: str,
    title: str,
    why: str,
    named: Mapping[str, str],
    hazards: tuple[str, ...] = (),
    bonds: tuple[str, ...] = (),
) -> Step:
    """The step in which `write` puts new files into the draft; `named` has the types in them by path, `bonds` those added."""
    measures = state.measures(number)
    edits, code = recorder.change([], write)
    edits = tuple(Edit(e.file, e.line, f"new file: `{named[e.file]}`", text=e.text, new=True) if e.new else e for e in edits)
    return Step(
        number=0,
        id=id,
        technique=technique,
        title=title,
        classes=(context.symbols.names[number],),
        layer=context.codebase.layers.name(number),
        why_now=why,
        edits=edits,
        code=code,
        frees=(),
        hazards=hazards,
        check="The code compiles; nothing behaves differently.",
        balance=Balance((), bonds),
        before=measures,
        after=measures,
    )
