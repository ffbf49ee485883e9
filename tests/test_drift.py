"""Marks and drift: what is new must be new, whatever became of lines, files and names."""

from __future__ import annotations

import json
import shutil
import subprocess

import msgspec

from isodesm.codebase.reading import read
from isodesm.diagnosis.diagnose import diagnose
from isodesm.drifting.drift import Drift, drift_between
from isodesm.drifting.mark import EARLIER, Mark, as_before, mark_of, read_mark, written
from isodesm.errors import UsageError
from tests.support import TreeTest

FEED = """package desk;
import java.io.*;
public class Feed {
  public String read() throws IOException { return new FileReader("f").toString(); }
}
"""
BELL = """package desk;
import java.io.*;
public class Bell {
  public void ring() throws IOException { new FileWriter("b").close(); }
}
"""
PAGER = BELL.replace("Bell", "Pager").replace("ring", "call")
DESK = """package desk;

class Desk {
  private final Feed feed = new Feed();

  void open() throws Exception {
    feed.read();
    new Bell().ring();
  }

  void close() { }
}
"""
FILES = {"desk/Feed.java": FEED, "desk/Bell.java": BELL, "desk/Desk.java": DESK}
QUIET = DESK.replace("    new Bell().ring();\n", "")
ELSEWHERE = DESK.replace("package desk;", "package desk.inner;\nimport desk.*;")
REORDERED = DESK.replace("  void close() { }\n", "").replace("  private final", "  void close() { }\n  private final")
RINGER = """package desk;
class Ringer {
  void open() throws Exception {
    new Bell().ring();
  }
}
"""
ACCEPTED = DESK.replace("    new Bell", "    // isodesm: accept hard-wired-creation – mine\n    new Bell")
CALLING = DESK.replace("close() { }", "close() throws Exception { new Pager().call(); }")


def but(gone: str = "", **files: str) -> dict[str, str]:
    """The files without one, and with others: `desk_Desk` is desk/Desk.java."""
    left = {path: text for path, text in FILES.items() if path != gone}
    return left | {name.replace("_", "/") + ".java": text for name, text in files.items()}


DRIFTS = {
    "nothing": (FILES, 0, 0, 0),
    "lines move": (but(desk_Desk="// a remark\n\n" + DESK), 0, 0, 0),
    "another form": (but(desk_Desk=DESK.replace("  ", "\t").replace(" {", "\n{")), 0, 0, 0),
    "members in another order": (but(desk_Desk=REORDERED), 0, 0, 0),
    "a file moves": (but("desk/Desk.java", desk_inner_Desk=ELSEWHERE), 0, 0, 2),
    "a class is renamed": (but("desk/Desk.java", desk_Counter=DESK.replace("Desk", "Counter")), 0, 0, 2),
    "a target is renamed": (
        but("desk/Bell.java", desk_Gong=BELL.replace("Bell", "Gong"), desk_Desk=DESK.replace("Bell", "Gong")),
        0,
        0,
        1,
    ),
    "a member is renamed": (but(desk_Desk=DESK.replace("open", "begin")), 0, 0, 1),
    "a class is split": (but(desk_Desk=QUIET, desk_Ringer=RINGER), 0, 0, 1),
    "a new knot": (but(desk_Desk=CALLING, desk_Pager=PAGER), 1, 0, 0),
    "one less": (but(desk_Desk=QUIET), 0, 1, 0),
    "one for another": (but(desk_Desk=DESK.replace("new Bell().ring()", "new Pager().call()"), desk_Pager=PAGER), 1, 1, 0),
}
"""What becomes of the files, and how many findings are new, gone and moved."""


def working(name: str, *needs: str) -> str:
    """A service that is handed others."""
    taken = ", ".join(f"{each}Service its{each}" for each in needs)
    fields = "".join(f"  private final {each}Service its{each};\n" for each in needs)
    given = "".join(f"    this.its{each} = its{each};\n" for each in needs)
    calls = "".join(f"    for (int i = 0; i < 3; i++) {{ its{each}.run(); }}\n" for each in needs)
    head = f"package p;\npublic class {name}Service {{\n{fields}"
    return f"{head}  public {name}Service({taken}) {{\n{given}  }}\n  public void run() {{\n{calls}  }}\n}}\n"


