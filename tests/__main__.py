"""Runs all tests and closes with one plain line; `python -m tests NAME ...` runs some, in this process."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
import unittest
from concurrent.futures import ThreadPoolExecutor, as_completed
from pathlib import Path

SLOWEST = (
    *("test_planning", "test_green", "test_documents", "test_report", "test_fleet", "test_editor", "test_edited"),
    *("test_hostile", "test_about", "test_program", "test_determinism", "test_containers", "test_drift", "test_step"),
)
"""Modules to begin with, so that no core waits for the last one alone."""
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
    with tempfile.TemporaryDirectory(prefix="isodesm-bytecode-") as compiled, ThreadPoolExecutor(os.cpu_count()) as pool:
        runs = {pool.submit(_run_module, name, compiled): name for name in names}
        totals = [0, 0, 0]
        for run in as_completed(runs):
            result = run.result()
            found = _CLOSING.search(result.stdout)
            said = f"--- {runs[run]}\n{result.stderr.strip()}\n{_CLOSING.sub('', result.stdout).strip()}"
            print(said.rstrip(), flush=True)
            counts = [int(count or 0) for count in found.groups()] if found else [0, 1, 0]
            totals = [total + count for total, count in zip(totals, counts, strict=True)]
    print(closing(*totals))
    return 1 if totals[1] or not totals[0] else 0


def _run_module(name: str, compiled: str) -> subprocess.CompletedProcess[str]:
    """One module, and all programs that it starts, with bytecode kept in a folder: it is compiled once, whatever the
    machine's habit."""
    environment = {key: value for key, value in os.environ.items() if key != "PYTHONDONTWRITEBYTECODE"} | {
        "PYTHONPYCACHEPREFIX": compiled
    }
    return subprocess.run(
        [sys.executable, "-m", "tests", name], capture_output=True, text=True, cwd=Path(__file__).parent.parent, env=environment
    )


def closing(passed: int, failed: int, skipped: int) -> str:
    """The last line."""
    return f"{passed} passed, {failed} failed" + (f", {skipped} skipped" if skipped else "")


if __name__ == "__main__":
    sys.exit(main())
