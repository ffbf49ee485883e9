"""Reads the files that were discovered, in processes when that pays, and hands the facts on in order of path."""

from __future__ import annotations

import gc
import os
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ProcessPoolExecutor
from contextlib import contextmanager
from itertools import repeat
from multiprocessing import get_context
from pathlib import Path
from typing import NamedTuple

import msgspec

from isodesm.facts.reader import read_packed
from isodesm.facts.records import FileFacts, Trouble
from isodesm.reading.apart import looks_odd, run_apart
from isodesm.reading.cache import Cache, Row, key_of
from isodesm.reading.discovery import SourceFile
from isodesm.reading.workers import start_method

BATCH_BYTES = 1_000_000
"""Bytes of source per task: large enough to hide the cost of handing over, small enough to share evenly."""
SERIAL_BYTES = 1_500_000
"""Below this much source, starting processes costs more than it saves."""


class ReadFile(NamedTuple):
    """One file's declarations, and its sites still packed."""

    facts: FileFacts
    sites: bytes


class _Result(NamedTuple):
    """What a worker says of one file: its row for the cache, whether that is new, or the trouble there was, packed."""

    row: Row | None
    fresh: bool = False
    trouble: bytes = b""


_pack = msgspec.msgpack.Encoder().encode
_unpack_facts = msgspec.msgpack.Decoder(FileFacts).decode


def worker_count(asked: int) -> int:
    """Processes to use: what was asked for, or one a processor."""
    return asked or len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else asked or os.cpu_count() or 1


def read_files(
    root: Path,
    files: Iterable[SourceFile],
    workers: int,
    progress: Callable[[int], None] = lambda done: None,
    cache: Cache | None = None,
    seconds: float = 10.0,
) -> Iterator[ReadFile | Trouble]:
    """The facts of each file in the given order; Trouble in the place of one that can't be read.

    `progress` is told the number of files done each time some are; `seconds` is the longest that an odd file may take.
    """
    batches = list(_batches(files))
    done = 0
    for results in _mapped(root, batches, workers, seconds, cache):
        for result in results:
            if result.row is None:
                yield msgspec.msgpack.decode(result.trouble, type=Trouble)
            else:
                yield ReadFile(_unpack_facts(result.row.facts), result.row.sites)
        if cache is not None:
            cache.put(result.row for result in results if result.row is not None and result.fresh)
            cache.touch(result.row.key for result in results if result.row is not None and not result.fresh)
        done += len(results)
        progress(done)


def _batches(files: Iterable[SourceFile]) -> Iterator[list[SourceFile]]:
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
    if workers <= 1 or len(batches) <= 1 or total < SERIAL_BYTES:
        yield from (_read_batch(str(root), batch, seconds, cache) for batch in batches)
        return
    folder = cache.path.parent if cache is not None and cache.is_on else None
    with ProcessPoolExecutor(
        workers, mp_context=get_context(start_method()), initializer=_open_cache, initargs=(folder,)
    ) as pool:
        yield from pool.map(_read_batch, repeat(str(root)), batches, repeat(seconds))


_own_cache: list[Cache] = []
"""The cache as a worker process sees it: opened once, and only read."""


def _open_cache(folder: Path | None) -> None:
    _own_cache.clear()
    if folder is not None:
        _own_cache.append(Cache(folder))


def _read_batch(root: str, batch: list[SourceFile], seconds: float, cache: Cache | None = None) -> list[_Result]:
    cache = cache or next(iter(_own_cache), None)
    with collector_paused():
        contents = [_content_of(root, file) for file in batch]
        keys = [
            key_of(file.language, file.path, content) if isinstance(content, bytes) else b""
            for file, content in zip(batch, contents, strict=True)
        ]
        known = cache.get(key for key in keys if key) if cache is not None else {}
        return [
            _Result(known[key]) if key in known else _read_one(file, key, content, seconds)
            for file, key, content in zip(batch, keys, contents, strict=True)
        ]


def _content_of(root: str, file: SourceFile) -> bytes | Trouble:
    try:
        with open(os.path.join(root, file.path), "rb") as stream:
            return stream.read()
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


def _read_one(file: SourceFile, key: bytes, content: bytes | Trouble, seconds: float) -> _Result:
    if isinstance(content, Trouble):
        return _Result(None, trouble=_pack(content))
    if looks_odd(content):
        outcome = run_apart(seconds, _read_content, file, key, content)
        if isinstance(outcome, str):
            return _Result(None, trouble=_pack(Trouble(path=file.path, reason=outcome)))
        return outcome
    return _read_content(file, key, content)


def _read_content(file: SourceFile, key: bytes, content: bytes) -> _Result:
    try:
        facts, sites = read_packed(file.language, file.path, content)
    except Exception as error:  # one file must not end a run over ten thousand
        reason = f"could not be taken in ({type(error).__name__}: {error}); please report this file"
        return _Result(None, trouble=_pack(Trouble(path=file.path, reason=reason)))
    return _Result(Row(key, _pack(facts), sites), fresh=True)
