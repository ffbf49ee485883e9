"""Whether every place that makes a class, or calls the constructor of its parent, passes as many arguments as one takes."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

from isodesm.codebase.model import Codebase
from isodesm.facts.records import DeclaredType, FileFacts, FileSites, Member, Site
from isodesm.facts.typetext import split_top
from isodesm.linking.remembering import remembered
from isodesm.linking.symbols import simple_name
from isodesm.planning.language import language_named
from isodesm.planning.language.base import Language
from isodesm.planning.model.step import Written
from isodesm.planning.verification.reading import read
from isodesm.planning.wording import faults as fault

_ANY = 10_000
"""As many as one likes."""
_SPREAD = ("*", "...", "&$")
_LONGEST = 150
"""Bytes of an argument list from which on it may have been cut."""

Shapes = tuple[tuple[int, int], ...]
"""Least and most arguments of each constructor of a class."""


class _Call(NamedTuple):
    """A place that calls a constructor: the name of the class, and how many arguments it passes."""

    name: str
    passed: int


class Constructed:
    """The constructors of classes, and who calls them, as the steps so far leave them. A value."""

    def __init__(self, codebase: Codebase, texts: Mapping[str, Written]) -> None:
        self.codebase, self.texts = codebase, texts

    def after(self, changed: Sequence[Written]) -> Constructed:
        """With some files written."""
        return Constructed(self.codebase, {**self.texts, **{each.path: each for each in changed}})

    def objections(self, changed: Sequence[Written]) -> Iterator[str]:
        """Calls that would fit no constructor and did before, in words."""
        now = self.after(changed)
        others = self._others(changed)
        for written in [*changed, *others]:
            before, after = self._misfits(written, written.before), now._misfits(written, written.after)
            for call, count in sorted(after.items()):
                if count > before[call]:
                    yield fault.arguments(call.name, call.passed, written.short)

    def _others(self, changed: Sequence[Written]) -> list[Written]:
        """Files that stay as they are and name a class whose constructors change."""
        names = {name for each in changed for name in _reshaped(each)}
        if not names:
            return []
        known = _callers(self.codebase)
        own = {each.path for each in changed}
        paths = {path for name in names for path in known.get(name, ())} - own
        paths |= {path for path, each in self.texts.items() if any(name.encode() in each.after for name in names)} - own
        return [
            Written(each.language, each.path, each.after, each.after) for path in sorted(paths) if (each := self._text(path))
        ]

    def _text(self, path: str) -> Written | None:
        if path in self.texts:
            return self.texts[path]
        number = _numbers(self.codebase).get(path, -1)
        text = self.codebase.text(number) if number >= 0 else b""
        return Written(self.codebase.symbols.files[number].language, path, text, text) if text else None

    def _misfits(self, written: Written, text: bytes) -> Counter[_Call]:
        """The calls in a file that fit no constructor."""
        if not text:
            return Counter()
        facts, content = read(written.language, written.path, text)
        language = language_named(written.language)
        found: Counter[_Call] = Counter()
        for name, call in _calls(facts, content, language):
            shapes = self._shapes(written, facts, name)
            if shapes and not any(least <= call.passed <= most for least, most in shapes):
                found[call] += 1
        return found

    def _shapes(self, written: Written, facts: FileFacts, name: str) -> Shapes:
        """What the constructors of a class take that a file names; () where it is not the only one of its name in sight."""
        own = [each for each in facts.types if each.name == name and each.kind != "module"]  # which may be called like a class
        if own:
            return _shapes_of(own[0], language_named(written.language)) if len(own) == 1 else ()
        number = self._named(written, name)
        if number < 0:
            return ()
        symbols = self.codebase.symbols
        path, declared = symbols.path(number), symbols.types[number]
        if path in self.texts:
            each = self.texts[path]
            same = [one for one in read(each.language, path, each.after)[0].types if one.path == declared.path]
            return _shapes_of(same[0], language_named(each.language)) if len(same) == 1 else ()
        return _shapes_of(declared, language_named(written.language))

    def _named(self, written: Written, name: str) -> int:
        """The class that a file names: as it did before the steps, or the only one of that name."""
        file = _numbers(self.codebase).get(written.path, -1)
        if file >= 0:
            found = self.codebase.hierarchy.file(file).resolve(name, 0, -1)
            renamed = any(each.alias == name for each in self.codebase.symbols.files[file].imports)
            if found >= 0 and (renamed or self.codebase.symbols.types[found].name == name):
                return found  # where case does not count, another of the file may have the name but for that
        same = _by_name(self.codebase).get(name, ())
        return same[0] if len(same) == 1 else -1


def _shapes_of(declared: DeclaredType, language: Language) -> Shapes:
    own = [each for each in declared.members if each.kind == "constructor"]
    if declared.kind != "class" or not own or declared.name in ("", "anonymous"):
        return ()
    return tuple(_shape(each, language) for each in own)


def _shape(constructor: Member, language: Language) -> tuple[int, int]:
    given = constructor.parameters
    needed = [each for each in given if not each.default and not each.variadic]
    least = 0 if language.marks_optional_parameters else len(needed)  # a mark that is not read
    return least, _ANY if any(each.variadic for each in given) else len(given)


def _reshaped(written: Written) -> set[str]:
    """The classes of a file whose constructors take other numbers of arguments after a step."""
    if not written.before:
        return set()
    language = language_named(written.language)
    old = {each.path: each for each in read(written.language, written.path, written.before)[0].types}
    new = read(written.language, written.path, written.after)[0].types
    return {
        each.name
        for each in new
        if each.path in old and _shapes_of(each, language) != _shapes_of(old[each.path], language) and each.name
    }


def _calls(facts: FileFacts, content: FileSites, language: Language) -> Iterator[tuple[str, _Call]]:
    """The calls of constructors in a file: of classes by their names, and of parents."""
    classes = {each.name for each in facts.types}
    for site in content.sites:
        if site.name == "new" or len(site.arguments) >= _LONGEST:
            continue
        passed = split_top(site.arguments)
        if any(each.startswith(_SPREAD) for each in passed):
            continue
        name = _made(site, facts, content.sites, classes)
        if name:
            yield name, _Call(name, len(passed))
    if language.overloads:  # there, a constructor that calls none calls that of the parent
        yield from _unsaid(facts, content)


def _made(site: Site, facts: FileFacts, sites: Sequence[Site], classes: set[str]) -> str:
    """The name of the class whose constructor a site calls; '' where it calls none."""
    if site.kind == "creation":
        own = facts.types[site.type].name if site.type >= 0 else ""
        return own if site.text in ("self", "static") else simple_name(site.text.partition("<")[0])
    of_parent = site.kind == "delegation" and site.text in ("super", "base")
    of_parent = of_parent or (site.kind == "call" and (site.text, site.name) == ("parent", "__construct"))
    if site.kind == "call" and site.name == "__init__" and site.receiver >= 0:
        of_parent = sites[site.receiver].name == "super"
    if of_parent and site.type >= 0:
        return _parent(facts.types[site.type])
    if site.kind == "call" and not site.text and site.name[:1].isupper():  # a class is called where that makes one
        return site.name if language_named(facts.language).creation.startswith("{}") else ""
    return ""


def _parent(declared: DeclaredType) -> str:
    return simple_name(declared.extends[0].partition("<")[0]) if len(declared.extends) == 1 else ""


def _unsaid(facts: FileFacts, content: FileSites) -> Iterator[tuple[str, _Call]]:
    said = {(site.type, site.member) for site in content.sites if site.kind == "delegation"}
    for at, declared in enumerate(facts.types):
        parent = _parent(declared) if declared.kind == "class" else ""
        own = [index for index, each in enumerate(declared.members) if each.kind == "constructor"]
        calls = sum(1 for index in own if (at, index) not in said) if own else 1
        for _ in range(calls if parent else 0):
            yield parent, _Call(parent, 0)


@remembered
def _numbers(codebase: Codebase) -> dict[str, int]:
    return {facts.path: number for number, facts in enumerate(codebase.symbols.files)}


@remembered
def _by_name(codebase: Codebase) -> dict[str, list[int]]:
    found: dict[str, list[int]] = defaultdict(list)
    for number, declared in enumerate(codebase.symbols.types):
        if codebase.symbols.whole.get(number, number) == number:
            found[declared.name].append(number)
    return found


@remembered
def _callers(codebase: Codebase) -> dict[str, set[str]]:
    """Names of classes to the files that make or extend one of that name."""
    found: dict[str, set[str]] = defaultdict(set)
    symbols, bonds = codebase.symbols, codebase.bonds
    for row in bonds.rows_of_kind("creation"):
        target = bonds.target[row]
        if target >= 0:
            found[symbols.types[target].name].add(symbols.path(bonds.source[row]))
    for facts in symbols.files:
        for declared in facts.types:
            if parent := _parent(declared):
                found[parent].add(facts.path)
    return found
