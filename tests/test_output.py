"""Formats: what reaches a terminal, a file or a spreadsheet, and names as people give them."""

from __future__ import annotations

import csv
import io
import json
from unittest import mock

import msgspec
from rich.console import Console
from typer.testing import CliRunner

from isodesm.cli.app import app
from isodesm.codebase.class_lookup import classes_or_layer, find_class
from isodesm.diagnosis.diagnose import diagnose
from isodesm.diagnosis.shared.findings import Diagnosis, Finding
from isodesm.errors import SettingsError, UsageError
from isodesm.output.delimited import scan_rows, to_csv, to_markdown
from isodesm.output.plan_text import plan_text
from isodesm.output.scan_table import _marked_source
from isodesm.output.text import counted, cut_front, number_of, printable
from isodesm.planning.planner.options import Options
from isodesm.planning.planner.plan import plan
from isodesm.settings import Settings, find_settings_file, load_settings
from tests.support import DEMO, TreeTest, read_sample

FINDING = Finding(
    id="x",
    kind="hard-wired-creation",
    level="error",
    message="m",
    source="a.B",
    member="c",
    target="d.E",
    file="f",
    line=3,
    column=5,
    end_line=3,
    end_column=12,
    snippet="\tA b = new E(1);",
    why=("reaches-network",),
    remedy="r",
)


class TextTest(TreeTest):
    def test_small_functions(self) -> None:
        cases = [
            (cut_front, ("org.hollin.desk.app.BulletinService", 25), "….app.BulletinService"),
            (cut_front, ("Short", 25), "Short"),
            (cut_front, ("a.b.VeryLongClassNameIndeed", 5), "VeryLongClassNameIndeed"),
            (cut_front, ("a/b/c.java:3", 9, "/"), "c.java:3"),
            (cut_front, ("a/b/c.java:3", 10, "/"), "…/c.java:3"),
            (printable, ("a\tb\x1b[0m\u202e\x85",), "a    b\\x1b[0m\\u202e\\x85"),
            (printable, ("é→漢",), "é→漢"),
            (counted, (1, "class", "classes"), "1 class"),
            (counted, (2000, "file"), "2,000 files"),
            (counted, (0, "file"), "0 files"),
            (number_of, (4.0,), "4"),
            (number_of, (4.5,), "4.5"),
            (number_of, (12345.0,), "12,345"),
        ]
        for function, arguments, wanted in cases:
            with self.subTest(function=function.__name__, arguments=arguments):
                self.assertEqual(function(*arguments), wanted)

    def test_marks_stand_under_the_span_at_any_width(self) -> None:
        snippet = (
            "        some.very.long.beginning.of.a.line.that.goes.on(and, on, and, on, "
            + "new Thing(1, 2)"
            + ", tail, tail, tail);"
        )
        start = snippet.index("new Thing")
        finding = msgspec.structs.replace(
            FINDING, snippet=snippet, column=start + 1, end_column=start + 1 + len("new Thing(1, 2)")
        )
        for width in (20, 40, 60, 100, 200):
            with self.subTest(width=width):
                source, marks = (line.plain for line in _marked_source(finding, width))
                self.assertLessEqual(len(source), width)
                at = marks.index("~")
                self.assertEqual(source[at : at + 3], "new")
                self.assertEqual(len(marks.strip()), min(len("new Thing(1, 2)"), width - at))

    def test_spreadsheets_get_no_formulas(self) -> None:
        evil = msgspec.structs.replace(FINDING, source="=cmd()", message='say "a, b"', snippet="")
        content = to_csv(
            scan_rows(Diagnosis(findings=(evil,), places=(evil,), excused=(), by_excuse={}), excused=False)
        ).decode()
        (row,) = csv.DictReader(io.StringIO(content))
        self.assertEqual((row["source"], row["message"]), ("'=cmd()", 'say "a, b"'))

    def test_markdown_tables_hold_pipes_and_lines(self) -> None:
        content = to_markdown((("a", "b"), [("x|y", "1\n2")]), "T").decode()
        self.assertEqual(content.splitlines()[-1], "| x\\|y | 1 2 |")

    def test_checklist_has_every_step_and_what_is_left(self) -> None:
        codebase = read_sample("slope-map")
        whole = plan(codebase, diagnose(codebase))
        passed_over = next(each.id for each in whole.steps if each.id.startswith("hand-in"))
        made = plan(codebase, diagnose(codebase), Options(without=frozenset((passed_over,))))
        text, _, left = plan_text(made).decode().partition("## Not in this plan")
        self.assertEqual(text.count("- [ ] **"), len(made.steps))
        self.assertEqual((text.count("- [x] "), text.count("## Decide first")), (len(made.done), len(made.choices)))
        self.assertEqual((left.count("⇒"), len(made.left) > 0), (len(made.left), True))
        self.assertIn("- Bonds: − SlopeDetailComponent ⇒", text)
        self.assertEqual(text.count("```") % 2, 0)

    def test_findings_survive_json(self) -> None:
        out = json.loads(self.run_program("scan", str(DEMO / "bulletin-desk"), "--format", "json").stdout)["result"]
        self.assertEqual(len(out["findings"]), out["summary"]["findings"])
        self.assertEqual(len(out["excused"]), sum(out["summary"]["by_excuse"].values()))
        self.assertEqual(sum(out["summary"]["by_level"].values()), out["summary"]["findings"])
        self.assertFalse(set(out["findings"][0]) & {"row", "source_number", "target_number"})

    def test_a_wide_console_is_used(self) -> None:
        from isodesm.measures.ranking import rank
        from isodesm.output.rank_table import print_ranking

        codebase = read_sample("bulletin-desk")
        ranking = rank(codebase, diagnose(codebase))
        heads = {}
        for width in (80, 104, 130, 160, 200):
            console = Console(file=io.StringIO(), width=width)
            print_ranking(console, codebase.overview, ranking, "x", top=0)
            heads[width] = console.file.getvalue()
        self.assertNotIn("role", heads[80].splitlines()[2])
        self.assertIn("role", heads[130].splitlines()[2])
        self.assertIn("locked effects", heads[160].splitlines()[2])
        self.assertIn("instability", heads[200].splitlines()[2])
        self.assertIn("org.hollin.desk.infra.BulletinArchive", heads[200])


