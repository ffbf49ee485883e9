"""Every construct of every family of containers is read right, and the page about it says so."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

from tests.wiring_cases import RIGHT, cases, judge, table

PAGE = Path(__file__).parent.parent / "docs/containers.md"


class WiringCasesTest(unittest.TestCase):
    maxDiff = None

    def test_cases_and_the_table_of_them(self) -> None:
        verdicts = {}
        for case in cases():
            with tempfile.TemporaryDirectory(prefix="isodesm-test-") as folder:
                outcome = judge(case, Path(folder))
            verdicts[case.family, case.construct] = outcome.verdict
            with self.subTest(family=case.family, construct=case.construct):
                self.assertEqual((outcome.verdict, outcome.differences), (RIGHT, []))
        self.assertIn(table(verdicts), PAGE.read_text(encoding="utf-8"), "`python -m tests.wiring_cases` prints it anew")
