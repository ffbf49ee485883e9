"""A dependency that a class takes through its constructor, as a draft keeps it."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

import msgspec

from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import Need, Typed

VALUE = "\0value\0"
"""In the text of an amendment: what the constructor keeps, be it the parameter or what stands for it."""


class DefaultExpression(msgspec.Struct, frozen=True):
    """What stands for a dependency where nobody hands one in: an expression of a file, or a text.

    `creates` is the class that the expression makes (-1: none), which may itself be handed things by then; `makes` are all that
    it makes, those on the way and those that a function makes included. `depends` are parameters of the constructor that it
    names.
    """

    text: str
    file: int
    creates: int = -1
    needs: tuple[Need, ...] = ()
    depends: bool = False
    makes: tuple[int, ...] = ()
    arity: int = -1
    """How many arguments the constructor takes that the text refers to as a function; -1 where it refers to none."""


class Dependency(msgspec.Struct, frozen=True):
    """One dependency that a class takes through its constructor, and what becomes of the places that decided on it."""

    owner: int
    name: str
    typed: Typed
    default: DefaultExpression
    places: tuple[Amendment, ...]
    kept: bool
    """Whether it is needed beyond the constructor, so that a field holds it."""
    declared: bool
    """Whether the class has that field already."""
    assigned: bool
    """Whether the constructor fills it already."""
    elsewhere: tuple[tuple[int, Amendment], ...] = ()
    """What becomes of places in other parts of the class, by their files."""
    place_needs: tuple[Need, ...] = ()
    """What the file of the class must know to name the type of what its places get."""
    value_needs: tuple[Need, ...] = ()
    """What those files must know to name the type of what they get."""
    optional: bool = False
    """Whether callers may leave it out, for the old constructor or a default supplies it."""


class Token(NamedTuple):
    """A name for what is of some type, the marks in front of the parameter that go by it, whether the container hands in
    null where it has nothing of that name, and whether the marks stay when the parameter can't be left out any more."""

    name: str
    type: str
    annotations: str
    null: bool
    needs: tuple[Need, ...]
    stays: bool = False


class Forwarding(msgspec.Struct, frozen=True):
    """A creation in a class (`owner`), by bond (`row`), file and site, that passes on what the owner is handed itself.

    Of what has a name in `fetched` the creation passes what stands for it, as the old constructor did; of what has one in
    `written` the code there.
    """

    owner: int
    row: int
    file: int
    site: int
    fetched: frozenset[str] = frozenset()
    written: dict[str, str] = {}


def twin_of(given: Dependency, others: Iterable[Dependency]) -> Dependency | None:
    """What stands for the same as a dependency among others; None where nothing does."""
    key = (given.typed, given.default.text, given.default.creates)
    return next((each for each in others if (each.typed, each.default.text, each.default.creates) == key), None)
