"""Carrying steps out: each promise, and what tries to break it."""

from __future__ import annotations

import json
import os
import resource
import shutil
import signal
import subprocess
import sys
import time
import unittest
from pathlib import Path

import msgspec

from isodesm.codebase.reading import read
from isodesm.diagnosis.diagnose import diagnose
from isodesm.planning.model.step import Edit, Step
from isodesm.planning.planner.plan import plan
from isodesm.rewriting.changes import FileChange, StepRefused, changes_of
from isodesm.rewriting.journal import Journal
from isodesm.rewriting.records import DONE
from tests.support import TreeTest

FILES = {
    "desk/Bell.java": """package desk;
import java.io.*;
class Bell {
  void ring() throws IOException { new FileWriter("bell").close(); }
}
""",
    "desk/Desk.java": """package desk;
class Desk {
  private final Bell bell;
  Desk() { this.bell = new Bell(); }
  void open() throws Exception { bell.ring(); }
}
""",
    "desk/Main.java": """package desk;
class Main {
  public static void main(String[] arguments) throws Exception { new Desk().open(); }
}
""",
}
DESK = FILES["desk/Desk.java"]
ENDS = {
    "CRLF": lambda text: text.replace("\n", "\r\n").encode(),
    "byte-order mark": lambda text: b"\xef\xbb\xbf" + text.encode(),
    "no final line end": lambda text: text.rstrip("\n").encode(),
    "umlauts": lambda text: text.replace("void open", "/* Öffnen – ü */ void open").encode(),
}


class StepTest(TreeTest):
    def setUp(self) -> None:
        super().setUp()
        self.tree = self.root / "a tree ü"
        for name, text in FILES.items():
            (self.tree / name).parent.mkdir(parents=True, exist_ok=True)
            (self.tree / name).write_text(text)
        self.before = self.contents()

    def contents(self) -> dict[str, bytes]:
        return {
            path.relative_to(self.tree).as_posix(): path.read_bytes()
            for path in sorted(self.tree.rglob("*"))
            if path.is_file() and ".git" not in path.parts
        }

    def step(self, *options: str, code: int = 0, path: Path | None = None) -> subprocess.CompletedProcess[str]:
        done = self.run_program("step", str(path or self.tree), "--cache-dir", str(self.root / "cache"), *options)
        self.assertEqual(done.returncode, code, done.stdout + done.stderr)
        self.assertNotIn("Traceback", done.stderr)
        return done

    def take_all_back(self) -> None:
        self.assertIn("taken back", self.step("--undo").stderr)
        journal = Journal(self.tree, self.root / "cache")
        for entry in reversed(journal.entries()):
            journal.undo(entry)
        self.assertIn("No step", self.step("--undo").stderr)

    def git(self, *arguments: str) -> str:
        own = ["-c", "user.name=Ilva", "-c", "user.email=ilva@hollin.example", "-c", "init.defaultBranch=main"]
        done = subprocess.run(["git", *own, *arguments], cwd=self.tree, capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stderr)
        return done.stdout.strip()

    def repository(self) -> None:
        self.git("init", "-q")
        self.git("config", "user.name", "Ilva")
        self.git("config", "user.email", "ilva@hollin.example")
        self.git("add", ".")
        self.git("commit", "-qm", "as it was")


