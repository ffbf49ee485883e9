"""What a draft notes, and the expressions that stand for what is handed in."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable, Iterator
from typing import Any

from isodesm.codebase.model import Codebase
from isodesm.facts.records import Member
from isodesm.facts.typetext import split_top
from isodesm.planning.decisions import delegates
from isodesm.planning.drafting.amendments import Amendment
from isodesm.planning.drafting.handed import Handed
from isodesm.planning.drafting.insertions import (
    in_head,
    inserted,
    position,
)
from isodesm.planning.drafting.project_lists import ProjectLists
from isodesm.planning.drafting.syntax import Syntax
from isodesm.planning.levels import Levels
from isodesm.planning.writing import Need, Writer, writer_of

FIELDS_MAKER = "dataclass"
"""What has a constructor made from fields that have no other library behind them."""
TYPES_AS_TEXT = (3, 10)
"""Level from which all types can be worked out, and which files are as good as that say types are texts."""
_LATE_TYPES = re.compile(rb"^from __future__ import [^\n]*\bannotations\b", re.MULTILINE)


class Drafted:
    """Mutable in what the plan has come to; all else is read from the codebase."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase, self.symbols, self.levels = codebase, codebase.symbols, Levels(codebase)
        self.handed: dict[int, list[Handed]] = defaultdict(list)
        self.bridged: set[int] = set()
        self.retired: set[int] = set()
        self.hidden: set[str] = set()
        """New abstractions that only their own assembly knows."""
        self.wired: set[int] = set()
        """Classes that the composition roots hand everything to."""
        self.root_sites: dict[int, list[tuple[int, int]]] = {}
        """Class to the places, as (file, site), where a composition root makes it."""
        self.marks: dict[int, str] = {}
        """Class to the annotation by which a container knows the constructor that it goes on calling."""
        self.extras: dict[int, list[Amendment]] = defaultdict(list)
        """File to amendments that belong to no constructor: bases, visibility, registrations."""
        self.named: dict[int, set[Need]] = defaultdict(set)
        """File to what those name."""
        self.new_files: dict[str, str] = {}
        self.projects = ProjectLists(codebase.root)
        self._syntax: dict[int, Syntax] = {}

    def checkpoint(self) -> Callable[[], None]:
        """What brings the draft back to how it is now."""
        lists = {name: {key: list(value) for key, value in getattr(self, name).items()} for name in ("handed", "extras")}
        sets = {name: set(getattr(self, name)) for name in ("bridged", "retired", "wired", "hidden")}
        named = {key: set(value) for key, value in self.named.items()}
        marks, new_files, listed = dict(self.marks), dict(self.new_files), dict(self.projects.contents)

        def restore() -> None:
            for name, value in lists.items():
                setattr(self, name, defaultdict(list, value))
            for name, value in sets.items():
                setattr(self, name, value)
            self.named, self.marks, self.new_files = defaultdict(set, named), marks, new_files
            self.projects.contents = listed

        return restore

    def syntax(self, file: int) -> Syntax:
        """The syntax of a file."""
        found = self._syntax.get(file)
        if found is None:
            facts = self.symbols.files[file]
            found = self._syntax[file] = Syntax(facts.language, facts.path, self.codebase.text(file))
        return found

    def writer(self, number: int) -> Writer:
        """The writer for the language of a type, at the level that its file may be written at."""
        return self.writer_of_file(self.symbols.file_of[number])

    def writer_of_file(self, file: int) -> Writer:
        """The same for a file."""
        facts, level = self.symbols.files[file], self.levels.of(file)
        if facts.language == "python" and (3, 7) <= level < TYPES_AS_TEXT and _LATE_TYPES.search(self.codebase.text(file)):
            level = TYPES_AS_TEXT
        return writer_of(facts.language, facts.path, level)

    def constructors(self, number: int) -> list[Member]:
        """The constructors that set the fields, and hand over to no other one, in order."""
        own = [member for member in self.symbols.own_members(number) if member.kind == "constructor"]
        return [member for member in own if not delegates(self.codebase, number, member)]

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
        return FIELDS_MAKER in makers and self.symbols.dialect(number).name == "python" and self.constructor(number) is None

    def parameters(self, number: int, constructor: Member) -> tuple[Any, list[Any]]:
        """The bracketed list of a constructor's parameters, be it in the head of the class, and what stands in it."""
        syntax = self.syntax(self.symbols.file_of[number])
        return syntax.head_parameters(self.symbols.types[number]) if in_head(constructor) else syntax.parameters(constructor)

    def expression(self, given: Handed, at_root: bool = False) -> str:
        """What stands for a dependency: at a composition root with all that it is handed by then itself."""
        supply = given.supply
        target = supply.creates
        if not at_root or target not in self.wired or not self.handed.get(target) or not supply.text.rstrip().endswith(")"):
            return self.writer(given.owner).supplied(supply.text)
        return self.completed(target, supply.text)

    def completed(self, target: int, creation: str) -> str:
        """A creation as written, with what the class is handed added to its arguments."""
        head, brackets = creation[: creation.index("(") + 1], creation[creation.index("(") + 1 : creation.rindex(")")].strip()
        own = list(split_top(brackets)) if brackets else []
        index, added = self.arguments_for(target, len(own))
        return head + ", ".join([*own[:index], *added, *own[index:]]) + ")"

    def arguments_for(self, target: int, given: int) -> tuple[int, list[str]]:
        """Where among so many arguments those for the dependencies of a class go, and what they are."""
        constructor, language = self.constructor(target), self.symbols.dialect(target).name
        if constructor is None and (inherited := self.inherited(target)) is not None:
            constructor = inherited[1]
        index = position(language, constructor) if constructor is not None else 0
        handed = self.handed[target]
        if any(each.supply.depends for each in handed) and target not in self.retired:
            handed = [each for each in handed if not each.optional]  # only the class itself can supply the others
        texts = [self.expression(each, at_root=True) for each in handed]
        named = self.writer(target).named
        if named and (language == "python" or given < index):
            return given, [named.format(name=each.name, value=text) for each, text in zip(handed, texts, strict=True)]
        left_out = constructor.parameters[given:index] if constructor is not None and given < index else ()
        missing = "undefined" if language == "typescript" else ""
        return min(index, given), [*(missing or each.default for each in left_out), *texts]

    def _at_roots(self, file: int) -> Iterator[Amendment]:
        """The creations of wired classes at composition roots of one file."""
        for number in sorted(self.wired):
            for home, index in self.root_sites.get(number, ()):
                if home != file or not self.handed.get(number):
                    continue
                syntax, site = self.syntax(file), self.codebase.content(file).sites[index]
                brackets = syntax.arguments(syntax.at(site.place.start, site.place.end))
                if brackets is None:
                    continue
                where, added = self.arguments_for(number, len(brackets[1]))
                names = ", ".join(f"`{each.name}`" for each in self.handed[number])
                said = f"passes {names} to `{self.symbols.types[number].name}`"
                yield inserted(brackets, added, where, said, syntax)
