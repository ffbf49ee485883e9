"""Reads a tree: finds its files, reads their facts, links them, and infers what every question needs."""

from __future__ import annotations

import gc
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from isodesm.catalogue import Catalogues
from isodesm.codebase.model import BesideSource, Codebase
from isodesm.disk.opening import NotPlain, read_plain
from isodesm.errors import NothingToRead, UsageError
from isodesm.facts.definitions import LARGEST, Definition, may_define, read_definitions
from isodesm.facts.languages import language_by_suffix
from isodesm.facts.records import Trouble
from isodesm.linking.bonds import BondTable
from isodesm.linking.link import limit_of, link_files
from isodesm.linking.relink import Linked, relinked_from, shown
from isodesm.linking.symbols import Symbols
from isodesm.reading.cache import Cache
from isodesm.reading.discovery import discover
from isodesm.reading.files import ReadFile, collector_paused, read_files, worker_count
from isodesm.reading.projects import Projects
from isodesm.settings import Settings

if TYPE_CHECKING:
    from isodesm.reading.replay import Replay

Progress = Callable[[str, int, int], None]
"""Told what is being done, and how much of how much is done."""
MOST_BEHIND = 40
"""Files that may have changed since the bonds were kept last, before they are kept anew."""


def _no_progress(what: str, done: int, total: int) -> None:
    return None


def read(
    path: str | Path, settings: Settings | None = None, progress: Progress = _no_progress, replay: Replay | None = None
) -> Codebase:
    """Read and link the tree (or single file) at `path`; `replay` knows what was found there, and may know what was linked.

    Raises UsageError where there is no such path, NothingToRead where it holds no source file.
    """
    root = Path(path)
    settings = settings or Settings()
    if not root.exists():
        raise UsageError(f"There is no such file or folder: {path}. Name the folder that holds the source.")
    discovery = replay.found if replay is not None else discover(root, settings)
    if not discovery.files:
        raise NothingToRead(_nothing_found(path, discovery.left_out, discovery.trouble))
    folder = root if root.is_dir() else root.parent
    trouble, facts, packed = list(discovery.trouble), [], []
    workers = worker_count(settings.workers)
    total = len(discovery.files)
    cache = Cache(Path(settings.cache_folder), settings.cache_limit) if settings.cache_folder else None
    with collector_paused():
        for result in read_files(
            folder, discovery.files, workers, lambda done: progress("reading", done, total), cache, settings.seconds_per_file
        ):
            if isinstance(result, ReadFile):
                facts.append(result.facts)
                packed.append(result.sites)
                trouble += result.facts.trouble
            else:
                trouble.append(result)
        if cache is not None:
            cache.close()
        projects = Projects(folder, discovery.projects, discovery.manifests)
        trouble += projects.trouble
        symbols = Symbols(facts, projects, Catalogues(settings.catalogue))
        gc.freeze()
        progress("linking", 0, total)
        bonds, unlinked, again = _linked(symbols, packed, workers, settings.seconds_per_file, replay)
        trouble += unlinked
        definitions, unread = _read_definitions(folder, discovery.data)
        trouble += unread
        progress("judging", 0, total)
        codebase = Codebase(
            folder,
            settings,
            symbols,
            packed,
            bonds,
            BesideSource(tuple(sorted(trouble, key=lambda each: (each.path, each.line))), discovery.left_out, definitions),
        )
        codebase.is_linked_again = again
        codebase.remarks = (cache.remark,) if cache is not None and cache.remark else ()
    progress("done", total, total)
    return codebase


def _linked(
    symbols: Symbols, packed: list[bytes], workers: int, seconds: float, replay: Replay | None
) -> tuple[BondTable, list[Trouble], bool]:
    """The bonds, of files that are as they were from where they were kept, as far as others show the same to them; and whether
    some others have changed."""
    from isodesm.reading.replay import LARGEST_ANSWER

    same = replay is not None and replay.stands(symbols.files)
    kept = replay.find("bonds", Linked, of_tree=False) if replay is not None and same else None
    again = relinked_from(symbols, packed, kept, limit_of(seconds)) if kept is not None else None
    if again is not None and len(again.changed) <= MOST_BEHIND:
        return again.table, again.trouble, bool(again.changed)
    table, trouble = again[:2] if again is not None else link_files(symbols, packed, workers, seconds)
    if replay is not None and same and table.size <= LARGEST_ANSWER:  # a packed copy of a larger one would only be thrown away
        replay.keep("bonds", Linked(table.pack(), trouble, shown(symbols.files)), of_tree=False)
    return table, trouble, False


def _read_definitions(folder: Path, paths: tuple[str, ...]) -> tuple[tuple[Definition, ...], list[Trouble]]:
    """The services that definition files declare; files of data that define none are passed over without a word."""
    found: list[Definition] = []
    trouble: list[Trouble] = []
    for path in paths:
        try:
            content = read_plain(folder / path, LARGEST)
        except NotPlain:
            continue
        except OSError as error:
            trouble.append(Trouble(path=path, reason=f"can't be read: {error.strerror}"))
            continue
        if may_define(content):
            defined, unread = read_definitions(path, content)
            found += defined
            trouble += unread
    return tuple(found), trouble


def _nothing_found(path: str | Path, left_out: dict[str, int], trouble: tuple[Trouble, ...]) -> str:
    suffixes = ", ".join(sorted(language_by_suffix()))
    message = f"No source file to read in {path} (looked for {suffixes})."
    if left_out:
        message += " Left out: " + ", ".join(f"{count} × {reason}" for reason, count in left_out.items()) + "."
    for each in trouble:
        message += f"\n  {each.path} {each.reason}"
    return message
