"""The files of a codebase as a state of a plan has them, worked out from their original texts alone.

So a step is the difference of two states, and no text is ever changed twice.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from isodesm.planning.analysis.sources import Sources
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.dependency import Forwarding
from isodesm.planning.state.arguments import Arguments
from isodesm.planning.state.constructors import Constructors
from isodesm.planning.state.plan_state import PlanState
from isodesm.planning.text.insertions import PLACES, inserted, listed, without
from isodesm.planning.text.module_style import style_of

_LINE_END = re.compile(r"\r?\n")
_STATEMENT_END = re.compile(r";(?=[ \t]*(?:\r?\n|$))")


class Draft:
    """The amendments of each file for one state."""

    def __init__(self, sources: Sources, state: PlanState) -> None:
        self.sources, self.state = sources, state
        self.arguments = Arguments(sources, state)
        self.constructors = Constructors(sources, state, self.arguments)

    def amendments(self, file: int) -> list[Amendment]:
        """All changes of one file but those of its imports, in terms of its original text."""
        found, first = list(self.state.edits.get(file, ())), self.sources.symbols.first[file]
        for number in range(first, first + len(self.sources.symbols.files[file].types)):
            if self.state.dependencies_of(number):
                found += self.constructors.amendments(number)
            whole = self.sources.symbols.whole.get(number, number)
            found += [each for given in self.state.dependencies_of(whole) for home, each in given.elsewhere if home == file]
        found += self._at_roots(file)
        return [each._replace(text=in_style(self.sources, file, each.text, whole=each.rank != PLACES)) for each in found]

    def made_from(self, number: int) -> set[int]:
        """A class, and the wired ones whose creation at a composition root has one of it somewhere inside."""
        found, before = {number}, 0
        while len(found) > before:
            before = len(found)
            found |= {
                each
                for each in self.state.wired
                if any(found.intersection(given.default.makes) for given in self.state.dependencies_of(each))
            }
        return found

    def files_of(self, number: int) -> set[int]:
        """The files that change when something is handed to a class, or is wired."""
        elsewhere = {file for given in self.state.dependencies_of(number) for file, _ in given.elsewhere}
        passing = {each.file for each in self.state.forwarding_to(number)}
        return {
            self.sources.symbols.file_of[number],
            *elsewhere,
            *(file for file, _ in self.sources.known_sites(number)),
            *passing,
        }

    def _at_roots(self, file: int) -> Iterator[Amendment]:
        """The creations in one file that pass what classes take, be it made there or handed on."""
        for number in sorted({*self.state.wired, *self.state.retired, *self.state.forwarding}):
            if not self.state.dependencies_of(number):
                continue
            supplied: list[tuple[int, int, Forwarding | None]] = [
                (home, index, None) for home, index in self.arguments.sites_supplied(number)
            ]
            handed_on = [(each.file, each.site, each) for each in self.state.forwarding_to(number) if each.file == file]
            for home, index, passing in (*supplied, *handed_on):
                passed = self.arguments.passed_at(number, passing) if passing is not None else []
                if passing is not None and not passed:
                    continue
                syntax, site = (
                    self.sources.syntax(file),
                    self.sources.codebase.content(file).sites[index] if home == file else None,
                )
                brackets = syntax.arguments(syntax.at(site.place.start, site.place.end)) if site is not None else None
                if brackets is not None:
                    where, added = self.arguments.arguments_for(number, [syntax.of(each) for each in brackets[1]], passed)
                    names = ", ".join(f"`{each.name}`" for each in self.state.dependencies_of(number))
                    said = f"passes {names} to `{self.sources.symbols.types[number].name}`"
                    if number in self.state.removed_parameters:
                        told = [syntax.of(each) for each in brackets[1]]
                        yield listed(brackets[1], without(told, self.state.removed_parameters[number], where, added), said)
                    else:
                        yield inserted(brackets, added, where, said, syntax)


def in_style(sources: Sources, file: int, text: str, *, whole: bool = True) -> str:
    """Code with the line ends of a file, and where it is `whole` statements without semicolons if that has none."""
    syntax = sources.syntax(file)
    if whole and syntax.traits.styled_imports and not style_of(sources.codebase, file).end:
        text = _STATEMENT_END.sub("", text)
    return _LINE_END.sub(syntax.line_end, text)
