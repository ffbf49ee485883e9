"""A codebase as it would be after edits, read and linked in memory."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from isodesm.catalogue import Catalogues
from isodesm.codebase.model import BesideSource, Codebase
from isodesm.disk.opening import read_plain
from isodesm.facts.definitions import Definition, read_definitions
from isodesm.facts.languages import language_of
from isodesm.facts.reader import as_utf8, read_packed
from isodesm.linking.link import link_files
from isodesm.linking.relink import relinked, shown
from isodesm.linking.symbols import Symbols
from isodesm.reading.files import collector_paused, worker_count
from isodesm.reading.replay import Replay

MOST_CHANGED = 40
"""Files beyond which reading all again costs hardly more."""


def edited(codebase: Codebase, contents: Mapping[str, bytes | None]) -> Codebase:
    """The codebase with other contents of some files, with files that it does not have yet, and without some.

    `contents` has their bytes by path below the root, None for a file that is gone. Only these are read; nothing is written.
    Where all show the same to others as before, only these are linked, too.
    """
    files = {facts.path: (facts, codebase.packed_sites[number]) for number, facts in enumerate(codebase.symbols.files)}
    texts = {path: text for path, text in codebase.texts.items() if path not in contents}
    with collector_paused():
        for path, content in contents.items():
            if content is None:
                files.pop(path, None)
                continue
            known = files.get(path)
            language = known[0].language if known else language_of(path)
            if language:
                files[path] = read_packed(language, path, content)
                texts[path] = as_utf8(path, content)[0]
        ordered = [files[path] for path in sorted(files)]
        packed = [sites for _, sites in ordered]
        settings = codebase.settings
        symbols = Symbols([facts for facts, _ in ordered], codebase.symbols.projects, Catalogues(settings.catalogue))
        as_linked = partial(codebase.bonds.beginning, codebase.linked_rows)
        again = relinked(symbols, packed, shown(codebase.symbols.files), as_linked)
        bonds = again.table if again is not None else link_files(symbols, packed, worker_count(settings.workers))[0]
        return Codebase(
            codebase.root,
            settings,
            symbols,
            packed,
            bonds,
            BesideSource(codebase.trouble, codebase.left_out, _defined(codebase, contents), texts),
        )


def renewed(codebase: Codebase, then: Replay, now: Replay) -> Codebase | None:
    """The codebase as the tree is `now`, where it was read as it stood `then`; None where more has changed than the content of
    some files without trouble, so that the whole has to be read."""
    if then.frame != now.frame or any(then.digests.get(path) != now.digests[path] for path in now.found.data):
        return None
    paths = [file.path for file in now.found.files]
    gone = {facts.path for facts in codebase.symbols.files}.difference(paths)
    changed = {path for path in paths if then.digests.get(path) != now.digests[path]}
    if len(changed) + len(gone) > MOST_CHANGED or changed.intersection(each.path for each in codebase.trouble):
        return None
    try:
        contents = {path: read_plain(codebase.root / path) for path in changed}
    except OSError:  # gone or changed again: whoever reads the whole says so
        return None
    found = edited(codebase, contents | dict.fromkeys(gone))
    troubled = any(each.trouble for each in found.symbols.files if each.path in changed)
    return found if now.stands(found.symbols.files) and not troubled else None


def _defined(codebase: Codebase, contents: Mapping[str, bytes | None]) -> tuple[Definition, ...]:
    """The services of definition files, those with other contents read again."""
    paths = dict.fromkeys(each.path for each in codebase.definitions)
    found: list[Definition] = []
    for path in paths:
        content = contents.get(path)
        own = read_definitions(path, content)[0] if content is not None else ()
        found += own if path in contents else [each for each in codebase.definitions if each.path == path]
    return tuple(found)
