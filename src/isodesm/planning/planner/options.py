"""What narrows or shapes a plan."""

from __future__ import annotations

import msgspec


class Options(msgspec.Struct, frozen=True):
    """What narrows or shapes a plan.

    At most `steps` steps (0: all), for the classes in `focus` only where it names any; of `techniques` only, with what those
    need; no further than `until` that much strain; with `all_members` interfaces have every public member; with
    `no_new_abstractions` classes ask for each other as they are. Of `earlier` steps, by their ids, it says which are done.
    """

    steps: int = 0
    focus: frozenset[int] = frozenset()
    techniques: frozenset[str] = frozenset()
    until: float | None = None
    all_members: bool = False
    no_new_abstractions: bool = False
    earlier: frozenset[str] = frozenset()
    only: frozenset[str] = frozenset()
    """Ids of the only steps that are wanted, where it names any."""
    without: frozenset[str] = frozenset()
    """Ids of steps that are not taken, nor what needs them."""
    red: tuple[tuple[str, str], ...] = ()
    """Ids of steps that turned a build red, which are not taken either, with what that said."""
    whole: bool = False
    """No steps with places that only a person can change."""
    goal: frozenset[int] = frozenset()
    """Classes that shall be testable alone: nothing is planned that this does not need."""
    production: bool = False
    """With a goal, whether callers and composition roots are told, too, and old constructors go."""
    pairs: frozenset[tuple[int, int]] = frozenset()
    """(class, target) of the only decisions that are taken on, where it names any."""
    stages: int = 0
    """Of a plan in stages so many at most (0: as many as there are)."""
    settle: bool = True
    """Whether measures are held against a scan of the tree as the steps would leave it."""

    @property
    def for_some(self) -> bool:
        """Whether the plan is for some classes or bonds, and does nothing that these do not need."""
        return bool(self.goal or self.pairs)
