"""What a step makes of files: their bytes before and after, and whether it may touch them at all."""

from __future__ import annotations

import os
from collections import defaultdict
from collections.abc import Iterable
from pathlib import Path
from typing import NamedTuple

from isodesm.disk.inside import Inside, LeadsOut
from isodesm.disk.opening import NotPlain, new_mode, read_plain, real_name
from isodesm.errors import IsodesmError
from isodesm.planning.model.step import Edit, Step, digest_of
from isodesm.planning.text.amendments import carried_out


class StepRefused(IsodesmError):
    """A step that can't be carried out as planned; nothing was written."""

    slug = "step-refused"


class FileChange(NamedTuple):
    """One file: `path` below the root, its content before (None: there is none) and after, its mode, its owner and group."""

    path: str
    before: bytes | None
    after: bytes
    mode: int
    owner: tuple[int, int] | None = None


def by_file(step: Step) -> dict[str, list[Edit]]:
    """The edits of a step that need no person, by file."""
    found: dict[str, list[Edit]] = defaultdict(list)
    for edit in step.edits:
        if not edit.by_hand:
            found[edit.file].append(edit)
    return found


def changes_of(root: Path, step: Step) -> list[FileChange]:
    """What a step makes of the files below a root as they are on the disk.

    Raises StepRefused where only a person can finish the step, a file is not the one that it was planned for, lies behind a
    link or outside the root, or is there already where a new one should come.
    """
    if any(edit.by_hand for edit in step.edits):
        raise StepRefused(f"{step.id} has places that only a person can change; `isodesm plan` shows them.")
    planned, inside = {each.file: each.before for each in step.files}, Inside(root)
    found = []
    for path, edits in sorted(by_file(step).items()):
        try:
            make = _new_file if edits[0].new else _changed
            found.append(make(inside, path, edits, planned.get(path), step))
        except OSError as error:
            raise StepRefused(_said(path, error)) from None
    return found


def _new_file(inside: Inside, path: str, edits: list[Edit], planned: str | None, step: Step) -> FileChange:
    if inside.is_there(path):
        raise StepRefused(f"{path} is there already, and {step.id} would put a new file in its place.")
    return FileChange(path, None, "".join(edit.text for edit in edits).encode(), new_mode())


def _changed(inside: Inside, path: str, edits: list[Edit], planned: str | None, step: Step) -> FileChange:
    found = inside.read(path)
    if not found.mode & 0o222 or not os.access(inside.root / real_name(path), os.W_OK):
        raise StepRefused(f"{path} is read-only.")
    if found.names > 1:
        raise StepRefused(f"{path} has another name besides (a hard link), which would keep the old text.")
    if planned is None:
        raise StepRefused(f"{step.id} does not say what {path} held when it was planned. Plan again.")
    if planned != digest_of(found.content):
        raise StepRefused(f"{path} is not as it was when {step.id} was planned. Plan again.")
    if not _fit(edits, len(found.content)):
        raise StepRefused(f"{step.id} has places that {path} does not have. Plan again.")
    return FileChange(path, found.content, edited_content(found.content, edits), found.mode, found.owner)


def _fit(edits: list[Edit], length: int) -> bool:
    """Whether places lie in a content of that length and no two overlap."""
    edge = 0
    for each in sorted(edits, key=lambda each: (each.start, each.end)):
        if each.new or not edge <= each.start <= each.end <= length:
            return False
        edge = each.end
    return True


def _said(path: str, error: OSError) -> str:
    said = error.strerror or str(error)
    if isinstance(error, LeadsOut):
        return f"{said}."
    return f"{path} {said}." if isinstance(error, NotPlain) else f"{path} can't be read: {said}."


def edited_content(content: bytes, edits: Iterable[Edit]) -> bytes:
    """A content after edits, whose line ends become those of the file."""
    only_returns = b"\r" in content and b"\n" not in content
    texts = [(each.start, each.end, each.text.replace("\n", "\r") if only_returns else each.text) for each in edits]
    return carried_out(content, texts)


def digests_now(root: Path, paths: Iterable[str]) -> dict[str, str]:
    """Path to the digest of what the file holds now, '' where there is none: what is remembered with a step that turned red."""
    found = {}
    for path in sorted(paths):
        try:
            found[path] = digest_of(read_plain(root / real_name(path)))
        except OSError:
            found[path] = ""
    return found
