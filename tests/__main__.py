"""Runs all tests and closes with one plain line; `python -m tests NAME ...` runs some."""

from __future__ import annotations

import sys
import unittest
from pathlib import Path


def main() -> int:
    """Exit code 0 when all passed."""
    loader = unittest.TestLoader()
    top = str(Path(__file__).parent.parent)
    if sys.argv[1:]:
        suite = loader.loadTestsFromNames([f"tests.{name}" for name in sys.argv[1:]])
    else:
        suite = loader.discover(str(Path(__file__).parent), top_level_dir=top)
    result = unittest.TextTestRunner(verbosity=1, buffer=True).run(suite)
    failed = len({getattr(test, "test_case", test) for test, _ in (*result.failures, *result.errors)})
    skipped = len(result.skipped)
    for test, reason in result.skipped:
        print(f"skipped: {test}: {reason}")
    print(f"{result.testsRun - failed - skipped} passed, {failed} failed" + (f", {skipped} skipped" if skipped else ""))
    return 1 if failed or not result.testsRun else 0


if __name__ == "__main__":
    sys.exit(main())
