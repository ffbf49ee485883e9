"""Gives a copied sample codebase its scripted git history, by a fast-import stream, where git is installed."""

from __future__ import annotations

import datetime
import tomllib
from collections import Counter
from collections.abc import Iterator
from importlib.resources import files
from pathlib import Path

from isodesm.disk.own import drop_folder
from isodesm.reading.git import git, is_installed

LAST_DAY = datetime.datetime(2026, 10, 1, 9, tzinfo=datetime.UTC)
BRANCH = "refs/heads/main"
LEAST_SHARE = 0.5
"""Part of a file's lines that its first version has."""


def give_history(root: Path) -> bool:
    """Make a repository of the sample in `root`, its newest commit being what lies there. False where git is missing or
    fails."""
    if not is_installed() or (root / ".git").exists():
        return False
    stream = b"".join(fast_import(root))
    steps = (
        ["init", "--quiet", "--template="],
        ["fast-import", "--quiet", "--force"],
        ["symbolic-ref", "HEAD", BRANCH],
        ["reset", "--quiet"],
    )
    for step in steps:
        given = stream if step[0] == "fast-import" else b""
        if git(root, *step, given=given) is None:
            drop_folder(root / ".git")
            return False
    return True


def fast_import(root: Path) -> Iterator[bytes]:
    """The stream for a sample: a commit for each line of the script, and all that is left in the last one."""
    script = tomllib.loads(files(__package__).joinpath("history.toml").read_text(encoding="utf-8"))
    commits = script[root.name][0]["commits"]
    earlier = {
        (each["file"], each["before"]): each["text"].lstrip().encode() for each in script[root.name][0].get("earlier", ())
    }
    paths = sorted(path.relative_to(root).as_posix() for path in root.rglob("*") if path.is_file() and ".git" not in path.parts)
    touched = [[path for path in paths if path.endswith(tuple(endings))] for _, _, _, endings in commits]
    named = {path for some in touched for path in some}
    touched[0] += [path for path in paths if path not in named]
    versions = Counter(path for some in touched for path in some)
    seen: Counter[str] = Counter()
    for (days, author, message, _), some in zip(commits, touched, strict=True):
        when = int((LAST_DAY - datetime.timedelta(days=days)).timestamp())
        yield f"commit {BRANCH}\ncommitter {author} <{author.lower()}@hollin.example> {when} +0000\n".encode()
        yield _data(message.encode())
        for path in sorted(some):
            seen[path] += 1
            yield f"M 100644 inline {path}\n".encode()
            yield _data(
                next((text for end, text in earlier.items() if path.endswith(end[0]) and days > end[1]), None)
                or _version((root / path).read_bytes(), seen[path], versions[path])
            )
        yield b"\n"


def _version(content: bytes, number: int, of: int) -> bytes:
    """The content of a file in one of its versions: it grows to what it is today."""
    lines = content.splitlines(keepends=True)
    share = LEAST_SHARE + (1 - LEAST_SHARE) * number / of
    return b"".join(lines[: len(lines) if number == of else round(len(lines) * share)])


def _data(content: bytes) -> bytes:
    return b"data %d\n%s\n" % (len(content), content)
