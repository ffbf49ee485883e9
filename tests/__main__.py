"""Runs all tests and closes with one plain line; `python -m tests NAME ...` runs some, in this process."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import time
import unittest
from concurrent.futures import ThreadPoolExecutor, as_completed
from pathlib import Path

from tests import server

SLOWEST = (
    *("test_green", "test_fleet", "test_planning", "test_edited", "test_editor", "test_trust", "test_linear", "test_documents"),
    *("test_report", "test_hostile", "test_step", "test_program", "test_determinism", "test_history", "test_plan_cases"),
)
"""Modules to begin with, so that no core waits for the last one alone."""
HOME, MOST_SECONDS = Path(__file__).parent.parent, 1800
_CLOSING = re.compile(r"^(\d+) passed, (\d+) failed(?:, (\d+) skipped)?$", re.MULTILINE)


def main() -> int:
    """Exit code 0 when all passed."""
    return run_here(sys.argv[1:]) if sys.argv[1:] else run_all()


def run_here(names: list[str]) -> int:
    """Run the tests of some names."""
    result = unittest.TextTestRunner(verbosity=1, buffer=True).run(unittest.TestSuite(map(tests_of, names)))
    failed = len({getattr(test, "test_case", test) for test, _ in (*result.failures, *result.errors)})
    skipped = len(result.skipped)
    for test, reason in result.skipped:
        print(f"skipped: {test}: {reason}")
    print(closing(max(result.testsRun - failed - skipped, 0), failed, skipped))
    return 1 if failed or not result.testsRun else 0


def tests_of(name: str) -> unittest.TestSuite:
    """The tests of a module, a class or a method; of a case of planning: `plans.java.NAME`, or the beginning of that."""
    if name.partition(".")[0] != "plans":
        return unittest.defaultTestLoader.loadTestsFromName(f"tests.{name}")
    every = unittest.defaultTestLoader.loadTestsFromName("tests.test_plan_cases")
    return unittest.TestSuite(test for suite in every for test in suite if test.id().startswith(name))


def run_all() -> int:
    """Run every module in a process of its own, as many at once as there are cores; each is shown as it ends."""
    names = sorted(
        (path.stem for path in Path(__file__).parent.glob("test_*.py")),
        key=lambda name: (SLOWEST.index(name) if name in SLOWEST else len(SLOWEST), name),
    )
    with server.serving(), ThreadPoolExecutor(os.cpu_count()) as pool:
        runs = {pool.submit(_run_module, name): name for name in names}
        totals = [0, 0, 0]
        for run in as_completed(runs):
            result, seconds = run.result()
            told, complained = (said.decode("utf-8", "replace").strip() for said in (result.stdout, result.stderr))
            found = _CLOSING.search(told)
            said = f"--- {runs[run]}: {seconds:.0f} s\n{complained}\n{_CLOSING.sub('', told).strip()}"
            print(said.rstrip(), flush=True)
            counts = [int(count or 0) for count in found.groups()] if found else [0, 1, 0]
            totals = [total + count for total, count in zip(totals, counts, strict=True)]
    print(closing(*totals))
    return 1 if totals[1] or not totals[0] else 0


def _run_module(name: str) -> tuple[subprocess.CompletedProcess[bytes], float]:
    """One module in a process of its own; with the seconds that it took, for who looks for the slow ones."""
    begun = time.monotonic()
    done = server.run([name], HOME, dict(os.environ), MOST_SECONDS, tests=True)
    return done, time.monotonic() - begun


def closing(passed: int, failed: int, skipped: int) -> str:
    """The last line."""
    return f"{passed} passed, {failed} failed" + (f", {skipped} skipped" if skipped else "")


if __name__ == "__main__":
    sys.exit(main())
