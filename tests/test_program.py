"""The installed program as a user meets it: commands, formats, widths, exit codes, and input that is not as it should be."""

from __future__ import annotations

import csv
import io
import json
import os
import shutil
import subprocess
import tempfile
import unittest
from pathlib import Path

from isodesm import __version__
from tests.support import DEMO, TreeTest

SMALL = {
    "app/Shop.java": "package app;\npublic class Shop {\n    private final Mailer mailer = new Mailer();\n    void "
    "sell(int n) { if (n > 0) { mailer.send(); } }\n}\n",
    "app/Mailer.java": 'package app;\npublic class Mailer {\n    void send() { try { new java.net.Socket("a", 1); } '
    "catch (Exception e) { } }\n}\n",
}


class CommandTest(TreeTest):
    def test_version_and_module_run(self) -> None:
        self.assertEqual(self.run_program("--version").stdout, f"isodesm {__version__}\n")

    def test_scan_says_what_why_and_what_helps(self) -> None:
        self.write(SMALL)
        result = self.run_program("scan", ".", "--full")
        self.assertEqual((result.returncode, result.stderr), (0, ""))
        for wanted in (
            "app.Shop",
            "3 error hard-wired-creation",
            "private final Mailer mailer = new Mailer();",
            "Field `Shop.mailer` creates `Mailer` itself.",
            "reaches the network (Shop → Mailer → Socket)",
            "→ Take an interface extracted from `Mailer` through the constructor",
            "1 finding",
        ):
            self.assertIn(wanted, " ".join(result.stdout.split()))
        lines = result.stdout.splitlines()
        at = next(i for i, line in enumerate(lines) if "new Mailer()" in line)
        self.assertEqual(lines[at + 1].strip(), "~" * len("new Mailer()"))
        self.assertEqual(lines[at + 1].index("~"), lines[at].index("new Mailer()"))

    def test_json_has_the_envelope_and_all_fields(self) -> None:
        self.write(SMALL)
        wanted = {
            "scan": {"findings", "excused", "unknown", "summary", "trouble", "unused_acceptances"},
            "rank": {"summary", "by", "classes", "chances", "radius", "scale", "commits", "history", "evaluation"},
            "layers": {"summary", "order", "unplaced", "layers", "crossings", "wrong_way", "told", "packages"},
            "wiring": {"summary", "registrations", "problems", "by_hand", "tree", "rules", "programs"},
            "plan": {
                "summary",
                "steps",
                "left",
                "strain",
                "hard_bonds",
                "not_shown",
                "done",
                "waiting",
                "kept",
                "choices",
                "unproven",
                "goals",
                "stages",
            },
        }
        for command, keys in wanted.items():
            with self.subTest(command=command):
                answer = json.loads(self.run_program(command, ".", "--format", "json").stdout)
                self.assertEqual(set(answer), {"schema", "tool", "root", "settings", "result"})
                self.assertEqual(answer["schema"], f"isodesm/{command}@1")
                self.assertEqual(set(answer["result"]), keys)
        scan = json.loads(self.run_program("scan", ".", "--format", "json").stdout)["result"]
        promised = set("id kind level message source member target file line column end_line snippet why remedy".split())
        self.assertLessEqual(promised, set(scan["findings"][0]))
        self.assertEqual({each["excuse"] for each in scan["excused"]}, {"own-device"})

    def test_csv_and_markdown(self) -> None:
        self.write(SMALL)
        for command in ("scan", "rank", "plan"):
            with self.subTest(command=command):
                rows = list(csv.DictReader(io.StringIO(self.run_program(command, ".", "--format", "csv").stdout)))
                self.assertTrue(rows and all(None not in row for row in rows))
                self.assertTrue(self.run_program(command, ".", "--format", "markdown").stdout.startswith("# "))
        checklist = self.run_program("plan", ".", "--format", "markdown").stdout
        self.assertIn("- [ ] **1. Extract interface MailerPort from Mailer**", checklist)

    def test_export_streams_bonds_in_order(self) -> None:
        self.write(SMALL)
        lines = [json.loads(line) for line in self.run_program("export", "bonds", ".").stdout.splitlines()]
        self.assertEqual(
            set(lines[0]),
            set("source member kind target target_member external ambiguous text context file line column".split()),
        )
        places = [(b["file"], b["line"], b["column"]) for b in lines]
        self.assertEqual(places, sorted(places))
        only = self.run_program("export", "bonds", ".", "--kind", "creation", "--format", "csv").stdout.splitlines()
        self.assertEqual(len(only), 1 + sum(b["kind"] == "creation" for b in lines))

    def test_output_file_appears_whole_or_not_at_all(self) -> None:
        self.write(SMALL)
        result = self.run_program("scan", ".", "--format", "json", "-o", "out.json")
        self.assertEqual((result.stdout, result.stderr), ("", "written: out.json\n"))
        json.loads((self.root / "out.json").read_text())
        result = self.run_program("rank", ".", "-o", "missing/out.txt")
        self.assertEqual(result.returncode, 2)
        self.assertIn("Can't write missing/out.txt", result.stderr)
        self.run_program("rank", ".", "-o", "rank.txt")
        self.assertIn("app.Shop", (self.root / "rank.txt").read_text())

    def test_gates(self) -> None:
        self.write(SMALL)
        self.assertEqual(self.run_program("scan", ".", "--fail-on", "error").returncode, 1)
        self.assertEqual(self.run_program("scan", ".", "--fail-on", "note").returncode, 1)
        (self.root / "app/Shop.java").unlink()
        self.assertEqual(self.run_program("scan", ".", "--fail-on", "note").returncode, 0)

    def test_tables_fit_their_width_and_keep_the_ends_of_names(self) -> None:
        for command in ("scan", "rank", "plan"):
            for width in (80, 120, 200):
                with self.subTest(command=command, width=width):
                    out = self.run_program(command, str(DEMO / "bulletin-desk"), COLUMNS=str(width)).stdout
                    lines = [line for line in out.splitlines() if command != "plan" or not line.startswith("     ")]
                    lines = [line for line in lines if " " in line.strip()]  # places are never cut or broken
                    self.assertLessEqual(max(map(len, lines)), width)
                    self.assertIn("BulletinService", out)

    def test_same_bytes_with_any_number_of_workers(self) -> None:
        """Enough source that it really is shared out."""
        body = 'class C%d { Object o = new C%d(); String s = "' + "x" * 900 + '"; }\n'
        self.write({f"p{n // 40}/C{n}.java": body % (n, n - 1) * 1 for n in range(1, 2000)})
        runs = [self.run_program("export", "bonds", ".", "--workers", workers).stdout for workers in ("1", "2")]
        self.assertGreater(len(runs[0]), 100_000)
        self.assertEqual(*runs)

    def test_focus_names_classes_as_people_do(self) -> None:
        self.write({**SMALL, "b/Shop.java": "package b; public class Shop { }"})
        result = self.run_program("plan", ".", "--focus", "Shop")
        self.assertEqual(result.returncode, 2)
        self.assertIn("app.Shop", result.stderr)
        self.assertIn("b.Shop", result.stderr)
        self.assertEqual(self.run_program("plan", ".", "--focus", "app.Shop").returncode, 0)
        self.assertIn("`Mailer`", self.run_program("plan", ".", "--focus", "Mailr").stderr)


