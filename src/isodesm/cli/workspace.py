"""A tree and what is worked out of it, each thing once, and kept for later runs: whatever is asked first pays for the rest."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

import msgspec

from isodesm.cli.phases import Phases
from isodesm.cli.run import head_of_tree
from isodesm.codebase.overview import Overview
from isodesm.diagnosis.shared.findings import Diagnosis
from isodesm.linking.remembering import remembered
from isodesm.reading.replay import Replay
from isodesm.settings import Settings

if TYPE_CHECKING:
    from isodesm.codebase.model import Codebase
    from isodesm.measures.churn import Churn
    from isodesm.measures.ranking import Ranking
    from isodesm.planning.model.step import Plan
    from isodesm.planning.planner.options import Options

FULL_BELOW = 150_000
"""Lines up to which the places that an excuse spoke for are kept in full from the start; of more they take much memory. Of a
tree that is being edited they are not: what is asked again after each change should not wait for what is seldom asked for."""

KEPT_EXCUSED = 100_000
"""Of so many places that an excuse spoke for, keeping them takes more memory than judging them again takes time."""

Kept = TypeVar("Kept")
Reader = Callable[[Phases, "Replay | None"], "Codebase"]
"""Reads the tree, from what stands as a replay found it."""


class Workspace:
    """The tree or file at `path` with its settings. `read` gives the codebase, from what stands as the replay found it; `root`
    is what results say that paths are relative to; `full_below` so many lines excused places are kept in full."""

    def __init__(
        self,
        path: Path,
        settings: Settings,
        read: Reader,
        phases: Phases | None = None,
        root: str = ".",
        full_below: int = FULL_BELOW,
    ) -> None:
        self.path, self.settings, self._read, self.root, self.full_below = path, settings, read, root, full_below
        self.phases = phases or Phases()
        self.replay = Replay(path, settings) if settings.cache_folder and path.is_dir() else None

    @cached_property
    def codebase(self) -> Codebase:
        """Read and linked."""
        return self._read(self.phases, self.replay)

    @property
    def is_read(self) -> bool:
        """Whether the codebase had to be read."""
        return "codebase" in self.__dict__

    @cached_property
    def overview(self) -> Overview:
        """The tree in numbers and names."""
        made = self.kept("overview", Overview, lambda: self.codebase.overview)
        return msgspec.structs.replace(made, root=self.root)

    @property
    def digests(self) -> dict[str, str]:
        """Source file to the digest of what it held."""
        if self.replay is not None:
            return {each.path: each.digest for each in self.replay.found.files}
        return {facts.path: facts.digest for facts in self.codebase.symbols.files}

    @cached_property
    def diagnosis(self) -> Diagnosis:
        """The findings; places that an excuse spoke for are counted, not listed."""
        return self.kept("diagnosis", Diagnosis, self._diagnose)

    def _diagnose(self) -> Diagnosis:
        from isodesm.diagnosis.diagnose import diagnose, without_excused

        if sum(facts.lines for facts in self.codebase.symbols.files) > self.full_below or self.codebase.is_linked_again:
            with self.phases.during("judging"):
                return diagnose(self.codebase)
        return without_excused(self.diagnosis_in_full)

    @cached_property
    def diagnosis_in_full(self) -> Diagnosis:
        """The findings, and all places that an excuse spoke for."""
        made: list[Diagnosis] = []

        def make() -> Diagnosis:
            from isodesm.diagnosis.diagnose import diagnose

            made.append(diagnose(self.codebase, excused=True))
            return made[0]

        unless = lambda: len(made[0].excused) > KEPT_EXCUSED  # noqa: E731
        return self.kept("diagnosis in full", Diagnosis, self._during("judging", make), unless)

    def ranking(self, by: str = "strain", since: str = "") -> Ranking:
        """All classes by a measure, with the history since then."""
        from isodesm.measures.ranking import Ranking, ordered, rank

        shape = ("ranking", since, head_of_tree(self.path))
        make = self._during("ranking", lambda: rank(self.codebase, self.diagnosis, churn=self.churn(since)))
        made = self.kept(shape, Ranking, make)
        return made if by == made.by else ordered(made, by)

    @remembered
    def churn(self, since: str) -> Churn:
        """What the history since then says of the files."""
        from isodesm.measures.churn import Churn
        from isodesm.measures.ranking import history_of

        return Churn(self.codebase, history_of(self.codebase, since))

    def goal(self, names: Iterable[str]) -> frozenset[int]:
        """The classes that shall be testable alone: each that is named, and of a package or layer those that are not yet."""
        from isodesm.codebase.class_lookup import classes_meant
        from isodesm.measures.testable import Testing, logic_of

        found: set[int] = set()
        for name in names:
            meant = classes_meant(self.overview, name)
            if len(meant) > 1:
                testing = Testing(self.codebase, self.diagnosis)
                meant = frozenset(each for each in meant if logic_of(self.codebase, each) and not testing.of(each).alone)
            found |= meant
        return frozenset(found)

    def plan(self, options: Options, mistakes: list[Exception]) -> Plan:
        """The plan; decisions at which planning failed are left out, and why is put into `mistakes`."""
        from isodesm.planning.model.step import Plan
        from isodesm.planning.planner.staging import plan

        asked = [sorted(each) if isinstance(each, frozenset) else each for each in msgspec.structs.astuple(options)]
        shape = ("plan", head_of_tree(self.path), asked)
        make = self._during("planning", lambda: plan(self.codebase, self.diagnosis, options, mistakes, self._commits))
        return self.kept(shape, Plan, make, unless=lambda: bool(mistakes))

    @property
    def _commits(self) -> dict[str, int]:
        """File to the commits that it was in."""
        churn, files = self.churn(""), self.codebase.symbols.files
        return {facts.path: round(float(churn.commits_of[number])) for number, facts in enumerate(files)}

    def _during(self, phase: str, make: Callable[[], Kept]) -> Callable[[], Kept]:
        def run() -> Kept:
            with self.phases.during(phase):
                return make()

        return run

    def kept(self, shape: Any, kind: type[Kept], make: Callable[[], Kept], unless: Callable[[], bool] = bool) -> Kept:
        """What was kept under a shape; else what `make` gives, which is kept, unless something speaks against it by then."""
        found = self.replay.find(shape, kind) if self.replay is not None else None
        if found is not None:
            return found
        made = make()
        if self.replay is not None and not unless() and self._is_as_found:
            self.replay.keep(shape, made)
        return made

    @property
    def _is_as_found(self) -> bool:
        """Whether what was read is what the replay had found: the tree may change in between."""
        return self.replay is None or not self.is_read or self.replay.stands(self.codebase.symbols.files)