class CarryingTest(StepTest):
    def test_it_is_shown_and_nothing_changes(self) -> None:
        shown = self.step()
        self.assertIn("+++ b/desk/", shown.stdout)
        self.assertEqual(self.contents(), self.before)
        told = json.loads(self.step("--format", "json").stdout)["result"]
        self.assertIn(told["step"]["title"], shown.stdout)

    def test_all_steps_leave_what_their_patches_do(self) -> None:
        patches = self.root / "patches"
        self.run_program("plan", str(self.tree), "--steps", "0", "--format", "patch", "-o", str(patches))
        copy = self.root / "copy"
        shutil.copytree(self.tree, copy)
        self.assertGreater(len(list(patches.iterdir())), 1)
        for each in sorted(patches.iterdir()):
            subprocess.run(["git", "apply", str(each)], cwd=copy, check=True, capture_output=True)
        said = self.step("--write", "--all").stdout
        self.assertIn("now 0 hard bonds", said)
        self.assertEqual(self.contents(), {name: (copy / name).read_bytes() for name in self.contents()})
        self.assertNotEqual(self.contents(), self.before)
        self.assertIn("no step to carry out", self.step("--write").stderr)

    def test_undo_brings_every_step_back_whatever_the_bytes(self) -> None:
        for name, form in ENDS.items():
            with self.subTest(name):
                for path, text in FILES.items():
                    (self.tree / path).write_bytes(form(text))
                os.chmod(self.tree / "desk/Desk.java", 0o750)
                before = self.contents()
                self.step("--write", "--all")
                after = self.contents()
                self.assertNotEqual(after, before)
                self.assertEqual((self.tree / "desk/Desk.java").stat().st_mode & 0o777, 0o750)
                if name == "CRLF":
                    self.assertEqual({b"\n" in content.replace(b"\r\n", b"") for content in after.values()}, {False})
                if name == "byte-order mark":
                    self.assertTrue(after["desk/Desk.java"].startswith(b"\xef\xbb\xbf"))
                self.take_all_back()
                self.assertEqual(self.contents(), before)

    def test_steps_go_on_where_they_ended(self) -> None:
        one = [self.step("--write").stdout.splitlines()[0] for _ in range(2)]
        done = self.contents()
        self.step("--undo")
        self.assertEqual(self.step("--write").stdout.splitlines()[0], one[1])
        self.assertEqual(self.contents(), done)

    def test_ids_bring_what_they_need(self) -> None:
        steps = json.loads(self.run_program("plan", str(self.tree), "--format", "json").stdout)["result"]["steps"]
        last = next(each for each in reversed(steps) if each["needs"])
        said = json.loads(self.step("--write", "--id", last["id"], "--format", "json").stdout)["result"]
        self.assertEqual([each["id"] for each in said["steps"]][-1], last["id"])
        self.assertLessEqual(set(last["needs"]), {each["id"] for each in said["steps"]})
        self.assertIn("No step has the id", self.step("--write", "--id", "nobody", code=2).stderr)

    def test_a_saved_plan_counts_on_the_files_it_was_made_for(self) -> None:
        saved = self.root / "plan.json"
        self.run_program("plan", str(self.tree), "--format", "json", "-o", str(saved))
        desk = self.tree / "desk/Desk.java"
        desk.write_text(DESK + "// changed\n")
        changed = self.contents()
        self.assertIn("not as it was", self.step("--write", "--from", str(saved), "--all", code=2).stderr)
        self.assertEqual(self.contents()["desk/Desk.java"], changed["desk/Desk.java"])
        desk.write_text(DESK)
        self.take_all_back()
        self.step("--write", "--from", str(saved), "--all")
        self.assertNotEqual(self.contents(), self.before)
        saved.write_text("{}")
        self.assertIn("no plan saved", self.step("--from", str(saved), code=2).stderr)

    def test_a_path_may_be_a_link_or_no_folder(self) -> None:
        link = self.root / "link"
        link.symlink_to(self.tree)
        self.step("--write", path=link)
        self.assertNotEqual(self.contents(), self.before)
        self.assertIn("taken back", self.step("--undo").stderr)
        self.assertIn("in a folder", self.step(path=self.tree / "desk/Desk.java", code=2).stderr)


