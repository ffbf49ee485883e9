"""What was done to a tree, step by step, so that it can be taken back: the last one, or one that was interrupted.

An entry is a folder with the old contents and a record. It is on the disk before anything of the tree changes; new contents
are written beside the old files, and renamed into place once all are there. Until the record says `done`, the step can only
go backwards: whatever moment a run ends at, `undo` brings every file back to what it was.
"""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import shutil
from collections.abc import Iterator, Sequence
from pathlib import Path

import msgspec

try:
    import fcntl
except ImportError:  # no such locks on this system
    fcntl = None  # type: ignore[assignment]

from isodesm.errors import FULL, OutputError
from isodesm.planning.steps import digest_of
from isodesm.reading.opening import read_plain
from isodesm.rewriting.changes import FileChange, StepRefused, place_of

RECORD = "record.json"
BEGUN, READY, PLACED, DONE = "begun", "ready", "placed", "done"
MOST_KEPT = 200
"""Entries that are kept for undoing; the oldest go first."""


class Written(msgspec.Struct):
    """One file of an entry: the digests of its content before ('' for none) and after, and what is written beside it."""

    path: str
    before: str
    after: str
    mode: int
    beside: str


class Record(msgspec.Struct):
    """What an entry says of itself. `folders` are those that the step made."""

    root: str
    id: str
    title: str
    state: str
    files: list[Written]
    folders: list[str] = []


class Entry:
    """One carried-out step, in a folder of its own."""

    def __init__(self, folder: Path, record: Record) -> None:
        self.folder, self.record = folder, record

    @property
    def is_done(self) -> bool:
        return self.record.state == DONE

    def before(self, number: int) -> bytes | None:
        """The content of a file before the step, by its place in the record."""
        return (self.folder / f"{number}.before").read_bytes() if self.record.files[number].before else None

    def note(self, state: str) -> None:
        """Make the record durable in a state."""
        self.record.state = state
        write_durably(self.folder / RECORD, msgspec.json.encode(self.record), 0o600)


