"""Makes a step of a change of the draft: its edits, its code before and after, what it removes and adds."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from isodesm.facts.languages import language_of
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.step import Code, Edit
from isodesm.planning.state.constructors import Draft
from isodesm.planning.state.imports import amendments_of
from isodesm.planning.text.amendments import amended, changes
from isodesm.planning.text.hunks import hunks
from isodesm.planning.verification.proof import Written

MARK = 3
"""Bytes of the mark that some files of UTF-8 begin with."""


class Recorder:
    """Notes how files stand, so that what a change of the draft does to them can be told."""

    def __init__(self, draft: Draft) -> None:
        self.draft = draft
        self._known: dict[int, list[Amendment]] = {}
        self._files: set[str] = set()
        self.written: list[Written] = []
        """The files that changes touched since this was emptied, as they were and as they became."""

    def change(self, files: Iterable[int], apply: Callable[[], None]) -> tuple[tuple[Edit, ...], tuple[Code, ...]]:
        """Carry out a change of the draft that touches some files; the edits and the code before and after."""
        touched = sorted(set(files), key=lambda file: self.draft.symbols.files[file].path)
        before = {file: self._known.get(file) or amendments_of(self.draft, file) for file in touched}
        apply()
        edits: list[Edit] = []
        code: list[Code] = []
        new = sorted(set(self.draft.new_files) - self._files)
        for path in new:
            text = self.draft.new_files[path]
            edits.append(Edit(path, 1, "new file", text=text, new=True))
            code.append(Code(path, "", text))
            if language := language_of(path):
                self.written.append(Written(language, path, b"", text.encode()))
        listed, lines = self.draft.projects.listing(new)
        edits += listed
        code += lines
        self._files = set(self.draft.new_files)
        for file in touched:
            self._known[file] = amendments_of(self.draft, file)
            found, shown = self._of_file(file, before[file], self._known[file])
            edits += found
            code += shown
        return tuple(edits), tuple(code)

    def checkpoint(self) -> Callable[[], None]:
        """What brings the notes back to how they are now."""
        known, files = dict(self._known), set(self._files)
        self.written = []

        def restore() -> None:
            self._known, self._files, self.written = known, files, []

        return restore

    def _of_file(self, file: int, before: list[Amendment], after: list[Amendment]) -> tuple[list[Edit], list[Code]]:
        if before == after:
            return [], []
        text, path = self.draft.codebase.text(file), self.draft.symbols.files[file].path
        found, old = changes(text, before, after), amended(text, before)
        self.written.append(Written(self.draft.symbols.files[file].language, path, old, amended(text, after)))
        mark = MARK if self.draft.symbols.files[file].encoding == "utf-8-sig" else 0
        edits = [
            Edit(
                path,
                old.count(b"\n", 0, each.start) + 1,
                "; ".join(each.actions) or "goes with the rest",
                each.start + mark,
                each.end + mark,
                each.text,
            )
            for each in found
        ]
        return edits, [Code(path, *hunk) for hunk in hunks(old, found)]
