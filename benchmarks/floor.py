"""One run of something, and the floor that runs are measured against."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

ENVIRONMENT = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"} | {
    "PYTHONPYCACHEPREFIX": str(Path(tempfile.gettempdir()) / "isodesm-benchmarks")
}
"""That of an installed program, which does not compile its modules anew with each run."""


class Run(NamedTuple):
    """Seconds on the wall and peak megabytes of one run."""

    seconds: float
    megabytes: float


def timed(command: Sequence[str], folder: Path | None = None, *, ours: bool = True, sources: Path | None = None) -> Run:
    """One run of a command of ours, or of another's, in a folder; what it says is thrown away. `sources` are those of another
    state of the program."""
    environment = ENVIRONMENT | ({"PYTHONPATH": str(sources)} if sources is not None else {})
    whole = [sys.executable, "-m", "isodesm", *command] if ours else command
    begin = time.perf_counter()
    with tempfile.TemporaryFile() as said:  # a search that knows nobody reads what it finds stops at the first
        process = subprocess.Popen(whole, cwd=folder, stdout=said, stderr=subprocess.DEVNULL, env=environment)
        _, status, usage = os.wait4(process.pid, 0)
    process.returncode = status
    return Run(time.perf_counter() - begin, usage.ru_maxrss / 1024)


def bare(folder: Path, language: str) -> tuple[float, int]:
    """Seconds of the bare parser, and lines parsed."""
    output = subprocess.run(
        [sys.executable, "-m", "benchmarks.bare", str(folder), language],
        capture_output=True,
        text=True,
        check=True,
        env=ENVIRONMENT,
    )
    seconds, lines = output.stdout.split()
    return float(seconds), int(lines)
