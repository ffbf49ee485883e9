"""Levels of a language: what a project file says, what the code shows where none does, and files that say nothing usable."""

from __future__ import annotations

import unittest

from isodesm.codebase.model import read
from isodesm.planning.levels import NEWEST, Levels
from tests.support import TreeTest

SAID = {
    "php": (
        ("composer.json", '{"require": {"php": ">=7.3"}}', (7, 3)),
        ("composer.json", '{"require": {"php": "^7.2 || ^8.0"}}', (7, 2)),
        ("composer.json", '{"require": {"php": "^8"}, "config": {"platform": {"php": "8.1.5"}}}', (8, 1)),
        ("composer.json", '{"require": {"php": "<9 >=7.4"}}', (7, 4)),
        ("composer.json", '{"require": {"php": "*"}}', NEWEST),
        ("composer.json", '{"require": ["php"]}', NEWEST),
        ("composer.json", "no JSON {", NEWEST),
    ),
    "python": (
        ("pyproject.toml", '[project]\nrequires-python = ">=3.9,<4"\n', (3, 9)),
        ("pyproject.toml", '[tool.poet.dependencies]\npython = "^3.8"\n', (3, 8)),
        ("setup.cfg", "[options]\npython_requires = !=3.1.*, >=3.6\n", (3, 6)),
        ("setup.py", "setup(name='a', python_requires='>=2.7,!=3.0.*')\n", (2, 7)),
        ("setup.py", "setup(classifiers=['Programming Language :: Python :: 2.7'])\n", (2, 7)),
        ("setup.py", "setup(name='a')\n", NEWEST),
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
        sources = {"composer.json": '{"require": {"php": "^8.1"}}', "old/composer.json": '{"require": {"php": "5.6"}}'}
        codebase = read(self.write({**sources, "old/A.php": "<?php class A { }", "new/B.php": "<?php class B { }"}))
        found = {facts.path: Levels(codebase).of(number) for number, facts in enumerate(codebase.symbols.files)}
        self.assertEqual(found, {"old/A.php": (5, 6), "new/B.php": (8, 1)})

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
