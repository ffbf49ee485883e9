"""The first steps of plans for public applications, carried out and compiled: code that nobody here wrote."""

from __future__ import annotations

import shutil
import tempfile
import unittest
from pathlib import Path

from benchmarks.applications import COMPILERS, applications, fetched
from benchmarks.green import run
from tests.support import part_of

STEPS = 8


@part_of("green")
class GreenTest(unittest.TestCase):
    """One small application a language: its first steps build, and a scan after them finds what they say."""

    def check(self, language: str) -> None:
        application = next(each for each in applications() if each.small and each.language == language)
        if not shutil.which(COMPILERS[language]):
            self.skipTest(f"no {COMPILERS[language]} here")
        with tempfile.TemporaryDirectory() as folder:
            try:
                home = fetched(application, Path(folder))
            except OSError as error:
                self.skipTest(f"{application.name} could not be fetched: {error}")
            outcome = run(application, home, STEPS, at_once=4)
        self.assertEqual(outcome.red, ())
        self.assertTrue(outcome.exact, outcome)
        self.assertEqual(outcome.steps, STEPS)

    def test_java(self) -> None:
        self.check("java")

    def test_csharp(self) -> None:
        self.check("csharp")

    def test_typescript(self) -> None:
        self.check("typescript")

    def test_php(self) -> None:
        self.check("php")

    def test_python(self) -> None:
        self.check("python")
