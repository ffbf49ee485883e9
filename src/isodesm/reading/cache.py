"""Facts of files that were read before, in one SQLite file, by a digest of language, reader version, path and content.

Several runs may share the file, and a run may be killed at any moment: rows are written in transactions and never
changed. A file that is damaged or comes from another version is thrown away and made anew.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import sqlite3
import time
import zlib
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import NamedTuple

from isodesm.disk.own import close_to_others, drop, own_folder, without_link
from isodesm.facts.languages import reader_version

FILE_NAME = "facts.sqlite"
BESIDE = ("-wal", "-shm", "-journal")
"""What the library of the cache writes beside its file."""
CACHE_VERSION = 4
"""Version of the tables; a file with another one is made anew."""
DEFAULT_LIMIT = 2_000_000_000
"""Bytes that the file may have; beyond it the rows that were not used for longest go."""
KEPT_SHARE = 0.8
"""Share of the limit that is left after rows had to go, so that not every run has to drop some."""
TOUCH_AFTER = 86_400
"""Seconds after which a row that is used again is marked as such: often enough to know what is in use."""
WAIT_SECONDS = 20
"""How long to wait for another run that is writing."""
MOST_ANSWERS = 60
"""Answers that are kept; the oldest go first."""
DIGEST_BYTES = 8
ROWS_AT_ONCE = 500
"""Keys asked for in one statement; SQLite allows 999."""


class Row(NamedTuple):
    """What is kept of one file: facts and sites as they were packed, the latter compressed already.

    Of a file that came to nothing there are no facts, and `sites` says why, and within what limit.
    """

    key: bytes
    facts: bytes
    sites: bytes


def key_of(language: str, path: str, digest: str) -> bytes:
    """The key of a file's facts: they depend on nothing but its content, of which this is the digest, and these."""
    known = f"{digest}\0{language}\0{path}".encode("utf-8", "surrogateescape")
    return hashlib.blake2b(reader_version() + known, digest_size=20).digest()


def _sealed(content: bytes) -> bytes:
    """Content with a digest in front."""
    return hashlib.blake2b(content, digest_size=DIGEST_BYTES).digest() + content


def _unsealed(kept: bytes) -> bytes:
    """Content that was kept; zlib.error where it is not what was put there."""
    digest, content = kept[:DIGEST_BYTES], kept[DIGEST_BYTES:]
    if digest != hashlib.blake2b(content, digest_size=DIGEST_BYTES).digest():
        raise zlib.error("a row is not what was put there")
    return content


def _packed(content: bytes) -> bytes:
    """Content as it is kept: compressed, with a digest."""
    return zlib.compress(_sealed(content), 1)


def _unpacked(kept: bytes) -> bytes:
    """The content again; zlib.error where it is not what was put there."""
    return _unsealed(zlib.decompress(kept))


