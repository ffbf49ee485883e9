"""What is shown first, how to see more, and the documents that come with the program."""

from __future__ import annotations

import os
import re
import tomllib
from pathlib import Path

from isodesm.output.pages import page_of, topics
from tests.support import DEMO, TreeTest

SAMPLE = DEMO / "bulletin-desk"
DOCS = Path(__file__).parent.parent / "docs"


class ViewsTest(TreeTest):
    def said(self, *arguments: str, code: int = 0) -> str:
        done = self.run_program(*arguments)
        self.assertEqual(done.returncode, code, done.stderr)
        return done.stdout if code == 0 else done.stderr

    def test_a_scan_is_short_and_its_places_can_be_opened(self) -> None:
        short, full = self.said("scan", str(SAMPLE)), self.said("scan", str(SAMPLE), "--full")
        self.assertLess(len(short.splitlines()), len(full.splitlines()) / 2)
        self.assertLess(short.index("20 findings"), short.index("BulletinService"))
        places = [word for line in short.splitlines() for word in line.split() if ".java:" in word]
        self.assertGreater(len(places), 10)
        for place in places:
            path, line, column = place.rsplit(":", 2)
            self.assertTrue((self.root / path).is_file(), path)
            self.assertTrue(int(line) and int(column), place)
        self.assertIn("→", self.said("scan", str(SAMPLE), "--class", "BulletinService"))
        self.assertNotIn("→", short)

    def test_a_class_with_many_findings_says_how_many_more(self) -> None:
        self.write(
            {
                "Hut.java": "class Hut {"
                + "".join(
                    f" int m{n}(int a) throws Exception {{ if (a > {n}) {{ new Bell{n}().ring(); }} return a * {n}; }}"
                    for n in range(12)
                )
                + " }"
            }
        )
        for n in range(12):
            self.write({f"Bell{n}.java": f"class Bell{n} {{ void ring() throws Exception {{ new java.net.Socket(); }} }}"})
        self.assertIn("… and 4 more of this class", self.said("scan", "."))

    def test_a_plan_shows_one_step_and_what_was_asked_for(self) -> None:
        first, full = self.said("plan", str(SAMPLE)), self.said("plan", str(SAMPLE), "--full")
        self.assertLess(len(first.splitlines()), len(full.splitlines()) / 3)
        self.assertIn("\n1. Extract interface BulletinArchivePort", first)
        self.assertNotIn("\n2. ", first)
        third = self.said("plan", str(SAMPLE), "--show", "3")
        self.assertIn("\n3. ", third)
        shown = re.search(r"\b[a-z]+(?:-[a-z]+)*-[0-9a-f]{6}\b", third)
        assert shown is not None
        self.assertEqual(self.said("plan", str(SAMPLE), "--show", shown[0]), third)
        self.assertIn("no step `99`", self.said("plan", str(SAMPLE), "--show", "99", code=2))
        self.assertIn("give one of them", self.said("plan", str(SAMPLE), "--full", "--brief", code=2))

    def test_long_lines_of_code_are_never_cut(self) -> None:
        names = ", ".join(f"String parameterOfTheBell{n}" for n in range(12))
        self.write(
            {
                "Bell.java": f"class Bell {{ void ring({names}) throws Exception {{ new java.net.Socket(); }} }}",
                "Hut.java": "class Hut { private final Bell bell = new Bell(); void go() throws Exception { bell.ring("
                + ", ".join(['"x"'] * 12)
                + "); } }",
            }
        )
        told = "".join(
            line.strip().removeprefix("+").strip().removeprefix("↪ ") for line in self.said("plan", ".").splitlines()
        )
        self.assertIn("parameterOfTheBell11", told)

    def test_a_ranking_leaves_out_what_has_nothing_of_it(self) -> None:
        told = self.said("rank", str(SAMPLE), "--top", "0")
        self.assertIn("with strain 0 are left out", told)
        self.assertNotIn("DangerLevel", told)

    def test_rankings_fit_and_add_up_at_any_width(self) -> None:
        for width in (60, 80, 100, 120, 200):
            with self.subTest(width):
                told = self.run_program("rank", str(SAMPLE), "--top", "5", COLUMNS=str(width)).stdout.splitlines()
                heads, rows = told[2].split(), told[3:8]
                self.assertLessEqual(max(map(len, told[2:8])), width)
                columns = heads.index("borne") - heads.index("strain") - ("up" in heads)  # `looked up` is one
                self.assertTrue({"class", "borne", "in", "out"} <= set(heads), heads)
                for number, row in enumerate(rows, 1):
                    cells = row.replace("·", "0").split()
                    self.assertEqual(cells[0], str(number))
                    first = next(i for i, cell in enumerate(cells[1:], 1) if cell.isdigit())
                    strain, *parts = map(int, cells[first : first + 1 + columns])
                    self.assertEqual(strain, sum(parts), row)


class PagesTest(TreeTest):
    def test_every_word_has_a_page(self) -> None:
        for name, sort in topics().items():
            with self.subTest(name):
                self.assertGreater(len(page_of(name)), len(name) + 40, sort)

    def test_they_are_printed_and_near_misses_are_named(self) -> None:
        self.assertIn("captive-dependency", self.run_program("explain").stdout)
        self.assertIn("Why it hurts", self.run_program("explain", "static-effect").stdout)
        self.assertTrue(self.run_program("explain", "pure", "--format", "markdown").stdout.startswith("# pure"))
        self.assertIn("`static-effect`", self.run_program("explain", "static-efect").stderr)

    def test_the_page_of_settings_has_every_key_with_its_usual_value(self) -> None:
        import msgspec

        from isodesm.settings import Limits, Settings, StrainWeights

        text = (DOCS / "settings.md").read_text()
        for record in (Settings, StrainWeights, Limits):
            for field in msgspec.structs.fields(record):
                with self.subTest(field.encode_name):
                    row = next(line for line in text.splitlines() if line.startswith("|") and f"`{field.encode_name}`" in line)
                    if isinstance(field.default, int | float) and not isinstance(field.default, bool):
                        self.assertIn(f"| {field.default} |", row)

    def test_the_package_takes_every_document_along(self) -> None:
        settings = tomllib.loads((DOCS.parent / "pyproject.toml").read_text())
        taken = settings["tool"]["hatch"]["build"]["targets"]["wheel"]["force-include"]
        there = {f"docs/{name}" for name in os.listdir(DOCS) if name not in ("screenshots", "isodesm.1")}
        self.assertEqual({each for each in taken if each.startswith("docs/")}, there)
