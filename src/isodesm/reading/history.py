"""What git remembers of a tree: which commits changed which files, renames followed. Read with git's command-line program."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from pathlib import Path

import msgspec

from isodesm.reading.git import git, is_installed

MOST_COMMITS = 50_000
"""Commits that are read, the newest first; older ones say little of today's code."""
RENAME_LIMIT = 400
"""Files of a commit beyond which git does not look for renames: a move of everything would take for ever."""
LARGEST_MAP = 1_000_000
"""Bytes of the largest map of authors that is followed."""
VERSION = b"history 1"
_RECORD, _FIELD = "\x01", "\x02"


class Change(msgspec.Struct, frozen=True, array_like=True, gc=False):
    """One file in a commit, under the name it has today: lines added and removed, white space aside."""

    path: int
    added: int
    removed: int


class Commit(msgspec.Struct, frozen=True, array_like=True, gc=False):
    """A commit: its id, seconds since 1970, a number for its author, and what it changed."""

    id: str
    time: int
    author: int
    changes: tuple[Change, ...]


class History(msgspec.Struct, frozen=True):
    """Commits, oldest first, and the paths they changed, relative to the tree. `remark` says what is missing, and why."""

    commits: tuple[Commit, ...] = ()
    paths: tuple[str, ...] = ()
    remark: str = ""


def head_of(root: Path) -> str:
    """The id of the commit that a tree stands at; '' where there is no git, repository or commit."""
    return _git(root, "rev-parse", "HEAD").strip()


def read_history(root: Path, since: str = "", cache_folder: str = "", cache_limit: int = 0) -> History:
    """The history of the tree at `root`, from `since` on (a date, or words that git understands; '' for all).

    Never fails: where there is none the remark says so. Kept in the cache under the id of the newest commit.
    """
    if not is_installed():
        return History(remark="git is not installed, so nothing is known of the history")
    folder = root if root.is_dir() else root.parent
    head = head_of(folder)
    if not head:
        return History(remark="this is no git repository with commits, so nothing is known of its history")
    key = hashlib.blake2b(
        "\0".join((head, since, _git(folder, "rev-parse", "--show-prefix"))).encode() + VERSION, digest_size=20
    ).digest()
    if (known := _cached(key, cache_folder, cache_limit)) is not None:
        return known
    history = _read(folder, since)
    if cache_folder and history.commits:
        from isodesm.reading.cache import Cache

        cache = Cache(Path(cache_folder), cache_limit)
        cache.keep_answer(key, msgspec.msgpack.encode(history))
        cache.close()
    return history


def _cached(key: bytes, folder: str, limit: int) -> History | None:
    if not folder:
        return None
    from isodesm.reading.cache import Cache

    cache = Cache(Path(folder), limit)
    content = cache.answer(key)
    cache.close(evict=False)
    try:
        return msgspec.msgpack.decode(content, type=History) if content else None
    except msgspec.DecodeError:
        return None


def _git(folder: Path, *arguments: str) -> str:
    """What a git command says; '' where it fails."""
    return (git(folder, *arguments) or b"").decode("utf-8", "replace")


def _author(folder: Path) -> str:
    """How git is asked for an author's address: under the names that the tree maps to one, where that map is a plain file."""
    top = _git(folder, "rev-parse", "--show-toplevel").rstrip("\n")
    mapping = Path(top) / ".mailmap"
    return "%aE" if top and mapping.is_file() and mapping.stat().st_size < LARGEST_MAP else "%ae"


def _read(folder: Path, since: str) -> History:
    shallow = _git(folder, "rev-parse", "--is-shallow-repository").strip() == "true"
    text = _git(
        folder,
        "-c",
        f"diff.renameLimit={RENAME_LIMIT}",
        "log",
        "-z",
        "--numstat",
        "-w",
        "-M",
        "--relative",
        "--no-color",
        "--no-ext-diff",
        "--no-textconv",
        f"--max-count={MOST_COMMITS}",
        f"--format={_RECORD}%H{_FIELD}%ct{_FIELD}{_author(folder)}{_FIELD}",
        *([f"--since={since}"] if since else []),
        "--",
        ".",
    )
    if not text:
        return History(remark=f"git gave no history{f' since {since}' if since else ''} for this folder")
    names: dict[str, int] = {}
    today: dict[str, str] = {}
    authors: dict[str, int] = {}
    commits = [_commit(record, names, today, authors) for record in text.split(_RECORD)[1:]]
    remarks = ["the repository is shallow: older history is missing"] if shallow else []
    if len(commits) == MOST_COMMITS:
        remarks.append(f"only the newest {MOST_COMMITS:,} commits are counted")
    return History(tuple(reversed(commits)), tuple(names), "; ".join(remarks))


def _commit(record: str, names: dict[str, int], today: dict[str, str], authors: dict[str, int]) -> Commit:
    """One record, newest first, so that a rename seen here holds for all that follow."""
    identity, time, author, rest = record.split(_FIELD, 3)
    changes = []
    renamed: dict[str, str] = {}
    for added, removed, old, new in _entries(rest):
        path = today.get(new, new)
        if old:
            renamed[old] = path
        if added == "-" or (added, removed) == ("0", "0") and not old:
            continue  # binary, or nothing but white space
        changes.append(Change(names.setdefault(path, len(names)), int(added), int(removed)))
    today.update(renamed)
    return Commit(identity, int(time), authors.setdefault(author, len(authors)), tuple(changes))


def _entries(text: str) -> Iterator[tuple[str, str, str, str]]:
    """(added, removed, old name where it was renamed, name) of each file, from `--numstat -z`."""
    parts = iter(text.lstrip("\0\n").split("\0"))
    for part in parts:
        fields = part.lstrip("\n").split("\t", 2)
        if len(fields) != 3:
            continue
        added, removed, name = fields
        if name:
            yield added, removed, "", name
        else:
            old, new = next(parts, ""), next(parts, "")
            yield added, removed, old, new