class NamesTest(TreeTest):
    def test_classes_as_people_name_them(self) -> None:
        codebase = self.read(
            {"a/X.java": "package a; class X { class In { } }", "b/X.java": "package b; class X { } class Only { }"}
        )
        names = codebase.symbols.names
        for given, wanted in {"Only": "b.Only", "a.X": "a.X", "X.In": "a.X.In", "In": "a.X.In", "b.X": "b.X"}.items():
            with self.subTest(given=given):
                self.assertEqual(names[find_class(codebase.overview, given)], wanted)
        for given, said in {"X": "a.X", "Onyl": "`Only`", "Qqqqqq": "There is no class"}.items():
            with self.subTest(given=given), self.assertRaisesRegex(UsageError, said):
                find_class(codebase.overview, given)

    def test_a_layer_stands_for_its_classes(self) -> None:
        codebase = read_sample("bulletin-desk")
        found = classes_or_layer(codebase.overview, "domain")
        self.assertIn("org.hollin.desk.domain.Bulletin", {codebase.symbols.names[n] for n in found})
        self.assertEqual(classes_or_layer(codebase, ""), frozenset())


class SettingsTest(TreeTest):
    def test_options_win_over_the_file_and_that_over_defaults(self) -> None:
        file = self.root / "isodesm.toml"
        file.write_text('workers = 3\nexclude = ["a/"]\n[strain]\nwrong-way = 2.0\n')
        settings = load_settings(file, {"workers": 5, "exclude": None})
        self.assertEqual((settings.workers, settings.exclude, settings.strain.wrong_way), (5, ("a/",), 2.0))
        self.assertEqual(settings.strain.service_lookup, Settings().strain.service_lookup)

    def test_the_nearest_file_upwards_is_found(self) -> None:
        self.write({"isodesm.toml": "", "a/isodesm.toml": "", "a/b/c/X.java": "class X { }", "d/Y.java": ""})
        self.assertEqual(find_settings_file(self.root / "a/b/c"), self.root / "a/isodesm.toml")
        self.assertEqual(find_settings_file(self.root / "d/Y.java"), self.root / "isodesm.toml")

    def test_what_is_wrong_is_said(self) -> None:
        cases = {
            "[[layers]]\nname = 'x'": "segments",
            "[layers]\n": "Expected `array`",
            "[strain]\nwrong-wy = 1": "did you mean `wrong-way`",
            "exclude = 'a'": "Expected `array`",
            "zzz = 1": "see the README",
        }
        for text, said in cases.items():
            file = self.root / "isodesm.toml"
            file.write_text(text)
            with self.subTest(text=text), self.assertRaisesRegex(SettingsError, said):
                load_settings(file, {})


class StreamTest(TreeTest):
    def test_a_large_result_is_written_piece_by_piece_with_the_same_bytes(self) -> None:
        tree = str(DEMO / "bulletin-desk")
        whole = CliRunner().invoke(app, ["scan", tree, "--format", "json"])
        with mock.patch("isodesm.cli.scan.AS_A_WHOLE", 0):
            pieces = CliRunner().invoke(app, ["scan", tree, "--format", "json", "--level", "error"])
            again = CliRunner().invoke(app, ["scan", tree, "--format", "json", "--no-cache"])
        self.assertEqual(again.stdout, whole.stdout)
        self.assertLess(
            len(json.loads(pieces.stdout)["result"]["findings"]), len(json.loads(whole.stdout)["result"]["findings"])
        )
        self.assertEqual(json.dumps(json.loads(whole.stdout), indent=2, ensure_ascii=False) + "\n", whole.stdout)
