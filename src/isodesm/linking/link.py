"""Turns the sites and declarations of every file into bonds."""

from __future__ import annotations

from collections.abc import Iterable

from isodesm.facts.packing import unpack_sites
from isodesm.facts.records import Trouble
from isodesm.linking.bonds import BondTable
from isodesm.linking.hierarchy import Hierarchy
from isodesm.linking.site_links import FileLinker
from isodesm.linking.symbols import Symbols
from isodesm.reading.time_limit import TimeUp, at_most
from isodesm.reading.workers import can_fork, forked, portions_of

FILES_PER_TASK, TASKS = 150, 2
"""Files of a portion at most, and portions for each worker at least, for files are not alike."""
SERIAL_BYTES = 300_000
"""Below this much of packed sites, forking workers costs more than it saves."""
SLACK, LEAST_SECONDS = 3.0, 10.0
"""Times the seconds of a file that linking it may take, since whoever asks first works out what all share; and the least."""


def link_files(
    symbols: Symbols, packed_sites: list[bytes], workers: int, seconds: float = 0.0
) -> tuple[BondTable, list[Trouble]]:
    """The bonds of all files, and what came of those that could not be linked; `packed_sites` are the sites of each file,
    packed, in order of file number, `seconds` the longest that a file may take (0: any time)."""
    table, trouble = BondTable(), []
    numbers = range(len(symbols.files))
    limit = limit_of(seconds)
    if not can_fork(workers, sum(map(len, packed_sites)), SERIAL_BYTES):
        return table, _link_into(table, symbols, packed_sites, numbers, limit)
    portions = portions_of(numbers, min(FILES_PER_TASK, len(numbers) // (workers * TASKS) + 1))
    for packed, failed in forked(workers, _link_portion, portions, symbols, packed_sites, limit):
        table.extend(packed)
        trouble += failed
    return table, trouble


def limit_of(seconds: float) -> float:
    """The longest that linking a file may take, by the longest that reading one may (0: any time)."""
    return max(SLACK * seconds, LEAST_SECONDS) if seconds else 0.0


def _link_portion(
    numbers: Iterable[int], symbols: Symbols, packed_sites: list[bytes], limit: float
) -> tuple[tuple[dict[str, bytes], list[str], list[str]], list[Trouble]]:
    table = BondTable()
    trouble = _link_into(table, symbols, packed_sites, numbers, limit)
    return table.pack(), trouble


def _link_into(
    table: BondTable, symbols: Symbols, packed_sites: list[bytes], numbers: Iterable[int], limit: float
) -> list[Trouble]:
    """Add the bonds of some files; of one that takes too long, or more than can be followed, none."""
    hierarchy, trouble = Hierarchy(symbols, table.externals), []
    for number in numbers:
        try:
            with at_most(limit):
                FileLinker(hierarchy, table, number, unpack_sites(packed_sites[number])).link()
        except TimeUp:
            reason = f"takes longer than {limit:g} seconds to link"
        except RecursionError:
            reason = "is nested too deeply to link"
        except Exception as error:  # one file must not end a run over ten thousand
            reason = f"could not be linked ({type(error).__name__}: {error}); please report this file"
        else:
            continue
        trouble.append(Trouble(path=symbols.files[number].path, reason=f"{reason}: what it uses is left out"))
    return trouble
