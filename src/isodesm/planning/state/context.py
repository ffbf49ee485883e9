"""What all techniques share while a plan is made: the codebase, what is asked for, and what the plan has come to."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from isodesm.codebase.model import Codebase
from isodesm.linking.symbols import Symbols
from isodesm.planning.analysis.considered import Considered
from isodesm.planning.analysis.sources import Sources
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import Need
from isodesm.planning.model.decision import Decision, Place
from isodesm.planning.state.draft import Draft, in_style
from isodesm.planning.state.plan_state import PlanState
from isodesm.planning.text.definition_edits import Insertion


class PlanContext:
    """Mutable in its `state` alone, which is a value: whoever keeps it can go back to it."""

    def __init__(
        self,
        codebase: Codebase,
        decisions: list[Decision],
        *,
        all_members: bool = False,
        no_new: bool = False,
        goal: frozenset[int] = frozenset(),
    ) -> None:
        self.codebase, self.all_members, self.no_new, self.goal = codebase, all_members, no_new, goal
        self.sources = Sources(codebase)
        self.considered = Considered(self.sources)
        for decision in decisions:
            self.considered.add(decision)
        self.state = PlanState()

    @property
    def symbols(self) -> Symbols:
        """The declared types under numbers."""
        return self.codebase.symbols

    @property
    def draft(self) -> Draft:
        """The files as the plan has them by now."""
        return Draft(self.sources, self.state)

    def name(self, number: int) -> str:
        """Simple name of a type."""
        return self.sources.name(number)

    # --- the next state -------------------------------------------------------------------

    def edit(self, file: int, *amendments: Amendment, needs: Iterable[Need] = ()) -> None:
        """Change a file, which has to import some names for that."""
        self.state = self.state.with_edits(file, *amendments).with_names(file, *needs)

    def add_file(self, path: str, text: str, beside: int) -> None:
        """Write a further file in the style of another."""
        self.state = self.state.with_new_file(path, in_style(self.sources, beside, text))

    def content(self, path: str) -> bytes:
        """The bytes by now of a file that is no source."""
        known = self.state.contents.get(path)
        return known if known is not None else self.sources.projects.read(path)

    def change_content(self, path: str, insertion: Insertion, said: str) -> None:
        """Change a file that is no source."""
        content, end = self.content(path), insertion.at + insertion.length
        text = content[: insertion.at] + insertion.text.encode("utf-8", "surrogateescape") + content[end:]
        self.state = self.state.with_content(path, text, said)

    # --- questions ------------------------------------------------------------------------

    def asked_of(self, decision: Decision) -> frozenset[str] | None:
        """The members that a decision asks of its target; None where its very class is needed, or nothing is known of it."""
        known = self.state.asked.get(decision)
        return known if known is not None else self.considered.members.get(decision)

    def names_asked_of(self, target: int) -> set[str]:
        """The names that all decisions on a target ask for."""
        further = (names for decision, names in self.state.asked.items() if decision.target == target)
        return self.considered.names[target].union(*further)

    def taken_places(self, number: int) -> Iterator[Place]:
        """The places of a class in which steps have put something injected."""
        known = (self.state.proposals.get((number, each.name)) for each in self.state.dependencies_of(number))
        return (place for each in known if each is not None for place in each.decision.places)
