"""Opens files of a tree that nobody trusts: regular ones of bounded size, looked at once they are open."""

from __future__ import annotations

import os
import stat
from pathlib import Path

LARGEST_SOURCE = 50_000_000
"""Bytes of the largest source file that is read."""
LARGEST_DATA = 20_000_000
"""The same of files of data and projects."""
LARGEST_RULES = 1_000_000
"""The same of ignore rules, settings and the like."""


class NotPlain(OSError):
    """What is no regular file, or larger than what is read; `strerror` says which."""

    def __init__(self, reason: str) -> None:
        super().__init__(0, reason)


_FIRST_BYTE, _LAST_BYTE = 0x80, 0xFF
_ESCAPED, _KEPT = 0xDC00, 0xF700
"""Where Python puts bytes of a name that are no UTF-8, and where they are put here: among letters of private use, which every
format can hold."""
_TO_TEXT = {_ESCAPED + byte: _KEPT + byte for byte in range(_FIRST_BYTE, _LAST_BYTE + 1)}
_TO_REAL = {kept: escaped for escaped, kept in _TO_TEXT.items()}


def text_name(name: str) -> str:
    """The name of a file as text that can be written anywhere, be it no UTF-8 on the disk."""
    return name if name.isascii() else name.translate(_TO_TEXT)


def real_name(name: str) -> str:
    """The name on the disk of what has this one as text."""
    return name if name.isascii() else name.translate(_TO_REAL)


def read_plain(path: str | Path, largest: int = LARGEST_SOURCE) -> bytes:
    """The content of a regular file of at most `largest` bytes; NotPlain for any other, OSError where it can't be read.

    A pipe or a device is never waited for: whether a file is one is asked of what was opened, not of its name.
    """
    flags = os.O_RDONLY | getattr(os, "O_NONBLOCK", 0) | getattr(os, "O_CLOEXEC", 0)
    try:
        handle = os.open(path, flags)
    except (FileNotFoundError, UnicodeEncodeError):
        if real_name(str(path)) == str(path):
            raise
        handle = os.open(real_name(str(path)), flags)
    try:
        return read_opened(handle, largest)[0]
    finally:
        os.close(handle)


def read_opened(handle: int, largest: int) -> tuple[bytes, os.stat_result]:
    """The same of a file that is open, with what the system says of it."""
    status = os.fstat(handle)
    if not stat.S_ISREG(status.st_mode):
        raise NotPlain("is no regular file")
    if status.st_size > largest:
        raise NotPlain(f"is larger than {largest // 1_000_000} MB")
    with os.fdopen(handle, "rb", closefd=False) as stream:
        content = stream.read(largest + 1)
    if len(content) > largest:
        raise NotPlain(f"is larger than {largest // 1_000_000} MB")
    return content, status


def new_mode() -> int:
    """The mode that a new file gets by its user's mask."""
    mask = os.umask(0)
    os.umask(mask)
    return 0o666 & ~mask
