"""Turns the sites and declarations of every file into bonds."""

from __future__ import annotations

from collections.abc import Iterable
from multiprocessing import get_context
from typing import Any

import msgspec

from isodesm.codebase.bonds import BondTable
from isodesm.codebase.naming import hierarchy_of
from isodesm.codebase.reading import start_method
from isodesm.codebase.site_links import FileLinker
from isodesm.codebase.symbols import Symbols
from isodesm.facts.records import FileSites

FILES_PER_TASK = 150
SERIAL_FILES = 600
"""Below this many files, forking workers costs more than it saves."""

_unpack = msgspec.msgpack.Decoder(FileSites).decode


def link_files(symbols: Symbols, packed_sites: list[bytes], workers: int) -> BondTable:
    """The bonds of all files; `packed_sites` are the sites of each file, packed, in order of file number."""
    table = BondTable()
    numbers = range(len(symbols.files))
    if workers <= 1 or len(symbols.files) < SERIAL_FILES or start_method() != "fork":
        _link_into(table, symbols, packed_sites, numbers)
        return table
    tasks = [numbers[start : start + FILES_PER_TASK] for start in range(0, len(numbers), FILES_PER_TASK)]
    _shared.update(symbols=symbols, sites=packed_sites)
    try:
        with get_context("fork").Pool(workers) as pool:
            for packed in pool.imap(_link_task, tasks):
                table.extend(packed)
    finally:
        _shared.clear()
    return table


_shared: dict[str, Any] = {}
"""What forked workers find in memory instead of being sent it."""


def _link_task(numbers: Iterable[int]) -> tuple[dict[str, bytes], list[str], list[str]]:
    table = BondTable()
    _link_into(table, _shared["symbols"], _shared["sites"], numbers)
    return table.pack()


def _link_into(table: BondTable, symbols: Symbols, packed_sites: list[bytes], numbers: Iterable[int]) -> None:
    hierarchy = hierarchy_of(symbols, table.externals)
    for number in numbers:
        FileLinker(hierarchy, table, number, _unpack(packed_sites[number])).link()