class Journal:
    """The entries of one tree, in order."""

    def __init__(self, root: Path, folder: Path) -> None:
        self.root = root.resolve()
        self.folder = folder / "steps" / hashlib.blake2b(os.fsencode(self.root), digest_size=12).hexdigest()

    @contextlib.contextmanager
    def held(self) -> Iterator[None]:
        """While one run works on the tree no other does; StepRefused for the second."""
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            lock = open(self.folder / "lock", "w")
        except OSError as error:
            raise StepRefused(self._unwritable(error)) from None
        with lock:
            if fcntl is not None:
                try:
                    fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
                except OSError:
                    raise StepRefused("Another run is carrying out a step here. Wait until it has ended.") from None
            yield

    def entries(self) -> list[Entry]:
        """All that can be read, the oldest first."""
        return [
            Entry(each.parent, msgspec.json.decode(each.read_bytes(), type=Record))
            for each in sorted(self.folder.glob(f"*/{RECORD}"), key=lambda path: int(path.parent.name))
            if each.parent.name.isdigit()
        ]

    def interrupted(self) -> Entry | None:
        """The step that did not come to its end, if one didn't."""
        return next((each for each in reversed(self.entries()) if not each.is_done), None)

    def owns(self, path: str, content: bytes) -> bool:
        """Whether a file is as a carried-out step left it."""
        last = next((each for entry in reversed(self.entries()) for each in entry.record.files if each.path == path), None)
        return last is not None and last.after == digest_of(content)

    def carry_out(self, name: str, title: str, changes: Sequence[FileChange]) -> Entry:
        """Make some changes, all or none; the entry is not `done` until who asked says so.

        StepRefused, OutputError or what else came in between: then nothing has changed.
        """
        entry = self._begun(name, title, changes)
        try:
            self._write(entry, changes)
            entry.note(PLACED)
        except BaseException as error:
            self.undo(entry)
            if isinstance(error, OSError):
                kind = OutputError if error.errno in FULL else StepRefused
                what = error.filename or "A file"
                raise kind(f"{what} can't be written: {error.strerror or error}. Nothing was changed.") from None
            raise
        for old in self.entries()[:-MOST_KEPT]:
            self._forget(old)
        return entry

    def _begun(self, name: str, title: str, changes: Sequence[FileChange]) -> Entry:
        """The entry with all old contents, durable, before anything of the tree changes."""
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            number = max((int(each.name) for each in self.folder.iterdir() if each.name.isdigit()), default=0) + 1
            files = [
                Written(each.path, digest_of(each.before), digest_of(each.after), each.mode, f".isodesm-{number}-{at}.new")
                for at, each in enumerate(changes)
            ]
            record = Record(str(self.root), name, title, BEGUN, files, self._missing_folders(changes))
            entry = Entry(self.folder / str(number), record)
            entry.folder.mkdir()
            for at, each in enumerate(changes):
                if each.before is not None:
                    write_durably(entry.folder / f"{at}.before", each.before, 0o600)
            entry.note(BEGUN)
        except OSError as error:
            kind = OutputError if error.errno in FULL else StepRefused
            raise kind(self._unwritable(error)) from None
        return entry

    def _unwritable(self, error: OSError) -> str:
        reason = error.strerror or error
        return f"The journal in {self.folder} can't be written: {reason}. Name another folder with --cache-dir."

    def _missing_folders(self, changes: Sequence[FileChange]) -> list[str]:
        """The folders that new files need, the outer ones first."""
        found: dict[str, None] = {}
        for each in changes:
            parents = [str(parent) for parent in list(Path(each.path).parents)[-2::-1]] if each.before is None else []
            found.update(dict.fromkeys(parent for parent in parents if not (self.root / parent).exists()))
        return list(found)

    def _write(self, entry: Entry, changes: Sequence[FileChange]) -> None:
        for folder in entry.record.folders:
            place_of(self.root, folder).mkdir()
        for written, change in zip(entry.record.files, changes, strict=True):
            where = place_of(self.root, change.path)
            write_durably(where.parent / written.beside, change.after, change.mode, like=where, as_is=True)
        entry.note(READY)
        for written, change in zip(entry.record.files, changes, strict=True):
            where = place_of(self.root, change.path)
            beside = where.parent / written.beside
            if change.before is None:
                _put_new(beside, where)
                continue
            if digest_of(read_plain(where)) != written.before:
                raise StepRefused(f"{change.path} changed while the step was carried out. Nothing was changed by it.")
            os.replace(beside, where)
        for folder in {place_of(self.root, each.path).parent for each in changes}:
            _make_durable(folder)

    def undo(self, entry: Entry, *, force: bool = False) -> None:
        """Bring every file of an entry back to what it was, and forget the entry.

        StepRefused where a file is neither as before nor as after, before anything is changed; `force` takes it back anyway.
        """
        ways = list(self._ways_back(entry, force))
        for at, where in ways:
            written, before = entry.record.files[at], entry.before(at)
            if before is None:
                where.unlink(missing_ok=True)
            else:
                write_durably(where, before, written.mode, like=where)
        for written in entry.record.files:
            place_of(self.root, written.path).parent.joinpath(written.beside).unlink(missing_ok=True)
        for folder in reversed(entry.record.folders):
            with contextlib.suppress(OSError):  # somebody may have put something else there
                place_of(self.root, folder).rmdir()
        self._forget(entry)

    def _ways_back(self, entry: Entry, force: bool) -> Iterator[tuple[int, Path]]:
        for at, written in enumerate(entry.record.files):
            where = place_of(self.root, written.path)
            try:
                now = digest_of(read_plain(where))
            except FileNotFoundError:
                now = ""
            if now == written.before:
                continue
            if now != written.after and not force:
                raise StepRefused(
                    f"{written.path} was changed since {entry.record.id} was carried out, so that it can't be taken back. "
                    f"Its old content is kept in {entry.folder / f'{at}.before'}."
                )
            yield at, where

    def noted_again(self, entry: Entry) -> None:
        """Take note of what the files of an entry hold by now: a check may have put them into another form."""
        for written in entry.record.files:
            with contextlib.suppress(OSError):
                written.after = digest_of(read_plain(place_of(self.root, written.path)))
        entry.note(entry.record.state)

    def _forget(self, entry: Entry) -> None:
        (entry.folder / RECORD).unlink(missing_ok=True)
        shutil.rmtree(entry.folder, ignore_errors=True)

    # --- steps that turned red ------------------------------------------------------------

    @property
    def _red(self) -> Path:
        return self.folder / "red.json"

    def red(self) -> dict[str, dict[str, str]]:
        """Id of each step that turned red to the digests that the files around it had."""
        try:
            found = json.loads(self._red.read_bytes())
        except (OSError, ValueError):
            return {}
        return found if isinstance(found, dict) else {}

    def remember_red(self, name: str, files: dict[str, str]) -> None:
        """Keep that a step turned red on files of these digests."""
        self.folder.mkdir(parents=True, exist_ok=True)
        write_durably(self._red, json.dumps(self.red() | {name: files}, indent=1, sort_keys=True).encode(), 0o600)


def write_durably(path: Path, content: bytes, mode: int, *, like: Path | None = None, as_is: bool = False) -> None:
    """Write a file and wait until it is on the disk. With `as_is` it is written where it stands, for a first time; else it
    appears whole. It gets a mode, and the owner of another file where that is allowed."""
    target = path if as_is else path.with_name(".isodesm-undo.tmp")
    handle = os.open(target, os.O_WRONLY | os.O_CREAT | (os.O_EXCL if as_is else os.O_TRUNC), 0o600)
    try:
        with os.fdopen(handle, "wb") as stream:
            stream.write(content)
            stream.flush()
            os.fsync(stream.fileno())
        if like is not None and like.exists() and hasattr(os, "chown"):
            with contextlib.suppress(OSError):
                os.chown(target, like.stat().st_uid, like.stat().st_gid)
        os.chmod(target, mode)
        if not as_is:
            os.replace(target, path)
    except BaseException:
        target.unlink(missing_ok=True)
        raise
    _make_durable(path.parent)


def _put_new(beside: Path, where: Path) -> None:
    """Give a new file its name, unless another has come there meanwhile."""
    try:
        os.link(beside, where)
        beside.unlink()
    except FileExistsError:
        raise StepRefused(f"{where} came up while the step was carried out. Nothing was changed by it.") from None
    except OSError:  # a disk without links
        if os.path.lexists(where):
            raise StepRefused(f"{where} came up while the step was carried out. Nothing was changed by it.") from None
        os.replace(beside, where)


def _make_durable(folder: Path) -> None:
    with contextlib.suppress(OSError):  # not every system lets a folder be opened
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
