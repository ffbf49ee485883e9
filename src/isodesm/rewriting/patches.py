"""Changes as unified diffs that `git apply` and `patch` take."""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterable, Iterator
from pathlib import Path
from textwrap import wrap

from isodesm.disk.opening import read_plain, real_name
from isodesm.planning.model.step import Step
from isodesm.rewriting.changes import FileChange, by_file, edited_content

CONTEXT = 3
_NO_LINE_END = b"\\ No newline at end of file\n"
_QUOTED = {"\\": "\\\\", '"': '\\"', "\t": "\\t", "\n": "\\n", "\r": "\\r"}


def patch_of(changes: Iterable[FileChange]) -> bytes:
    """The unified diff of some changes, file by file; lines keep their own ends."""
    return b"".join(_of_file(each) for each in changes if each.before != each.after)


def patches_of(root: Path, steps: Iterable[Step]) -> Iterator[tuple[str, bytes]]:
    """For each step a name for a file and its patch, headed by its title and why, each on top of those before it.

    What only a person can change is named in the head, and in no patch.
    """
    contents: dict[str, bytes | None] = {}
    for number, step in enumerate(steps, 1):
        changes = []
        for path, edits in sorted(by_file(step).items()):
            if path not in contents:
                contents[path] = None if edits[0].new else read_plain(root / real_name(path))
            before = contents[path]
            after = "".join(each.text for each in edits).encode() if edits[0].new else edited_content(before or b"", edits)
            changes.append(FileChange(path, before, after, 0o644))
            contents[path] = after
        by_hand = [f"by hand: {each.file}:{each.line} {each.action}" for each in step.edits if each.by_hand]
        head = [f"{number}. {step.title}", "", *wrap(step.why_now, 100), *by_hand, f"Step: {step.id}", ""]
        text = "\n".join("".join(char if char.isprintable() else "?" for char in line) for line in head)
        name = re.sub(r"[^\w.-]+", "-", step.title).strip("-").lower()[:60]
        yield f"{number:04}-{name}.patch", text.encode("utf-8", "replace") + b"\n" + patch_of(changes)


def _of_file(change: FileChange) -> bytes:
    old, new = _lines(change.before or b""), _lines(change.after)
    name = change.path
    head = [f"diff --git {_quoted('a/' + name)} {_quoted('b/' + name)}"]
    if change.before is None:
        head.append(f"new file mode 100{'755' if change.mode & 0o100 else '644'}")
    head += ["--- /dev/null" if change.before is None else f"--- {_quoted('a/' + name)}", f"+++ {_quoted('b/' + name)}"]
    parts = ["\n".join(head).encode("utf-8", "surrogateescape") + b"\n"]
    for group in difflib.SequenceMatcher(None, old, new, autojunk=False).get_grouped_opcodes(CONTEXT):
        first, last = group[0], group[-1]
        parts.append(f"@@ -{_range(first[1], last[2])} +{_range(first[3], last[4])} @@\n".encode())
        for tag, i1, i2, j1, j2 in group:
            if tag == "equal":
                parts += [_line(b" ", line) for line in old[i1:i2]]
                continue
            parts += [_line(b"-", line) for line in old[i1:i2]]
            parts += [_line(b"+", line) for line in new[j1:j2]]
    return b"".join(parts)


def _lines(content: bytes) -> list[bytes]:
    """Lines with their ends; only the line feed ends one."""
    *lines, last = content.split(b"\n")
    return [line + b"\n" for line in lines] + ([last] if last else [])


def _line(mark: bytes, line: bytes) -> bytes:
    return mark + line if line.endswith(b"\n") else mark + line + b"\n" + _NO_LINE_END


def _range(start: int, stop: int) -> str:
    """Lines `start` to `stop` (exclusive, from 0) as a unified diff counts them: by the first, from 1, and their number."""
    length = stop - start
    if length == 1:
        return str(start + 1)
    return f"{start + 1 if length else start},{length}"


def _quoted(name: str) -> str:
    """A name as git writes it: in quotes where it holds what would be taken for something else."""
    if not any(char in _QUOTED or ord(char) < 32 for char in name):
        return name
    return '"' + "".join(_QUOTED.get(char, char if ord(char) >= 32 else f"\\{ord(char):03o}") for char in name) + '"'
