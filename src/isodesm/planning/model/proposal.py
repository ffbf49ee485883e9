"""What a technique proposes for a decision."""

from __future__ import annotations

from typing import Any

import msgspec

from isodesm.planning.model.abstraction import Abstraction
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import Typed
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.dependency import DefaultExpression
from isodesm.planning.model.refusal import Hazard

PASSING = "({arguments})"
"""What a use ends with that passes on what the place passed."""


class WantedDependency(msgspec.Struct, frozen=True):
    """What a technique wants handed in: its type, its name, what stands for it, and what a use of it is written as.

    `use` has `{field}` for what is handed in, and `{arguments}` for what the place passes. `concrete` is the class that fields
    and variables are declared with so far ('' to leave their types alone), `makes` the type of what a handed-in function makes.
    """

    typed: Typed
    name: str
    default: DefaultExpression
    use: str = "{field}"
    uses: dict[tuple[int, int], str] = {}
    """The same by the span of a place, where one use differs from the other."""
    heads: dict[tuple[int, int], int] = {}
    """How many bytes of a place give way, by its span, where the rest of it stays."""
    concrete: str = ""
    makes: Typed | None = None
    gone: tuple[Amendment, ...] = ()
    """What else becomes of the source: lines that only served what is handed in."""

    @property
    def value(self) -> Typed:
        """The type of what the places get."""
        return self.makes or self.typed


class Proposal(msgspec.Struct, frozen=True):
    """A dependency that a class shall take, before it is worked into the draft.

    `abstraction` is what it asks for, where that is a type of the tree or a new one; `bridge_only` says that only the class
    itself can supply it so far.
    """

    technique: str
    decision: Decision
    wanted: WantedDependency
    what: str
    """What the class is handed, for titles."""
    abstraction: Abstraction | None = None
    legacy_only: bool = False
    hazards: tuple[Hazard, ...] = ()
    gateway: Any = None
    """What a further step writes first: an adapter, a holder of data, or the interface of a factory."""