class MatchingTest(TreeTest):
    def mark(self, files: dict[str, str]) -> Mark:
        shutil.rmtree(self.root)
        self.root.mkdir()
        codebase = read(self.write(files))
        digests = {facts.path: facts.digest for facts in codebase.symbols.files}
        return mark_of(codebase.overview, diagnose(codebase, excused=True), digests)

    def test_what_is_new_gone_and_moved(self) -> None:
        before = self.mark(FILES)
        self.assertEqual(len([each for each in before.findings if each.kind == "hard-wired-creation"]), 2)
        for name, (files, new, gone, moved) in DRIFTS.items():
            with self.subTest(name):
                found: Drift = drift_between(before, self.mark(files), "then")
                hard = [[each for each in some if each.kind == "hard-wired-creation"] for some in (found.new, found.gone)]
                self.assertEqual((len(hard[0]), len(hard[1]), len(found.moved)), (new, gone, moved))
                self.assertEqual(found.before.strain, before.totals.strain)
                back = drift_between(self.mark(files), before, "then")
                self.assertEqual((len(back.new), len(back.gone)), (len(found.gone), len(found.new)))

    def test_a_line_that_stood_there_before_is_not_new(self) -> None:
        """What it leads to has changed: it was excused, or is so now; and a place of another code is new all the same."""
        quiet = FILES | {"desk/Bell.java": "package desk;\npublic class Bell {\n  public void ring() {}\n}\n"}
        loud, calm = self.mark(FILES), self.mark(quiet)
        risen, fallen = drift_between(calm, loud, "then"), drift_between(loud, calm, "then")
        self.assertEqual([each.code for each in risen.no_longer_excused], ["new Bell().ring();"])
        self.assertEqual([each.code for each in fallen.newly_excused], ["new Bell().ring();"])
        for each in (risen, fallen):
            self.assertEqual([one for one in (*each.new, *each.gone) if one.kind == "hard-wired-creation"], [])
        self.assertEqual(risen.at_least("note"), risen.new)
        other = self.mark(FILES | {"desk/Desk.java": DESK.replace("new Bell().ring()", "Bell it = new Bell(); it.ring()")})
        self.assertEqual([each.code for each in drift_between(calm, other, "then").new], ["Bell it = new Bell(); it.ring();"])
        earlier = msgspec.structs.replace(calm, excused=())  # of a version that did not write them
        self.assertEqual([each.code for each in drift_between(earlier, loud, "then").new], ["new Bell().ring();"])

    def test_a_line_put_into_a_function_of_its_file_has_moved(self) -> None:
        within = "import time\n\n\nclass Log:\n    def wait(self):\n        until = time.time() + 5\n        return until\n"
        apart = "import time\n\n\ndef soon():\n    until = time.time() + 5\n    return until\n"
        found = drift_between(self.mark({"log.py": within}), self.mark({"log.py": apart}), "then")
        self.assertEqual(
            (found.new, found.gone, [each.after.code for each in found.moved]), ((), (), ["until = time.time() + 5"])
        )

    def test_a_knot_told_by_another_bond_is_the_same(self) -> None:
        both = {"Desk": ("Bell", "Lamp"), "Bell": ("Desk",), "Lamp": ("Desk",)}
        knots = [
            self.mark({f"p/{name}Service.java": working(name, *each) for name, each in needs.items()})
            for needs in (both, both | {"Bell": ()}, both | {"Bell": (), "Lamp": ()})
        ]
        told = [[each.target for each in knot.findings if each.kind == "dependency-cycle"] for knot in knots]
        self.assertEqual(told, [["p.DeskService"], ["p.LampService"], []])
        first, last = drift_between(knots[0], knots[1], "then"), drift_between(knots[1], knots[2], "then")
        self.assertEqual([len(some) for some in (first.new, first.gone, first.moved)], [0, 0, 1])
        self.assertEqual([each.kind for each in last.gone], ["dependency-cycle"])

    def test_a_further_member_with_the_same_fault_is_new(self) -> None:
        more = DESK.replace("  void close() { }", "  void third() throws Exception { new Bell().ring(); new Bell().ring(); }")
        twice = DESK.replace("    new Bell().ring();", "    new Bell().ring();\n    new Bell().ring();")
        before, wider, grown = (self.mark(FILES | {"desk/Desk.java": text}) for text in (DESK, more, twice))
        found = drift_between(before, wider, "then")
        self.assertEqual([(each.member, each.places) for each in found.at_least("warning")], [("third", 2)])
        self.assertEqual((found.grown("note"), len(found.moved)), ((), 0))
        found = drift_between(before, grown, "then")
        self.assertEqual((found.new, [(each.member, each.places) for each in found.grown("warning")]), ((), [("open", 2)]))
        earlier = as_before(msgspec.structs.replace(before, schema=EARLIER, program="", sources=(), hidden={}))
        self.assertEqual(len(earlier.findings), 2)
        found = drift_between(earlier, wider, "then")  # which told no members apart
        self.assertEqual((found.new, [each.places for each in found.grown("warning")]), ((), [3]))

    def test_what_another_version_judges_otherwise_is_told_apart(self) -> None:
        now = self.mark(FILES)
        one = next(each for each in now.findings if each.target == "desk.Bell")
        without = tuple(each for each in now.findings if each is not one)
        then = msgspec.structs.replace(now, findings=without, program="another")
        found = drift_between(then, now, "then")
        self.assertEqual((found.new, found.judged_otherwise), ((), (one,)))
        same = msgspec.structs.replace(then, program=now.program)
        self.assertEqual(drift_between(same, now, "then").new, (one,))
        edited = tuple(msgspec.structs.replace(each, digest="0") for each in now.sources)
        self.assertEqual(drift_between(msgspec.structs.replace(then, sources=edited), now, "then").new, (one,))

    def test_a_mark_that_somebody_edited(self) -> None:
        now = self.mark(FILES)
        forged = tuple(msgspec.structs.replace(each, target="$(x)") for each in now.findings)
        found = drift_between(msgspec.structs.replace(now, findings=forged), now, "then")
        self.assertEqual(len(found.new), len(now.findings))

    def test_classes_and_layers_say_what_rose(self) -> None:
        found = drift_between(self.mark(FILES), self.mark(DRIFTS["one less"][0]), "then")
        desk = next(each for each in found.classes if each.name == "desk.Desk")
        self.assertLess(desk.after, desk.before)
        self.assertIn("hard-wired-creation", desk.parts)
        self.assertEqual(desk.hard_bonds, (2, 1))

    def test_a_mark_is_read_as_it_was_written_one_entry_a_line(self) -> None:
        made = self.mark(FILES)
        path = self.root / "m.json"
        path.write_bytes(written(made))
        self.assertEqual(read_mark(path), made)
        lines = path.read_text().splitlines()
        self.assertEqual(sum('"kind": "' in line for line in lines), len(made.findings) + len(made.accepted))
        for content, reason in ((b"{}", "no mark"), (b"<<<<<<< a\n=======\n>>>>>>> b\n", "conflict"), (b"\xff", "no mark")):
            path.write_bytes(content)
            with self.assertRaisesRegex(UsageError, reason):
                read_mark(path)
        path.write_bytes(written(msgspec.structs.replace(made, schema="isodesm/mark@9")))
        with self.assertRaisesRegex(UsageError, "another form"):
            read_mark(path)

    def test_other_settings_are_said(self) -> None:
        made = self.mark(FILES)
        other = msgspec.structs.replace(made, settings="0", version="0.0.1")
        self.assertEqual(len(drift_between(other, made, "then").remarks), 2)


