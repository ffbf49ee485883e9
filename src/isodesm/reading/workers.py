"""Runs a function over portions of work in processes that are watched: one that takes too long over an item, or dies of it,
costs that item and no more.

Where processes can be forked they find what they share in memory, instead of being sent it.
"""

from __future__ import annotations

import contextlib
import os
import signal
import time
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from multiprocessing import current_process, get_context
from multiprocessing.connection import Connection, wait
from typing import Any, NamedTuple

from isodesm.errors import IsodesmError

MOST_MEMORY = 3_000_000_000
"""Bytes of address space that a watched process may take beyond what it begins with."""
LOOK_EVERY = 0.25
"""Seconds between two looks at what the processes are at."""
HAS_TIMER = hasattr(signal, "setitimer")
PATIENCE = 10 if HAS_TIMER else 1
"""Times its limit that an item may take by the clock on the wall: that others keep the machine busy is not its fault."""
AHEAD = 3
"""Portions a process that may be done before their turn comes."""

Stamp = Callable[[int], None]
"""Told the place of the item in its portion that is begun next."""


def start_method() -> str:
    """How worker processes start: by forking where that is possible, since what is in memory is then shared."""
    return "fork" if hasattr(os, "fork") and os.uname().sysname == "Linux" else "spawn"


@contextlib.contextmanager
def modules_of_ours() -> Iterator[None]:
    """While a process is started in the block, no module of the current folder, which may be a stranger's, is taken for one
    that it needs."""
    before = os.environ.get("PYTHONSAFEPATH")
    os.environ["PYTHONSAFEPATH"] = "1"
    try:
        yield
    finally:
        if before is None:
            del os.environ["PYTHONSAFEPATH"]
        else:
            os.environ["PYTHONSAFEPATH"] = before


def can_fork(workers: int, amount: int, least: int) -> bool:
    """Whether it pays to fork for an amount of work, and can be done."""
    return workers > 1 and amount >= least and start_method() == "fork" and not current_process().daemon


def portions_of(work: Sequence[Any], size: int) -> list[Sequence[Any]]:
    """Work in portions of at most `size`, in order."""
    return [work[start : start + size] for start in range(0, len(work), size)]


def forked(workers: int, function: Callable[..., Any], portions: list[Sequence[Any]], *shared: Any) -> Iterator[Any]:
    """`function(portion, *shared)` for each portion, in order; what it returns is sent back, so it should be packed."""

    def run(portion: Sequence[Any], stamp: Stamp, left_out: dict[int, str]) -> Any:
        return function(portion, *shared)

    return Pool(workers, run, portions).results()


@contextlib.contextmanager
def meanwhile(function: Callable[..., Any], *shared: Any) -> Iterator[Callable[[], Any]]:
    """`function(*shared)` in a process that is forked now; what is given waits for its result, which is sent back, so it
    should be packed. The process ends with the block."""

    def run(portion: Sequence[Any], stamp: Stamp, left_out: dict[int, str]) -> Any:
        return function(*shared)

    pool = Pool(1, run, [()])
    try:
        pool.begin()
        yield lambda: next(pool.results())
    finally:
        pool.end()


class WorkerLost(IsodesmError):
    """A process was ended from outside, for want of memory for instance."""

    slug = "worker-lost"
    exit_code = 71  # sysexits' EX_OSERR

    def __init__(self) -> None:
        super().__init__("A worker process was ended from outside, perhaps for want of memory. Try fewer with --workers.")