class CheckTest(StepTest):
    def test_a_red_step_is_taken_back_and_remembered(self) -> None:
        first = json.loads(self.step("--format", "json").stdout)["result"]["step"]["id"]
        said = self.step("--write", "--check", "test ! -e desk/BellPort.java || { echo wrong on line 7; exit 3; }", code=1)
        self.assertIn("wrong on line 7", said.stdout)
        self.assertIn("ended with 3", said.stdout)
        self.assertEqual(self.contents(), self.before)
        again = self.step("--write", "--all", "--format", "json")
        self.assertNotIn(
            first, [each["id"] for each in json.loads(again.stdout or '{"result": {"steps": []}}')["result"]["steps"]]
        )
        self.take_all_back()
        for name in FILES:
            (self.tree / name).write_text(FILES[name] + "// another\n")
        self.assertEqual(json.loads(self.step("--format", "json").stdout)["result"]["step"]["id"], first)

    def test_all_goes_on_after_a_red_step_unless_it_is_told_to_stop(self) -> None:
        (self.tree / "desk/Post.java").write_text(
            "package desk;\nimport java.io.*;\nclass Post {\n  private final Horn horn = new Horn();\n"
            "  void send() throws IOException { horn.blow(); }\n}\n"
        )
        (self.tree / "desk/Horn.java").write_text(
            "package desk;\nimport java.io.*;\nclass Horn {\n"
            '  void blow() throws IOException { new FileWriter("h").close(); }\n}\n'
        )
        check = ("--write", "--all", "--check", "test ! -e desk/BellPort.java", "--format", "json")
        stopped = json.loads(self.step(*check, "--stop", code=1).stdout)["result"]["steps"]
        self.assertEqual([each["state"] for each in stopped][-1:], ["taken back"])
        self.assertEqual(sum(each["state"] == "taken back" for each in stopped), 1)
        self.take_all_back()
        for path in (self.tree / "desk").iterdir():  # other files: what was red is offered again
            path.write_text(path.read_text() + "// later\n")
        went_on = json.loads(self.step(*check, code=1).stdout)["result"]["steps"]
        states = [each["state"] for each in went_on]
        self.assertIn("kept", states[states.index("taken back") :])
        self.assertIn("give one of them", self.step("--write", "--stop", "--keep-going", code=2).stderr)

    def test_a_red_step_is_offered_again_by_another_program(self) -> None:
        first = json.loads(self.step("--format", "json").stdout)["result"]["step"]["id"]
        self.step("--write", "--check", "test ! -e desk/BellPort.java", code=1)
        kept = next((self.root / "cache").rglob("red.json"))
        kept.write_text(json.dumps({"0.0": next(iter(json.loads(kept.read_text()).values()))}))
        self.assertEqual(json.loads(self.step("--format", "json").stdout)["result"]["step"]["id"], first)

    def plan(self, *options: str, code: int = 0) -> subprocess.CompletedProcess[str]:
        done = self.run_program("plan", str(self.tree), "--cache-dir", str(self.root / "cache"), *options)
        self.assertEqual(done.returncode, code, done.stdout + done.stderr)
        return done

    def test_a_plan_leaves_out_what_turns_the_check_red_in_a_copy(self) -> None:
        ids = [each["id"] for each in json.loads(self.plan("--format", "json").stdout)["result"]["steps"]]
        red = "if test -e desk/BellPort.java; then echo compiling; echo 'Bell.java:3: error: no'; exit 1; fi"
        done = self.plan("--format", "json", "--check", red)
        found = json.loads(done.stdout)["result"]
        self.assertNotIn(ids[0], [each["id"] for each in found["steps"]])
        self.assertIn(f"its step `{ids[0]}` turned the check red: Bell.java:3: error: no", [e["reason"] for e in found["left"]])
        self.assertIn("1 red and left out", done.stderr)
        self.assertEqual(self.contents(), self.before)
        green = json.loads(self.plan("--format", "json", "--check", "test -e desk/Desk.java").stdout)["result"]
        self.assertEqual([each["id"] for each in green["steps"]], ids)

    def test_a_plan_says_that_its_check_is_red_before_any_step(self) -> None:
        said = self.plan("--check", "echo 'error: no such library'; exit 2", code=2).stderr
        self.assertIn("red before any step", said)
        self.assertIn("error: no such library", said)
        self.assertEqual(self.contents(), self.before)

    def test_a_check_that_is_red_anyway_says_nothing_about_a_step(self) -> None:
        told = self.step("--write", "--all", "--check", "exit 5", "--format", "json", code=1)
        steps = json.loads(told.stdout)["result"]["steps"]
        self.assertEqual([each["red_before"] for each in steps], [True])
        self.assertIn(steps[0]["id"], self.step("--format", "json").stdout)

    def test_a_green_check_runs_in_the_tree(self) -> None:
        told = json.loads(self.step("--write", "--check", "ls desk > ../listed", "--format", "json").stdout)["result"]
        self.assertEqual(told["steps"][0]["state"], "kept")
        self.assertIsNotNone(told["steps"][0]["seconds"])
        self.assertIn("Desk.java", (self.root / "listed").read_text())

    def test_checks_that_misbehave(self) -> None:
        cases = {
            "hangs": ("sleep 60", ("--check-seconds", "0.5"), 1),
            "leaves children": ("(sleep 60; touch ../late) & exit 0", (), 0),
            "says megabytes": ("yes line | head -c 3000000; exit 1", (), 1),
            "changes our files": (
                "test ! -e desk/BellPort.java || { for f in desk/*.java; do echo '// tidy' >> $f; done; exit 1; }",
                (),
                1,
            ),
            "is not there": ("no-such-program", (), 1),
        }
        for name, (command, options, code) in cases.items():
            with self.subTest(name):
                begin = time.monotonic()
                self.step("--write", "--check", command, *options, code=code)
                self.assertLess(time.monotonic() - begin, 30)
                if code == 0:
                    self.step("--undo")
                untouched = {key: value for key, value in self.contents().items() if key in self.before}
                if name == "changes our files":  # those of the step are back, the others are the check's own doing
                    self.assertEqual(untouched["desk/Bell.java"], self.before["desk/Bell.java"])
                    for path, content in self.before.items():
                        (self.tree / path).write_bytes(content)
                else:
                    self.assertEqual(untouched, self.before)
                shutil.rmtree(self.root / "cache")
        self.assertFalse((self.root / "late").exists())

    def test_a_check_that_tidies_up_may_be_undone(self) -> None:
        self.step("--write", "--check", "for f in desk/*.java; do echo '// tidy' >> $f; done")
        self.step("--undo")
        self.assertEqual(self.contents()["desk/Bell.java"].removesuffix(b"// tidy\n"), self.before["desk/Bell.java"])

    def test_the_settings_may_name_the_check(self) -> None:
        (self.tree / "isodesm.toml").write_text('[step]\ncheck = "exit 4"\n')
        self.assertIn("ended with 4", self.step("--write", code=1).stdout)