class Cache:
    """One open cache file. Every failure turns it off and leaves a remark; no run fails for want of a cache."""

    def __init__(self, folder: Path, limit: int = DEFAULT_LIMIT) -> None:
        self.path = folder / FILE_NAME
        self.limit = limit
        self.remark = ""
        self._connection: sqlite3.Connection | None = None
        self._day = int(time.time())
        try:
            own_folder(folder)
            self._connection = self._open()
        except (OSError, sqlite3.Error) as error:
            self._rebuild(str(error))

    @property
    def is_on(self) -> bool:
        return self._connection is not None

    def _open(self) -> sqlite3.Connection:
        for suffix in ("", *BESIDE):
            without_link(Path(f"{self.path}{suffix}"))
        connection = sqlite3.connect(self.path, timeout=WAIT_SECONDS, isolation_level=None)
        version = connection.execute("PRAGMA user_version").fetchone()[0]
        tables = connection.execute("SELECT count(*) FROM sqlite_master").fetchone()[0]
        if tables and version != CACHE_VERSION:
            connection.close()
            raise sqlite3.DatabaseError(f"it is of version {version}, and {CACHE_VERSION} is wanted")
        connection.execute(
            "PRAGMA synchronous=OFF"
        )  # losing rows to a power cut costs a reading, waiting for disks costs every run
        connection.execute("PRAGMA journal_mode=WAL")
        if not tables:
            connection.execute("PRAGMA auto_vacuum=INCREMENTAL")
        connection.execute(
            "CREATE TABLE IF NOT EXISTS facts (key BLOB PRIMARY KEY, facts BLOB, sites BLOB, size INTEGER, used "
            "INTEGER) WITHOUT ROWID"
        )
        connection.execute(
            "CREATE TABLE IF NOT EXISTS answers (key BLOB PRIMARY KEY, content BLOB, made INTEGER) WITHOUT ROWID"
        )
        connection.execute(f"PRAGMA user_version={CACHE_VERSION}")
        return connection

    def _rebuild(self, reason: str) -> None:
        """Throw the file away and begin a new one."""
        self.close(evict=False)
        try:
            for suffix in ("", *BESIDE):
                drop(Path(f"{self.path}{suffix}"))
            self._connection = self._open()
            self.remark = f"the cache {self.path} was made anew: {reason}"
        except (OSError, sqlite3.Error) as error:
            self._connection = None
            self.remark = f"no cache is used: {self.path}: {error}. Name another folder with --cache-dir, or use --no-cache."

    def get(self, keys: Iterable[bytes]) -> dict[bytes, Row]:
        """The rows there are of some keys."""
        found: dict[bytes, Row] = {}
        if self._connection is None:
            return found
        for some in _portions(keys):
            marks = ",".join("?" * len(some))
            try:
                rows = self._connection.execute(f"SELECT key, facts, sites FROM facts WHERE key IN ({marks})", some)
                for key, facts, sites in rows:
                    with contextlib.suppress(zlib.error, TypeError):  # a row that is damaged is read anew, and put again
                        found[key] = Row(key, _unpacked(facts), _unsealed(sites))
            except sqlite3.Error as error:
                self._rebuild(str(error))
                return {}
        return found

    def put(self, rows: Iterable[Row]) -> None:
        """Keep rows."""
        self._write(
            "INSERT OR REPLACE INTO facts VALUES (?, ?, ?, ?, ?)",
            (
                (
                    row.key,
                    facts := _packed(row.facts),
                    sites := _sealed(row.sites),
                    len(facts) + len(sites),
                    self._day,
                )
                for row in rows
            ),
        )

    def touch(self, keys: Iterable[bytes]) -> None:
        """Mark rows as used now, where that was not noted lately."""
        stale = self._day - TOUCH_AFTER
        self._write("UPDATE facts SET used = ? WHERE key = ? AND used < ?", ((self._day, key, stale) for key in keys))

    def answer(self, key: bytes) -> bytes | None:
        """A whole answer that was kept under a key; None if there is none."""
        if self._connection is None:
            return None
        try:
            row = self._connection.execute("SELECT content FROM answers WHERE key = ?", (key,)).fetchone()
            return _unpacked(row[0]) if row else None
        except (sqlite3.Error, zlib.error, TypeError) as error:
            self._rebuild(str(error))
            return None

    def keep_answer(self, key: bytes, content: bytes) -> None:
        """Keep an answer, and let go of the oldest beyond those that are kept."""
        self._write("INSERT OR REPLACE INTO answers VALUES (?, ?, ?)", [(key, _packed(content), time.time_ns())])
        self._write(
            "DELETE FROM answers WHERE key IN (SELECT key FROM answers ORDER BY made DESC LIMIT -1 OFFSET ?)", [(MOST_ANSWERS,)]
        )

    def _write(self, statement: str, rows: Iterable[tuple[object, ...]]) -> None:
        if self._connection is None:
            return
        try:
            self._connection.execute("BEGIN IMMEDIATE")
            self._connection.executemany(statement, rows)
            self._connection.execute("COMMIT")
        except sqlite3.OperationalError as error:  # full, read-only, or locked for too long: what there is may still be right
            self.close(evict=False)
            self.remark = f"the cache {self.path} could not be written: {error}"
        except sqlite3.Error as error:
            self._rebuild(str(error))

    def close(self, *, evict: bool = True) -> None:
        """Let go of the file, and of what is too much in it."""
        if self._connection is None:
            return
        try:
            if evict:
                self._evict(self._connection)
            self._connection.close()
        except sqlite3.Error as error:
            self.remark = f"the cache {self.path} could not be tidied: {error}"
        self._connection = None

    def _evict(self, connection: sqlite3.Connection) -> None:
        pages, page_size = (connection.execute(f"PRAGMA {each}").fetchone()[0] for each in ("page_count", "page_size"))
        if pages * page_size <= self.limit:  # what is still in the log counts, too
            return
        total = connection.execute("SELECT coalesce(sum(size), 0) FROM facts").fetchone()[0]
        if total <= self.limit * KEPT_SHARE:
            return
        connection.execute("BEGIN IMMEDIATE")
        for key, size in connection.execute("SELECT key, size FROM facts ORDER BY used, key").fetchall():
            if total <= self.limit * KEPT_SHARE:
                break
            connection.execute("DELETE FROM facts WHERE key = ?", (key,))
            total -= size
        connection.execute("COMMIT")
        connection.execute("PRAGMA incremental_vacuum")
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")


def _portions(keys: Iterable[bytes]) -> Iterator[list[bytes]]:
    every = list(keys)
    return (every[start : start + ROWS_AT_ONCE] for start in range(0, len(every), ROWS_AT_ONCE))


def default_folder() -> Path:
    """The user's cache folder for this program. What is ours by name alone is closed to others."""
    if named := os.environ.get("ISODESM_CACHE_DIR"):
        return Path(named)
    from platformdirs import user_cache_path

    folder = user_cache_path("isodesm", appauthor=False)
    close_to_others(folder)
    return folder
