"""A dependency that a class takes through its constructor, as a draft keeps it."""

from __future__ import annotations

import msgspec

from isodesm.planning.drafting.amendments import Amendment
from isodesm.planning.writing import Need, Typed

VALUE = "\0value\0"
"""In the text of an amendment: what the constructor keeps, be it the parameter or what stands for it."""


class Supply(msgspec.Struct, frozen=True):
    """What stands for a dependency where nobody hands one in: an expression of a file, or a text.

    `creates` is the class that the expression makes (-1: none), which may itself be handed things by then. `depends` are
    parameters of the constructor that it names.
    """

    text: str
    file: int
    creates: int = -1
    needs: tuple[Need, ...] = ()
    depends: bool = False


class Handed(msgspec.Struct, frozen=True):
    """One dependency that a class takes through its constructor, and what becomes of the places that decided on it."""

    owner: int
    name: str
    typed: Typed
    supply: Supply
    places: tuple[Amendment, ...]
    kept: bool
    """Whether it is needed beyond the constructor, so that a field holds it."""
    declared: bool
    """Whether the class has that field already."""
    assigned: bool
    """Whether the constructor fills it already."""
    elsewhere: tuple[tuple[int, Amendment], ...] = ()
    """What becomes of places in other parts of the class, by their files."""
    value_needs: tuple[Need, ...] = ()
    """What those files must know to name the type of what they get."""
    optional: bool = False
    """Whether callers may leave it out, for the old constructor or a default supplies it."""