class RepositoryTest(StepTest):
    def test_one_commit_for_each_step_and_nothing_else(self) -> None:
        self.repository()
        (self.tree / "notes.txt").write_text("mine")
        (self.tree / "other.txt").write_text("staged")
        self.git("add", "other.txt")
        said = json.loads(self.step("--write", "--count", "2", "--commit", "--format", "json").stdout)["result"]
        self.assertEqual(self.git("log", "--format=%s", "-2").splitlines(), [each["title"] for each in reversed(said["steps"])])
        self.assertIn(f"Step: {said['steps'][1]['id']}", self.git("log", "--format=%b", "-1"))
        self.assertEqual(self.git("status", "--porcelain").splitlines(), ["A  other.txt", "?? notes.txt"])

    def test_work_that_no_commit_holds_is_safe(self) -> None:
        self.repository()
        for name in FILES:
            (self.tree / name).write_text(FILES[name] + "// mine\n")
        mine = self.contents()
        self.assertIn("no commit holds", self.step("--write", "--all", code=2).stderr)
        self.assertEqual(self.contents(), mine)
        self.step("--write", "--all", "--dirty")
        self.assertNotEqual(self.contents(), mine)

    def test_without_commits_steps_follow_each_other(self) -> None:
        self.repository()
        self.step("--write", "--all")
        self.assertNotEqual(self.contents(), self.before)

    def test_a_repository_that_is_not_ready(self) -> None:
        self.repository()
        (self.tree / ".git/MERGE_HEAD").write_text(self.git("rev-parse", "HEAD") + "\n")
        self.assertIn("a merge", self.step("--write", "--commit", code=2).stderr)
        (self.tree / ".git/MERGE_HEAD").unlink()
        hook = self.tree / ".git/hooks/pre-commit"
        hook.parent.mkdir(exist_ok=True)
        hook.write_text("#!/bin/sh\necho not today >&2\nexit 1\n")
        hook.chmod(0o755)
        self.assertIn("not today", self.step("--write", "--commit", code=1).stdout)
        self.assertEqual(self.contents(), self.before)
        self.assertEqual(self.git("status", "--porcelain"), "")
        hook.unlink()
        shutil.rmtree(self.root / "cache")
        self.git("checkout", "-q", "--detach")
        self.step("--write", "--commit")
        self.assertEqual(self.git("status", "--porcelain"), "")
        self.assertIn("no git repository", self.plain_folder().stderr)

    def plain_folder(self) -> subprocess.CompletedProcess[str]:
        shutil.rmtree(self.tree / ".git")
        return self.step("--write", "--commit", code=2)


