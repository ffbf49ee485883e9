"""One folder that an editor has open: its code as the editor shows it, and what is found in it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path, PurePosixPath

from isodesm.codebase.edited import edited
from isodesm.codebase.model import Codebase
from isodesm.codebase.reading import read
from isodesm.diagnosis.shared.findings import Finding
from isodesm.disk.opening import read_plain
from isodesm.editor.seen import Seen
from isodesm.errors import IsodesmError
from isodesm.reading.cache import default_folder
from isodesm.reading.discovery import discover
from isodesm.reading.replay import Replay
from isodesm.settings import FILE_NAME, Settings, find_settings_file, load_settings

Progress = Callable[[str, int, int], None]
SHAPING = (FILE_NAME, ".gitignore")
"""Names of files after a change of which everything is read anew, beside those of projects."""


class Root:
    """Mutable in the code that it shows: `change` notes what is another by now, `seen` takes it in.

    Raises SettingsError and NothingToRead as every command does, when it is opened.
    """

    def __init__(self, folder: Path, progress: Progress) -> None:
        self.folder = folder
        self.shown: dict[str, bytes] = {}
        """Path to the content that the editor shows, which need not be on the disk."""
        self.waiting: set[str] = set()
        """Paths whose content is another than the one that was taken in last."""
        self._seen: Seen | None = None
        self._judged: Seen | None = None
        """The last state of which all findings are known."""
        self._looked: dict[str, bytes] = {}
        """Path to the content that a first look was taken at."""
        self._progress = progress
        self.settings = self._settings()

    def _settings(self) -> Settings:
        return load_settings(find_settings_file(self.folder), {"cache-folder": str(default_folder())})

    def open(self) -> None:
        """Read all of it anew."""
        self._seen = None
        self.settings = self._settings()
        replay = Replay(self.folder, self.settings)
        self._shaping = frozenset((*replay.found.projects, *replay.found.manifests))
        self._seen = Seen(read(self.folder, self.settings, self._progress, replay))
        self.waiting = set(self.shown)

    def path_of(self, file: Path) -> str:
        """The path of a file below the folder, as the code knows it; '' for one that lies elsewhere."""
        try:
            return file.relative_to(self.folder).as_posix()
        except ValueError:
            return ""

    def change(self, path: str, content: bytes | None) -> None:
        """Note what the editor shows of a file; None where the disk holds it."""
        if content is None:
            self.shown.pop(path, None)
        else:
            self.shown[path] = content
        self.waiting.add(path)

    @property
    def is_stale(self) -> bool:
        """Whether something is to be worked out anew."""
        return bool(self.waiting) or (self._seen is not None and not self._seen.is_judged)

    @property
    def is_open(self) -> bool:
        """Whether it has been read, and only contents are to be taken in."""
        return self._seen is not None and not any(self._shapes(path) for path in self.waiting)

    def seen(self) -> Seen | None:
        """The code as the editor shows it now; None where nothing can be read."""
        if self._seen is None and not self.waiting:
            return None
        if self._seen is None or any(self._shapes(path) for path in self.waiting):
            self.waiting.clear()
            try:
                self.open()
            except IsodesmError:
                self._seen = None
                raise
        if self.waiting and self._seen is not None:
            self._take_in(self._seen)
        return self._seen

    def first_look(self) -> tuple[str, Codebase, list[Finding]] | None:
        """What is found at a first look at the one file that is another, with its path; None where that can't be told so, or
        has been."""
        from isodesm.editor.incremental import first_look

        path = next(iter(self.waiting), "") if len(self.waiting) == 1 else ""
        content = self.content(path) if path else None
        if content is None or self._judged is None or path not in self._judged.numbers or self._looked.get(path) == content:
            return None
        self._looked = {path: content}
        found = first_look(self._judged, path, content)
        return (path, *found) if found is not None else None

    def judged(self) -> Seen | None:
        """The code as the editor shows it now, with all that is found in it."""
        seen = self.seen()
        if seen is not None:
            _ = seen.diagnosis
            self._judged = seen
        return seen

    def _shapes(self, path: str) -> bool:
        return path in self._shaping or PurePosixPath(path).name in SHAPING

    def _take_in(self, before: Seen) -> None:
        known = set(before.numbers) | {each.path for each in before.codebase.definitions}
        new = [path for path in self.waiting if path not in known]
        if new:
            found = discover(self.folder, self.settings)
            known |= {each.path for each in found.files} | set(found.data)
            if any(path in found.data for path in new):  # which may define services
                self.waiting.clear()
                self.open()
                return
        taken = set(self.waiting)
        contents = {path: self.content(path) for path in taken & known}
        contents = {path: content for path, content in contents.items() if not self._is_same(before, path, content)}
        if contents:
            self._seen = Seen(edited(before.codebase, contents))
        self.waiting -= taken  # which stay where this is interrupted

    def _is_same(self, before: Seen, path: str, content: bytes | None) -> bool:
        from isodesm.facts.records import digest_of

        number = before.numbers.get(path)
        if number is None:
            return content is None and path not in {each.path for each in before.codebase.definitions}
        digest = before.codebase.symbols.files[number].digest
        return content is not None and digest == digest_of(content)

    def _on_disk(self, path: str) -> bytes | None:
        try:
            return read_plain(self.folder / path)
        except OSError:
            return None

    def content(self, path: str) -> bytes | None:
        """What a file holds as the editor shows it; None where there is none."""
        return self.shown[path] if path in self.shown else self._on_disk(path)