class DemoTest(TreeTest):
    def test_demo_runs_the_whole_way(self) -> None:
        result = self.run_program("demo", "here")
        self.assertEqual(result.returncode, 0, result.stderr)
        for wanted in ("isodesm scan", "isodesm rank", "isodesm plan", "Try next"):
            self.assertIn(wanted, result.stdout)
        again = self.run_program("demo", "here")
        self.assertEqual(again.returncode, 2)
        self.assertIn("is there already", again.stderr)

    @unittest.skipUnless(shutil.which("javac"), "javac is not installed")
    def test_sample_compiles_and_its_tests_pass(self) -> None:
        sources = [str(path) for path in (DEMO / "bulletin-desk").rglob("*.java")]
        with tempfile.TemporaryDirectory() as classes:
            compiled = subprocess.run(["javac", "-d", classes, *sources], capture_output=True, text=True)
            self.assertEqual(compiled.returncode, 0, compiled.stderr)
            for name in ("domain.DangerScaleTest", "app.DutyRosterTest"):
                run = subprocess.run(["java", "-ea", "-cp", classes, f"org.hollin.desk.{name}"], capture_output=True, text=True)
                self.assertEqual(run.returncode, 0, run.stderr)


class BadInputTest(TreeTest):
    def check(self, result: subprocess.CompletedProcess[str], code: int, *said: str) -> None:
        self.assertEqual(result.returncode, code, result.stderr)
        self.assertNotIn("Traceback", result.stderr + result.stdout)
        for each in said:
            self.assertIn(each, result.stderr)

    def test_wrong_usage(self) -> None:
        cases = [
            (("scan", "nowhere"), 2, "There is no such file or folder: nowhere"),
            (("scan", "."), 3, "No source file to read"),
            (("scan", ".", "--format", "jsn"), 2, "Did you mean `json`"),
            (("scan", ".", "--language", "jva"), 2, "Did you mean `java`"),
            (("rank", ".", "--by", "fan_in"), 2, "Did you mean `fan-in`"),
            (("export", "bond", "."), 2, "Did you mean `bonds`"),
            (("export", "bonds", ".", "--kind", "creations"), 2, "Did you mean `creation`"),
            (("scan", ".", "--workers", "0"), 2, "--workers"),
            (("scan", ".", "--config", "none.toml"), 2, "There is no settings file none.toml"),
            (("scn", "."), 2, "scn"),
        ]
        for arguments, code, said in cases:
            with self.subTest(arguments=arguments):
                self.check(self.run_program(*arguments), code, said)

    def test_broken_settings(self) -> None:
        cases = [
            ("worker = 3", "did you mean `workers`"),
            ("workers = 'many'", "Expected `int`"),
            ("= =", "can't be read as settings"),
            ("[strain]\nservice-lockup = 2", "did you mean `service-lookup`"),
            (b"\xff\xfe\x00", "can't be read as settings"),
        ]
        for text, said in cases:
            with self.subTest(settings=text):
                self.write({**SMALL, "isodesm.toml": text})
                self.check(self.run_program("scan", "."), 2, said, "isodesm.toml")

    def test_files_that_are_not_as_they_should_be(self) -> None:
        """Each odd file is named or read; the others are read all the same."""
        self.write(
            {
                **SMALL,
                "Broken.java": "class Broken { void a( { new Fine(); }\nclass Fine { Object o = new Fine(); }",
                "Latin.java": 'class Latin { String s = "\xe4\xf6"; Object o = new Latin(); }'.encode("latin-1"),
                "Wide.java": "\ufeffclass Wide { Object o = new Wide(); }".encode("utf-16-le"),
                "Nul.java": b"class Nul { \x00 Object o = new Nul(); }",
                "Huge.java": b"class Huge { }" + b" " * 20_000_000,
                "Empty.java": b"",
                "Deep.java": "class Deep { Object o = " + "(" * 20000 + "new Deep()" + ")" * 20000 + "; }",
            }
        )
        os.symlink(self.root, self.root / "loop")
        os.mkfifo(self.root / "Pipe.java")
        os.symlink(self.root / "nothing.java", self.root / "Dangling.java")
        result = self.run_program("export", "bonds", ".", "--kind", "creation", "-v")
        self.check(
            result,
            0,
            "Broken.java:1 does not parse here",
            "Latin.java is not UTF-8; read as Latin-1",
            "Huge.java is 20.0 MB, over the limit",
            "Pipe.java is not a regular file",
            "2 × symbolic link",
        )
        made = {json.loads(line)["text"] for line in result.stdout.splitlines()}
        self.assertLessEqual({"Mailer", "Latin", "Wide", "Nul", "Fine", "Deep"}, made)

    @unittest.skipIf(os.geteuid() == 0, "root can read everything")
    def test_unreadable_file(self) -> None:
        self.write(SMALL)
        (self.root / "app/Mailer.java").chmod(0)
        self.check(self.run_program("scan", "."), 0, "app/Mailer.java can't be read: Permission denied")

    def test_a_file_that_goes_away_is_named(self) -> None:
        from isodesm.reading.discovery import SourceFile
        from isodesm.reading.files import read_files

        (trouble,) = read_files(self.root, [SourceFile("Gone.java", "java", 3)], 1)
        self.assertEqual(trouble.reason, "can't be read: No such file or directory")

    def test_control_characters_do_not_reach_the_terminal(self) -> None:
        self.write(
            {"A.java": "class A {\n  boolean t(long a) { return System.currentTimeMillis() > a; /* \x1b[31m\u202e */ }\n}\n"}
        )
        out = self.run_program("scan", ".", "--full").stdout
        self.assertNotIn("\x1b", out)
        self.assertNotIn("\u202e", out)
        self.assertIn("\\x1b[31m\\u202e", out)

    def test_a_reader_that_stops_early_is_no_error(self) -> None:
        self.write({f"C{n}.java": f"class C{n} {{ Object o = new C{n}(); }}" for n in range(300)})
        command = "python -m isodesm export bonds . | head -1"
        import sys

        result = subprocess.run(
            ["bash", "-o", "pipefail", "-c", command.replace("python", sys.executable, 1)],
            capture_output=True,
            text=True,
            cwd=self.root,
            timeout=60,
        )
        self.check(result, 0)

    def test_a_mistake_of_ours_says_what_to_report(self) -> None:
        import sys

        code = (
            "import isodesm.codebase.reading as m\n"
            "def boom(*a): raise RuntimeError('inner detail')\nm.read = boom\n"
            "import sys; sys.argv = ['isodesm', 'scan', '.']\nfrom isodesm.cli.app import main; main()"
        )
        result = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, cwd=self.root, timeout=60)
        self.check(result, 70, "mistake of ours (RuntimeError)", "Please report it with the file")
        Path(result.stderr.rsplit(" ", 1)[1].strip()).unlink()


