"""Reads and writes below a folder that nobody trusts: through no link, not out of it, and not into what git calls its own.

Each call opens the folder first and goes down from there entry by entry, so that what is looked at is what is written to.
Where a system can't open one entry relative to another, names are looked at before each call instead.
"""

from __future__ import annotations

import contextlib
import errno
import os
import stat
from collections.abc import Callable, Iterator
from pathlib import Path, PurePosixPath
from typing import NamedTuple

from isodesm.disk.opening import LARGEST_SOURCE, read_opened, real_name

HOLDS_FOLDERS = os.open in os.supports_dir_fd and hasattr(os, "O_NOFOLLOW") and hasattr(os, "O_DIRECTORY")
"""Whether entries can be opened relative to a folder that is open. Looked up at each call."""
LONGEST_NAME = 255
_OWN = frozenset((".git", "git~1", ".gitmodules", ".gitattributes"))
"""Names that git gives a meaning of its own, one of them in the short form of some disks."""
_UNSEEN = dict.fromkeys((*range(0x200B, 0x2010), *range(0x202A, 0x202F), *range(0x206A, 0x2070), 0xFEFF))
"""Signs that some disks leave out of names."""


class LeadsOut(OSError):
    """A path that may not be touched; `strerror` says why, beginning with the path."""

    def __init__(self, reason: str) -> None:
        super().__init__(0, reason)


class Content(NamedTuple):
    """What a file holds, its mode, how many names it has, and its owner and group."""

    content: bytes
    mode: int
    names: int
    owner: tuple[int, int]


def parts_of(path: str) -> tuple[str, ...]:
    """The entries that a path below a folder leads through, as the disk has them; LeadsOut for one that leads anywhere else."""
    parts = PurePosixPath(path).parts
    if not parts or path.startswith("/") or ".." in parts or "\\" in path or (os.name == "nt" and ":" in path):
        raise LeadsOut(f"{path or 'A path without a name'} does not lie in the folder that the plan is for")
    if any(ord(char) < 32 for char in path):
        raise LeadsOut(f"{path!r} is no name of a file")
    if own := next((part for part in parts if is_gits(part)), ""):
        raise LeadsOut(f"{path} is git's own ({own}), and is not touched")
    names = tuple(map(real_name, parts))
    if any(len(os.fsencode(name)) > LONGEST_NAME for name in names):
        raise LeadsOut(f"{path[:40]}… is longer than a name may be")
    return names


def is_gits(name: str) -> bool:
    """Whether git, on any disk, would take an entry of this name for its own."""
    return name.translate(_UNSEEN).rstrip(". ").casefold() in _OWN