class RefusalTest(StepTest):
    def setUp(self) -> None:
        super().setUp()
        codebase = read(self.tree)
        self.any_step = plan(codebase, diagnose(codebase)).steps[0]

    def planned(self, *edits: Edit) -> Step:
        return msgspec.structs.replace(self.any_step, edits=edits, files=())

    def test_what_must_not_be_touched(self) -> None:
        outside = self.root / "outside.java"
        outside.write_text("class Outside {}\n")
        (self.tree / "link.java").symlink_to(outside)
        (self.tree / "out").symlink_to(self.root)
        os.mkfifo(self.tree / "pipe.java")
        (self.tree / "fixed.java").write_text("x")
        os.chmod(self.tree / "fixed.java", 0o444)
        cases = {
            "link.java": "link",
            "out/outside.java": "link",
            "../outside.java": "does not lie",
            "/etc/hosts": "does not lie",
            "pipe.java": "no regular file",
            "fixed.java": "read-only",
            "nobody.java": "can't be read",
        }
        for path, reason in cases.items():
            with self.subTest(path), self.assertRaisesRegex(StepRefused, reason):
                changes_of(self.tree, self.planned(Edit(path, 1, "", 0, 0, "x")))
        with self.assertRaisesRegex(StepRefused, "there already"):
            changes_of(self.tree, self.planned(Edit("fixed.java", 1, "", text="x", new=True)))
        with self.assertRaisesRegex(StepRefused, "a person"):
            changes_of(self.tree, self.planned(Edit("desk/Desk.java", 1, "", by_hand=True)))
        self.assertEqual(outside.read_text(), "class Outside {}\n")


