"""What a step makes of files: their bytes before and after, and whether it may touch them at all."""

from __future__ import annotations

import os
import stat
from collections import defaultdict
from collections.abc import Iterable
from pathlib import Path, PurePosixPath
from typing import NamedTuple

from isodesm.errors import IsodesmError
from isodesm.planning.drafting.amendments import carried_out
from isodesm.planning.steps import Edit, Step, digest_of
from isodesm.reading.opening import new_mode, read_plain, real_name


class StepRefused(IsodesmError):
    """A step that can't be carried out as planned; nothing was written."""

    slug = "step-refused"


class FileChange(NamedTuple):
    """One file: `path` below the root, its content before (None: there is none) and after, and its mode."""

    path: str
    before: bytes | None
    after: bytes
    mode: int


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
    planned = {each.file: each.before for each in step.files}
    found = []
    for path, edits in sorted(by_file(step).items()):
        where = place_of(root, path)
        if edits[0].new:
            if os.path.lexists(where):
                raise StepRefused(f"{path} is there already, and {step.id} would put a new file in its place.")
            found.append(FileChange(path, None, "".join(edit.text for edit in edits).encode(), new_mode()))
            continue
        content, mode = _content_of(where, path)
        if planned.get(path, digest_of(content)) != digest_of(content):
            raise StepRefused(f"{path} is not as it was when {step.id} was planned. Plan again.")
        found.append(FileChange(path, content, edited_content(content, edits), mode))
    return found


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


def place_of(root: Path, path: str) -> Path:
    """Where a file of a step lies; StepRefused for what would lead out of the root or through a link."""
    parts = PurePosixPath(path).parts
    if not parts or path.startswith("/") or ".." in parts or "\\" in path or (os.name == "nt" and ":" in path):
        raise StepRefused(f"{path} does not lie in the folder that the plan is for.")
    where = root
    for part in parts:
        where = where / real_name(part)
        if where.is_symlink():
            raise StepRefused(f"{path} lies behind a link ({where}), which leads who knows where.")
    return where


def _content_of(where: Path, path: str) -> tuple[bytes, int]:
    try:
        status = os.lstat(where)
        if not stat.S_ISREG(status.st_mode):
            raise StepRefused(f"{path} is no regular file.")
        if not status.st_mode & 0o222 or not os.access(where, os.W_OK):
            raise StepRefused(f"{path} is read-only.")
        return read_plain(where), stat.S_IMODE(status.st_mode)
    except OSError as error:
        raise StepRefused(f"{path} can't be read: {error.strerror or error}.") from None
