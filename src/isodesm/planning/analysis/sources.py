"""What planning asks of a codebase: syntax at hand, constructors, who creates whom. Nothing here knows of steps."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Callable
from functools import cached_property, lru_cache
from typing import Any

from isodesm.codebase.model import Codebase
from isodesm.codebase.size_limited_cache import bounded
from isodesm.facts.records import Member
from isodesm.linking.bonds import KIND_NUMBER
from isodesm.linking.symbols import simple_name
from isodesm.linking.values import FileValues
from isodesm.planning.analysis.creators import Creator, creators_of
from isodesm.planning.analysis.decisions import delegates, spot_of
from isodesm.planning.analysis.interface_names import Habit, measure_habit
from isodesm.planning.language import language_named
from isodesm.planning.language.base import Language
from isodesm.planning.language.levels import Levels
from isodesm.planning.model.decision import Spot
from isodesm.planning.text.insertions import in_head
from isodesm.planning.text.project_lists import ProjectFiles
from isodesm.planning.text.syntax import Syntax

KEPT_SYNTAX = 2_000_000
"""Bytes of source whose syntax is kept at hand, which takes some fifteen times as much."""
KEPT_VALUES = 8
"""Files of which it is kept at hand what their expressions give."""
Sites = dict[int, list[tuple[int, int]]]
"""Class to places of code, as (file, site)."""


class Sources:
    """A codebase as planning asks for it; nothing changes but what is kept at hand."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase, self.symbols, self.levels = codebase, codebase.symbols, Levels(codebase)
        self.projects = ProjectFiles(codebase)
        self.creators = creators_of(codebase)
        self.root_sites = self._sites(lambda each, _: each.root)
        """Class to the places where a composition root creates it."""
        self.test_sites = self._sites(lambda each, _: each.test)
        """The same of tests."""
        self.own_sites = self._sites(self._is_own)
        """The same of static code of the class itself."""
        self.syntax: Callable[[int], Syntax] = bounded(self._parsed, lambda each: len(each.text), KEPT_SYNTAX)
        """The syntax of a file."""
        self.values: Callable[[int], FileValues] = lru_cache(maxsize=KEPT_VALUES)(self._values)
        """What is known of the variables and expressions of a file."""
        self._habits: dict[str, Habit] = {}

    def _sites(self, fits: Callable[[Creator, int], bool]) -> Sites:
        return {
            target: [(each.file, each.site) for each in creators if fits(each, target) and each.site >= 0]
            for target, creators in self.creators.items()
        }

    def _is_own(self, maker: Creator, target: int) -> bool:
        """Whether a class makes an object of itself in static code, as one that hands out its one object does."""
        spot = spot_of(self.codebase, maker.row) if maker.source == target and not maker.root else None
        return spot is not None and spot.member is not None and spot.member.is_static

    # --- names ----------------------------------------------------------------------------

    def name(self, number: int) -> str:
        """Simple name of a type."""
        return self.symbols.types[number].name

    def path(self, number: int) -> str:
        """Path of the file that declares a type."""
        return self.symbols.path(number)

    def habit(self, number: int) -> Habit:
        """How interfaces are named in the language of a type."""
        language = self.language(number).name
        if language not in self._habits:
            self._habits[language] = measure_habit(self.codebase, language)
        return self._habits[language]

    # --- files ----------------------------------------------------------------------------

    def _values(self, file: int) -> FileValues:
        return FileValues(self.codebase.hierarchy, file, self.codebase.content(file))

    def _parsed(self, file: int) -> Syntax:
        facts = self.symbols.files[file]
        return Syntax(facts.language, facts.path, self.codebase.text(file))

    def language(self, number: int) -> Language:
        """The language of a type, at the level that its file may be written at."""
        return self.language_of_file(self.symbols.file_of[number])

    def language_of_file(self, file: int) -> Language:
        """The same for a file."""
        facts = self.symbols.files[file]
        level = language_named(facts.language).level_of(self.levels.of(file), self.codebase.text(file))
        return language_named(facts.language, facts.path, level)

    def constructors(self, number: int) -> list[Member]:
        """The constructors that set the fields, and hand over to no other one, in order."""
        own = [member for member in self.symbols.own_members(number) if member.kind == "constructor"]
        return [member for member in own if not delegates(self.codebase, number, member)]

    def delegating_constructors(self, number: int) -> list[Member]:
        """Those that hand over to another one of their class."""
        own = [member for member in self.symbols.own_members(number) if member.kind == "constructor"]
        return [member for member in own if delegates(self.codebase, number, member)]

    def constructor(self, number: int) -> Member | None:
        """The first constructor that sets the fields; None where it is not written out."""
        return next(iter(self.constructors(number)), None)

    def has_several_constructors(self, number: int) -> bool:
        """Whether a class can be made in several ways, none of which hands over to another."""
        return len(self.constructors(number)) > 1

    def inherited(self, number: int) -> tuple[int, Member] | None:
        """The constructor with parameters that a class without its own has from a base of the tree, and that base; None where
        there is none."""
        if any(member.kind == "constructor" for member in self.symbols.types[number].members):
            return None
        for each in self.codebase.roles.ancestors(number)[1:]:
            own = next((m for m in self.symbols.types[each].members if m.kind == "constructor"), None)
            if own is not None:
                return (each, own) if own.parameters else None
        return None

    def is_made_of_fields(self, number: int) -> bool:
        """Whether a class has its constructor made from its fields, by the standard library."""
        declared = self.symbols.types[number]
        makers = {each.name.rpartition(".")[2] for each in declared.modifiers.annotations}
        return self.language(number).fields_maker in makers and self.constructor(number) is None

    def parameters(self, number: int, constructor: Member) -> tuple[Any, list[Any]]:
        """The bracketed list of a constructor's parameters, be it in the head of the class, and what stands in it."""
        syntax = self.syntax(self.symbols.file_of[number])
        return syntax.head_parameters(self.symbols.types[number]) if in_head(constructor) else syntax.parameters(constructor)

    def creations_in(self, text: str, target: int) -> list[re.Match[str]]:
        """Where code makes objects of a class, up to the bracket that opens their arguments."""
        word = r"" if self.symbols.dialect(target).calls_create else r"\bnew\s+"
        return list(
            re.finditer(rf"{word}(?:[\w.\\]*[.\\])?\b{re.escape(self.symbols.types[target].name)}(?:<[^()]*>)?\(", text)
        )

    def arguments_at(self, file: int, site: int) -> list[str] | None:
        """What a creation passes, each as written; None where it could not be found again."""
        syntax, place = self.syntax(file), self.codebase.content(file).sites[site].place
        brackets = syntax.arguments(syntax.at(place.start, place.end))
        return [syntax.of(each) for each in brackets[1]] if brackets is not None else None

    def written_as(self, number: int, spot: Spot, name: str, *, kept: bool) -> str:
        """What a class is handed, as an expression in it must write it: the field, by `this.` where a parameter or variable
        there has its name; or the parameter where there is no field yet."""
        language, member = self.language(number), spot.member
        takes = member is not None and member.kind == "constructor" and not delegates(self.codebase, number, member)
        if not kept or (takes and language.overloads):
            return language.argument(name)
        use = language.use(name)
        hidden = any(
            each.start <= spot.span[0] < each.end and each.kind != "self"
            for each in self.codebase.locals_named(spot.file).get(name, ())
        ) or (member is not None and any(each.name == name for each in member.parameters))
        return f"this.{name}" if use == name and hidden else use

    def known_sites(self, number: int) -> list[tuple[int, int]]:
        """The places, as (file, site), that may come to hand a class everything: all that `sites_supplied` ever gives."""
        kinds = (self.root_sites, self.test_sites, self.own_sites)
        return [place for sites in kinds for place in sites.get(number, ())]

    # --- users ----------------------------------------------------------------------------

    @cached_property
    def static_users(self) -> dict[int, set[int]]:
        """Type to those that use static members of it."""
        table = self.codebase.bonds
        found: dict[int, set[int]] = defaultdict(set)
        for row in table.rows_of_kind("static-call", "static-field"):
            found[table.target[row]].add(table.source[row])
        return found

    @cached_property
    def constructor_marks(self) -> dict[str, Counter[str]]:
        """Language to the annotations by which containers know the constructors to call, with how often each is used."""
        injections = self.codebase.wiring.injections
        found: dict[str, Counter[str]] = defaultdict(Counter)
        for number, declared in enumerate(self.symbols.types):
            markers = injections.markers(number)
            for member in declared.members:
                if member.kind == "constructor":
                    found[self.language(number).name].update(
                        annotation.name
                        for annotation in member.modifiers.annotations
                        if simple_name(annotation.name) in markers
                    )
        return found

    @cached_property
    def calls(self) -> dict[int, dict[str, set[int]]]:
        """Type to the names called on objects of it, and who calls them, tests left out."""
        table, call = self.codebase.bonds, KIND_NUMBER["call"]
        found: dict[int, dict[str, set[int]]] = defaultdict(lambda: defaultdict(set))
        names = table.names.strings
        for kind, source, target, callee in zip(table.kind, table.source, table.target, table.callee, strict=True):
            if kind == call and target >= 0 and source != target and self.codebase.roles.name(source) != "test":
                found[target][names[callee]].add(source)
        return found

    def callers(self, target: int, name: str) -> set[int]:
        """Who calls a member on objects of a class, tests left out."""
        return self.calls.get(target, {}).get(name, set())

    def subclasses(self, number: int) -> list[int]:
        """Types that extend or implement another, over any number of steps, sorted."""
        return self.codebase.roles.implementers.get(number, [])
