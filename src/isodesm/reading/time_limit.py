"""A limit of time for work in Python, by the alarm of the system: time at work, for a busy machine must not change results."""

from __future__ import annotations

import signal
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from types import FrameType


class TimeUp(Exception):
    """Work took longer than it may."""


@contextmanager
def at_most(seconds: float) -> Iterator[None]:
    """TimeUp inside the block once it has worked that many seconds (0: never); no limit where the system has no alarm, or
    outside the main thread."""
    if not seconds or not hasattr(signal, "setitimer") or threading.current_thread() is not threading.main_thread():
        yield
        return

    def ring(number: int, frame: FrameType | None) -> None:
        raise TimeUp

    before = signal.signal(signal.SIGPROF, ring)
    signal.setitimer(signal.ITIMER_PROF, seconds)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_PROF, 0)
        signal.signal(signal.SIGPROF, before)
