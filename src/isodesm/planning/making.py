"""Makes a step of a change of the draft: its edits, its code before and after, what it removes and adds."""

from __future__ import annotations

import difflib
from collections.abc import Callable, Iterable

from isodesm.planning.amendments import Amendment, amended, changes
from isodesm.planning.draft import Draft
from isodesm.planning.steps import Code, Edit

CONTEXT = 1
"""Lines shown around a change."""
MARK = 3
"""Bytes of the mark that some files of UTF-8 begin with."""
JOINED = 3
"""Lines that may lie between two changes that are shown as one."""


class Recorder:
    """Notes how files stand, so that what a change of the draft does to them can be told."""

    def __init__(self, draft: Draft) -> None:
        self.draft = draft
        self._known: dict[int, list[Amendment]] = {}
        self._files: set[str] = set()

    def change(self, files: Iterable[int], apply: Callable[[], None]) -> tuple[tuple[Edit, ...], tuple[Code, ...]]:
        """Carry out a change of the draft that touches some files; the edits and the code before and after."""
        touched = sorted(set(files), key=lambda file: self.draft.symbols.files[file].path)
        before = {file: self._known.get(file) or self.draft.amendments(file) for file in touched}
        apply()
        edits: list[Edit] = []
        code: list[Code] = []
        for path in sorted(set(self.draft.new_files) - self._files):
            text = self.draft.new_files[path]
            edits.append(Edit(path, 1, "new file", text=text, new=True))
            code.append(Code(path, "", text))
        self._files = set(self.draft.new_files)
        for file in touched:
            self._known[file] = self.draft.amendments(file)
            found, shown = self._of_file(file, before[file], self._known[file])
            edits += found
            code += shown
        return tuple(edits), tuple(code)

    def _of_file(self, file: int, before: list[Amendment], after: list[Amendment]) -> tuple[list[Edit], list[Code]]:
        text, path = self.draft.codebase.text(file), self.draft.symbols.files[file].path
        old = amended(text, before)
        mark = MARK if self.draft.symbols.files[file].encoding == "utf-8-sig" else 0
        edits = [
            Edit(path, old.count(b"\n", 0, each.start) + 1, "; ".join(each.actions) or "see the code", each.start + mark, each.end + mark, each.text)
            for each in changes(text, before, after)
        ]
        return edits, [Code(path, *hunk) for hunk in hunks(old.decode("utf-8", "replace"), amended(text, after).decode("utf-8", "replace"))] if edits else []


def hunks(before: str, after: str) -> list[tuple[str, str]]:
    """What differs between two texts, as pairs of the lines before and after, with a line around each."""
    old, new = before.splitlines(), after.splitlines()
    groups: list[list[int]] = []
    for tag, i1, i2, j1, j2 in difflib.SequenceMatcher(None, old, new, autojunk=False).get_opcodes():
        if tag == "equal":
            continue
        if groups and i1 - groups[-1][1] <= JOINED:
            groups[-1][1], groups[-1][3] = i2, j2
        else:
            groups.append([i1, i2, j1, j2])
    found = []
    for i1, i2, j1, j2 in groups:
        lead = old[max(i1 - CONTEXT, 0) : i1]
        tail = old[i2 : i2 + CONTEXT]
        found.append(("\n".join([*lead, *old[i1:i2], *tail]), "\n".join([*lead, *new[j1:j2], *tail])))
    return found
