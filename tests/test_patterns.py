"""Patterns of ignore files: what git means by them, found in steps that grow with the path."""

from __future__ import annotations

import random
import shutil
import subprocess
import unittest

from isodesm.reading.patterns import MOST, Patterns
from tests.support import TreeTest
from tests.test_linear import MOST as MOST_STEPS
from tests.test_linear import Steps

CASES = (
    ("*.java", "a/b.java", True),
    ("/a", "b/a", None),
    ("a/", "a", None),
    ("a/", "x/a/", True),
    ("a/b", "x/a/b", None),
    ("a/*", "a/b/c", None),
    ("**/b/**/c", "x/b/y/z/c", True),
    ("**/b/**/c", "b/c", True),
    ("a/**", "a/", None),
    ("a/**", "a/b", True),
    ("**", "q/", True),
    ("**/", "q", None),
    ("a**b", "axxb", True),
    ("[a-c]x", "bx", True),
    ("[!a]x", "ax", None),
    ("[]]", "]", True),
    ("[[:digit:]-]", "-", True),
    ("[[:alpha:]]", "q", True),
    ("[z-a]", "z", True),
    ("a\\*b", "a*b", True),
    ("a\\*b", "axb", None),
    ("foo\\ ", "foo ", True),
    ("foo  ", "foo", True),
    ("\\#a", "#a", True),
    ("\\!a", "!a", True),
    ("!a", "a", False),
    ("# a", "a", None),
    ("/", "a", None),
    ("a//b", "a/b", None),
    ("a?c", "a/c", None),
)
FAULTS = {"[a": "not closed", "[[:no:]]": "that there is not", "a\\": "ends with a backslash", "x" * 5000: "longer than"}
PIECES = ("a", "b", "*", "?", "[ab]", "[!a]", "/**/", "*a", "\\a", "\\*", "[[:alpha:]]", "/")
NAMES = ("a", "b", "c", "ab", "ba", "*", "aab")


class PatternsTest(TreeTest):
    def test_cases(self) -> None:
        for pattern, path, wanted in CASES:
            with self.subTest(pattern=pattern, path=path):
                self.assertIs(Patterns([pattern]).says(path), wanted)
        several = Patterns(["*.py", "!keep.py", "gen/"])
        self.assertEqual([several.mean(each) for each in ("a/x.py", "keep.py", "gen/a/b", "src/a")], [True, False, True, False])

    def test_what_cannot_be_read_is_named_by_its_line(self) -> None:
        for pattern, reason in FAULTS.items():
            found = Patterns(["*.a", pattern, "*.b"])
            self.assertEqual([each.line for each in found.faults], [2])
            self.assertIn(reason, found.faults[0].reason)
            self.assertTrue(found.says("x.a") and found.says("x.b"))
        many = Patterns([f"*{number}" for number in range(MOST + 5)])
        self.assertEqual([each.line for each in many.faults], [MOST + 1])

    @unittest.skipUnless(shutil.which("git"), "git is not installed")
    def test_git_means_the_same(self) -> None:
        chance = random.Random(5)
        subprocess.run(["git", "init", "-q", str(self.root)], check=True)
        paths = sorted({"/".join(chance.choice(NAMES) for _ in range(chance.randint(1, 4))) for _ in range(120)})
        asked = ["git", "-C", str(self.root), "check-ignore", "--no-index", "-v", "-n", "--stdin"]
        for _ in range(60):
            made = ["".join(chance.choice(PIECES) for _ in range(chance.randint(1, 5))) for _ in range(3)]
            lines = [("!" if chance.random() < 0.2 else "") + each for each in made if "*/*" not in each.replace("/**/", "")]
            (self.root / ".gitignore").write_text("\n".join(lines) + "\n")
            said = subprocess.run(asked, input="\n".join(paths), capture_output=True, text=True, check=False).stdout
            found = Patterns(lines)
            for line, path in zip(said.splitlines(), paths, strict=True):
                rule = line.split("\t")[0]
                wanted = rule != "::" and not rule.split(":", 2)[2].startswith("!")
                above = [path[:at] + "/" for at, char in enumerate(path) if char == "/"]
                with self.subTest(lines=lines, path=path):
                    self.assertEqual(any(map(found.says, above)) or bool(found.says(path)), wanted)

    def test_steps_grow_with_the_path(self) -> None:
        for line in ("*" + "a*" * 40 + "b", "**/" + "a/**/" * 40 + "b", "*[ab]*[ab]*[ab]*c", "/" + "?*" * 30 + "b/c"):
            for unit in ("a", "a/", "ab/"):
                written = Patterns([line])._written
                pattern = next(each for some in written.values() for _, each in some)
                short, long = (Steps(pattern).search(unit * size, anywhere=False, most=MOST_STEPS) for size in (100, 400))
                with self.subTest(line=line[:20], unit=unit):
                    self.assertLess(long, 8 * short + 100)


if __name__ == "__main__":
    unittest.main()
