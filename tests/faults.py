"""Ends, or fails, a run of a step at any call that changes the disk, and says what became of the tree."""

from __future__ import annotations

import errno
import os
import shutil
import signal
import subprocess
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, NamedTuple

import msgspec

from isodesm.codebase.reading import read
from isodesm.diagnosis.diagnose import diagnose
from isodesm.planning.model.step import Edit, Step, Touched, digest_of
from isodesm.planning.planner.plan import plan
from isodesm.rewriting.apply import Wish, take, take_back
from isodesm.rewriting.journal import Journal

CALLS = ("open", "replace", "link", "unlink", "fsync", "mkdir", "rmdir", "fchmod")
FILES = {
    "desk/Bell.java": 'package desk;\nclass Bell { void ring() throws Exception { new java.io.FileWriter("b"); } }\n',
    "desk/Desk.java": "package desk;\nclass Desk { void open() throws Exception { new Bell().ring(); } }\n",
    "desk/Main.java": "package desk;\nclass Main { }\n",
}
NEW = "desk/inner/New.java"
SAVES = 'echo "// mine" >> desk/Desk.java; '
"""A check in which somebody saves a file of the step."""


class Way(NamedTuple):
    """One way through a step: what is wished, whether it is taken back after it, and whether somebody saves meanwhile."""

    wish: Wish
    back: bool = False
    saves: bool = False


PATHS = {
    "written": Way(Wish(dirty=True)),
    "green": Way(Wish(check="true", dirty=True)),
    "red": Way(Wish(check="false", dirty=True, doubt=False)),
    "red, saved meanwhile": Way(Wish(check=SAVES + "false", dirty=True, doubt=False), saves=True),
    "taken back": Way(Wish(dirty=True), back=True),
    "committed": Way(Wish(commit=True)),
    "commit taken back": Way(Wish(commit=True), back=True),
}


def killed(*, left: list[int]) -> None:
    os.kill(os.getpid(), signal.SIGKILL)


def stopped(*, left: list[int]) -> None:
    raise KeyboardInterrupt


def failing_once(*, left: list[int]) -> None:
    raise OSError(errno.EIO, "it failed")


def full(*, left: list[int]) -> None:
    left[0] = 1  # and from now on
    raise OSError(errno.ENOSPC, "no room")


FAULTS: dict[str, Callable[..., None]] = {"killed": killed, "stopped": stopped, "fails once": failing_once, "full": full}


