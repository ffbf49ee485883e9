"""Reads the files that were discovered, in processes when that pays, and hands the facts on in order of path."""

from __future__ import annotations

import gc
import os
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ProcessPoolExecutor
from contextlib import contextmanager
from multiprocessing import get_context
from pathlib import Path
from typing import NamedTuple

import msgspec

from isodesm.codebase.discovery import SourceFile
from isodesm.facts.reader import read_file
from isodesm.facts.records import FileFacts, Trouble

BATCH_BYTES = 1_000_000
"""Bytes of source per task: large enough to hide the cost of handing over, small enough to share evenly."""
SERIAL_BYTES = 1_500_000
"""Below this much source, starting processes costs more than it saves."""


class ReadFile(NamedTuple):
    """One file's declarations, and its sites still packed."""

    facts: FileFacts
    sites: bytes


_pack = msgspec.msgpack.Encoder().encode
_unpack_facts = msgspec.msgpack.Decoder(FileFacts).decode


def worker_count(asked: int) -> int:
    """Processes to use: what was asked for, or one a processor."""
    return asked or len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else asked or os.cpu_count() or 1


def read_files(
    root: Path, files: Iterable[SourceFile], workers: int, progress: Callable[[int], None] = lambda done: None
) -> Iterator[ReadFile | Trouble]:
    """The facts of each file in the given order; Trouble in the place of one that can't be read.

    `progress` is told the number of files done each time some are.
    """
    batches = list(_batches(files))
    done = 0
    for results in _mapped(root, batches, workers):
        for facts, sites in results:
            if sites is None:
                yield msgspec.msgpack.decode(facts, type=Trouble)
            else:
                yield ReadFile(_unpack_facts(facts), sites)
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
    root: Path, batches: list[list[SourceFile]], workers: int
) -> Iterator[list[tuple[bytes, bytes | None]]]:
    total = sum(file.size for batch in batches for file in batch)
    if workers <= 1 or len(batches) <= 1 or total < SERIAL_BYTES:
        yield from (_read_batch(str(root), batch) for batch in batches)
        return
    with ProcessPoolExecutor(workers, mp_context=get_context(start_method())) as pool:
        yield from pool.map(_read_batch, [str(root)] * len(batches), batches)


def start_method() -> str:
    """How worker processes start: by forking where that is possible, since what is in memory is then shared."""
    return "fork" if hasattr(os, "fork") and os.uname().sysname == "Linux" else "spawn"


def _read_batch(root: str, batch: list[SourceFile]) -> list[tuple[bytes, bytes | None]]:
    with collector_paused():
        return [_read_one(root, file) for file in batch]


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


def _read_one(root: str, file: SourceFile) -> tuple[bytes, bytes | None]:
    try:
        with open(os.path.join(root, file.path), "rb") as stream:
            content = stream.read()
    except OSError as error:
        return _pack(Trouble(path=file.path, reason=f"can't be read: {error.strerror}")), None
    try:
        facts, sites = read_file(file.language, file.path, content)
    except Exception as error:  # one file must not end a run over ten thousand
        reason = f"could not be taken in ({type(error).__name__}: {error}); please report this file"
        return _pack(Trouble(path=file.path, reason=reason)), None
    return _pack(facts), _pack(sites)
