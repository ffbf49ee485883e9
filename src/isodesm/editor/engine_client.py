"""The line to the engine: starts it, asks it, hands on what it says, and starts it anew when it is lost."""

from __future__ import annotations

import asyncio
import contextlib
import threading
from collections.abc import Callable
from multiprocessing import get_context
from pathlib import Path
from typing import Any

from isodesm.reading.workers import modules_of_ours

MOST_STARTS = 4
"""Times that an engine is started: one that is lost again and again will be the next time, too."""


class EngineFailed(Exception):
    """The engine could not answer; what it said."""


class Line:
    """Mutable in what waits for an answer. `hear` is called with everything else that the engine says, in the event loop."""

    def __init__(self, loop: asyncio.AbstractEventLoop, hear: Callable[..., None]) -> None:
        self._loop, self._hear = loop, hear
        self._asked: dict[int, asyncio.Future[Any]] = {}
        self._count, self._starts, self._closed = 0, 0, False
        self._start()

    def _start(self) -> None:
        from isodesm.editor.engine import serve

        context = get_context("spawn")  # a copy of this process would have its threads half-way
        self._connection, theirs = context.Pipe()
        self._process = context.Process(target=serve, args=(theirs,))  # no daemon, for it shares work out
        with modules_of_ours():
            self._process.start()
        theirs.close()
        self._starts += 1
        threading.Thread(target=self._listen, args=(self._connection,), daemon=True).start()

    def _listen(self, connection: Any) -> None:
        with contextlib.suppress(EOFError, OSError, RuntimeError):
            while True:
                message = connection.recv()
                self._loop.call_soon_threadsafe(self._take, message)
        with contextlib.suppress(RuntimeError):
            self._loop.call_soon_threadsafe(self._lost, connection)

    def _take(self, message: tuple[Any, ...]) -> None:
        if message[0] not in ("answer", "failed"):
            self._hear(*message)
            return
        future = self._asked.pop(message[1], None)
        if future is not None and not future.done():
            if message[0] == "answer":
                future.set_result(message[2])
            else:
                future.set_exception(EngineFailed(message[2]))

    def _lost(self, connection: Any) -> None:
        """The process is gone: who waits is told, and another one is started."""
        if self._closed or connection is not self._connection:
            return
        for future in self._asked.values():
            if not future.done():
                future.set_exception(EngineFailed("the engine was lost; it is started anew"))
        self._asked.clear()
        if self._starts < MOST_STARTS:
            self._start()
            self._hear("restarted")
        else:
            self._hear("trouble", f"the engine was lost {MOST_STARTS} times; restart the server to try again")

    def tell(self, *message: Any) -> None:
        """Say something that needs no answer."""
        with contextlib.suppress(OSError):
            self._connection.send(message)

    async def ask(self, name: str, file: Path | None, given: dict[str, Any]) -> Any:
        """Ask something about a file, or about all folders. EngineFailed where there is no answer."""
        self._count += 1
        number = self._count
        future = self._asked[number] = self._loop.create_future()
        self.tell("ask", number, name, file, given)
        try:
            return await future
        except asyncio.CancelledError:
            self._asked.pop(number, None)
            self.tell("cancel", number)
            raise

    def close(self) -> None:
        """Let the engine go."""
        self._closed = True
        self.tell("stop")  # closing alone is not felt at the other end while the thread still listens
        with contextlib.suppress(OSError):
            self._connection.close()
        self._process.join(1)
        if self._process.is_alive():
            self._process.kill()