class DriftTest(TreeTest):
    def setUp(self) -> None:
        super().setUp()
        self.write(FILES)
        self.git("init", "-q", "-b", "main")
        self.commit("as it was")

    def git(self, *arguments: str, code: int = 0) -> str:
        own = ["-c", "user.name=Ilva", "-c", "user.email=ilva@hollin.example", "-c", "protocol.file.allow=always"]
        done = subprocess.run(["git", *own, *arguments], cwd=self.root, capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, code, done.stderr)
        return done.stdout.strip()

    def commit(self, subject: str) -> None:
        self.git("add", "-A", ".")
        self.git("commit", "-qm", subject)

    def drift(self, *options: str, code: int = 0, path: str = ".") -> subprocess.CompletedProcess[str]:
        done = self.run_program("drift", path, *options)
        self.assertEqual(done.returncode, code, done.stdout + done.stderr)
        self.assertNotIn("Traceback", done.stderr)
        return done

    def result(self, *options: str, path: str = ".") -> dict:
        return json.loads(self.drift("--format", "json", *options, path=path).stdout)["result"]

    def test_what_goes_out_of_view_is_said_however_quiet_a_gate_is(self) -> None:
        self.write(FILES | {"desk/Main.java": "package desk; class Main { }"})
        self.run_program("mark", ".")
        desk = self.root / "desk/Desk.java"
        for files, gone, said in (
            ({".gitignore": "Desk.java\n"}, None, "ignored file: 1 more"),
            ({".gitignore": "Desk.java\n"}, None, "still there and not read any more"),
            ({"isodesm.toml": 'exclude = ["Desk.java"]\n'}, None, "excluded by settings: 1 more"),
            ({"desk/Desk.java": ACCEPTED}, None, "accepted finding: 1 more"),
            ({"src/test/java/desk/Desk.java": DESK}, desk, "stand in tests now"),
        ):
            with self.subTest(said):
                self.write({**files})
                if gone is not None:
                    gone.unlink()
                self.assertIn(said, self.drift("-q", "--fail-on", "new").stderr)
                for name in files:
                    (self.root / name).unlink()
                self.write(FILES)

    def test_growth_fails_a_gate_that_is_asked_to(self) -> None:
        self.run_program("mark", ".")
        self.write({"desk/Desk.java": DESK.replace("    new Bell().ring();", "    new Bell().ring();\n    new Bell().ring();")})
        self.drift("--fail-on", "new")
        told = self.drift("--fail-on", "worse", code=1)
        self.assertIn("1 findings of level warning or worse have more places", told.stderr)
        self.assertIn("More places than before", told.stdout)

    def test_the_gate_minds_new_findings_only(self) -> None:
        self.assertIn("no mark", self.drift(code=2).stderr)
        self.run_program("mark", ".")
        self.drift("--fail-on", "new")
        self.drift("--fail-on", "strain")
        self.write(DRIFTS["a new knot"][0])
        told = self.drift("--fail-on", "new", code=1)
        self.assertIn("Pager", told.stdout)
        self.assertIn("desk/Desk.java:", told.stdout)
        self.drift("--fail-on", "strain", code=1)
        self.drift("--fail-on", "new", "--mark", "isodesm.mark.json", "--top", "1", code=1)
        sarif = json.loads(self.drift("--format", "sarif").stdout)["runs"][0]["results"]
        states = [each["baselineState"] for each in sarif]
        self.assertEqual((states.count("new"), states.count("absent")), (1, 0))
        self.write(FILES | {"desk/Desk.java": DESK.replace("    new Bell().ring();\n", "")})
        sarif = json.loads(self.drift("--format", "sarif").stdout)["runs"][0]["results"]
        self.assertIn("absent", [each["baselineState"] for each in sarif])
        remark = self.drift("--format", "markdown").stdout
        self.assertIn("**Gone**", remark)
        self.assertLess(len(remark.splitlines()), 45)
        self.assertIn("gone", self.drift("--format", "csv").stdout)

    def test_against_revisions(self) -> None:
        self.git("checkout", "-qb", "side")
        self.write(DRIFTS["a new knot"][0])
        self.assertEqual(len(self.result("--since", "HEAD")["new"]), 1)
        self.commit("a pager")
        self.git("checkout", "-q", "main")
        self.write({"desk/Desk.java": DESK.replace("    new Bell().ring();\n", "")})
        self.commit("one less")
        self.git("checkout", "-q", "side")
        before = {path: path.read_bytes() for path in self.root.rglob("*.java")}
        with_main, with_base = self.result("--since", "main"), self.result("--since", "main", "--base")
        self.assertEqual((len(with_main["new"]), len(with_base["new"])), (2, 1))
        self.assertEqual(before, {path: path.read_bytes() for path in self.root.rglob("*.java")})
        self.assertIn("no revision", self.drift("--since", "nowhere", code=2).stderr)
        self.assertIn("no revision", self.drift("--since", "--output=x", code=2).stderr)

    def test_renames_in_git_are_followed(self) -> None:
        (self.root / "desk/other").mkdir()
        self.git("mv", "desk/Desk.java", "desk/other/Counter.java")
        path = self.root / "desk/other/Counter.java"
        path.write_text(ELSEWHERE.replace("inner", "other").replace("Desk", "Counter"))
        self.git("add", "-A")
        found = self.result("--since", "HEAD")
        self.assertEqual((len(found["new"]), len(found["gone"]), len(found["moved"])), (0, 0, 2))

    def test_repositories_of_all_kinds(self) -> None:
        self.write(DRIFTS["a new knot"][0])
        self.commit("a pager")
        self.git("worktree", "add", "-q", str(self.root.parent / "beside"), "HEAD")
        self.git("clone", "-q", "--depth", "1", f"file://{self.root}", str(self.root.parent / "shallow"))
        for name, path in {"a worktree": "../beside", "a folder below": "desk"}.items():
            with self.subTest(name):
                self.assertEqual(len(self.result("--since", "HEAD~1", path=path)["new"]), 1)
        self.assertIn("shallow", self.drift("--since", "HEAD~1", path="../shallow", code=2).stderr)
        self.assertIn("no git repository", self.run_program("drift", str(self.root.parent / "cache"), "--since", "HEAD").stderr)

    def test_what_is_not_there_is_named(self) -> None:
        pointer = "version https://hollin.example/spec\noid sha256:" + "0" * 64 + "\nsize 12345\n"
        self.write({"desk/Big.java": pointer})
        self.git("update-index", "--add", "--cacheinfo", "160000," + self.git("rev-parse", "HEAD") + ",inner")
        self.git("add", "desk")
        self.git("commit", "-qm", "odd things")
        (self.root / "desk/Big.java").unlink()
        told = self.drift("--since", "HEAD").stderr
        self.assertIn("inner", told)
        self.assertIn("desk/Big.java", told)

    def test_no_filter_of_the_repository_runs(self) -> None:
        trap = f"touch {self.root.parent}/sprung; cat"
        self.write({".gitattributes": "*.java filter=trap diff=trap\n"})
        traps = ("filter.trap.clean", "filter.trap.smudge", "diff.trap.textconv", "diff.trap.command", "core.fsmonitor")
        for name in traps:
            self.git("config", name, trap)
        self.write(DRIFTS["a new knot"][0])
        self.drift("--since", "HEAD")
        self.drift("--over", "3")
        self.assertFalse((self.root.parent / "sprung").exists())

    def test_the_course(self) -> None:
        self.write(DRIFTS["a new knot"][0])
        self.commit("a pager")
        self.write({"desk/Desk.java": DESK.replace("    new Bell().ring();\n", "").replace("= new Feed()", "= null")})
        self.commit("loosened")
        points = json.loads(self.drift("--over", "10", "--format", "json").stdout)["result"]["points"]
        self.assertEqual([each["subject"] for each in points], ["as it was", "a pager", "loosened"])
        bonds = [each["totals"]["hard_bonds"] for each in points]
        self.assertTrue(bonds[0] < bonds[1] > bonds[2], bonds)
        self.assertEqual(len(self.drift("--over", "2", "--format", "csv").stdout.splitlines()), 3)
        self.assertIn("loosened", self.drift("--over", "1y").stdout)
        self.drift("--over", "3", "--figure", "c.svg")
        self.assertIn("<svg", (self.root / "c.svg").read_text())
        for wrong in ("0", "many", "3x"):
            self.assertIn("--over takes", self.drift("--over", wrong, code=2).stderr)
