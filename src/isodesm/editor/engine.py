"""The engine: a process that holds the code of all open folders, and answers one question after the other.

It is told what the editor shows, says what is found there, and ends when whoever started it is gone. It runs apart from the
protocol, so that what takes long never keeps the editor waiting, and reading can guard and share out its work as always.
"""

from __future__ import annotations

import os
import signal
import sys
import traceback
from collections import deque
from collections.abc import Callable, Iterator
from contextlib import contextmanager, nullcontext
from functools import partial
from multiprocessing.connection import Connection
from pathlib import Path
from types import FrameType
from typing import Any

from isodesm.editor.shown import Change
from isodesm.errors import IsodesmError

IDLE = 0.15
"""Seconds without a word from the editor, after which all that is found is worked out anew."""
LOOK_EVERY = 0.05
"""Seconds between two looks, while that goes on, at whether the editor has something to say."""


class Interrupted(BaseException):
    """The editor has something to say; what was being worked out is begun anew later."""


@contextmanager
def until_spoken_to(connection: Connection) -> Iterator[None]:
    """Interrupted inside the block once something has come; where the system has no alarm, it has to wait."""
    if not hasattr(signal, "setitimer"):
        yield
        return

    def look(number: int, frame: FrameType | None) -> None:
        if connection.poll(0):
            raise Interrupted

    before = signal.signal(signal.SIGALRM, look)
    signal.setitimer(signal.ITIMER_REAL, LOOK_EVERY, LOOK_EVERY)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, before)


def serve(connection: Connection) -> None:
    """What the process does until the other end is closed."""
    os.dup2(2, 1)  # what is printed must not get into the protocol
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    Engine(connection).run()


class Engine:
    """Mutable in the folders that are open, and in what it has said of each file."""

    def __init__(self, connection: Connection) -> None:
        from isodesm.editor.workspace_folder import Root

        self._connection, self._make = connection, Root
        self._roots: dict[Path, Root] = {}
        self._said: dict[Path, dict[str, Any]] = {}
        self._versions: dict[str, int] = {}
        """Address of a file that the editor shows to its version of that."""
        self._waiting: deque[tuple[Any, ...]] = deque()

    def run(self) -> None:
        """Answer until the other end is closed."""
        while self._receive(wait=not self._is_stale()):
            if self._waiting and self._waiting[0][0] == "stop":
                return
            if self._waiting:
                if self._waiting[0][0] != "change":
                    self._glance()  # what follows takes all in, which takes longer
                self._handle(self._waiting.popleft())
                if not self._waiting:
                    self._glance()
            else:
                self._look()

    def _is_stale(self) -> bool:
        return any(root.is_stale for root in self._roots.values())

    def _receive(self, *, wait: bool) -> bool:
        """Take in what has come; False once nothing can come any more. With `wait`, until something has."""
        try:
            if self._waiting:
                seconds: float | None = 0.0
            else:
                seconds = None if wait else IDLE
            while self._connection.poll(seconds):
                self._waiting.append(self._connection.recv())
                seconds = 0.0
        except (EOFError, OSError):
            return False
        gone = {each[1] for each in self._waiting if each[0] == "cancel"}
        if gone:
            self._waiting = deque(each for each in self._waiting if each[0] != "cancel" and each[1] not in gone)
        return True

    def _say(self, *what: Any) -> None:
        try:
            self._connection.send(what)
        except OSError:
            sys.exit(0)

    def _handle(self, message: tuple[Any, ...]) -> None:
        kind, number = message[0], message[1] if message[0] == "ask" else None
        try:
            getattr(self, f"_on_{kind}")(*message[1:])
        except IsodesmError as error:
            self._say("failed", number, str(error)) if number is not None else self._say("trouble", str(error))
        except Exception as error:  # one question must not end all answers
            print(traceback.format_exc(), file=sys.stderr)
            said = f"a mistake of ours: {type(error).__name__}: {error}"
            self._say("failed", number, said) if number is not None else self._say("trouble", said)

    # --- what it is told --------------------------------------------------------------------

    def _on_open(self, folder: Path) -> None:
        self._roots[folder] = root = self._make(
            folder, lambda what, done, total: self._say("progress", folder, what, done, total)
        )
        self._said[folder] = {}
        try:
            root.open()
        finally:
            self._say("progress", folder, "done", 0, 0)

    def _on_close(self, folder: Path) -> None:
        self._roots.pop(folder, None)
        for path in self._said.pop(folder, {}):
            self._say("diagnostics", (folder / path).as_uri(), [])

    def _on_change(self, changes: list[Change]) -> None:
        for each in changes:
            found = self._root_of(each.file)
            if found is not None:
                found[0].change(found[1], each.content)
            if each.version is None:
                self._versions.pop(each.uri, None)
            else:
                self._versions[each.uri] = each.version

    def _root_of(self, file: Path) -> tuple[Any, str] | None:
        """The innermost open folder that a file lies in, and its path below that."""
        for folder in sorted(self._roots, key=lambda each: -len(each.parts)):
            if path := self._roots[folder].path_of(file):
                return self._roots[folder], path
        return None

    def _on_ask(self, number: int, name: str, file: Path | None, given: dict[str, Any]) -> None:
        if file is None:
            answer: Any = [each for root in self._roots.values() for each in self._answer(name, root, "", given) or ()]
        else:
            found = self._root_of(file)
            answer = self._answer(name, *found, given) if found is not None else None
        self._say("answer", number, answer)

    def _answer(self, name: str, root: Any, path: str, given: dict[str, Any]) -> Any:
        from isodesm.editor.answers import ANSWERS, with_uris

        seen = root.seen()
        if seen is None or (path and path not in seen.numbers):
            return None
        return with_uris(ANSWERS[name](root, seen, path, given), root.folder)

    # --- what it says by itself -------------------------------------------------------------

    def _look(self) -> None:
        """Say what is found in folders where something is another by now."""
        for folder, root in self._roots.items():
            if root.is_stale:
                self._attempt(partial(self._publish, folder, root))
                if self._connection.poll(0):
                    return

    def _attempt(self, take: Callable[[], None]) -> None:
        try:
            take()
        except IsodesmError as error:
            self._say("trouble", str(error))
        except Exception as error:  # and no state either
            print(traceback.format_exc(), file=sys.stderr)
            self._say("trouble", f"a mistake of ours: {type(error).__name__}: {error}")

    def _glance(self) -> None:
        """Say what is found at a first look at a file that is another by now."""
        for folder, root in self._roots.items():
            if root.waiting:
                self._attempt(partial(self._look_first, folder, root))

    def _look_first(self, folder: Path, root: Any) -> None:
        from isodesm.editor.findings import diagnostics_of
        from isodesm.editor.seen import Seen

        look = root.first_look()
        if look is not None:
            path, codebase, findings = look
            self._tell(folder, path, diagnostics_of(Seen(codebase), folder, findings))

    def _tell(self, folder: Path, path: str, found: list[Any]) -> None:
        if found != self._said[folder].get(path, []):
            self._say("diagnostics", (folder / path).as_uri(), found)
            self._said[folder][path] = found

    def _publish(self, folder: Path, root: Any) -> None:
        from isodesm.editor.findings import by_file

        try:
            with until_spoken_to(self._connection) if root.is_open else nullcontext():
                seen = root.judged()
        except Interrupted:
            return
        if seen is None:
            return
        found, said = by_file(seen, folder), self._said[folder]
        for path in sorted(found.keys() | said.keys()):
            self._tell(folder, path, found.get(path, []))
        self._say("settled", folder, dict(self._versions))