class InterruptedTest(StepTest):
    """A run may end at any moment: at each call that changes the disk, one after the other."""

    CALLS = ("replace", "link", "unlink", "fsync", "mkdir", "chmod")

    def changes(self) -> list[FileChange]:
        content = {name: (self.tree / name).read_bytes() for name in FILES}
        found = [FileChange(name, text, text + b"// more\n", 0o644) for name, text in content.items()]
        return [*found, FileChange("desk/inner/New.java", None, b"class New {}\n", 0o644)]

    def killed_at(self, moment: int) -> bool:
        """Carry the changes out in a process that is killed at the so-manieth call; whether it was."""
        child = os.fork()
        if child == 0:
            left = [moment]
            for name in self.CALLS:
                setattr(os, name, self.counted(getattr(os, name), left))
            try:
                Journal(self.tree, self.root / "journal").carry_out("a-step", "A step", self.changes()).note(DONE)
            finally:
                os._exit(0)
        return os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]) == -signal.SIGKILL

    @staticmethod
    def counted(call, left):
        def made(*arguments, **options):
            left[0] -= 1
            if left[0] < 0:
                os.kill(os.getpid(), signal.SIGKILL)
            return call(*arguments, **options)

        return made

    def test_killed_at_every_moment(self) -> None:
        after = None
        for moment in range(200):
            with self.subTest(moment=moment):
                was_killed = self.killed_at(moment)
                journal = Journal(self.tree, self.root / "journal")
                if (entry := journal.interrupted()) is not None:
                    journal.undo(entry)
                    self.assertEqual(self.contents(), self.before)
                elif not journal.entries():
                    self.assertEqual(self.contents(), self.before)
                else:
                    after = self.contents()
                    self.assertEqual(len(after), len(self.before) + 1)
                    journal.undo(journal.entries()[-1])
                    self.assertEqual(self.contents(), self.before)
                self.assertFalse((self.tree / "desk/inner").exists())
                shutil.rmtree(self.root / "journal", ignore_errors=True)
            if not was_killed:
                break
        self.assertGreater(moment, 20)
        self.assertIsNotNone(after)

    def test_killed_while_taking_back(self) -> None:
        for moment in range(60):
            journal = Journal(self.tree, self.root / "journal")
            journal.carry_out("a-step", "A step", self.changes())
            child = os.fork()
            if child == 0:
                left = [moment]
                for name in self.CALLS:
                    setattr(os, name, self.counted(getattr(os, name), left))
                try:
                    journal.undo(journal.entries()[-1])
                finally:
                    os._exit(0)
            killed = os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]) == -signal.SIGKILL
            for entry in journal.entries():
                journal.undo(entry)
            self.assertEqual(self.contents(), self.before)
            shutil.rmtree(self.root / "journal", ignore_errors=True)
            if not killed:
                return
        self.fail("it never came to its end")

    def test_others_are_told_of_an_interrupted_step(self) -> None:
        self.killed_at(30)
        shutil.copytree(self.root / "journal", self.root / "cache")
        told = self.run_program("scan", str(self.tree), "--cache-dir", str(self.root / "cache")).stderr
        self.assertIn("was interrupted here", told)
        self.assertIn("interrupted", self.step("--write", code=2).stderr)
        self.step("--undo")
        self.assertEqual(self.contents(), self.before)

    def test_a_full_disk(self) -> None:
        big = DESK + "// the desk is open\n" * 15_000
        (self.tree / "desk/Desk.java").write_text(big)
        before = self.contents()

        def small_files() -> None:
            signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
            resource.setrlimit(resource.RLIMIT_FSIZE, (100_000, 100_000))

        done = subprocess.run(
            [sys.executable, "-m", "isodesm", "step", str(self.tree), "--write", "--all", "--no-cache", "--workers", "1"],
            capture_output=True,
            text=True,
            check=False,
            env={**os.environ, "XDG_CACHE_HOME": str(self.root / "cache")},
            preexec_fn=small_files,
        )
        self.assertEqual(done.returncode, 74, done.stderr)
        self.assertNotIn("Traceback", done.stderr)
        self.assertEqual(self.contents()["desk/Desk.java"], before["desk/Desk.java"])
        self.assertFalse([name for name in self.contents() if ".isodesm" in name])

    def test_two_runs_at_once(self) -> None:
        with Journal(self.tree, self.root / "cache").held():
            self.assertIn("Another run", self.step("--write", code=2).stderr)
        self.assertEqual(self.contents(), self.before)


if __name__ == "__main__":
    unittest.main()
