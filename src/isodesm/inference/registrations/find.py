"""Finds every registration of a tree."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import NamedTuple

import msgspec

from isodesm.facts.definitions import Definition
from isodesm.facts.records import FileSites
from isodesm.inference.registrations.annotations import Marks
from isodesm.inference.registrations.calls import Calls
from isodesm.inference.registrations.entries import Entries
from isodesm.inference.registrations.families import Families
from isodesm.inference.registrations.provider_lists import Lists
from isodesm.inference.registrations.registration import Registration
from isodesm.inference.registrations.rules import Rules, of_folder
from isodesm.inference.registrations.source import Source
from isodesm.linking.hierarchy import Hierarchy


class Told(NamedTuple):
    """What registrations are read from: the sites of a file with `content(file)`, its bytes with `text(file)`."""

    hierarchy: Hierarchy
    content: Callable[[int], FileSites]
    text: Callable[[int], bytes]
    families: Families

    def of_file(self, file: int, offers: Mapping[int, str]) -> Iterator[Registration]:
        """The registrations of a file; of its sites some may be `offers`: calls that put something into a home-made registry,
        with the lifetime that it has there."""
        words = self.families.of(file)
        if offers or any(not rules.is_empty for _, rules in words):
            source = Source(self.hierarchy, file, self.content(file), self.text)
            yield from Calls(source, words, offers, self.families.proven(file)).registrations()
            yield from Marks(source, words).registrations()
            yield from Lists(source, words, self.families).registrations()
            yield from Entries(source, words).registrations()
            yield from Rules(source, words).registrations()

    def packed(self) -> bytes:
        """What all files say by themselves, offers apart, as a process sends it to another."""
        files = range(len(self.hierarchy.symbols.files))
        return _pack([(file, own) for file in files if (own := list(self.of_file(file, {})))])


def find_registrations(
    told: Told, definitions: tuple[Definition, ...], offers: Mapping[int, Mapping[int, str]], packed: bytes = b""
) -> tuple[Registration, ...]:
    """Every registration of the tree, in order of file and place; `offers` by file and site, `packed` where that was made."""
    by_file = dict(_unpack(packed)) if packed else {}
    found: list[Registration] = []
    for file in range(len(told.hierarchy.symbols.files)):
        found += by_file.get(file, ()) if packed and file not in offers else told.of_file(file, offers.get(file, {}))
    by_id = {each.id: each for each in definitions}
    for each in definitions:
        if each.resource:
            found += of_folder(told.hierarchy, each)
        elif not each.abstract:
            found.append(_of_definition(each, by_id, told.hierarchy))
    return tuple(sorted(found, key=lambda each: (each.file, each.line, each.column, each.abstraction)))


_pack = msgspec.msgpack.Encoder().encode
_unpack = msgspec.msgpack.Decoder(list[tuple[int, list[Registration]]]).decode


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
