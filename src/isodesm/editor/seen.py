"""A state of the code that an editor shows, and what is worked out of it."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property, lru_cache, wraps
from typing import Any

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.diagnose import diagnose
from isodesm.diagnosis.hard_bonds.usage import Usage
from isodesm.diagnosis.shared.findings import Diagnosis
from isodesm.editor.text import Lines
from isodesm.measures.strain import Strain, measure_strain


class Seen:
    """A state of the code, and what is worked out of it, each thing once."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase = codebase
        self.lines: Callable[[int], Lines] = lru_cache(maxsize=256)(lambda file: Lines(codebase.text(file)))
        self.numbers = {facts.path: number for number, facts in enumerate(codebase.symbols.files)}

    @cached_property
    def diagnosis(self) -> Diagnosis:
        """All findings."""
        return diagnose(self.codebase, usage=self.usage)

    @cached_property
    def usage(self) -> Usage:
        """Who makes and uses what, as judging asks it."""
        return Usage(self.codebase)

    @property
    def is_judged(self) -> bool:
        """Whether the findings are there."""
        return "diagnosis" in self.__dict__

    @cached_property
    def strain(self) -> dict[int, Strain]:
        """Strain by class."""
        return measure_strain(self.diagnosis.hard, self.codebase.settings.strain)


def once(function: Callable[..., Any]) -> Callable[..., Any]:
    """A question about a state that is worked out once for each state: its answers are kept with that."""

    @wraps(function)
    def ask(seen: Seen, *asked: Any) -> Any:
        known = seen.__dict__.setdefault(f"answers of {function.__qualname__}", {})
        if asked not in known:
            known[asked] = function(seen, *asked)
        return known[asked]

    return ask
