"""What the journal keeps of a step: old and new contents in a folder of its own, and a record of what became of which file."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import NamedTuple

import msgspec

from isodesm.disk.inside import Inside, LeadsOut, parts_of
from isodesm.disk.own import drop, drop_folder
from isodesm.planning.model.step import digest_of

RECORD = "record.json"
BEGUN, READY, PLACED, DONE, UNDOING = "begun", "ready", "placed", "done", "undoing"
_BESIDE = re.compile(r"\.isodesm-[0-9a-f]{1,32}-\d{1,6}\.new")
_DIGEST = re.compile(r"(?:[0-9a-f]{64})?")


class Written(msgspec.Struct):
    """One file of an entry: the digests of its content before ('' for none) and after, and what is written beside it."""

    path: str
    before: str
    after: str
    mode: int
    beside: str


class Record(msgspec.Struct):
    """What an entry says of itself. `folders` are those that the step made; `commit` is the one that was made of it."""

    root: str
    id: str
    title: str
    state: str
    files: list[Written]
    folders: list[str] = []
    commit: str = ""


class Aside(NamedTuple):
    """A file that somebody else saved meanwhile: whether it stays as they left it, and where texts of it are kept."""

    path: str
    stays: bool
    kept: tuple[Path, ...]

    @property
    def said(self) -> str:
        """It in a sentence."""
        where = " and ".join(map(str, self.kept))
        if self.stays:
            return f"{self.path} was changed by somebody else and stays as it is; its text without and with the step: {where}"
        return f"{self.path} was changed by somebody else meanwhile; that text is kept: {where}"


class Lost(OSError):
    """A content that the journal no longer has; `strerror` says which."""

    def __init__(self, reason: str) -> None:
        super().__init__(0, reason)


class Entry:
    """One carried-out step, in a folder of its own."""

    def __init__(self, folder: Path, record: Record) -> None:
        self.folder, self.record = folder, record

    @property
    def is_done(self) -> bool:
        return self.record.state == DONE

    def before(self, number: int) -> bytes | None:
        """The content of a file before the step, by its place in the record; Lost where the journal is damaged."""
        if not (wanted := self.record.files[number].before):
            return None
        try:
            content = Inside(self.folder).read(f"{number}.before").content
        except FileNotFoundError:
            content = b""
        if digest_of(content) != wanted:
            raise Lost(f"the journal no longer has what it held before {self.record.id}")
        return content

    def after(self, number: int) -> bytes | None:
        """The content that the step gave a file; None where an earlier version of this program kept none."""
        with contextlib.suppress(OSError):
            return Inside(self.folder).read(f"{number}.after").content
        return None

    def keep(self, contents: Sequence[tuple[bytes | None, bytes]]) -> None:
        """Keep what each file holds before and after the step."""
        for number, (before, after) in enumerate(contents):
            if before is not None:
                Inside(self.folder).put(f"{number}.before", before, 0o600)
            Inside(self.folder).put(f"{number}.after", after, 0o600)

    def note(self, state: str) -> None:
        """Make the record durable in a state."""
        before, self.record.state = self.record.state, state
        try:
            Inside(self.folder).put(RECORD, msgspec.json.encode(self.record), 0o600)
        except BaseException:
            self.record.state = before
            raise

    def forget(self) -> None:
        """Let go of all of it."""
        drop(self.folder / RECORD)
        drop_folder(self.folder)


def entries_in(folder: Path) -> Iterator[Entry | Path]:
    """The entries of a journal, the oldest first; its folder for one whose record is damaged, or not from this program."""
    try:
        numbered = sorted((each for each in folder.iterdir() if each.name.isdecimal()), key=lambda each: int(each.name))
    except OSError:
        return
    for each in numbered:
        try:
            record = msgspec.json.decode(Inside(each).read(RECORD).content, type=Record)
            yield Entry(each, record) if _is_ours(record) else each
        except FileNotFoundError:
            continue  # broken off before anything was done
        except (OSError, msgspec.DecodeError):
            yield each


def _is_ours(record: Record) -> bool:
    """Whether a record names only what this program writes, below the folder that it is about."""
    if record.state not in (BEGUN, READY, PLACED, DONE, UNDOING) or any(file.mode & ~0o7777 for file in record.files):
        return False
    try:
        for path in (*record.folders, *(file.path for file in record.files)):
            parts_of(path)
    except LeadsOut:
        return False
    digests = [digest for file in record.files for digest in (file.before, file.after)]
    return all(_BESIDE.fullmatch(file.beside) for file in record.files) and all(map(_DIGEST.fullmatch, digests))
