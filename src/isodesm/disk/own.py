"""Folders and files of this program's own: the cache, the journal, logs, and what lies in a scratch folder for a while.

Nobody else can look into a folder that is made here.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import stat
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

OWN_MODE = 0o700


def own_folder(folder: Path) -> Path:
    """Make a folder, with those above it that are missing, for this user alone; one that is there stays as it is."""
    missing = []
    for each in (folder, *folder.parents):
        if each.exists():
            break
        missing.append(each)
    for each in reversed(missing):
        each.mkdir(mode=OWN_MODE, exist_ok=True)
    if not folder.is_dir():
        raise NotADirectoryError(20, "is no folder", str(folder))
    return folder


def close_to_others(folder: Path) -> None:
    """Take from others what they may do with a folder of this user's that an earlier version left open to them."""
    with contextlib.suppress(OSError):
        status = os.lstat(folder)
        if stat.S_ISDIR(status.st_mode) and status.st_mode & 0o077 and status.st_uid == getattr(os, "getuid", lambda: -1)():
            os.chmod(folder, OWN_MODE)


def without_link(path: Path) -> Path:
    """A file of ours by its name; OSError where that is a link, which leads who knows where."""
    if path.is_symlink():
        raise OSError(40, "is a link, which leads who knows where", str(path))
    return path


def held_open(path: Path) -> BinaryIO:
    """A file of ours to lock: made if it is not there, and never emptied."""
    flags = os.O_RDWR | os.O_CREAT | getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_CLOEXEC", 0)
    return os.fdopen(os.open(without_link(path), flags, 0o600), "r+b")


def fresh(path: Path) -> BinaryIO:
    """A file of ours that is written anew, in a folder that is made if need be; what had the name goes, be it a link."""
    own_folder(path.parent)
    path.unlink(missing_ok=True)
    flags = os.O_WRONLY | os.O_CREAT | os.O_EXCL | getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_CLOEXEC", 0)
    return os.fdopen(os.open(path, flags, 0o600), "wb")


def keep(path: Path, content: bytes) -> None:
    """Write a file of ours so that it appears whole; nobody waits for the disk."""
    own_folder(path.parent)
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name[:40]}.")
    try:
        with os.fdopen(handle, "wb") as stream:
            stream.write(content)
        os.replace(name, path)
    except BaseException:
        with contextlib.suppress(OSError):
            os.unlink(name)
        raise


def drop(path: Path) -> None:
    """Remove a file of ours, if it is there."""
    path.unlink(missing_ok=True)


def drop_folder(folder: Path) -> None:
    """Remove a folder of ours with all that lies in it, as far as that can be done; links in it go as such."""
    shutil.rmtree(folder, ignore_errors=True)


@contextlib.contextmanager
def scratch(prefix: str) -> Iterator[Path]:
    """A folder that goes away with the block."""
    with tempfile.TemporaryDirectory(prefix=prefix, ignore_cleanup_errors=True) as folder:
        yield Path(folder)


def lasting_scratch(prefix: str) -> Path:
    """A folder for temporary things that stays."""
    return Path(tempfile.mkdtemp(prefix=prefix))


def lay(root: Path, path: str, content: bytes) -> None:
    """Put a file below a scratch folder, with the folders that it needs; ValueError for a path that leads out of it."""
    parts = Path(path).parts
    if not parts or Path(path).is_absolute() or ".." in parts:
        raise ValueError(f"{path} leads out of the folder")
    target = root.joinpath(*parts)
    target.parent.mkdir(parents=True, exist_ok=True)
    target.write_bytes(content)


def leave(prefix: str, suffix: str, content: bytes) -> str:
    """Leave a file among the temporary ones, for this user alone; its name."""
    with tempfile.NamedTemporaryFile("wb", prefix=prefix, suffix=suffix, delete=False) as file:
        file.write(content)
    return file.name
