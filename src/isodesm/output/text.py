"""Making foreign text safe and short for people: control characters escaped, names cut at their beginning."""

from __future__ import annotations

import os
import stat
import tempfile
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from isodesm.errors import FULL, OutputError, UsageError
from isodesm.reading.opening import new_mode


def printable(text: str) -> str:
    """`text` with control characters, and those that turn the writing direction, spelt out; tabs become four spaces."""
    if text.isprintable():
        return text
    return "".join(_shown(char) for char in text)


def _shown(char: str) -> str:
    if char == "\t":
        return "    "
    if char.isprintable():
        return char
    code = ord(char) - 0xF700 if 0xF780 <= ord(char) <= 0xF7FF else ord(char)  # bytes of names that are no UTF-8
    return f"\\x{code:02x}" if code < 256 else f"\\u{code:04x}"


def cut_front(name: str, width: int, separators: str = "./\\#") -> str:
    """`name` in at most `width` characters, its end kept: whole leading parts make way for an ellipsis.

    The last part is never cut, even where it is wider. Parts are those of the names of any language.

    >>> cut_front("org.hollin.desk.app.BulletinService", 25)
    '….app.BulletinService'
    """
    if len(name) <= width:
        return name
    ends = [index for index, char in enumerate(name) if char in separators]
    for end in ends:
        if len(name) - end + 1 <= width:
            return f"…{name[end:]}"
    return name[ends[-1] + 1 :] if ends else name


def counted(number: int, one: str, many: str = "") -> str:
    """A number with its noun: `1 class`, `2,000 classes`."""
    return f"{number:,} {one if number == 1 else many or one + 's'}"


def number_of(value: float) -> str:
    """A measure without needless decimals: `42`, `4.5`."""
    return f"{value:,.0f}" if value == int(value) else f"{value:,.1f}"


def write_whole(path: Path, content: bytes | Iterable[bytes]) -> None:
    """Write a file so that it appears whole or not at all; UsageError where that can't be done, OutputError where there is no
    room.

    A link is followed to its file, and a file that is there keeps its mode. What is no regular file – a pipe, a device – is
    written to as it stands.
    """
    parts = [content] if isinstance(content, bytes) else content
    try:
        target = path.resolve() if path.is_symlink() else path
        known = target.stat() if target.exists() else None
        if known is not None and not stat.S_ISREG(known.st_mode):
            with open(target, "wb", buffering=0) as stream:
                for each in parts:
                    _write_all(stream, each)
            return
        _replace(target, parts, known.st_mode & 0o7777 if known is not None else new_mode())
    except BrokenPipeError:
        raise
    except OSError as error:
        kind = OutputError if error.errno in FULL else UsageError
        raise kind(f"Can't write {path}: {error.strerror or error}. Name another file with --output.") from None


def _replace(target: Path, parts: Iterable[bytes], mode: int) -> None:
    """Put a file in the place of another once it is whole."""
    handle, name = tempfile.mkstemp(dir=target.parent or Path(), prefix=f".{target.name[:40]}.")
    try:
        with os.fdopen(handle, "wb") as stream:
            stream.writelines(parts)
        os.chmod(name, mode)
        os.replace(name, target)
    except BaseException:
        os.unlink(name)
        raise


def _write_all(stream: Any, content: bytes) -> None:
    left = memoryview(content)
    while left:
        left = left[stream.write(left) or 0 :]
