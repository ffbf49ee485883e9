"""Trees as a git revision has them, read out of git's object store into a folder apart; the work tree is never touched.

Contents come as they are stored: no filter, hook, attribute or submodule of the repository has a say.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path, PurePosixPath
from typing import NamedTuple

from isodesm.disk.opening import LARGEST_SOURCE
from isodesm.disk.own import lay, own_folder, scratch
from isodesm.errors import UsageError
from isodesm.facts.definitions import SUFFIXES as DATA_SUFFIXES
from isodesm.facts.languages import language_by_suffix
from isodesm.reading.git import git, is_installed
from isodesm.reading.projects import PROJECT_NAMES, PROJECT_SUFFIXES, package_above

REGULAR = frozenset((b"100644", b"100755"))
SUBMODULE = b"160000"
IGNORE_NAMES = frozenset((".gitignore", ".ignore"))
_POINTER = re.compile(rb"version [^\n]{1,200}\noid sha256:[0-9a-f]{64}\nsize \d+\n?\Z")
"""What stands in the place of a large file whose content is kept elsewhere."""
MOST_AT_ONCE = 2_000
"""Objects asked for in one call of git."""


class Stored(NamedTuple):
    """One file of a revision: its path below the tree, and the object that holds it."""

    path: str
    object: str


class Revision(NamedTuple):
    """A revision that was read: its commit, where its files lie, and what was left out, in words."""

    commit: str
    root: Path
    remarks: tuple[str, ...]


def resolve(root: Path, revision: str, base: bool = False) -> str:
    """The commit that a revision means in the repository of a tree; with `base` where the work tree's branch left it.

    Raises UsageError where there is no git or repository, and where the revision is unknown or not in a shallow clone.
    """
    if not is_installed():
        raise UsageError("git is not installed, and revisions are its own.")
    if git(root, "rev-parse", "--is-inside-work-tree") is None:
        raise UsageError(f"{root} lies in no git repository, so that there are no revisions.")
    shallow = (git(root, "rev-parse", "--is-shallow-repository") or b"").strip() == b"true"
    hint = (
        " This is a shallow clone: fetch more of the history (`git fetch --deepen 1000`, or `--unshallow`)." if shallow else ""
    )
    found = git(root, "rev-parse", "--verify", "--quiet", "--end-of-options", f"{revision}^{{commit}}")
    if found is None:
        raise UsageError(f"There is no revision `{revision}` here.{hint}")
    commit = found.decode().strip()
    if not base:
        return commit
    common = git(root, "merge-base", commit, "HEAD")
    if common is None:
        raise UsageError(f"`{revision}` and HEAD have no commit in common here.{hint}")
    return common.decode().split()[0]


@contextmanager
def checked_out(root: Path, commit: str) -> Iterator[Revision]:
    """The files of a commit below a tree's folder that reading may ask for, in a folder that goes away again.

    It has the name of the tree's folder, and lies in the same packages.
    """
    remarks: list[str] = []
    stored = list(_stored(root, commit, remarks))
    with scratch("isodesm-") as folder:
        for package in package_above(root)[:-1]:
            folder = folder / package
            lay(folder, "__init__.py", b"")
        folder = own_folder(folder / (root.resolve().name or "tree"))
        wanted = []
        for each in stored:
            if _is_wanted(each.path):
                wanted.append(each)
            else:  # its name alone says something: that a folder is built here, say
                lay(folder, each.path, b"")
        for start in range(0, len(wanted), MOST_AT_ONCE):
            _write(root, folder, wanted[start : start + MOST_AT_ONCE], remarks)
        yield Revision(commit, folder, tuple(remarks))


def _stored(root: Path, commit: str, remarks: list[str]) -> Iterator[Stored]:
    listed = git(root, "ls-tree", "-r", "-z", commit) or b""
    submodules = []
    for line in listed.split(b"\0"):
        head, _, name = line.partition(b"\t")
        if not name:
            continue
        mode, _, stored = head.split()
        path = name.decode("utf-8", "surrogateescape")
        if mode == SUBMODULE:
            submodules.append(path)
        elif mode in REGULAR and ".." not in PurePosixPath(path).parts:
            yield Stored(path, stored.decode())
    if submodules:
        remarks.append(f"left out, for they are submodules: {', '.join(sorted(submodules)[:5])}")


def _is_wanted(path: str) -> bool:
    """Whether reading a tree looks at files of this name."""
    pure = PurePosixPath(path)
    return (
        pure.suffix in language_by_suffix()
        or pure.suffix.lower() in DATA_SUFFIXES
        or pure.name.endswith(PROJECT_SUFFIXES)
        or pure.name in PROJECT_NAMES
        or pure.name in IGNORE_NAMES
    )


def _write(root: Path, folder: Path, stored: list[Stored], remarks: list[str]) -> None:
    content = git(root, "cat-file", "--batch", given=("\n".join(each.object for each in stored) + "\n").encode())
    if content is None:
        raise UsageError("git could not give the files of that revision; some may be missing in this clone.")
    at = 0
    for each in stored:
        end = content.index(b"\n", at)
        words = content[at:end].split()
        if len(words) != 3:
            remarks.append(f"{each.path} is not in this clone")
            at = end + 1
            continue
        size = int(words[2])
        blob = content[end + 1 : end + 1 + size]
        at = end + 1 + size + 1
        if size < 500 and _POINTER.match(blob):
            remarks.append(f"left out, for its content is kept elsewhere: {each.path}")
        elif size <= LARGEST_SOURCE:
            lay(folder, each.path, blob)


def renamed_since(root: Path, commit: str) -> dict[str, str]:
    """Paths below the tree as they were at a commit to what they are called now, as far as git sees a rename."""
    how = (
        "--cached",
        "--name-status",
        "-z",
        "-M50%",
        "-l2000",
        "--diff-filter=R",
        "--no-ext-diff",
        "--no-textconv",
        "--relative",
    )
    said = git(root, "diff", *how, commit, "--", ".")  # what is staged, for reading the work tree would call filters
    found: dict[str, str] = {}
    parts = (said or b"").decode("utf-8", "surrogateescape").split("\0")
    for at in range(0, len(parts) - 2, 3):
        found[parts[at + 1]] = parts[at + 2]
    return found


def course_of(root: Path, count: int, since: str = "") -> list[tuple[str, int, str]]:
    """Commits of the first-parent history, evenly spread, the newest among them: id, seconds since 1970, subject; oldest
    first."""
    resolve(root, "HEAD")
    limit = [f"--since={since}"] if since else []
    said = git(root, "log", "--first-parent", "--format=%H%x00%ct%x00%s", *limit, "HEAD", "--", ".") or b""
    lines = [line.split("\0", 2) for line in said.decode("utf-8", "replace").splitlines() if line.count("\0") >= 2]
    commits = [(line[0], int(line[1]), line[2]) for line in reversed(lines)]
    if len(commits) <= count:
        return commits
    if count == 1:
        return commits[-1:]
    return [commits[round(at * (len(commits) - 1) / (count - 1))] for at in range(count)]
