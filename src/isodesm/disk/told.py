"""Writes where a user says: a file named with an option, a folder for patches or tables, a copy of a sample.

A name that the user did not give – that of a mark, say, in a codebase that may be a stranger's – is never followed through a
link.
"""

from __future__ import annotations

import os
import shutil
import stat
import tempfile
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from isodesm.disk.inside import Inside, LeadsOut
from isodesm.disk.opening import NotPlain, new_mode
from isodesm.errors import FULL, OutputError, UsageError


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
        raise _said(path, error) from None


def write_usual(folder: Path, name: str, content: bytes, *, anew: bool = False) -> None:
    """The same under a usual name in a folder, through no link. With `anew` nothing may have the name yet.

    UsageError where what has the name is a link, a file with another name besides, or no file at all.
    """
    path, inside = folder / name, Inside(folder)
    try:
        known = None if anew or not inside.is_there(name) else inside.read(name)
        if anew:
            inside.create(name, content, new_mode())
        elif known is not None and known.names > 1:
            raise LeadsOut(f"{path} has another name besides, which would keep the old content")
        else:
            inside.put(name, content, known.mode if known is not None else new_mode())
    except FileExistsError:
        raise UsageError(
            f"{path} is there already, and is not written over. Name another file with --output, or remove it first."
        ) from None
    except (LeadsOut, NotPlain) as error:
        raise UsageError(f"Can't write {path}: {error.strerror}. Name the file that is meant with --output.") from None
    except OSError as error:
        raise _said(path, error) from None


def make_folder(folder: Path) -> None:
    """Make a folder that a user named, with those above it; UsageError where that can't be done."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise UsageError(f"Can't make the folder {folder}: {error.strerror or error}. Name another with --output.") from None


def copy_tree(source: Path, target: Path) -> None:
    """Copy a folder to one that is not there yet. OSError where that can't be done."""
    shutil.copytree(source, target, ignore=shutil.ignore_patterns("__pycache__"))


def _said(path: Path, error: OSError) -> UsageError | OutputError:
    kind = OutputError if error.errno in FULL else UsageError
    return kind(f"Can't write {path}: {error.strerror or error}. Name another file with --output.")


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
