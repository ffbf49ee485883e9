"""The git repository around a tree: whose changes lie in a file, and one commit for each step."""

from __future__ import annotations

import os
import subprocess
from collections.abc import Iterable, Sequence
from pathlib import Path

from isodesm.disk.opening import read_plain
from isodesm.reading.git import git
from isodesm.rewriting.changes import StepRefused

COMMIT_SECONDS = 600.0
"""The longest that a commit with its hooks may take."""
_UNDER_WAY = {
    "MERGE_HEAD": "a merge",
    "CHERRY_PICK_HEAD": "a cherry-pick",
    "REVERT_HEAD": "a revert",
    "rebase-merge": "a rebase",
    "rebase-apply": "a rebase",
    "BISECT_LOG": "a bisection",
}


class Repository:
    """The repository that holds a tree. `is_there` says whether there is one, `is_refused` that there is one of which git will
    not say anything: it belongs to another user, say."""

    def __init__(self, root: Path) -> None:
        self.root = root.resolve()
        inside = git(self.root, "rev-parse", "--is-inside-work-tree")
        self.is_there = inside is not None and inside.strip() == b"true"
        self.is_refused = inside is None and any(os.path.lexists(each / ".git") for each in (self.root, *self.root.parents))

    def under_way(self) -> str:
        """What the repository is in the middle of; '' for nothing."""
        said = git(self.root, "rev-parse", "--absolute-git-dir")
        folder = Path(os.fsdecode(said.strip())) if said else None
        return next((name for file, name in _UNDER_WAY.items() if folder is not None and (folder / file).exists()), "")

    def uncommitted(self, paths: Iterable[str]) -> list[str]:
        """Those of some files, which are there, that hold what no commit has: changed, staged or untracked.

        Contents are compared as they are, and with the line ends that a repository keeps; no filter of the repository runs.
        """
        return [path for path in paths if self._is_uncommitted(path)]

    def _is_uncommitted(self, path: str) -> bool:
        committed = git(self.root, "ls-tree", "-z", "HEAD", "--", f"./{path}")
        staged = git(self.root, "ls-files", "-s", "-z", "--", f"./{path}")
        if not committed or not staged:
            return True
        known = committed.split(b"\t")[0].split()[-1]
        if staged.split(b"\t")[0].split()[1] != known:
            return True
        content = read_plain(self.root / path)
        return not any(
            (git(self.root, "hash-object", "--no-filters", "--stdin", given=each) or b"").strip() == known
            for each in dict.fromkeys((content, content.replace(b"\r\n", b"\n")))
            if each
        )

    def commit(self, paths: Sequence[str], message: str) -> str:
        """Commit some files and nothing else, with the repository's own hooks; the short name of the commit.

        Raises StepRefused with the last words of git where it says no; what is staged is then as it was.
        """
        new = [path for path in paths if not git(self.root, "ls-files", "-z", "--", f"./{path}")]
        if new:
            self._own("add", "--intent-to-add", "--", *(f"./{each}" for each in new))
        named = [f"./{each}" for each in paths]
        done = self._own("commit", "--quiet", "--only", "--file=-", "--", *named, given=message.encode())
        if done.returncode:
            if new:
                self._own("reset", "--quiet", "--", *(f"./{each}" for each in new))
            said = (done.stderr + done.stdout).decode("utf-8", "replace").strip().splitlines()
            raise StepRefused("git would not commit: " + " / ".join(said[-3:] or ["it says nothing"]))
        return (git(self.root, "rev-parse", "--short", "HEAD") or b"").decode().strip()

    def made_last(self, step: str) -> str:
        """The short name of the newest commit, if it was made of a step; else ''."""
        said = git(self.root, "log", "-1", "--format=%h%x00%B", "HEAD") or b""
        name, _, message = said.decode("utf-8", "replace").partition("\0")
        return name.strip() if f"Step: {step}" in message.splitlines() else ""

    def _own(self, *arguments: str, given: bytes = b"") -> subprocess.CompletedProcess[bytes]:
        """Git as its user has set it up, hooks and signatures and all: a commit was asked for in so many words."""
        try:
            return subprocess.run(
                ["git", "--no-pager", "-c", "core.fsmonitor=false", *arguments],
                cwd=self.root,
                input=given,
                capture_output=True,
                timeout=COMMIT_SECONDS,
                check=False,
                env=os.environ | {"GIT_TERMINAL_PROMPT": "0", "GIT_EDITOR": "true", "GIT_LITERAL_PATHSPECS": "1"},
            )
        except (OSError, subprocess.TimeoutExpired) as error:
            raise StepRefused(f"git could not be run: {error}") from None
