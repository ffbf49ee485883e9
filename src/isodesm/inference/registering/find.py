"""Finds every registration of a tree."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

from isodesm.facts.definitions import Definition
from isodesm.facts.records import FileSites
from isodesm.inference.registering.calls import Calls
from isodesm.inference.registering.entries import Entries
from isodesm.inference.registering.families import Families
from isodesm.inference.registering.listed import Lists
from isodesm.inference.registering.marks import Marks
from isodesm.inference.registering.registration import Registration
from isodesm.inference.registering.rules import Rules, of_folder
from isodesm.inference.registering.source import Source
from isodesm.linking.hierarchy import Hierarchy


def find_registrations(
    hierarchy: Hierarchy,
    content: Callable[[int], FileSites],
    text: Callable[[int], bytes],
    definitions: tuple[Definition, ...],
    offers: Mapping[int, Mapping[int, str]],
    families: Families,
) -> tuple[Registration, ...]:
    """Every registration of the tree, in order of file and place.

    `content(file)` gives the sites of a file and `text(file)` its bytes, `offers` by file and site the calls that put
    something into a home-made registry, with the lifetime it has there.
    """
    found: list[Registration] = []
    for file in range(len(hierarchy.symbols.files)):
        words = families.of(file)
        if any(not rules.is_empty for _, rules in words) or file in offers:
            source = Source(hierarchy, file, content(file), text)
            found += Calls(source, words, offers.get(file, {}), families.proven(file)).registrations()
            found += Marks(source, words).registrations()
            found += Lists(source, words).registrations()
            found += Entries(source, words).registrations()
            found += Rules(source, words).registrations()
    by_id = {each.id: each for each in definitions}
    for each in definitions:
        if each.resource:
            found += of_folder(hierarchy, each)
        elif not each.abstract:
            found.append(_of_definition(each, by_id, hierarchy))
    return tuple(sorted(found, key=lambda each: (each.file, each.line, each.column, each.abstraction)))


def _of_definition(given: Definition, by_id: Mapping[str, Definition], hierarchy: Hierarchy) -> Registration:
    lifetimes = {"": "singleton", "prototype": "transient", "request": "scoped", "session": "scoped"}
    line = list(_parents(given, by_id))
    kind = next((each.type for each in line if each.type), given.id)
    maker, _, method = given.factory.partition("::")
    if maker and maker == kind:
        kind = _result(hierarchy, maker, method) or kind  # the class is the one that makes, not the one that is made
    return Registration(
        abstraction=given.decorates or given.id,
        implementation=given.alias or kind,
        lifetime=lifetimes.get(given.scope, given.scope),
        how="definition",
        file=given.path,
        line=given.line,
        column=given.column,
        id=given.id,
        factory=any(each.factory for each in line),
        arguments=tuple(each.service or each.value for each in given.arguments),
        alias=bool(given.alias),
        wraps=bool(given.decorates),
        condition=given.condition,
    )


def _result(hierarchy: Hierarchy, name: str, method: str) -> str:
    """The declared result of a method, as a qualified name; '' where it is not known."""
    symbols = hierarchy.symbols
    number = next((found[0] for each in sorted(symbols.by_language) if (found := symbols.by_language[each].get(name))), -1)
    for _, member in symbols.members(number).get(method, ()) if number >= 0 else ():
        file = symbols.file_of[number]
        target = hierarchy.file(file).resolve(member.type, number - symbols.first[file], -1)
        return symbols.names[target] if target >= 0 else ""
    return ""


def _parents(given: Definition, by_id: Mapping[str, Definition]) -> Iterator[Definition]:
    """A definition and those that it takes over from, nearest first."""
    seen: set[str] = set()
    at: Definition | None = given
    while at is not None and at.id not in seen:
        seen.add(at.id)
        yield at
        at = by_id.get(at.parent) if at.parent else None
