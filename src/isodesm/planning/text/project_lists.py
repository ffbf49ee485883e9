"""Files of a tree that are no sources, as steps leave them: lists of sources, in which a new file must stand to be built, and
definitions of services."""

from __future__ import annotations

import posixpath
import re
from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from typing import NamedTuple

from isodesm.catalogue import shared_catalogue
from isodesm.codebase.model import Codebase
from isodesm.disk.opening import real_name
from isodesm.planning.model.amendment import Change
from isodesm.planning.model.step import Code, Edit
from isodesm.planning.text.amendments import common
from isodesm.planning.text.hunks import hunks

LARGEST = 1 << 22
"""Bytes of a project file up to which it is read."""
SUFFIX = ".cs"
"""Of the files that such project files list."""


class ProjectFiles:
    """Files of a codebase that are no sources, as they stand on disk, or as steps before would leave them."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase, self.root = codebase, codebase.root
        self._known: dict[str, list[str]] = {}

    def read(self, path: str) -> bytes:
        """The bytes of a file; none where it can't be read."""
        try:
            return self.codebase.read_file(path, LARGEST)
        except OSError:
            return b""

    def above(self, folder: str) -> list[str]:
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
            above = self.above(posixpath.dirname(folder)) if folder else []
            self._known[folder] = [*(posixpath.join(folder, each) for each in own), *above]
        return self._known[folder]


def changed(path: str, before: bytes, after: bytes, said: Sequence[str]) -> tuple[Edit, list[Code]]:
    """The one edit that a file takes, and its code before and after."""
    head, tail = common(before, after)
    text = after[head : len(after) - tail].decode("utf-8", "surrogateescape")
    line = after.count(b"\n", 0, head) + (2 if text.startswith(("\n", "\r")) else 1)
    edit = Edit(path, line, "; ".join(dict.fromkeys(said)), head, len(before) - tail, text)
    found = hunks(before, [Change(head, len(before) - tail, text, tuple(said))])
    return edit, [Code(path, *hunk) for hunk in found]


class Listing(NamedTuple):
    """New files in the lists of sources: the edits, the code before and after, and what each list holds then."""

    edits: list[Edit]
    code: list[Code]
    contents: dict[str, bytes]


def listing(files: ProjectFiles, new: Iterable[str], content: Callable[[str], bytes]) -> Listing:
    """New files, listed wherever files of their folders are listed; `content` has what lists hold by now."""
    added: dict[str, list[tuple[int, bytes, str]]] = defaultdict(list)
    for name in (each for each in new if each.endswith(SUFFIX)):
        for path in files.above(posixpath.dirname(name)):
            listed = posixpath.relpath(name, posixpath.dirname(path) or ".").replace("/", "\\")
            if place := _place(content(path), listed):
                added[path].append((*place, posixpath.basename(name)))
    found = Listing([], [], {})
    for path, lines in added.items():
        text = content(path)
        for at, line, name in lines:
            said = line.decode("utf-8", "replace")
            found.edits.append(Edit(path, text.count(b"\n", 0, at) + 1, f"lists `{name}`", at, at, said))
            found.code.append(Code(path, "", said.strip()))
        for at, line, _ in sorted(lines, key=lambda each: each[0], reverse=True):
            text = text[:at] + line + text[at:]
        found.contents[path] = text
    return found


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
