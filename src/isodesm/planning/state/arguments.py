"""What calls of a constructor pass, and what it falls back on: the expressions that stand for dependencies."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence

from isodesm.facts.records import Member
from isodesm.facts.typetext import closing_bracket, split_top
from isodesm.planning.analysis.decisions import spot_of
from isodesm.planning.analysis.sources import Sources
from isodesm.planning.language.base import Language
from isodesm.planning.model.dependency import Dependency, Forwarding, Token, twin_of
from isodesm.planning.state.plan_state import PlanState
from isodesm.planning.text.argument_substitution import in_words_of
from isodesm.planning.text.insertions import without

_REFERENCE = re.compile(r"(?<![\w.])([\w.]++(?:<[^()]{0,300}>)?)::new\b")


def _fits(constructor: Member, count: int) -> bool:
    """Whether a constructor may be called with so many arguments."""
    least = sum(1 for each in constructor.parameters if not each.default and not each.variadic)
    return least <= count and (count <= len(constructor.parameters) or any(each.variadic for each in constructor.parameters))


_HEAD = re.compile(r"\(([\w, ]*+)\)\s*+[-=]>|\b(\w++)\s*+[-=]>")
"""What a function without a name takes, and its arrow."""


class Arguments:
    """Expressions for the dependencies that a state of a plan knows."""

    def __init__(self, sources: Sources, state: PlanState) -> None:
        self.sources, self.state = sources, state

    def expression(self, given: Dependency, at_root: bool = False) -> str:
        """What stands for a dependency, with all that it is handed itself: at a composition root once those do so, everywhere
        once its old constructor is gone."""
        text = given.default.text
        for target in given.default.makes:
            if self.state.dependencies_of(target) and (target in self.state.retired or at_root and target in self.state.wired):
                text = self._completed(target, self._spelled_out(given, target, text))
        if text != given.default.text and self.sources.language(given.owner).nested_lambdas_hide_no_names:
            text = apart_from(self._names_around(given.owner), text)
        return self.sources.language(given.owner).supplied(text)

    def _spelled_out(self, given: Dependency, target: int, text: str) -> str:
        """A reference to a constructor as a function that calls it, by names that nobody around has; one to a constructor that
        only hands over to that which is changed stays."""
        owner, arity = given.owner, given.default.arity
        own = self.sources.constructor(target)
        itself = text == f"{self.sources.symbols.types[target].path}::new"
        if (itself and own is not None and -1 < arity != len(own.parameters)) or not _REFERENCE.search(text):
            return text
        taken = self._names_around(owner)
        constructor = self.sources.constructor(target)
        names = [each.name for each in constructor.parameters] if constructor is not None else []
        names = [f"{each}Given" if each in taken else each for each in names]
        listed = ", ".join(names)
        return _REFERENCE.sub(lambda found: f"{listed if len(names) == 1 else f'({listed})'} -> new {found[1]}({listed})", text)

    def _names_around(self, owner: int) -> set[str]:
        """Names that mean something where a class is made at composition roots, or falls back on what stands for things."""
        local = {
            each.name
            for file, _ in self.sources.root_sites.get(owner, ())
            for each in self.sources.codebase.content(file).locals
        }
        return local | {each.name for own in self.sources.constructors(owner) for each in own.parameters}

    def _completed(self, target: int, text: str) -> str:
        """Code with what a class is handed added to the arguments wherever it makes one."""
        for found in reversed(self.sources.creations_in(text, target)):
            end = closing_bracket(text, found.end() - 1)
            brackets = text[found.end() : end].strip()
            own = list(split_top(brackets)) if brackets else []
            index, added = self.arguments_for(target, own)
            if self.sources.language(target).nested_lambdas_hide_no_names:
                added = [apart_from(set(_names_taken(text)), each) for each in added]
            text = (
                text[: found.end()]
                + ", ".join(without(own, self.state.removed_parameters.get(target, -1), index, added))
                + text[end:]
            )
        return text

    def place_among(self, number: int, constructor: Member | None) -> int:
        """Which place among the parameters of a constructor what its class is handed has: behind those that may be left out
        only as long as it may be, too."""
        required = number in self.state.retired or number not in self.state.legacy
        index = self.sources.language(number).position(constructor, required=required)
        if not required or constructor is None or not self.sources.language(number).marks_optional_parameters:
            return index
        _, own = self.sources.parameters(number, constructor)
        return next((at for at, each in enumerate(own[:index]) if each.type == "optional_parameter"), index)

    def arguments_for(self, target: int, own: Sequence[str], passed: Sequence[str] = ()) -> tuple[int, list[str]]:
        """Where among the arguments of a creation those for the dependencies of a class go, and what they are; `passed` if
        somebody has them already."""
        constructor, language = self.sources.constructor(target), self.sources.language(target)
        if constructor is None and (inherited := self.sources.inherited(target)) is not None:
            constructor = inherited[1]
        index = self.place_among(target, constructor)
        handed, given = self.state.dependencies_of(target), len(own)
        told = [self._in_words_of(target, each, own) for each in handed]
        if None in told and target not in self.state.retired:
            handed = tuple(each for each in handed if not each.optional)  # only the class itself can supply the others
            told = [self.expression(each, at_root=True) for each in handed]
        texts = passed or [each for each in told if each is not None]
        named = language.named
        if named and (language.keyword_arguments or given < index):
            return given, [named.format(name=each.name, value=text) for each, text in zip(handed, texts, strict=True)]
        left_out = constructor.parameters[given:index] if constructor is not None and given < index else ()
        missing = language.missing_argument
        return min(index, given), [*(missing or each.default for each in left_out), *texts]

    def _in_words_of(self, number: int, given: Dependency, own: Sequence[str]) -> str | None:
        """What stands for a dependency where a class is made from some arguments; None where only the class can say it."""
        text, constructor = self.expression(given, at_root=True), self.sources.constructor(number)
        if not given.default.depends:
            return text
        alone = sum(1 for each in self.sources.symbols.types[number].members if each.kind == "constructor") == 1
        if constructor is None or not alone:
            return None
        return in_words_of(text, constructor.parameters, own, self.sources.language(number))

    def marked_by(self, number: int, given: Dependency) -> Token | None:
        """The token by which the container of a class finds what it hands in, as long as the constructor bears it."""
        token = self.state.tokens.get((number, given.name))
        return token if token is not None and (token.stays or self.may_miss(number, given)) else None

    def hands_null(self, number: int, given: Dependency) -> bool:
        """Whether the container of a class hands in null for something that it has not."""
        token = self.state.tokens.get((number, given.name))
        return token is not None and token.null

    def left_out(self, number: int, given: Dependency, language: Language) -> tuple[str, str]:
        """A parameter that may be left out, and what the constructor keeps of it."""
        spelled = language.nullable if self.hands_null(number, given) else language.optional
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
        given = list(given or self.state.dependencies_of(number))
        bound = [each for each in given if each.default.depends]
        arguments = [self.sources.arguments_at(*each) for each in (*self.sources.known_sites(number), *sites)]
        for text in texts:
            for found in self.sources.creations_in(text, number):
                inside = text[found.end() : closing_bracket(text, found.end() - 1)].strip()
                arguments.append(list(split_top(inside)) if inside else [])
        if given and any(own is not None and self._leaves_out(number, own) for own in arguments):
            return True
        return any(own is None or self._in_words_of(number, each, own) is None for own in arguments for each in bound)

    def _leaves_out(self, number: int, own: Sequence[str]) -> bool:
        """Whether arguments leave something out that another constructor of the class stands in for: one that takes less and
        hands over to the one that is changed."""
        constructor = self.sources.constructor(number)
        if constructor is None or not self.sources.language(number).overloads:
            return False
        if any(_fits(each, len(own)) for each in self.sources.delegating_constructors(number)):
            return True  # which goes on calling that one, and it has what it hands over
        left = constructor.parameters[len(own) : self.place_among(number, constructor)]
        return any(not each.default and not each.variadic for each in left)

    def passed_at(self, number: int, passing: Forwarding) -> list[str]:
        """What a creation passes of what its class is handed, in the order in which the made one takes it; [] where it has not
        all of it."""
        found: list[str] = []
        spot = spot_of(self.sources.codebase, passing.row)
        for each in self.state.dependencies_of(number):
            own = twin_of(each, self.state.dependencies_of(passing.owner))
            if each.name in passing.written:
                found.append(passing.written[each.name])
            elif each.name in passing.fetched:
                found.append(self.expression(each, at_root=True))
            elif own is None or spot is None:
                return []
            else:
                found.append(self.sources.written_as(passing.owner, spot, own.name, kept=own.kept))
        return found

    def sites_supplied(self, number: int) -> list[tuple[int, int]]:
        """The places, as (file, site), that hand a class everything by what stands for it: composition roots, and in the end
        tests and what makes its one object."""
        return [
            *(self.sources.root_sites.get(number, ()) if number in self.state.wired else ()),
            *(self.sources.test_sites.get(number, ()) if number in self.state.retired else ()),
            *(self.sources.own_sites.get(number, ()) if number in self.state.retired else ()),
        ]

    def may_miss(self, number: int, given: Dependency) -> bool:
        """Whether callers may leave a dependency out so far."""
        return given.optional and number not in self.state.retired


def apart_from(taken: set[str], text: str) -> str:
    """Code that goes where some names are taken, with other ones for what its functions take."""
    for name in dict.fromkeys(_names_taken(text)):
        if name in taken:
            known = {*taken, *_names_taken(text)}
            other = next(each for number in range(2, len(known) + 3) if (each := f"{name}{number}") not in known)
            text = re.sub(rf"(?<![\w.]){re.escape(name)}\b", other, text)
    return text


def _names_taken(text: str) -> Iterator[str]:
    """What the functions without a name in a text take."""
    for found in _HEAD.finditer(text):
        yield from re.findall(r"\w+", found[1] or found[2] or "")
