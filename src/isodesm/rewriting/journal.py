"""What was done to a tree, step by step, so that it can be taken back: the last one, or one that was interrupted.

An entry is a folder with the old contents and a record. It is on the disk before anything of the tree changes; new contents
are written beside the old files, and renamed into place once all are there. Until the record says `done`, and again once it is
taken back, the step can only go backwards: whatever moment a run ends at, `undo` goes on.
"""

from __future__ import annotations

import contextlib
import errno
import hashlib
import json
import os
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path, PurePosixPath

from isodesm import __version__
from isodesm.disk.inside import Content, Inside, LeadsOut
from isodesm.disk.opening import text_name
from isodesm.disk.own import drop, held_open, own_folder
from isodesm.errors import FULL, IsodesmError, OutputError
from isodesm.planning.model.step import digest_of
from isodesm.rewriting.changes import FileChange, StepRefused
from isodesm.rewriting.records import BEGUN, PLACED, READY, UNDOING, Aside, Entry, Lost, Record, Written, entries_in

try:
    import fcntl
except ImportError:  # no such locks on this system
    fcntl = None  # type: ignore[assignment]

MOST_KEPT = 200
"""Entries that are kept for undoing; the oldest go first."""
REFUSE, LEAVE, REPLACE = "refuse", "leave", "replace"
"""What is done about files that somebody else changed since: nothing at all is taken back; they stay as they are, with the
texts of the step kept; they are taken back, with what was found kept."""
_GONE = (errno.ENOENT, errno.ENOTEMPTY, errno.EEXIST)


