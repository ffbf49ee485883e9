"""Finds every registration of a tree."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from isodesm.facts.definitions import Definition
from isodesm.facts.records import FileSites
from isodesm.inference.registering.calls import Calls
from isodesm.inference.registering.entries import Entries
from isodesm.inference.registering.families import Families
from isodesm.inference.registering.listed import Lists
from isodesm.inference.registering.marks import Marks
from isodesm.inference.registering.registration import Registration
from isodesm.inference.registering.source import Source
from isodesm.linking.hierarchy import Hierarchy


def find_registrations(
    hierarchy: Hierarchy,
    content: Callable[[int], FileSites],
    text: Callable[[int], bytes],
    definitions: tuple[Definition, ...],
    offers: Mapping[int, Mapping[int, str]],
) -> tuple[Registration, ...]:
    """Every registration of the tree, in order of file and place.

    `content(file)` gives the sites of a file and `text(file)` its bytes, `offers` by file and site the calls that put
    something into a home-made registry, with the lifetime it has there.
    """
    found: list[Registration] = []
    families = Families(hierarchy.symbols)
    for file in range(len(hierarchy.symbols.files)):
        words = families.of(file)
        if any(not rules.is_empty for _, rules in words) or file in offers:
            source = Source(hierarchy, file, content(file), text)
            found += Calls(source, words, offers.get(file, {})).registrations()
            found += Marks(source, words).registrations()
            found += Lists(source, words).registrations()
            found += Entries(source, words).registrations()
    found += [_of_definition(each) for each in definitions]
    return tuple(sorted(found, key=lambda each: (each.file, each.line, each.column, each.abstraction)))


def _of_definition(given: Definition) -> Registration:
    lifetimes = {"": "singleton", "prototype": "transient", "request": "scoped", "session": "scoped"}
    return Registration(
        abstraction=given.id,
        implementation=given.alias or given.type,
        lifetime=lifetimes.get(given.scope, given.scope),
        how="definition",
        file=given.path,
        line=given.line,
        column=given.column,
        id=given.id,
        factory=bool(given.factory),
        arguments=tuple(each.service or each.value for each in given.arguments),
        alias=bool(given.alias),
    )
