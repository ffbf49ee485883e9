"""Linking again after a change: where all files show the same as before, only those are linked whose content is another.

What a file shows is its `surface`; what another file names resolves by that alone. Numbers of types move where a changed file
has more or fewer anonymous types than before.
"""

from __future__ import annotations

from array import array
from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterable
from typing import NamedTuple

import msgspec

from isodesm.facts.packing import unpack_sites
from isodesm.facts.records import FileFacts, Trouble
from isodesm.linking.bonds import COLUMNS, BondTable
from isodesm.linking.hierarchy import Hierarchy
from isodesm.linking.site_links import FileLinker
from isodesm.linking.symbols import Symbols
from isodesm.reading.time_limit import at_most

MOST_CHANGED = 0.2
"""Share of files beyond which linking all anew costs hardly more."""


class Shown(msgspec.Struct, array_like=True, frozen=True):
    """A file as it was linked: path, digest of its content, its surface, and for each of its types whether it is anonymous."""

    path: str
    digest: str
    surface: str
    anonymous: tuple[bool, ...]


class Linked(msgspec.Struct, array_like=True):
    """What linking gave, with the files as they were."""

    table: tuple[dict[str, bytes], list[str], list[str]]
    trouble: list[Trouble]
    files: list[Shown]


def shown(files: Iterable[FileFacts]) -> list[Shown]:
    """Files as they are linked."""
    return [Shown(each.path, each.digest, each.surface, tuple(one.kind == "anonymous" for one in each.types)) for each in files]


class Relinked(NamedTuple):
    """The bonds of all files, what came of unchanged ones that could not be linked, and the numbers of those linked anew."""

    table: BondTable
    trouble: list[Trouble]
    changed: list[int]


def relinked_from(symbols: Symbols, packed_sites: list[bytes], kept: Linked, seconds: float = 0.0) -> Relinked | None:
    """The same as `relinked`, from what was kept."""

    def unpacked() -> BondTable:
        table = BondTable()
        table.extend(kept.table)
        return table

    found = relinked(symbols, packed_sites, kept.files, unpacked, seconds)
    paths = {symbols.files[number].path for number in found.changed} if found is not None else set()
    return found._replace(trouble=[each for each in kept.trouble if each.path not in paths]) if found is not None else None


def relinked(
    symbols: Symbols, packed_sites: list[bytes], before: list[Shown], make_old: Callable[[], BondTable], seconds: float = 0.0
) -> Relinked | None:
    """The bonds of all files, those of unchanged ones as they were `before`: in a table made when it is wanted, that this may
    add strings to. None where that can't be told, does not pay, or one of the changed files can't be linked within its time
    (`seconds`, 0: any)."""
    now = shown(symbols.files)
    changed = _changed(now, before)
    if changed is None:
        return None
    old = make_old()
    if not changed:
        return Relinked(old, [], changed)
    table = BondTable()
    table.names, table.externals = old.names, old.externals
    hierarchy = Hierarchy(symbols, table.externals)
    parts = {}
    for number in changed:
        part = parts[number] = BondTable()
        part.names, part.externals = table.names, table.externals
        try:
            with at_most(seconds):
                FileLinker(hierarchy, part, number, unpack_sites(packed_sites[number])).link()
        except Exception:  # whoever links all says what is wrong with one
            return None
    _assemble(table, old, parts, _moved(now, before))
    return Relinked(table, [], changed)


def _changed(now: list[Shown], before: list[Shown]) -> list[int] | None:
    """The numbers of files with other content; None where others may name something else by now, or too many have changed."""
    if len(now) != len(before):
        return None
    changed = []
    for number, (new, old) in enumerate(zip(now, before, strict=True)):
        if (new.path, new.surface) != (old.path, old.surface):
            return None
        if new.digest != old.digest:
            changed.append(number)
    return changed if len(changed) <= max(MOST_CHANGED * len(now), 1) else None


def _moved(now: list[Shown], before: list[Shown]) -> list[int] | None:
    """Number of each type before to the number that it has now, -1 for anonymous ones of changed files; None where all stay."""
    if all(new.anonymous == old.anonymous for new, old in zip(now, before, strict=True)):
        return None
    moved: list[int] = []
    first = 0
    for new, old in zip(now, before, strict=True):
        if new.anonymous == old.anonymous:
            moved += range(first, first + len(old.anonymous))
        else:
            named = iter([first + index for index, anonymous in enumerate(new.anonymous) if not anonymous])
            moved += [-1 if anonymous else next(named) for anonymous in old.anonymous]
        first += len(new.anonymous)
    return moved


def _assemble(table: BondTable, old: BondTable, parts: dict[int, BondTable], moved: list[int] | None) -> None:
    """Rows in order of file: those of `parts`, and in between the old ones, with the numbers that types have now."""
    for name in COLUMNS:
        column, joined, at = old.columns[name], table.columns[name], 0
        if moved is not None and name in ("source", "inner", "target"):
            column = array("i", [moved[value] if value >= 0 else value for value in column])
        for number in sorted(parts):
            start, end = bisect_left(old.file, number), bisect_right(old.file, number)
            joined.extend(column[at:start])
            joined.extend(parts[number].columns[name])
            at = end
        joined.extend(column[at:])