class Journal:
    """The entries of one tree, in order. `tell` hears of texts that were kept aside."""

    def __init__(self, root: Path, folder: Path, tell: Callable[[str], None] = lambda text: None) -> None:
        self.root = root.resolve()
        self.tree = Inside(self.root)
        self.folder = folder / "steps" / hashlib.blake2b(os.fsencode(self.root), digest_size=12).hexdigest()
        self.tell = tell

    @contextlib.contextmanager
    def held(self) -> Iterator[None]:
        """While one run works on the tree no other does; StepRefused for the second."""
        with contextlib.ExitStack() as stack:
            try:
                own_folder(self.folder)
                stack.enter_context(self._locked())
            except (BlockingIOError, FileExistsError) as error:
                hint = f"; if none is, remove {self._lock}" if isinstance(error, FileExistsError) else ""
                said = f"Another run is carrying out a step here. Wait until it has ended{hint}."
                raise StepRefused(said) from None
            except OSError as error:
                raise StepRefused(self._unwritable(error)) from None
            yield

    @property
    def _lock(self) -> Path:
        return self.folder / ("lock" if fcntl is not None else "lock.held")

    @contextlib.contextmanager
    def _locked(self) -> Iterator[None]:
        if fcntl is not None:
            with held_open(self._lock) as lock:
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
                yield
            return
        Inside(self.folder).create(self._lock.name, str(os.getpid()).encode(), 0o600)
        try:
            yield
        finally:
            drop(self._lock)

    def entries(self) -> list[Entry]:
        """All that can be read, the oldest first."""
        return [each for each in entries_in(self.folder) if isinstance(each, Entry)]

    def damaged(self) -> list[Path]:
        """Folders of entries whose record can't be read, or does not come from this program; they are left aside."""
        return [each for each in entries_in(self.folder) if not isinstance(each, Entry)]

    def interrupted(self) -> Entry | None:
        """The step that did not come to its end, forwards or backwards, if one didn't."""
        return next((each for each in reversed(self.entries()) if not each.is_done), None)

    def owns(self, path: str, content: bytes) -> bool:
        """Whether a file is as a carried-out step left it."""
        last = next((each for entry in reversed(self.entries()) for each in entry.record.files if each.path == path), None)
        return last is not None and last.after == digest_of(content)

    def carry_out(self, name: str, title: str, changes: Sequence[FileChange]) -> Entry:
        """Make some changes, all or none; the entry is not `done` until who asked says so.

        StepRefused, OutputError or what else came in between: then nothing of it is left.
        """
        entry = self._begun(name, title, changes)
        try:
            self._write(entry, changes)
            entry.note(PLACED)
        except BaseException as error:
            self.undo(entry, LEAVE)
            if isinstance(error, OSError):
                said = f"{error.filename or title} can't be written: {_words(error)}. Nothing was changed."
                raise _refusal(said, error) from None
            raise
        for old in self.entries()[:-MOST_KEPT]:
            old.forget()
        return entry

    def _begun(self, name: str, title: str, changes: Sequence[FileChange]) -> Entry:
        """The entry with all contents, durable, before anything of the tree changes."""
        try:
            own_folder(self.folder)
            number = max((int(each.name) for each in self.folder.iterdir() if each.name.isdecimal()), default=0) + 1
            sign = os.urandom(8).hex()
            files = [
                Written(each.path, digest_of(each.before), digest_of(each.after), each.mode, f".isodesm-{sign}-{at}.new")
                for at, each in enumerate(changes)
            ]
            record = Record(text_name(str(self.root)), name, title, BEGUN, files, self._missing_folders(changes))
            entry = Entry(self.folder / str(number), record)
            Inside(self.folder).make_folder(str(number), 0o700)
            entry.keep([(each.before, each.after) for each in changes])
            entry.note(BEGUN)
        except OSError as error:
            raise _refusal(self._unwritable(error), error) from None
        return entry

    def _unwritable(self, error: OSError) -> str:
        return f"The journal in {self.folder} can't be written: {_words(error)}. Name another folder with --cache-dir."

    def _missing_folders(self, changes: Sequence[FileChange]) -> list[str]:
        """The folders that new files need, the outer ones first."""
        found: dict[str, None] = {}
        for each in changes:
            parents = [parent.as_posix() for parent in list(PurePosixPath(each.path).parents)[-2::-1]]
            found.update(dict.fromkeys(parent for parent in parents if each.before is None and not self.tree.is_there(parent)))
        return list(found)

    def _write(self, entry: Entry, changes: Sequence[FileChange]) -> None:
        for folder in entry.record.folders:
            self.tree.make_folder(folder)
        for written, change in zip(entry.record.files, changes, strict=True):
            self.tree.create(_beside(written), change.after, change.mode, change.owner)
        entry.note(READY)
        for written, change in zip(entry.record.files, changes, strict=True):
            if change.before is None:
                try:
                    self.tree.name_new(_beside(written), change.path)
                except FileExistsError:
                    said = f"{change.path} came up while the step was carried out. Nothing was changed by it."
                    raise StepRefused(said) from None
            elif digest_of(self.tree.read(change.path).content) != written.before:
                raise StepRefused(f"{change.path} changed while the step was carried out. Nothing was changed by it.")
            else:
                self.tree.rename(_beside(written), change.path)
        for each in changes:
            self.tree.settle(each.path)

    # --- backwards ------------------------------------------------------------------------

    def undo(self, entry: Entry, foreign: str = REFUSE) -> list[Aside]:
        """Bring every file of an entry back to what it was, and forget the entry; what became of files that somebody else
        changed since.

        StepRefused where one is, and `foreign` says to refuse, before anything is changed. IsodesmError where the disk says no:
        the next time goes on from there.
        """
        files = entry.record.files
        if foreign == REFUSE and (changed := next((each.path for each in files if self._is_foreign(each)), "")):
            raise StepRefused(self._said_of_changed(entry, changed))
        try:
            if entry.record.state != UNDOING:
                entry.note(UNDOING)
            aside = [each for at in range(len(files)) for each in self._take_back(entry, at, foreign)]
            self._tidy(entry)
            entry.forget()
        except OSError as error:
            said = f"{entry.record.id} is not yet taken back: {error.filename or 'a file'}: {_words(error)}. "
            raise _refusal(f"{said}`isodesm step --undo` goes on with it.", error) from None
        for each in aside:
            self.tell(each.said)
        return aside

    def _now(self, path: str) -> Content | LeadsOut | None:
        """What a file holds now, None where there is none; LeadsOut for what can't be read as a file."""
        try:
            return self.tree.read(path)
        except FileNotFoundError:
            return None
        except LeadsOut as error:
            return error
        except OSError as error:
            if error.errno in FULL:
                raise
            return LeadsOut(f"{path} {_words(error)}")

    def _is_foreign(self, written: Written) -> bool:
        """Whether a file is neither as before the step nor as after it."""
        now = self._now(written.path)
        if isinstance(now, LeadsOut):
            return True
        return digest_of(now.content if now is not None else None) not in (written.before, written.after)

    def _said_of_changed(self, entry: Entry, path: str) -> str:
        entries = self.entries()
        later = entries[[each.folder for each in entries].index(entry.folder) + 1 :] if entry.is_done else []
        by = next((each.record.id for each in later if path in (file.path for file in each.record.files)), "")
        hint = f" by {by}; take that back first" if by else f". Its old content is kept in {entry.folder}"
        return f"{path} was changed since {entry.record.id} was carried out, so that it can't be taken back{hint}."

    def _take_back(self, entry: Entry, at: int, foreign: str) -> Iterator[Aside]:
        """Bring one file back. One of somebody else's is kept first, or stays."""
        written, now = entry.record.files[at], self._now(entry.record.files[at].path)
        if not isinstance(now, LeadsOut) and digest_of(now.content if now is not None else None) == written.before:
            return
        try:
            before = entry.before(at)
        except Lost as error:
            self.tell(f"{written.path} stays as it is: {error.strerror}")
            return
        if isinstance(now, LeadsOut) or (now is not None and digest_of(now.content) != written.after):
            if foreign != REPLACE or isinstance(now, LeadsOut):
                yield self._aside(entry, at, {"without": before, "with": entry.after(at)}, stays=True)
                return
            yield self._aside(entry, at, {"found": now.content}, stays=False)
        if before is None:
            self.tree.remove(written.path)
            return
        self.tree.make_folders(written.path)
        self.tree.put(written.path, before, written.mode, now.owner if now is not None else None, _beside(written))

    def _aside(self, entry: Entry, at: int, texts: dict[str, bytes | None], *, stays: bool) -> Aside:
        """Keep texts of a file beside the entries, where nothing ever removes them."""
        path = entry.record.files[at].path
        folder = own_folder(self.folder / "aside" / f"{entry.folder.name}-{os.urandom(3).hex()}")
        kept = []
        for what, content in texts.items():
            if content is not None:
                name = f"{what}-{PurePosixPath(path).name}"
                Inside(folder).put(name, content, 0o600)
                kept.append(folder / name)
        return Aside(path, stays, tuple(kept))

    def _tidy(self, entry: Entry) -> None:
        """Remove what was written beside files, and folders that the step made, unless somebody put something there."""
        for written in entry.record.files:
            with contextlib.suppress(FileNotFoundError, LeadsOut):
                self.tree.remove(_beside(written))
        for folder in reversed(entry.record.folders):
            try:
                self.tree.remove_folder(folder)
            except LeadsOut:
                continue
            except OSError as error:
                if error.errno not in _GONE:
                    raise

    def noted_again(self, entry: Entry) -> None:
        """Take note of what the files of an entry hold by now: a check may have put them into another form."""
        for written in entry.record.files:
            now = self._now(written.path)
            if isinstance(now, Content):
                written.after = digest_of(now.content)
        entry.note(entry.record.state)

    # --- steps that turned red ------------------------------------------------------------

    def red(self) -> dict[str, dict[str, str]]:
        """Id of each step that turned red to the digests that the files around it had."""
        try:
            found = json.loads(Inside(self.folder).read("red.json").content)
        except (OSError, ValueError, RecursionError):
            return {}
        known = found.get(__version__, {}) if isinstance(found, dict) else {}  # another program may write another step
        return {key: value for key, value in known.items() if isinstance(value, dict)} if isinstance(known, dict) else {}

    def remember_red(self, name: str, files: dict[str, str]) -> None:
        """Keep that a step turned red on files of these digests."""
        self.keep("red.json", json.dumps({__version__: self.red() | {name: files}}, indent=1, sort_keys=True).encode())

    def keep(self, name: str, content: bytes) -> None:
        """Keep a small file beside the entries, durably."""
        own_folder(self.folder)
        Inside(self.folder).put(name, content, 0o600)


def _beside(written: Written) -> str:
    return PurePosixPath(written.path).with_name(written.beside).as_posix()


def _words(error: OSError) -> str:
    return error.strerror or str(error)


def _refusal(said: str, error: OSError) -> IsodesmError:
    return (OutputError if error.errno in FULL else StepRefused)(said)
