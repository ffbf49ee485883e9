"""One registration."""

from __future__ import annotations

import msgspec


class Registration(msgspec.Struct, frozen=True, omit_defaults=True):
    """One statement that tells a container what serves what, and for how long.

    `abstraction` and `implementation` are qualified names ('' where none is named), `lifetime` is `singleton`, `scoped`,
    `transient` or '' where nothing says so. `how`: `call`, `annotation`, `method`, `metadata`, `entry` (of an array, an
    object or the members of a class), `rule`, `definition`. `scope` is the class, module or file that holds the
    registration, where it holds for a part only. `id` is a key that is no type. An `alias` stands for what its
    implementation is registered as, and lives as long as that.
    """

    abstraction: str
    implementation: str
    lifetime: str
    how: str
    file: str
    line: int
    column: int
    scope: str = ""
    id: str = ""
    factory: bool = False
    arguments: tuple[str, ...] = ()
    alias: bool = False
    family: str = ""
    """The family of containers, as the catalogue names it."""
    order: str = ""
    """What it does where there is one already: `first` gives way, `list` is added, `replaces` and '' take its place."""
    condition: str = ""
    """Under which it holds, as written; '' for always."""
    made: tuple[str, ...] = ()
    """All classes that a factory may make, where there are several."""
    only_for: str = ""
    """The class that is handed this one, where others are handed another."""
    proxied: bool = False
    """Whether a stand-in is handed in, which finds the right object at each call."""
    wraps: bool = False
    """Whether the implementation is put around what serves the abstraction otherwise."""
    rule: str = ""
    """The rule that a registration follows from."""
    within: int = 0
    """The line of the function that holds the call, 0 outside all."""
    hands: tuple[tuple[str, str], ...] | None = None
    """What it hands to the constructor, where nothing else is: a parameter by its name, or by its number from 0 on, with the
    id or the class of what is registered; '' for a value."""
