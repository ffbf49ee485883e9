"""Whether a container can create a class."""

from __future__ import annotations

from isodesm.planning.state.context import PlanContext


def can_be_made(context: PlanContext, target: int) -> bool:
    """Whether a container can make a class: it takes nothing, or only what is served."""
    constructor = context.sources.constructor(target)
    if context.state.dependencies_of(target):
        return False
    wiring = context.codebase.wiring
    return (
        constructor is None
        or all(wiring.serving(each) for each in wiring.injections.of_constructor(target))
        and len(constructor.parameters) == len(wiring.injections.of_constructor(target))
    )