class Pool:
    """Processes that work on portions: `function(portion, stamp, left_out)` for each, results in order.

    The function calls `stamp(place)` before each item, and leaves out those whose places are in `left_out`, each with a
    sentence on why. With `seconds`, items that work longer or that end their process are left out so; without, a lost process
    is a WorkerLost. `prepare()` is called once in each process. Mutable while `results` runs.
    """

    def __init__(
        self,
        workers: int,
        function: Callable[[Any, Stamp, dict[int, str]], Any],
        portions: Sequence[Any],
        seconds: float = 0.0,
        prepare: Callable[[], None] | None = None,
    ) -> None:
        self.function, self.portions, self.seconds, self.prepare = function, portions, seconds, prepare
        self.context = get_context(start_method())
        self.count = max(1, min(workers, len(portions)))
        self.stamps = self.context.RawArray("d", 2 * self.count)
        """For each process the place of the item at hand, and when it was begun (0: none is)."""
        self.workers: list[tuple[Any, Connection]] = []
        self.at: list[int | None] = [None] * self.count
        """For each process the portion at hand."""
        self.left_out: dict[int, dict[int, str]] = {}
        self._waiting = deque(range(len(portions)))
        """Portions that no process has begun."""

    def begin(self) -> None:
        """Start the processes, each with its first portion."""
        self.workers += [self._start(slot) for slot in range(self.count)]
        for slot in range(min(self.count, len(self._waiting))):
            self._give(slot, self._waiting.popleft())

    def end(self) -> None:
        """Stop the processes, whatever they are at."""
        for process, connection in self.workers:
            process.kill()
            connection.close()
        for process, _ in self.workers:
            process.join()

    def results(self) -> Iterator[Any]:
        """What the function gives for each portion, in order; the processes end with it."""
        waiting, following = self._waiting, 0
        done: dict[int, Any] = {}
        try:
            if not self.workers:
                self.begin()
            while following < len(self.portions):
                for slot in range(self.count):
                    if self.at[slot] is None and waiting and waiting[0] < following + AHEAD * self.count:
                        self._give(slot, waiting.popleft())
                done.update(self._collect())
                while following in done:
                    yield done.pop(following)
                    following += 1
        finally:
            self.end()

    def _start(self, slot: int) -> tuple[Any, Connection]:
        own, its = self.context.Pipe()
        others = [connection for _, connection in self.workers] + [own] if start_method() == "fork" else []
        self.stamps[2 * slot + 1] = 0.0
        task = Task(self.function, self.prepare, self.seconds, os.getpid())
        process = self.context.Process(target=_serve, args=(task, self.stamps, slot, its, others), daemon=True)  # type: ignore[attr-defined]
        with modules_of_ours() if start_method() == "spawn" else contextlib.nullcontext():
            process.start()
        its.close()
        return process, own

    def _give(self, slot: int, portion: int) -> None:
        self.at[slot] = portion
        with contextlib.suppress(OSError):  # of a process that died meanwhile; that is seen when it is waited for
            self.workers[slot][1].send((self.portions[portion], self.left_out.get(portion, {})))

    def _collect(self) -> Iterator[tuple[int, Any]]:
        """What processes have finished meanwhile; those that died or take too long are started anew."""
        busy: dict[Any, int] = {self.workers[slot][1]: slot for slot, portion in enumerate(self.at) if portion is not None}
        ready: list[Any] = wait(list(busy), LOOK_EVERY)
        for connection in ready:
            slot = busy.pop(connection)
            try:
                error, result = connection.recv()
            except (EOFError, OSError):
                self._lose(slot)
                continue
            if error is not None:
                raise error
            portion, self.at[slot] = self.at[slot], None
            assert portion is not None
            yield portion, result
        now = time.monotonic()
        for slot in busy.values() if self.seconds else ():
            begun = self.stamps[2 * slot + 1]
            if begun and now - begun > self.seconds * PATIENCE:
                self.workers[slot][0].kill()
                self._lose(slot, late=True)

    def _lose(self, slot: int, *, late: bool = False) -> None:
        """Start a process that ended anew, with what it was at, but for the item that it did not come to an end with."""
        process, connection = self.workers[slot]
        process.join(1.0)  # it ends by itself, and leaves a sign of why
        process.kill()
        process.join()
        connection.close()
        reason = "is more than the parser can take; left out"
        if late or (HAS_TIMER and process.exitcode == -signal.SIGPROF):
            reason = f"takes longer than {self.seconds:g} seconds to read (setting `seconds-per-file`); left out"
        portion, place = self.at[slot], int(self.stamps[2 * slot])
        if not self.seconds or not self.stamps[2 * slot + 1] or portion is None:
            raise WorkerLost
        self.left_out.setdefault(portion, {})[place] = reason
        self.workers[slot] = self._start(slot)
        self._give(slot, portion)


class Task(NamedTuple):
    """What a process is for; `parent` is the one that started it."""

    function: Callable[[Any, Stamp, dict[int, str]], Any]
    prepare: Callable[[], None] | None
    seconds: float
    parent: int


def _serve(task: Task, stamps: Any, slot: int, connection: Connection, others: list[Connection]) -> None:
    """What a process does: work on what it is given until nothing more comes, or whoever started it is gone."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    if HAS_TIMER:
        signal.signal(signal.SIGPROF, signal.SIG_DFL)
    for each in others:
        each.close()
    if task.seconds:
        _limit_memory()
    if task.prepare is not None:
        task.prepare()

    def stamp(place: int) -> None:
        stamps[2 * slot], stamps[2 * slot + 1] = float(place), time.monotonic()
        _end_after(task.seconds)

    with contextlib.suppress(EOFError, OSError):
        while True:
            while not connection.poll(1.0):
                if os.getppid() != task.parent:
                    return
            portion, left_out = connection.recv()
            answer: tuple[Exception | None, Any] = (None, None)
            try:
                answer = (None, task.function(portion, stamp, left_out))
            except Exception as error:
                answer = (error, None)
            _end_after(0.0)
            stamps[2 * slot + 1] = 0.0
            connection.send(answer)


def _end_after(seconds: float) -> None:
    """Let the system end this process once it has worked that long from now on (0: never), in whatever code it is then."""
    if HAS_TIMER:
        signal.setitimer(signal.ITIMER_PROF, seconds)


def _limit_memory() -> None:
    with contextlib.suppress(ImportError, ValueError, OSError, IndexError):  # where that can't be done, time is limited still
        import resource

        with open("/proc/self/statm", "rb") as status:
            most = int(status.read().split()[0]) * resource.getpagesize() + MOST_MEMORY
        resource.setrlimit(resource.RLIMIT_AS, (most, most))
        resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
