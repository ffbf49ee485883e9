"""Reads the files that were discovered, in processes when that pays, and hands the facts on in order of path."""

from __future__ import annotations

import gc
import os
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from typing import NamedTuple

import msgspec

from isodesm.disk.opening import NotPlain, read_plain
from isodesm.facts.reader import queries_of, read_packed
from isodesm.facts.records import FileFacts, Trouble, digest_of
from isodesm.facts.sharing import Sharing
from isodesm.reading.cache import Cache, Row, key_of
from isodesm.reading.discovery import SourceFile
from isodesm.reading.workers import Pool, Stamp, start_method

BATCH_BYTES = 250_000
"""Bytes of source per task: large enough to hide the cost of handing over, small enough to share evenly."""
SERIAL_BYTES = 400_000
"""Below this much source one process reads it all: more would cost more than they save."""


class ReadFile(NamedTuple):
    """One file's declarations, and its sites still packed."""

    facts: FileFacts
    sites: bytes


class _Result(NamedTuple):
    """What a worker says of one file: its row for the cache, whether that is new, and the trouble there was, packed."""

    row: Row | None
    fresh: bool = False
    trouble: bytes = b""


_parsed: set[tuple[str, str]] = set()
"""Languages and suffixes of files that were parsed on behalf of this process."""
_pack = msgspec.msgpack.Encoder().encode
_unpack_facts = msgspec.msgpack.Decoder(FileFacts).decode


def worker_count(asked: int) -> int:
    """Processes to use: what was asked for, or one a processor."""
    return asked or len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else asked or os.cpu_count() or 1


def read_files(
    root: Path,
    files: Sequence[SourceFile],
    workers: int,
    progress: Callable[[int], None] = lambda done: None,
    cache: Cache | None = None,
    seconds: float = 10.0,
) -> Iterator[ReadFile | Trouble]:
    """The facts of each file in the given order; Trouble in the place of one that can't be read.

    `progress` is told the number of files done each time some are; `seconds` is the longest that a file may take.
    """
    batches = list(_batches(files))
    sharing = Sharing()
    for kind in sorted(_parsed.intersection(map(_kind, files)) if start_method() == "fork" else ()):
        queries_of(*kind)  # who reads once more in this process need not wait for it in each process that reads
    done = 0
    for batch, results in zip(batches, _mapped(root, batches, workers, seconds, cache), strict=True):
        for result in results:
            if result.trouble:
                yield msgspec.msgpack.decode(result.trouble, type=Trouble)
            elif result.row is not None:
                yield ReadFile(sharing.of(_unpack_facts(result.row.facts)), result.row.sites)
        _parsed.update(_kind(file) for file, result in zip(batch, results, strict=True) if result.fresh and not result.trouble)
        if cache is not None:
            cache.put(result.row for result in results if result.row is not None and result.fresh)
            cache.touch(result.row.key for result in results if result.row is not None and not result.fresh)
        done += len(results)
        progress(done)


def _kind(file: SourceFile) -> tuple[str, str]:
    return file.language, file.path[file.path.rfind(".") :]


def _batches(files: Sequence[SourceFile]) -> Iterator[list[SourceFile]]:
    batch: list[SourceFile] = []
    size = 0
    for file in files:
        batch.append(file)
        size += file.size
        if size >= BATCH_BYTES:
            yield batch
            batch, size = [], 0
    if batch:
        yield batch


def _mapped(
    root: Path, batches: list[list[SourceFile]], workers: int, seconds: float, cache: Cache | None
) -> Iterator[list[_Result]]:
    total = sum(file.size for batch in batches for file in batch)
    folder = cache.path.parent if cache is not None and cache.is_on else None
    few = len(batches) <= 1 or total < SERIAL_BYTES
    read = partial(_read_batch, str(root), seconds)
    return Pool(1 if few else workers, read, batches, seconds, partial(_open_cache, folder)).results()


_own_cache: list[Cache] = []
"""The cache as a worker process sees it: opened once, and only read."""


