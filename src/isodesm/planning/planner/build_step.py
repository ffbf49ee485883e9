"""A step of a plan, from what a technique planned: its place, what it needs, and what it changes in the measures."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from isodesm.codebase.model import Codebase
from isodesm.planning.model.step import Balance, Measures, PlannedStep, Step, TechniqueName


def build_step(codebase: Codebase, planned: PlannedStep, before: Measures, after: Measures, needs: Iterable[str] = ()) -> Step:
    """The step; `needs` are ids of earlier steps beside those that it names itself."""
    names, text = codebase.symbols.names, planned.text
    classes = tuple(names[each] for each in planned.classes)
    return Step(
        number=0,
        id=planned.id,
        technique=planned.technique,
        title=text.title,
        classes=(*classes, *([planned.target] if planned.target else ())),
        layer=codebase.layers.name(planned.layer_of if planned.layer_of >= 0 else planned.about),
        why_now=text.why_now,
        edits=planned.edits,
        code=planned.code,
        frees=text.frees,
        hazards=text.hazards,
        check=text.check,
        balance=Balance(planned.removed, planned.added),
        before=before,
        after=after,
        needs=(*planned.needs, *needs),
        lifetime=planned.lifetime,
    )


def needs_for(steps: Sequence[Step], name: str) -> tuple[str, ...]:
    """Ids of the steps that something follows from: all that changed a class but the extraction of its interface."""
    return tuple(each.id for each in steps if name in each.classes and each.technique != TechniqueName.EXTRACT_INTERFACE)
