"""What a draft notes, and the expressions that stand for what is handed in."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import Any

from isodesm.codebase.bounded import bounded
from isodesm.codebase.model import Codebase
from isodesm.facts.records import Member
from isodesm.facts.typetext import closing_bracket, split_top
from isodesm.planning.analysis.decisions import delegates, spot_of
from isodesm.planning.language import writer_of
from isodesm.planning.language.levels import Levels
from isodesm.planning.language.writer import Writer
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import Need
from isodesm.planning.model.decision import Spot
from isodesm.planning.model.dependency import Dependency, Forwarding, Token, twin_of
from isodesm.planning.state.remove_parameter import listed, without
from isodesm.planning.text.argument_substitution import in_words_of
from isodesm.planning.text.insertions import (
    in_head,
    inserted,
    position,
)
from isodesm.planning.text.project_lists import ProjectLists
from isodesm.planning.text.syntax import Syntax

KEPT_SYNTAX = 2_000_000
"""Bytes of source whose syntax is kept at hand, which takes some fifteen times as much."""
FIELDS_MAKER = "dataclass"
"""What has a constructor made from fields that have no other library behind them."""
TYPES_AS_TEXT = (3, 10)
"""Level from which all types can be worked out, and which files are as good as that say types are texts."""
_REFERENCE = re.compile(r"(?<![\w.])([\w.]++(?:<[^()]{0,300}>)?)::new\b")
_LATE_TYPES = re.compile(rb"^from __future__ import [^\n]*\bannotations\b", re.MULTILINE)


class Drafted:
    """Mutable in what the plan has come to; all else is read from the codebase."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase, self.symbols, self.levels = codebase, codebase.symbols, Levels(codebase)
        self.handed: dict[int, list[Dependency]] = defaultdict(list)
        self.bridged: set[int] = set()
        self.retired: set[int] = set()
        self.hidden: set[str] = set()
        """New abstractions that only their own assembly knows."""
        self.wired: set[int] = set()
        """Classes that the composition roots hand everything to."""
        self.root_sites: dict[int, list[tuple[int, int]]] = {}
        """Class to the places, as (file, site), where a composition root makes it."""
        self.test_sites: dict[int, list[tuple[int, int]]] = {}
        """The same of tests."""
        self.own_sites: dict[int, list[tuple[int, int]]] = {}
        """The same of static code of the class itself."""
        self.passing: dict[int, list[Forwarding]] = defaultdict(list)
        """Class to the places that pass what it takes on to it."""
        self.marks: dict[int, str] = {}
        """Class to the annotation by which a container knows the constructor that it goes on calling."""
        self.new_marks: dict[int, str] = {}
        """Class to the annotation that its new constructor bears."""
        self.tokens: dict[tuple[int, str], Token] = {}
        """(class, name of what it takes) to the name by which its container may be told of that."""
        self.extras: dict[int, list[Amendment]] = defaultdict(list)
        """File to amendments that belong to no constructor: bases, visibility, registrations."""
        self.named: dict[int, set[Need]] = defaultdict(set)
        """File to what those name."""
        self.new_files: dict[str, str] = {}
        self.spared: dict[int, int] = {}
        """Class to the place of the parameter that its constructor takes no more."""
        self.projects = ProjectLists(codebase.root)
        self.syntax: Callable[[int], Syntax] = bounded(self._parsed, lambda each: len(each.text), KEPT_SYNTAX)
        """The syntax of a file."""

    def checkpoint(self) -> Callable[[], None]:
        """What brings the draft back to how it is now."""
        lists = {
            name: {key: list(value) for key, value in getattr(self, name).items()} for name in ("handed", "extras", "passing")
        }
        sets = {name: set(getattr(self, name)) for name in ("bridged", "retired", "wired", "hidden")}
        named = {key: set(value) for key, value in self.named.items()}
        marks, new_files, listed = dict(self.marks), dict(self.new_files), dict(self.projects.contents)
        new_marks, spared, tokens = dict(self.new_marks), dict(self.spared), dict(self.tokens)

        def restore() -> None:
            for name, value in lists.items():
                setattr(self, name, defaultdict(list, value))
            for name, value in sets.items():
                setattr(self, name, value)
            self.named, self.marks, self.new_files = defaultdict(set, named), marks, new_files
            self.new_marks, self.spared, self.tokens = new_marks, spared, tokens
            self.projects.forget()
            self.projects.contents = listed

        return restore

    def _parsed(self, file: int) -> Syntax:
        facts = self.symbols.files[file]
        return Syntax(facts.language, facts.path, self.codebase.text(file))

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

    def expression(self, given: Dependency, at_root: bool = False) -> str:
        """What stands for a dependency, with all that it is handed itself: at a composition root once those do so, everywhere
        once its old constructor is gone."""
        text = given.supply.text
        for target in given.supply.makes:
            if self.handed.get(target) and (target in self.retired or at_root and target in self.wired):
                text = self._completed(target, self._spelled_out(given, target, text))
        return self.writer(given.owner).supplied(text)

    def _spelled_out(self, given: Dependency, target: int, text: str) -> str:
        """A reference to a constructor as a function that calls it, by names that nobody around has; one to a constructor that
        only hands over to that which is changed stays."""
        owner, arity = given.owner, given.supply.arity
        own = self.constructor(target)
        itself = text == f"{self.symbols.types[target].path}::new"
        if (itself and own is not None and -1 < arity != len(own.parameters)) or not _REFERENCE.search(text):
            return text
        file_names = {each.name for file, _ in self.root_sites.get(owner, ()) for each in self.codebase.content(file).locals}
        taken = file_names | {each.name for own in self.constructors(owner) for each in own.parameters}
        constructor = self.constructor(target)
        names = [each.name for each in constructor.parameters] if constructor is not None else []
        names = [f"{each}Given" if each in taken else each for each in names]
        listed = ", ".join(names)
        return _REFERENCE.sub(lambda found: f"{listed if len(names) == 1 else f'({listed})'} -> new {found[1]}({listed})", text)

    def creations_in(self, text: str, target: int) -> list[re.Match[str]]:
        """Where code makes objects of a class, up to the bracket that opens their arguments."""
        word = r"" if self.symbols.dialect(target).name == "python" else r"\bnew\s+"
        return list(
            re.finditer(rf"{word}(?:[\w.\\]*[.\\])?\b{re.escape(self.symbols.types[target].name)}(?:<[^()]*>)?\(", text)
        )

    def _completed(self, target: int, text: str) -> str:
        """Code with what a class is handed added to the arguments wherever it makes one."""
        for found in reversed(self.creations_in(text, target)):
            end = closing_bracket(text, found.end() - 1)
            brackets = text[found.end() : end].strip()
            own = list(split_top(brackets)) if brackets else []
            index, added = self.arguments_for(target, own)
            text = text[: found.end()] + ", ".join(without(own, self.spared.get(target, -1), index, added)) + text[end:]
        return text

    def place_among(self, number: int, constructor: Member | None) -> int:
        """Which place among the parameters of a constructor what its class is handed has: behind those that may be left out
        only as long as it may be, too."""
        required = number in self.retired or number not in self.bridged
        index = position(self.symbols.dialect(number).name, constructor, required=required)
        if not required or constructor is None or self.symbols.dialect(number).name != "typescript":
            return index
        _, own = self.parameters(number, constructor)
        return next((at for at, each in enumerate(own[:index]) if each.type == "optional_parameter"), index)

    def arguments_for(self, target: int, own: Sequence[str], passed: Sequence[str] = ()) -> tuple[int, list[str]]:
        """Where among the arguments of a creation those for the dependencies of a class go, and what they are; `passed` if
        somebody has them already."""
        constructor, language = self.constructor(target), self.symbols.dialect(target).name
        if constructor is None and (inherited := self.inherited(target)) is not None:
            constructor = inherited[1]
        index = self.place_among(target, constructor)
        handed, given = self.handed[target], len(own)
        told = [self._in_words_of(target, each, own) for each in handed]
        if None in told and target not in self.retired:
            handed = [each for each in handed if not each.optional]  # only the class itself can supply the others
            told = [self.expression(each, at_root=True) for each in handed]
        texts = passed or [each for each in told if each is not None]
        named = self.writer(target).named
        if named and (language == "python" or given < index):
            return given, [named.format(name=each.name, value=text) for each, text in zip(handed, texts, strict=True)]
        left_out = constructor.parameters[given:index] if constructor is not None and given < index else ()
        missing = "undefined" if language == "typescript" else ""
        return min(index, given), [*(missing or each.default for each in left_out), *texts]

    def _in_words_of(self, number: int, given: Dependency, own: Sequence[str]) -> str | None:
        """What stands for a dependency where a class is made from some arguments; None where only the class can say it."""
        text, constructor = self.expression(given, at_root=True), self.constructor(number)
        if not given.supply.depends:
            return text
        alone = sum(1 for each in self.symbols.types[number].members if each.kind == "constructor") == 1
        if constructor is None or not alone:
            return None
        return in_words_of(text, constructor.parameters, own, self.symbols.dialect(number).name)

    def hands_null(self, number: int, given: Dependency) -> bool:
        """Whether the container of a class hands in null for something that it has not."""
        token = self.tokens.get((number, given.name))
        return token is not None and token.null

    def left_out(self, number: int, given: Dependency, writer: Writer) -> tuple[str, str]:
        """A parameter that may be left out, and what the constructor keeps of it."""
        spelled = writer.nullable if self.hands_null(number, given) else writer.optional
        return spelled(given.typed.text, given.name, self.expression(given))

    def depends(
        self,
        number: int,
        given: Iterable[Dependency] | None = None,
        texts: Iterable[str] = (),
        sites: Iterable[tuple[int, int]] = (),
    ) -> bool:
        """Whether something that a class is handed can't be said where it is made: in composition roots, tests, `texts`, and
        further sites."""
        given = list(given or self.handed.get(number, ()))
        bound = [each for each in given if each.supply.depends]
        arguments = [self.arguments_at(*each) for each in (*self.known_sites(number), *sites)]
        for text in texts:
            for found in self.creations_in(text, number):
                inside = text[found.end() : closing_bracket(text, found.end() - 1)].strip()
                arguments.append(list(split_top(inside)) if inside else [])
        if given and any(own is not None and self._leaves_out(number, own) for own in arguments):
            return True
        return any(own is None or self._in_words_of(number, each, own) is None for own in arguments for each in bound)

    def _leaves_out(self, number: int, own: Sequence[str]) -> bool:
        """Whether arguments leave something out that another constructor of the class stands in for: one that takes less and
        hands over to the one that is changed."""
        constructor = self.constructor(number)
        if constructor is None or not self.writer(number).overloads:
            return False
        left = constructor.parameters[len(own) : self.place_among(number, constructor)]
        return any(not each.default and not each.variadic for each in left)

    def arguments_at(self, file: int, site: int) -> list[str] | None:
        """What a creation passes, each as written; None where it could not be found again."""
        syntax, place = self.syntax(file), self.codebase.content(file).sites[site].place
        brackets = syntax.arguments(syntax.at(place.start, place.end))
        return [syntax.of(each) for each in brackets[1]] if brackets is not None else None

    def passed_at(self, number: int, passing: Forwarding) -> list[str]:
        """What a creation passes of what its class is handed, in the order in which the made one takes it; [] where it has not
        all of it."""
        found: list[str] = []
        spot = spot_of(self.codebase, passing.row)
        for each in self.handed[number]:
            own = twin_of(each, self.handed.get(passing.owner, ()))
            if each.name in passing.written:
                found.append(passing.written[each.name])
            elif each.name in passing.fetched:
                found.append(self.expression(each, at_root=True))
            elif own is None or spot is None:
                return []
            else:
                found.append(self.written_as(passing.owner, spot, own.name, kept=own.kept))
        return found

    def written_as(self, number: int, spot: Spot, name: str, *, kept: bool) -> str:
        """What a class is handed, as an expression in it must write it: the field, by `this.` where a parameter or variable
        there has its name; or the parameter where there is no field yet."""
        writer, member = self.writer(number), spot.member
        if not kept or (member is not None and member.kind == "constructor" and writer.overloads):
            return writer.argument(name)
        use = writer.use(name)
        hidden = any(
            each.start <= spot.span[0] < each.end and each.kind != "self"
            for each in self.codebase.locals_named(spot.file).get(name, ())
        ) or (member is not None and any(each.name == name for each in member.parameters))
        return f"this.{name}" if use == name and hidden else use

    def known_sites(self, number: int) -> list[tuple[int, int]]:
        """The places, as (file, site), that may come to hand a class everything: all that `sites_supplied` ever gives."""
        kinds = (self.root_sites, self.test_sites, self.own_sites)
        return [place for sites in kinds for place in sites.get(number, ())]

    def sites_supplied(self, number: int) -> list[tuple[int, int]]:
        """The places, as (file, site), that hand a class everything by what stands for it: composition roots, and in the end
        tests and what makes its one object."""
        return [
            *(self.root_sites.get(number, ()) if number in self.wired else ()),
            *(self.test_sites.get(number, ()) if number in self.retired else ()),
            *(self.own_sites.get(number, ()) if number in self.retired else ()),
        ]

    def _at_roots(self, file: int) -> Iterator[Amendment]:
        """The creations in one file that pass what classes take, be it made there or handed on."""
        for number in sorted({*self.wired, *self.retired, *self.passing}):
            if not self.handed.get(number):
                continue
            supplied = [(home, index, []) for home, index in self.sites_supplied(number)]
            handed_on = [(each.file, each.site, each) for each in self.passing.get(number, ()) if each.file == file]
            for home, index, passing in (*supplied, *handed_on):
                passed = self.passed_at(number, passing) if passing else []
                if passing and not passed:
                    continue
                syntax, site = self.syntax(file), self.codebase.content(file).sites[index] if home == file else None
                brackets = syntax.arguments(syntax.at(site.place.start, site.place.end)) if site is not None else None
                if brackets is not None:
                    where, added = self.arguments_for(number, [syntax.of(each) for each in brackets[1]], passed)
                    names = ", ".join(f"`{each.name}`" for each in self.handed[number])
                    said = f"passes {names} to `{self.symbols.types[number].name}`"
                    if number in self.spared:
                        told = [syntax.of(each) for each in brackets[1]]
                        yield listed(brackets[1], without(told, self.spared[number], where, added), said)
                    else:
                        yield inserted(brackets, added, where, said, syntax)