def _open_cache(folder: Path | None) -> None:
    _own_cache.clear()
    if folder is not None:
        _own_cache.append(Cache(folder))


def _read_batch(root: str, seconds: float, batch: list[SourceFile], stamp: Stamp, left_out: dict[int, str]) -> list[_Result]:
    """The facts of some files; the sentences in `left_out` in the place of those that came to nothing, now or before."""
    cache = next(iter(_own_cache), None)
    with collector_paused():
        contents: dict[int, bytes | Trouble] = {place: _trouble(batch[place], why) for place, why in left_out.items()}
        keys = [_key(file, file.digest) if file.digest and place not in contents else b"" for place, file in enumerate(batch)]
        known = cache.get(filter(None, keys)) if cache is not None else {}
        found_late = []
        for place, file in enumerate(batch):
            if place not in contents and keys[place] not in known:
                stamp(place)
                contents[place] = content = _content_of(root, file)
                key = b"" if isinstance(content, Trouble) else _key(file, digest_of(content))
                if key and key != keys[place]:
                    found_late.append(key)
                keys[place] = key
        if found_late and cache is not None:
            known |= cache.get(found_late)
        results = []
        for place, (file, key) in enumerate(zip(batch, keys, strict=True)):
            stamp(place)
            row = known.get(key)
            if place in left_out:
                results.append(_given_up(root, file, left_out[place], seconds))
            elif row is not None and (row.facts or (why := _why(row, seconds))):
                results.append(_Result(row) if row.facts else _Result(row, trouble=_pack(_trouble(file, why))))
            else:
                content = contents[place] if place in contents else _content_of(root, file)
                results.append(_read_one(file, key, content))
        return results


def _given_up(root: str, file: SourceFile, reason: str, seconds: float) -> _Result:
    """A file that came to nothing, to be remembered as such: the next run need not wait for it as long again."""
    content, trouble = _content_of(root, file), _pack(_trouble(file, reason))
    if isinstance(content, Trouble):
        return _Result(None, trouble=trouble)
    return _Result(Row(_key(file, digest_of(content)), b"", _pack((seconds, reason))), fresh=True, trouble=trouble)


def _why(row: Row, seconds: float) -> str:
    """Why a file came to nothing before; '' where it may take longer now than it was given then."""
    then, reason = msgspec.msgpack.decode(row.sites, type=tuple[float, str])
    return reason if seconds <= then else ""


def _key(file: SourceFile, digest: str) -> bytes:
    return key_of(file.language, file.path, digest)


def _trouble(file: SourceFile, reason: str) -> Trouble:
    return Trouble(path=file.path, reason=reason)


def _content_of(root: str, file: SourceFile) -> bytes | Trouble:
    try:
        return read_plain(os.path.join(root, file.path))
    except NotPlain as error:
        return Trouble(path=file.path, reason=f"{error.strerror}; left out")
    except OSError as error:
        return Trouble(path=file.path, reason=f"can't be read: {error.strerror}")


@contextmanager
def collector_paused() -> Iterator[None]:
    """No cyclic garbage collection meanwhile: reading makes millions of objects and no cycles."""
    was_on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was_on:
            gc.enable()


def _read_one(file: SourceFile, key: bytes, content: bytes | Trouble) -> _Result:
    return _Result(None, trouble=_pack(content)) if isinstance(content, Trouble) else _read_content(file, key, content)


def _read_content(file: SourceFile, key: bytes, content: bytes) -> _Result:
    try:
        facts, sites = read_packed(file.language, file.path, content)
    except MemoryError:
        return _Result(None, trouble=_pack(Trouble(path=file.path, reason="is more than the parser can take; left out")))
    except Exception as error:  # one file must not end a run over ten thousand
        reason = f"could not be taken in ({type(error).__name__}: {error}); please report this file"
        return _Result(None, trouble=_pack(Trouble(path=file.path, reason=reason)))
    return _Result(Row(key, _pack(facts), sites), fresh=True)
