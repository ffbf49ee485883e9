"""What steps are for: classes that a test can have alone, and the stages of a plan by which they become so."""

from __future__ import annotations

import msgspec

from isodesm.measures.testable import Obstacle


class Goal(msgspec.Struct, frozen=True):
    """A class that shall be testable alone: what its tests gain, what stands in their way now, and what still does after so
    many steps in so many files, as a scan of the tree after them finds it."""

    name: str
    file: str
    line: int
    branches: int
    before: tuple[Obstacle, ...]
    after: tuple[Obstacle, ...]
    steps: int
    files: int
    said: str
    """The same as one sentence."""
    made_by: str = ""
    """How a test creates it then: its constructor with what it takes."""


class Stage(msgspec.Struct, frozen=True):
    """Steps of a plan that belong together, the `first` to the `last`, and what is possible after them, as a scan of the tree
    then finds it.

    `classes` become testable alone; they have so many branches, and their files were in so many commits; so many other classes
    use them. A stage without classes hands many of one folder what they asked for by themselves, or holds what is left.
    """

    number: int
    said: str
    classes: tuple[str, ...]
    branches: int
    commits: int
    users: int
    first: int
    last: int
    files: int
    strain: tuple[float, float]
    hard_bonds: tuple[int, int]
    keeps: tuple[str, ...] = ()
    """Classes of these that production still makes by an old constructor, or a default."""
