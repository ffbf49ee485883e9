"""Levels of a language: what a project file says, what the code shows where none does, and files that say nothing usable."""

from __future__ import annotations

import json
import unittest
from typing import Any

from isodesm.catalogue import catalogue_of
from isodesm.codebase.reading import read
from isodesm.diagnosis.diagnose import diagnose
from isodesm.planning.language.levels import NEWEST, Levels
from isodesm.planning.planner.plan import plan
from tests.carrying import carry_out
from tests.support import TreeTest

LISTED = next(iter(catalogue_of("php").levels))
PLATFORM, REQUIRED = catalogue_of("php").levels[LISTED].keys
DECLARED, SETTINGS, SCRIPT = catalogue_of("python").levels


def listed(**versions: str) -> str:
    """A project file in JSON that says versions at the dotted keys of the catalogue."""
    content: dict[str, Any] = {}
    for name, version in versions.items():
        *outer, last = {"platform": PLATFORM, "required": REQUIRED}[name].split(".")
        inner = content
        for each in outer:
            inner = inner.setdefault(each, {})
        inner[last] = version
    return json.dumps(content)


SAID = {
    "php": (
        (LISTED, listed(required=">=7.3"), (7, 3)),
        (LISTED, listed(required="^7.2 || ^8.0"), (7, 2)),
        (LISTED, listed(required="^8", platform="8.1.5"), (8, 1)),
        (LISTED, listed(required="<9 >=7.4"), (7, 4)),
        (LISTED, listed(required="*"), NEWEST),
        (LISTED, json.dumps({REQUIRED.partition(".")[0]: ["php"]}), NEWEST),
        (LISTED, "no JSON {", NEWEST),
    ),
    "python": (
        (DECLARED, '[project]\nrequires-python = ">=3.9,<4"\n', (3, 9)),
        (DECLARED, '[tool.any.dependencies]\npython = "^3.8"\n', (3, 8)),
        (SETTINGS, "[options]\npython_requires = !=3.1.*, >=3.6\n", (3, 6)),
        (SCRIPT, "setup(name='a', python_requires='>=2.7,!=3.0.*')\n", (2, 7)),
        (SCRIPT, "setup(classifiers=['Programming Language :: Python :: 2.7'])\n", (2, 7)),
        (SCRIPT, "setup(name='a')\n", NEWEST),
    ),
}
SOURCES = {"php": ("src/hub/A.php", "<?php class A { public $a; }"), "python": ("src/hub/a.py", "class A: pass")}


class LevelsTest(TreeTest):
    def test_a_project_file_says_it(self) -> None:
        top = self.root
        for language, cases in SAID.items():
            for index, (name, content, level) in enumerate(cases):
                with self.subTest(language=language, content=content):
                    self.root = top / f"{language}{index}" / "a" / "b" / "tree"
                    codebase = read(self.write(dict([SOURCES[language], (name, content)])))
                    self.assertEqual(Levels(codebase).of(0), level)

    def test_the_nearest_one_counts(self) -> None:
        sources = {LISTED: listed(required="^8.1"), f"old/{LISTED}": listed(required="5.6")}
        codebase = read(self.write({**sources, "old/A.php": "<?php class A { }", "new/B.php": "<?php class B { }"}))
        found = {facts.path: Levels(codebase).of(number) for number, facts in enumerate(codebase.symbols.files)}
        self.assertEqual(found, {"old/A.php": (5, 6), "new/B.php": (8, 1)})

    def test_steps_are_written_at_that_level(self) -> None:
        bell = "<?php class Bell { private $rings = 0; function __construct($name) { } function ring() { unlink('a'); } }"
        tower = (
            "<?php class Tower { function call($name) { $bell = new Bell($name); $bell->ring(); sleep(1); return time(); } }"
        )
        tree = self.root
        for version, has, lacks in (
            ("8.1", ("private \\Closure", "=> new Bell(", "sleep(...)"), ("function () {",)),
            ("7.3", ("private $", "?\\Closure", "??", "function (...$arguments) { return sleep("), ("fn (", "sleep(...)")),
            ("5.6", ("!== null ?", "function ($name) { return new Bell($name); }"), ("??", "?\\Closure", "fn (")),
        ):
            with self.subTest(version=version):
                self.root = tree / version
                codebase = read(self.write({"Bell.php": bell, "Tower.php": tower, LISTED: listed(required=version)}))
                made = plan(codebase, diagnose(codebase))
                for step in made.steps:
                    carry_out(self.root, step)
                text = (self.root / "Tower.php").read_text()
                self.assertEqual([each for each in has if each not in text], [])
                self.assertEqual([each for each in lacks if each in text], [])

    def test_where_none_does_much_code_shows_it(self) -> None:
        top, plain = self.root / "a" / "b", "<?php class A%d { public $a; function b($c) { return $c; } }"
        for name, one, level in (
            ("old", "", (5, 6)),
            ("returns", "<?php class B { function b(): ?B { return null; } }", (7, 1)),
            ("typed", "<?php class B { private ?B $b = null; }", (7, 4)),
            ("short", "<?php class B { function b() { return strlen(...); } }", (8, 1)),
        ):
            with self.subTest(name=name):
                self.root = top / name
                files = {f"A{number}.php": plain % number for number in range(45)}
                self.assertEqual(Levels(read(self.write({**files, "B.php": one or "<?php class B { }"}))).of(0), level)
        self.root = top / "few"
        self.assertEqual(Levels(read(self.write({"A.php": plain % 1}))).of(0), NEWEST)


if __name__ == "__main__":
    unittest.main()