class DiscoveryTest(TreeTest):
    def test_what_is_left_out_and_why(self) -> None:
        source = "class X { Object o = new X(); }"
        kept = ["src/Main.java", "src/build/Kept.java", "keep/skip.java", "src/vendor/Mine.java"]
        gone = {
            "target/Made.java": "build or vendored folder",
            "build/Made.java": "build or vendored folder",
            "node_modules/a/B.java": "hidden or tool folder",
            ".hidden/H.java": "hidden or tool folder",
            "src/generated/G.java": "generated folder",
            "ignored/I.java": "ignored folder",
            "src/Temp.java": "ignored file",
        }
        files = dict.fromkeys([*kept, *gone], source)
        self.write(
            {**files, "pom.xml": "", ".gitignore": "/ignored/\nTemp.java\nskip.java\n", "keep/.gitignore": "!skip.java\n"}
        )
        from isodesm.reading.discovery import discover
        from isodesm.settings import Settings

        found = discover(self.root, Settings())
        self.assertEqual([file.path for file in found.files], sorted(kept))
        self.assertEqual(set(found.left_out), set(gone.values()))
        only = discover(self.root, Settings(include=("src/**",), exclude=("**/vendor/",)))
        self.assertEqual([file.path for file in only.files], ["src/Main.java", "src/build/Kept.java"])
