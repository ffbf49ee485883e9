"""What holds the files of a tree together: who loads whom, what is handed out, how classes are made. Kept from step to step."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

from isodesm.codebase.model import Codebase
from isodesm.planning.model.step import Written
from isodesm.planning.verification.arguments import Constructed
from isodesm.planning.verification.imports import HandedOut
from isodesm.planning.verification.loading import Loaded, first_loaded
from isodesm.planning.verification.proof import Objection
from isodesm.planning.verification.visible import ambiguous, hidden


class Linked(NamedTuple):
    """The tree as the steps so far leave it. A value."""

    codebase: Codebase
    loaded: Loaded
    texts: Mapping[str, Written]
    """Path of each file that was written to how it was written last."""

    def after(self, changed: Sequence[Written]) -> Linked:
        """With some files written."""
        return self._replace(loaded=self.loaded.after(changed), texts={**self.texts, **{each.path: each for each in changed}})

    def objections(self, changed: Sequence[Written]) -> Iterator[Objection]:
        """What speaks against writing some files, though each of them would do by itself."""
        yield from (Objection("imports", said) for said in HandedOut(self.codebase, self.texts).objections(changed))
        yield from (Objection("visibility", said) for said in hidden(self.codebase, changed))
        yield from (Objection("visibility", said) for said in ambiguous(self.codebase, changed))
        yield from (Objection("loading", said) for said in self.loaded.objections(changed))
        yield from (Objection("arguments", said) for said in Constructed(self.codebase, self.texts).objections(changed))


def linked(codebase: Codebase) -> Linked:
    """The tree as it is."""
    return Linked(codebase, first_loaded(codebase), {})
