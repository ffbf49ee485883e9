"""Reads the files of one very large tree on a cluster, ahead of the run that needs them.

What workers make of a file goes into the cache, where that run finds it; a batch that comes to nothing it reads by itself.
"""

from __future__ import annotations

import multiprocessing
import sys
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path

import msgspec

from isodesm.disk.opening import read_plain
from isodesm.disk.own import lay, scratch
from isodesm.errors import UsageError
from isodesm.facts.records import digest_of
from isodesm.fleet.answers import in_a_process_of_its_own
from isodesm.fleet.executors import connected
from isodesm.reading.cache import Cache, Row, key_of
from isodesm.reading.discovery import SourceFile, discover
from isodesm.reading.files import read_files
from isodesm.reading.workers import portions_of
from isodesm.settings import Settings

BATCH_BYTES = 4_000_000
"""Bytes of source that are sent at a time."""
TRIES = 2
"""How often a batch is sent again whose worker died."""
KEPT_BY_WORKER = 10_000_000_000
"""Bytes of the cache that a worker has for one batch."""
LOOKED_UP = 200
"""Files that the cache is asked for at once."""


class Batch(msgspec.Struct, array_like=True):
    """Files with their content, and the longest that one may take."""

    files: list[tuple[str, str, bytes]]
    """Path, language, content."""
    seconds: float


def read_ahead(path: Path, settings: Settings, scheduler: str, progress: Callable[[str, int, int], None]) -> None:
    """Have the files of a tree read that the cache does not know.

    Raises UsageError without a cache, FleetBroken where the cluster can't be reached or has another version of this program.
    """
    if not settings.cache_folder:
        raise UsageError("--scheduler keeps what workers read in the cache, so it can't go with --no-cache.")
    cache = Cache(Path(settings.cache_folder), settings.cache_limit)
    root = path if path.is_dir() else path.parent
    batches = list(_batches(root, discover(path, settings).files, cache, settings.seconds_per_file))
    if batches:
        with connected(scheduler) as client:
            for done, rows in enumerate(_read(client, batches), 1):
                cache.put(rows)
                progress("reading on the cluster", done, len(batches))
    cache.close()


def _batches(root: Path, files: Sequence[SourceFile], cache: Cache, seconds: float) -> Iterator[bytes]:
    """Packed batches of what the cache does not know."""
    batch, size = Batch([], seconds), 0
    for some in portions_of(files, LOOKED_UP):
        contents = {file: content for file in some if (content := _content_of(root, file)) is not None}
        keys = {file: key_of(file.language, file.path, digest_of(content)) for file, content in contents.items()}
        known = cache.get(keys.values())
        for file in (each for each in contents if keys[each] not in known):
            batch.files.append((file.path, file.language, contents[file]))
            size += len(contents[file])
            if size >= BATCH_BYTES:
                yield msgspec.msgpack.encode(batch)
                batch, size = Batch([], seconds), 0
    if batch.files:
        yield msgspec.msgpack.encode(batch)


def _content_of(root: Path, file: SourceFile) -> bytes | None:
    """The content of a file; None for one that can't be read, which is said by name later."""
    try:
        return read_plain(root / file.path)
    except OSError:
        return None


def _read(client: object, batches: list[bytes]) -> Iterator[list[Row]]:
    from distributed import as_completed

    futures = [client.submit(rows_of, each, pure=False, retries=TRIES) for each in batches]  # type: ignore[attr-defined]
    try:
        for future in as_completed(futures):
            yield msgspec.msgpack.decode(future.result(), type=list[Row]) if future.status == "finished" else []
            future.release()
    except Exception:  # the cluster is gone: what is left is read here
        return


def rows_of(request: bytes) -> bytes:
    """What is kept of the files of a batch, as a worker makes it: MessagePack in, MessagePack out."""
    if multiprocessing.current_process().daemon:
        done = in_a_process_of_its_own(__name__, request)
        done.check_returncode()
        return done.stdout
    batch = msgspec.msgpack.decode(request, type=Batch)
    with scratch("isodesm-fleet-") as folder:
        root, cache = folder / "tree", Cache(folder / "cache", KEPT_BY_WORKER)
        files = []
        for path, language, content in batch.files:
            lay(root, path, content)
            files.append(SourceFile(path, language, len(content)))
        for _ in read_files(root, files, 1, cache=cache, seconds=batch.seconds):
            pass
        found = cache.get(key_of(language, path, digest_of(content)) for path, language, content in batch.files)
        cache.close(evict=False)
    return msgspec.msgpack.encode(list(found.values()))


if __name__ == "__main__":
    sys.stdout.buffer.write(rows_of(sys.stdin.buffer.read()))