class Inside:
    """A folder and what lies below it; paths are relative, with `/`. Every call raises OSError, LeadsOut among them."""

    def __init__(self, root: Path) -> None:
        self.root = root

    def read(self, path: str, largest: int = LARGEST_SOURCE) -> Content:
        """A regular file of at most so many bytes, and nothing that a link leads to."""
        with self._at(path) as (folder, name):
            flags = os.O_RDONLY | _no_links() | getattr(os, "O_NONBLOCK", 0) | getattr(os, "O_CLOEXEC", 0)
            if folder is None and os.path.islink(name):
                raise _behind(path, OSError(errno.ELOOP, ""))
            try:
                handle = os.open(name, flags, dir_fd=folder)
            except OSError as error:
                raise _behind(path, error) from None
            try:
                content, status = read_opened(handle, largest)
            finally:
                os.close(handle)
        return Content(content, stat.S_IMODE(status.st_mode), status.st_nlink, (status.st_uid, status.st_gid))

    def is_there(self, path: str) -> bool:
        """Whether there is anything of this name, be it a link that leads nowhere."""
        try:
            with self._at(path) as (folder, name):
                os.stat(name, dir_fd=folder, follow_symlinks=False)
        except (FileNotFoundError, NotADirectoryError):
            return False
        return True

    def make_folders(self, path: str) -> None:
        """Make the folders that a file needs, as far as they are missing."""
        for parent in list(PurePosixPath(path).parents)[-2::-1]:
            if not self.is_there(parent.as_posix()):
                self.make_folder(parent.as_posix())

    def make_folder(self, path: str, mode: int = 0o777) -> None:
        """Make a folder in one that is there."""
        with self._at(path) as (folder, name):
            os.mkdir(name, mode, dir_fd=folder)

    def remove_folder(self, path: str) -> None:
        """Remove a folder that is empty."""
        with self._at(path) as (folder, name):
            os.rmdir(name, dir_fd=folder)

    def create(self, path: str, content: bytes, mode: int, owner: tuple[int, int] | None = None) -> None:
        """Write a file of a name that nothing has, and wait until it is on the disk. What came of a failure goes again."""
        with self._at(path) as (folder, name):
            flags = os.O_WRONLY | os.O_CREAT | os.O_EXCL | _no_links() | getattr(os, "O_CLOEXEC", 0)
            handle = os.open(name, flags, 0o600, dir_fd=folder)
            try:
                with os.fdopen(handle, "wb") as stream:
                    stream.write(content)
                    stream.flush()
                    _give(stream.fileno(), mode, owner)
                    os.fsync(stream.fileno())
                if not hasattr(os, "fchmod"):  # such a system has no links that anybody may make
                    os.chmod(name, mode)
            except BaseException:
                with contextlib.suppress(OSError):
                    os.unlink(name, dir_fd=folder)
                raise

    def put(self, path: str, content: bytes, mode: int, owner: tuple[int, int] | None = None, beside: str = "") -> None:
        """Write a file so that it appears whole, in the place of one that is there; a link of its name gives way as such.

        It is written `beside` first, where an attempt that was cut off may have left something, or under a name of its own.
        """
        if beside:
            self.remove(beside)
        else:
            beside = beside_of(path)
        self.create(beside, content, mode, owner)
        try:
            self.rename(beside, path)
        except BaseException:
            with contextlib.suppress(OSError):
                self.remove(beside)
            raise
        self.settle(path)

    def rename(self, beside: str, path: str) -> None:
        """Give a file the name of another in the same folder, which it replaces."""
        with self._at(path) as (folder, name):
            os.replace(_near(name, beside), name, src_dir_fd=folder, dst_dir_fd=folder)

    def name_new(self, beside: str, path: str) -> None:
        """Give a file a name that nothing has; FileExistsError where something came there meanwhile."""
        with self._at(path) as (folder, name):
            source = _near(name, beside)
            try:
                os.link(source, name, src_dir_fd=folder, dst_dir_fd=folder)
            except FileExistsError:
                raise
            except OSError:  # a disk without links
                if self.is_there(path):
                    raise FileExistsError(errno.EEXIST, "is there already", path) from None
                os.replace(source, name, src_dir_fd=folder, dst_dir_fd=folder)
                return
            os.unlink(source, dir_fd=folder)

    def remove(self, path: str) -> None:
        """Remove a file, or a link as such, if it is there."""
        with contextlib.suppress(FileNotFoundError), self._at(path) as (folder, name):
            os.unlink(name, dir_fd=folder)

    def settle(self, path: str) -> None:
        """Wait until the names in the folder of a file are on the disk, where the system can say so."""
        with self._at(path) as (folder, _):
            if folder is not None:
                os.fsync(folder)

    @contextlib.contextmanager
    def _at(self, path: str) -> Iterator[tuple[int | None, str]]:
        """The folder of a path, open, and the name in it; without such folders, None and the whole name."""
        *folders, name = parts_of(path)
        if not HOLDS_FOLDERS:
            yield None, str(_looked_at(self.root, folders, path) / name)
            return
        flags = os.O_RDONLY | os.O_DIRECTORY | getattr(os, "O_CLOEXEC", 0)
        handle = os.open(self.root, flags)
        try:
            for each in folders:
                try:
                    below = os.open(each, flags | os.O_NOFOLLOW, dir_fd=handle)
                except OSError as error:
                    raise _behind(path, error) from None
                os.close(handle)
                handle = below
                _leave_to_git(path, lambda name, at=handle: os.stat(name, dir_fd=at, follow_symlinks=False))
            yield handle, name
        finally:
            os.close(handle)


def _no_links() -> int:
    return os.O_NOFOLLOW if HOLDS_FOLDERS else 0


def beside_of(path: str) -> str:
    """A name beside a file that nobody could know before."""
    return PurePosixPath(path).with_name(f".isodesm-{os.urandom(8).hex()}.new").as_posix()


def _near(name: str, beside: str) -> str:
    """The name of a file in the same folder, as `name` is one."""
    return os.path.join(os.path.dirname(name), PurePosixPath(beside).name)


def _status_in(folder: Path) -> Callable[[str], os.stat_result]:
    """What asks for the status of a name in a folder."""
    return lambda name: os.lstat(folder / name)


def _looked_at(root: Path, folders: list[str], path: str) -> Path:
    """A folder below a root by its name, no part of which is a link."""
    where = root
    for each in folders:
        where = where / each
        status = os.lstat(where)
        if not stat.S_ISDIR(status.st_mode) or getattr(status, "st_reparse_tag", False):
            raise _behind(path, OSError(errno.ELOOP, ""))
        _leave_to_git(path, _status_in(where))
    return where


def _leave_to_git(path: str, look: object) -> None:
    """LeadsOut where a folder on the way is the inside of a repository, whatever its name."""

    def has(name: str) -> bool:
        try:
            look(name)  # type: ignore[operator]
        except OSError:
            return False
        return True

    if has("HEAD") and (has("commondir") or (has("objects") and has("refs"))):
        raise LeadsOut(f"{path} is git's own, for a folder on the way is the inside of a repository, and is not touched")


def _behind(path: str, error: OSError) -> OSError:
    """What went wrong with an entry: that it is a link, if so."""
    if error.errno in (errno.ELOOP, errno.EMLINK, errno.ENOTDIR):
        return LeadsOut(f"{path} lies behind a link, which leads who knows where")
    return error


def _give(handle: int, mode: int, owner: tuple[int, int] | None) -> None:
    """Give an open file an owner, where that is allowed, and a mode."""
    if owner is not None and hasattr(os, "fchown"):
        with contextlib.suppress(OSError):
            os.fchown(handle, *owner)
    if hasattr(os, "fchmod"):
        os.fchmod(handle, mode)
