"""Runs a team's own check after a step: bounded in time, with all that it started, its words kept in a file."""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
import time
from pathlib import Path
from typing import NamedTuple

from isodesm.disk.own import fresh

LAST_LINES, LAST_BYTES = 12, 16_384
"""How much of what a check says last is shown."""


class Outcome(NamedTuple):
    """How a check ended: its exit code (None where it took too long), seconds, last lines, and the file with all it said."""

    code: int | None
    seconds: float
    said: tuple[str, ...]
    log: Path

    @property
    def is_green(self) -> bool:
        return self.code == 0


def run_check(command: str, folder: Path, log: Path, longest: float = 0.0) -> Outcome:
    """Run a command line of the shell in a folder, for at most `longest` seconds (0: any time).

    Whatever it started goes with it, as far as it stayed in its group. A log that can't be written raises OSError.
    """
    begin = time.monotonic()
    with fresh(log) as output:
        process = subprocess.Popen(
            command,
            shell=True,
            cwd=folder,
            stdin=subprocess.DEVNULL,
            stdout=output,
            stderr=subprocess.STDOUT,
            start_new_session=True,
        )
        code: int | None = None
        try:
            code = process.wait(longest or None)
        except subprocess.TimeoutExpired:
            pass
        finally:
            _end(process)
    return Outcome(code, time.monotonic() - begin, last_lines(log), log)


def _end(process: subprocess.Popen[bytes]) -> None:
    """End a process with all of its group; what it left running is no part of a check."""
    with contextlib.suppress(OSError, AttributeError):
        os.killpg(process.pid, signal.SIGKILL)
    with contextlib.suppress(OSError):
        process.kill()
    process.wait()


def last_lines(log: Path) -> tuple[str, ...]:
    """The last lines of a file that hold anything."""
    with open(log, "rb") as stream:
        stream.seek(max(0, stream.seek(0, os.SEEK_END) - LAST_BYTES))
        text = stream.read().decode("utf-8", "replace")
    return tuple(line.rstrip()[:400] for line in text.splitlines() if line.strip())[-LAST_LINES:]