class Ground:
    """A tree, its journal, and the step that is carried out on it."""

    def __init__(self, folder: Path) -> None:
        self.tree, self.cache = folder / "tree", folder / "cache"
        for name, text in FILES.items():
            (self.tree / name).parent.mkdir(parents=True, exist_ok=True)
            (self.tree / name).write_text(text)
        codebase = read(self.tree)
        any_step = plan(codebase, diagnose(codebase)).steps[0]
        edits = [Edit(name, 1, "", len(text), len(text), "// more\n") for name, text in FILES.items()]
        files = [Touched(name, digest_of(text.encode()), "") for name, text in FILES.items()]
        edits.append(Edit(NEW, 1, "", text="class New {}\n", new=True))
        self.step: Step = msgspec.structs.replace(any_step, id="a-step", edits=tuple(edits), files=tuple(files))
        self._git("init", "-q")
        for name, value in (("user.name", "Ilva"), ("user.email", "ilva@hollin.example"), ("gc.auto", "0")):
            self._git("config", name, value)
        self._git("add", ".")
        self._git("commit", "-qm", "as it was")
        self.first = self._git("rev-parse", "HEAD")
        self.before = self.contents()
        self.after = {name: text + b"// more\n" for name, text in self.before.items()} | {NEW: b"class New {}\n"}

    def _git(self, *arguments: str) -> str:
        return subprocess.run(["git", *arguments], cwd=self.tree, capture_output=True, text=True, check=True).stdout.strip()

    def contents(self) -> dict[str, bytes]:
        """What the tree holds, folders that are empty among it."""
        found = {}
        for path in sorted(self.tree.rglob("*")):
            name = path.relative_to(self.tree).as_posix()
            if not name.startswith(".git"):
                found |= {name: path.read_bytes()} if path.is_file() else {} if any(path.iterdir()) else {name + "/": b""}
        return found

    def restore(self) -> None:
        """All as it was at first."""
        self._git("reset", "-q", "--hard", self.first)
        self._git("clean", "-fdqx")
        shutil.rmtree(self.cache, ignore_errors=True)

    def journal(self) -> Journal:
        return Journal(self.tree, self.cache)

    def run(self, path: Way) -> None:
        take(self.tree, self.step, self.journal(), path.wish)
        if path.back:
            take_back(self.tree, self.journal(), commit=path.wish.commit)

    def follow(self, name: str) -> None:
        """Carry a second step out, which changes one file, or makes it."""
        path = self.tree / name
        text = path.read_bytes() if path.exists() else b""
        edit = Edit(name, 1, "", len(text), len(text), "// next\n", new=not path.exists())
        step = msgspec.structs.replace(self.step, id="next-step", edits=(edit,), files=(Touched(name, digest_of(text), ""),))
        take(self.tree, step, self.journal(), Wish(dirty=True))

    def faulty(self, path: Way, fault: Callable[..., None], moment: int) -> bool:
        """Take the path in a process in which the so-manieth call fails; whether it came to that."""
        reading, writing = os.pipe()
        child = os.fork()
        if child == 0:
            left = [moment]
            for name in CALLS:
                setattr(os, name, _counted(getattr(os, name), left, fault, writing))
            try:
                self.run(path)
            except BaseException:  # what it says is not looked at here, but at what it leaves
                pass
            finally:
                os._exit(0)
        os.close(writing)
        os.waitpid(child, 0)
        met = bool(os.read(reading, 1))
        os.close(reading)
        return met

    def trouble(self, path: Way) -> str:
        """What is wrong with what a fault left: neither before, nor after, nor said and to be repaired; '' for nothing."""
        journal, mine = self.journal(), self.before["desk/Desk.java"] + b"// more\n// mine\n"
        now, entry = self.contents(), journal.interrupted()
        head = self._git("rev-parse", "HEAD")
        if entry is None and now not in (self.before, self.after):
            return f"neither before nor after, and not said: {sorted(now)}"
        if entry is None and path.wish.commit and not path.back and (now == self.after) != (head != self.first):
            return "the commit and the files do not go together"
        if entry is not None:
            try:
                done = take_back(self.tree, journal)
            except Exception as error:
                return f"not to be repaired: {error}"
            now = self.contents()
            stays = {each.path for each in done.aside} if done is not None else set()
            if {name: text for name, text in now.items() if name not in stays} != {
                name: text for name, text in self.before.items() if name not in stays
            }:
                return f"repaired to something else: {sorted(now)}"
        kept = [each.read_bytes() for each in self.cache.rglob("aside/*/*")]
        if path.saves and "// mine" in "".join(map(str, [*now.values(), *kept])):
            return "" if mine in (*now.values(), *kept) else "what was saved meanwhile is lost"
        return ""


def _counted(call: Any, left: list[int], fault: Callable[..., None], met: int) -> Any:
    def made(*arguments: Any, **options: Any) -> Any:
        if call.__name__ == "open" and len(arguments) > 1 and not arguments[1] & (os.O_CREAT | os.O_WRONLY | os.O_RDWR):
            return call(*arguments, **options)
        if arguments[0] == os.devnull and fault in (failing_once, full):  # what never fails so
            return call(*arguments, **options)
        left[0] -= 1
        if left[0] == 0:
            os.write(met, b"x")
            fault(left=left)
        return call(*arguments, **options)

    return made


def injected(folder: Path, every: int = 1, named: str = "") -> Iterator[tuple[str, str, int, str]]:
    """Path, fault, moment and trouble ('' for none), for every so-manieth moment of every path and fault; `named` are the
    letters that the paths begin with."""
    ground = Ground(folder)
    for name, path in PATHS.items():
        if not name.startswith(tuple(named.split(","))):
            continue
        for what, fault in FAULTS.items():
            moment = 1
            while ground.faulty(path, fault, moment):
                yield name, what, moment, ground.trouble(path)
                ground.restore()
                moment += every
            ground.restore()
