"""Worker processes on this machine, spoken to through pipes that nobody else has: no port, no file, no socket.

A message is its length in eight bytes, and MessagePack. As a program this module is such a worker.
"""

from __future__ import annotations

import os
import signal
import subprocess
import sys
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor, as_completed
from queue import SimpleQueue
from typing import IO

import msgspec

from isodesm.fleet.answers import TreeAnswer, answered

TRIES = 3
"""How often a tree is tried again whose worker dies, or answers what is no answer."""
LENGTH = 8


def local_answers(packed: dict[str, bytes], workers: int) -> Iterator[TreeAnswer]:
    """The answers to requests by name, in the order in which they come, from so many processes, which end with this."""
    free: SimpleQueue[Worker] = SimpleQueue()
    every = [Worker() for _ in range(workers)]
    for each in every:
        free.put(each)

    def ask(name: str, request: bytes) -> TreeAnswer:
        worker = free.get()
        try:
            return worker.answer(name, request)
        finally:
            free.put(worker)

    pool = ThreadPoolExecutor(workers)
    try:
        for future in as_completed([pool.submit(ask, name, request) for name, request in packed.items()]):
            yield future.result()
    finally:
        for each in every:
            each.end()
        pool.shutdown(cancel_futures=True)


class Worker:
    """A process that answers one request after the other; one that died is started again."""

    def __init__(self) -> None:
        self.process: subprocess.Popen[bytes] | None = None
        self._ended = False

    def answer(self, name: str, request: bytes) -> TreeAnswer:
        """The answer to a request, which may take several tries."""
        for _ in range(TRIES + 1):
            made = self._try(name, request) if not self._ended else None
            if made is not None:
                return made
            self._stop()
        return TreeAnswer(name, error=f"its worker died {TRIES + 1} times")

    def _try(self, name: str, request: bytes) -> TreeAnswer | None:
        if self.process is None:
            # with -P no module of the current folder, which may be a stranger's, is taken for one of ours
            command = [sys.executable, "-P", "-m", __name__]
            self.process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL)
        assert self.process.stdin is not None and self.process.stdout is not None
        try:
            send(self.process.stdin, request)
            made = msgspec.msgpack.decode(receive(self.process.stdout), type=TreeAnswer)
        except (OSError, ValueError, EOFError, msgspec.DecodeError):
            return None
        return made if made.name == name else None

    def _stop(self) -> None:
        if self.process is not None:
            self.process.kill()
            self.process.wait()
            self.process = None

    def end(self) -> None:
        """End the process, whatever it is at."""
        self._ended = True
        if (process := self.process) is not None:
            process.kill()
            process.wait()


def send(stream: IO[bytes], content: bytes) -> None:
    """Write one message."""
    stream.write(len(content).to_bytes(LENGTH, "big") + content)
    stream.flush()


def receive(stream: IO[bytes]) -> bytes:
    """Read one message; EOFError where nothing more comes."""
    length = int.from_bytes(_exactly(stream, LENGTH), "big")
    return _exactly(stream, length)


def _exactly(stream: IO[bytes], count: int) -> bytes:
    parts = []
    while count:
        part = stream.read(min(count, 1 << 20))
        if not part:
            raise EOFError
        parts.append(part)
        count -= len(part)
    return b"".join(parts)


def serve() -> None:
    """Answer until whoever asks is gone."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl-C is for the one who asks, and ends this one, too
    answers = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)  # what is printed must not get between the answers
    try:
        while True:
            send(answers, answered(receive(sys.stdin.buffer)))
    except (EOFError, OSError):
        return


if __name__ == "__main__":
    serve()
