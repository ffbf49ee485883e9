"""Files of a tree that are no sources, as steps leave them: lists of sources, in which a new file must stand to be built, and
definitions of services."""

from __future__ import annotations

import posixpath
import re
from collections import defaultdict
from collections.abc import Iterable
from pathlib import Path

from isodesm.catalogue import shared_catalogue
from isodesm.disk.opening import read_plain, real_name
from isodesm.planning.model.amendment import Change
from isodesm.planning.model.step import Code, Edit
from isodesm.planning.text.amendments import common
from isodesm.planning.text.definition_edits import Insertion
from isodesm.planning.text.hunks import hunks

LARGEST = 1 << 22
"""Bytes of a project file up to which it is read."""
SUFFIX = ".cs"
"""Of the files that such project files list."""


class ProjectLists:
    """The project files of a tree, as the steps of a plan leave them. Mutable in `contents`."""

    def __init__(self, root: Path) -> None:
        self.root = root
        self.contents: dict[str, bytes] = {}
        """Path of each project file that a step changed to its bytes by then."""
        self._known: dict[str, list[str]] = {}
        self._before: dict[str, tuple[bytes, list[str]]] = {}
        """Path of what the step at hand changes to its bytes before it, and what is said of the changes."""

    def change(self, path: str, insertion: Insertion, said: str) -> None:
        """Make a change that belongs to the step at hand; it is told with the listing of that step."""
        content = self.content(path)
        self._before.setdefault(path, (content, []))[1].append(said)
        at, end = insertion.at, insertion.at + insertion.length
        self.contents[path] = content[:at] + insertion.text.encode("utf-8", "surrogateescape") + content[end:]

    def forget(self) -> None:
        """Take back the changes of a step that comes to nothing."""
        for path, (content, _) in self._before.items():
            self.contents[path] = content
        self._before = {}

    def _changed(self) -> tuple[list[Edit], list[Code]]:
        """What the step at hand changes, an edit a file."""
        edits: list[Edit] = []
        code: list[Code] = []
        for path, (before, said) in self._before.items():
            after = self.contents[path]
            head, tail = common(before, after)
            text = after[head : len(after) - tail].decode("utf-8", "surrogateescape")
            line = after.count(b"\n", 0, head) + (2 if text.startswith(("\n", "\r")) else 1)
            edits.append(Edit(path, line, "; ".join(dict.fromkeys(said)), head, len(before) - tail, text))
            code += [Code(path, *hunk) for hunk in hunks(before, [Change(head, len(before) - tail, text, tuple(said))])]
        self._before = {}
        return edits, code

    def listing(self, new: Iterable[str]) -> tuple[list[Edit], list[Code]]:
        """The edits of one step that list new files wherever files of their folders are listed; they take effect at once."""
        added: dict[str, list[tuple[int, bytes, str]]] = defaultdict(list)
        for name in (each for each in new if each.endswith(SUFFIX)):
            for path in self._above(posixpath.dirname(name)):
                listed = posixpath.relpath(name, posixpath.dirname(path) or ".").replace("/", "\\")
                if place := _place(self.content(path), listed):
                    added[path].append((*place, posixpath.basename(name)))
        edits, code = self._changed()
        for path, lines in added.items():
            content = self.content(path)
            for at, line, name in lines:
                text = line.decode("utf-8", "replace")
                edits.append(Edit(path, content.count(b"\n", 0, at) + 1, f"lists `{name}`", at, at, text))
                code.append(Code(path, "", text.strip()))
            for at, line, _ in sorted(lines, key=lambda each: each[0], reverse=True):
                content = content[:at] + line + content[at:]
            self.contents[path] = content
        return edits, code

    def content(self, path: str) -> bytes:
        """The bytes of a file by now; none where it can't be read."""
        return self.contents[path] if path in self.contents else self._read(path)

    def _above(self, folder: str) -> list[str]:
        """Project files in a folder and those above it, up to the root."""
        if folder not in self._known:
            suffixes = tuple(shared_catalogue().manifests.suffixes.split())
            try:
                own = sorted(
                    each.name
                    for each in (self.root / real_name(folder)).iterdir()
                    if each.name.endswith(suffixes) and each.is_file()
                )
            except OSError:
                own = []
            above = self._above(posixpath.dirname(folder)) if folder else []
            self._known[folder] = [*(posixpath.join(folder, each) for each in own), *above]
        return self._known[folder]

    def _read(self, path: str) -> bytes:
        try:
            return read_plain(self.root / path, LARGEST)
        except OSError:
            return b""


def _place(content: bytes, name: str) -> tuple[int, bytes] | None:
    """Where a list of sources takes another name, and the line that says it; None where it lists no file of that folder, or
    has the name already."""
    folder = re.escape(name.rpartition("\\")[0].encode() + (b"\\" if "\\" in name else b""))
    entries = list(re.finditer(rb"^([ \t]*)<(\w+) Include=\"(" + folder + rb"[^\\\"*]+\.cs)\"", content, re.MULTILINE))
    if not entries or any(each[3].lower() == name.encode().lower() for each in entries):
        return None
    kinds = [each for each in entries if each[2] == entries[0][2]]
    following = next((each for each in kinds if each[3].lower() > name.encode().lower()), None)
    end = b"\r\n" if b"\r\n" in content else b"\n"
    line = kinds[0][1] + b"<" + kinds[0][2] + b' Include="' + name.encode() + b'" />' + end
    if following is not None:
        return following.start(), line
    last = kinds[-1]
    close = re.compile(rb"/>[ \t]*\r?\n|</" + last[2] + rb">[ \t]*\r?\n").search(content, last.end())
    return (close.end(), line) if close is not None else None
