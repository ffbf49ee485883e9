"""Types that only their own assembly knows."""

from __future__ import annotations

from isodesm.planning.analysis.sources import Sources
from isodesm.planning.state.plan_state import PlanState


def is_internal(sources: Sources, state: PlanState, number: int, named: set[str]) -> bool:
    """Whether one of some names is that of a type which only its own assembly knows, in a language that has such."""
    if sources.language(number).types_hidden_within != "assembly":
        return False
    return not named.isdisjoint(state.internal_names) or any(
        "public" not in declared.modifiers.words and declared.outer < 0
        for declared in sources.symbols.types
        if declared.name in named and declared.kind != "part"
    )
