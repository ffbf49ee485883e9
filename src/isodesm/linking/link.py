"""Turns the sites and declarations of every file into bonds."""

from __future__ import annotations

from collections.abc import Iterable

import msgspec

from isodesm.facts.records import FileSites
from isodesm.linking.bonds import BondTable
from isodesm.linking.naming import hierarchy_of
from isodesm.linking.site_links import FileLinker
from isodesm.linking.symbols import Symbols
from isodesm.reading.workers import can_fork, forked, portions_of

FILES_PER_TASK = 150
SERIAL_FILES = 600
"""Below this many files, forking workers costs more than it saves."""

_unpack = msgspec.msgpack.Decoder(FileSites).decode


def link_files(symbols: Symbols, packed_sites: list[bytes], workers: int) -> BondTable:
    """The bonds of all files; `packed_sites` are the sites of each file, packed, in order of file number."""
    table = BondTable()
    numbers = range(len(symbols.files))
    if not can_fork(workers, len(numbers), SERIAL_FILES):
        _link_into(table, symbols, packed_sites, numbers)
        return table
    for packed in forked(workers, _link_portion, portions_of(numbers, FILES_PER_TASK), symbols, packed_sites):
        table.extend(packed)
    return table


def _link_portion(
    numbers: Iterable[int], symbols: Symbols, packed_sites: list[bytes]
) -> tuple[dict[str, bytes], list[str], list[str]]:
    table = BondTable()
    _link_into(table, symbols, packed_sites, numbers)
    return table.pack()


def _link_into(table: BondTable, symbols: Symbols, packed_sites: list[bytes], numbers: Iterable[int]) -> None:
    hierarchy = hierarchy_of(symbols, table.externals)
    for number in numbers:
        FileLinker(hierarchy, table, number, _unpack(packed_sites[number])).link()
