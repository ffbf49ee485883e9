"""What a stranger's codebase, another user, or somebody at work meanwhile must not bring about: attacks that once worked."""

from __future__ import annotations

import json
import os
import re
import shutil
import signal
import socket
import subprocess
import sys
import time
import unittest
from pathlib import Path
from unittest import mock

from isodesm.disk import inside as disk
from isodesm.disk.inside import Inside, LeadsOut
from isodesm.planning.model.step import digest_of
from isodesm.rewriting import apply, journal
from isodesm.rewriting.changes import StepRefused
from isodesm.rewriting.journal import Journal
from tests.faults import FAULTS, FILES, PATHS, Ground
from tests.support import share
from tests.test_step import StepTest

MINE = "// mine\n"
SAVE = "echo '// mine' >> desk/Bell.java; "
NOBODY = 65534
STRANGER = """
import socket, time

def listening():
    rows = [line.split() for line in open("/proc/net/tcp").read().splitlines()[1:]]
    return {int(row[1].rpartition(":")[2], 16) for row in rows if row[3] == "0A"}

before = listening()
print("looking", flush=True)
while True:
    for port in sorted(listening() - before):
        try:
            socket.create_connection(("127.0.0.1", port), timeout=1).close()
            print("met", port, flush=True)
        except OSError:
            pass
    time.sleep(0.01)
"""
"""What another user does: finds every port that is opened from now on, and tries to speak to it."""


def _as_from_a_terminal() -> None:
    """These tests may run without a terminal to be cut off from, and then its end means nothing."""
    signal.signal(signal.SIGHUP, signal.SIG_DFL)


class OutsideTest(StepTest):
    """Nothing outside the codebase is written, run or shown."""

    def victim(self, text: str = "export A=1\n") -> Path:
        path = self.root / "victim"
        path.write_text(text)
        path.chmod(0o600)
        return path

    def unharmed(self) -> None:
        path = self.root / "victim"
        self.assertEqual((path.read_text(), path.stat().st_mode & 0o777), ("export A=1\n", 0o600))

    def test_a_link_under_a_name_that_was_written_once(self) -> None:
        for name in (".isodesm-undo.tmp", ".isodesm-1-0.new"):
            (self.tree / "desk" / name).symlink_to(self.victim())
        self.step("--write", "--check", "false", code=1)
        self.step("--write")
        self.step("--undo")
        self.unharmed()
        self.assertFalse(any((self.tree / name).is_symlink() for name in FILES))

    def test_links_under_the_usual_names_of_results(self) -> None:
        for command, name in (("mark", "isodesm.mark.json"), ("setup", "isodesm.toml"), ("report", "report.html")):
            link = self.root / name if command == "report" else self.tree / name
            for target in (self.victim(), self.root / "nobody"):
                link.symlink_to(target)
                done = self.run_program(command, str(self.tree))
                self.assertEqual(done.returncode, 2, done.stderr)
                self.assertRegex(done.stderr, "behind a link|is there already|can't be read")
                self.unharmed()
                self.assertFalse((self.root / "nobody").exists())
                link.unlink()
        self.run_program("mark", str(self.tree), "-o", str(self.root / "told"))
        os.link(self.root / "told", self.tree / "isodesm.mark.json")
        self.assertIn("another name", self.run_program("mark", str(self.tree)).stderr)

    def test_a_cache_in_the_tree_is_not_written_through_links(self) -> None:
        for name in ("facts.sqlite", "facts.sqlite-wal"):
            folder = self.tree / f"cache {name}"
            folder.mkdir()
            (folder / name).symlink_to(self.victim())
            done = self.run_program("scan", str(self.tree), "--cache-dir", str(folder))
            self.assertEqual(done.returncode, 0, done.stderr)
            self.unharmed()

    def plan(self) -> dict:
        saved = self.root / "plan.json"
        self.run_program("plan", str(self.tree), "--format", "json", "-o", str(saved))
        return json.loads(saved.read_text())

    def from_plan(self, made: dict, *options: str) -> subprocess.CompletedProcess[str]:
        (self.root / "forged.json").write_text(json.dumps(made))
        done = self.step("--write", "--from", str(self.root / "forged.json"), *options, code=2)
        self.assertEqual(self.contents(), self.before)
        return done

    def test_forged_plans(self) -> None:
        plan = self.plan()
        new = {"line": 1, "action": "", "start": 0, "end": 0, "text": "x", "new": True, "by_hand": False}
        files = {
            ".git/hooks/zz": "git's own",
            ".GIT/config": "git's own",
            "sub/.git /config": "git's own",
            ".gitattributes": "git's own",
            "git~1/config": "git's own",
            "bare/hooks/zz": "inside of a repository",
            "a\0b": "no name",
            "x" * 300: "longer than a name",
            "../out": "does not lie",
        }
        (self.tree / "bare/objects").mkdir(parents=True)
        (self.tree / "bare/refs").mkdir()
        (self.tree / "bare/HEAD").write_text("ref: refs/heads/main\n")
        self.before = self.contents()
        for path, reason in files.items():
            with self.subTest(path=path[:30]):
                made = json.loads(json.dumps(plan))
                made["result"]["steps"] = [{**made["result"]["steps"][0], "edits": [{**new, "file": path}]}]
                self.assertIn(reason, self.from_plan(made, "--dirty").stderr)
        first = plan["result"]["steps"][0]
        old = {**new, "file": "desk/Desk.java", "new": False}
        digest = {each["file"]: each for each in first["files"]}
        known = {**next(iter(digest.values())), "file": "desk/Desk.java"}
        known["before"] = digest_of((self.tree / "desk/Desk.java").read_bytes())
        for edits, given, reason in (
            ([old], [], "does not say what"),
            ([{**old, "start": -5}], [known], "does not have"),
            ([{**old, "start": 3, "end": 9}, {**old, "start": 5, "end": 7}], [known], "does not have"),
            ([{**old, "end": 10**9}], [known], "does not have"),
        ):
            made = json.loads(json.dumps(plan))
            made["result"]["steps"] = [{**first, "edits": edits, "files": given}]
            self.assertIn(reason, self.from_plan(made).stderr)
        made = json.loads(json.dumps(plan))
        made["result"]["steps"][0]["id"] = "../" * 12 + str(self.root / "pwn").lstrip("/")
        (self.root / "forged.json").write_text(json.dumps(made))
        self.step("--write", "--from", str(self.root / "forged.json"), "--check", "echo hello")
        self.assertEqual(list(self.root.glob("pwn*")), [])

    def test_forged_and_damaged_journals(self) -> None:
        self.step("--write")
        folder = next((self.root / "cache/steps").glob("*/1"))
        record, victim = folder / "record.json", self.victim()
        known = json.loads(record.read_bytes())
        forged = {**known, "state": "begun"}
        forged["files"] = [{**each, "beside": "../../victim"} for each in known["files"]]
        elsewhere = {**known, "files": [{**each, "path": "../victim"} for each in known["files"]]}
        for content in (json.dumps(forged), json.dumps(elsewhere), "", "{", "[]", '{"root": 1}'):
            record.write_text(content)
            (folder.parent / "abc").mkdir(exist_ok=True)
            (folder.parent / "abc/record.json").write_text("?")
            told = self.step("--undo")
            self.assertIn("left aside", told.stderr)
            self.assertIn("No step", told.stderr)
            self.assertEqual(self.run_program("scan", str(self.tree), "--cache-dir", str(self.root / "cache")).returncode, 0)
            self.unharmed()
            self.assertTrue(victim.exists())
        record.write_text(json.dumps(known))
        (folder / "0.before").write_text("something else")
        self.assertIn("no longer has what it held", self.step("--undo").stderr)

    def test_a_check_of_a_codebase_is_shown_however_quiet_it_is_to_be(self) -> None:
        (self.tree / "isodesm.toml").write_text('[step]\ncheck = "echo hello"\n')
        self.assertIn("check after each step: echo hello", self.step("--write", "-q").stderr)

    def test_no_module_of_the_current_folder_is_taken_for_ours(self) -> None:
        for name in ("msgspec", "isodesm", "multiprocessing", "json"):
            self.write({f"hostile/{name}/__init__.py": f"open({str(self.root / 'pwned')!r}, 'w')"})
        for name in ("one", "two"):
            shutil.copytree(self.tree, self.root / "hostile" / name)
        command = "['isodesm', 'fleet', 'one', 'two', '--workers', '2']"
        code = f"from isodesm.cli.app import main; import sys; sys.argv = {command}; main()"
        done = subprocess.run(
            [sys.executable, "-P", "-c", code], cwd=self.root / "hostile", capture_output=True, text=True, check=False
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        spawned = (
            "from multiprocessing import get_context; from isodesm.reading.workers import modules_of_ours\n"
            "if __name__ == '__main__':\n"
            "    each = get_context('spawn').Process(target=print, args=('begun',))\n"
            "    with modules_of_ours():\n        each.start()\n"
            "    each.join(); sys = __import__('sys'); sys.exit(each.exitcode)"
        )
        done = subprocess.run(
            [sys.executable, "-P", "-c", spawned], cwd=self.root / "hostile", capture_output=True, text=True, check=False
        )
        self.assertIn("begun", done.stdout, done.stderr)
        self.assertFalse((self.root / "pwned").exists())

    def test_folders_of_ours_are_closed_to_others(self) -> None:
        self.step("--write", "--check", "true")
        for folder in (self.root / "cache", *(self.root / "cache/steps").rglob("*")):
            self.assertEqual(folder.stat().st_mode & 0o077, 0, folder)

    def test_without_folders_that_can_be_held_open(self) -> None:
        """The way of systems that can't open one entry relative to another, and have no such locks or process groups."""
        with (
            mock.patch.object(disk, "HOLDS_FOLDERS", False),
            mock.patch.object(journal, "fcntl", None),
            mock.patch.object(os, "killpg", side_effect=AttributeError),
        ):
            tree, ground = Inside(self.tree), Ground(self.root / "ground")
            (self.tree / "out").symlink_to(self.root)
            (self.tree / "victim").symlink_to(self.victim())
            for path in ("out/victim", "victim", "../victim", ".git/x"):
                with self.assertRaises(LeadsOut):
                    tree.read(path) if path == "victim" else tree.put(path, b"", 0o600)
            tree.put("victim", b"whole", 0o644)  # gives the name to a file of its own
            self.assertFalse((self.tree / "victim").is_symlink())
            self.unharmed()
            ground.run(PATHS["green"])
            self.assertEqual(ground.contents(), ground.after)
            apply.take_back(ground.tree, ground.journal())
            self.assertEqual(ground.contents(), ground.before)
            with ground.journal().held(), self.assertRaisesRegex(StepRefused, "Another run"):
                ground.run(PATHS["written"])


class MeanwhileTest(StepTest):
    """What a person saves while a step is carried out is not lost, and a step cut off can always be taken back."""

    def kept_aside(self) -> list[str]:
        return [path.read_text() for path in sorted(self.root.glob("cache/steps/*/aside/*/*"))]

    def bell(self) -> str:
        return (self.tree / "desk/Bell.java").read_text()

    def test_saved_while_a_check_turns_red(self) -> None:
        told = self.step("--write", "--check", f"test -e ../once || {{ {SAVE}touch ../once; }}; false", code=1)
        self.assertEqual(self.contents(), self.before)
        self.assertRegex(told.stderr, r"desk/Bell.java was changed by somebody else meanwhile; that text is kept: \S+")
        self.assertTrue(any(MINE in text for text in self.kept_aside()))

    def test_saved_while_a_check_is_broken_off(self) -> None:
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            with self.subTest(signal=number):
                shutil.rmtree(self.root / "cache", ignore_errors=True)
                late = self.root / "late"
                check = f"{SAVE}touch ../../running; sleep 30; touch {late}"
                command = [sys.executable, "-m", "isodesm", "step", str(self.tree), "--write", "--check", check]
                command += ["--cache-dir", str(self.root / "cache")]
                run = subprocess.Popen(
                    command,
                    stderr=subprocess.PIPE,
                    stdout=subprocess.PIPE,
                    text=True,
                    start_new_session=True,
                    preexec_fn=_as_from_a_terminal,
                )
                running = self.root.parent / "running"
                until = time.monotonic() + 60
                while not running.exists() and time.monotonic() < until:
                    time.sleep(0.05)
                running.unlink()
                run.send_signal(number)
                _, said = run.communicate(timeout=60)
                self.assertIn("that text is kept", said)
                self.assertEqual(self.contents(), self.before)
                self.assertTrue(any(MINE in text for text in self.kept_aside()))
                self.assertEqual(subprocess.run(["pgrep", "-f", str(late)], capture_output=True, check=False).stdout, b"")

    def test_saved_between_two_renames(self) -> None:
        ground = Ground(self.root / "ground")
        kept, rename = ground.journal(), Inside.rename
        renamed: list[str] = []

        def meddled(own: Inside, beside: str, path: str) -> None:
            rename(own, beside, path)
            if path in FILES and not renamed:
                renamed.append(path)
                (ground.tree / "desk/Main.java").write_text("mine\n")

        with mock.patch.object(Inside, "rename", meddled), self.assertRaisesRegex(StepRefused, "Main.java changed while"):
            apply.take(ground.tree, ground.step, kept, PATHS["written"].wish)
        self.assertEqual(ground.contents(), {**ground.before, "desk/Main.java": b"mine\n"})
        self.assertIsNone(kept.interrupted())

    def test_a_step_that_was_cut_off_and_edited_can_be_taken_back(self) -> None:
        ground = Ground(self.root / "ground")
        said: list[str] = []
        for moment in range(20, 60, 10):
            ground.faulty(PATHS["written"], FAULTS["killed"], moment)
            (ground.tree / "desk/Main.java").write_text("mine\n")
            if ground.journal().interrupted() is not None:
                done = apply.take_back(ground.tree, Journal(ground.tree, ground.cache, said.append))
                self.assertEqual([each.path for each in done.aside] if done else [], ["desk/Main.java"])
                self.assertEqual(ground.contents(), {**ground.before, "desk/Main.java": b"mine\n"})
                texts = [path.read_bytes() for path in ground.cache.rglob("aside/*/*")]
                self.assertLessEqual({ground.before["desk/Main.java"], ground.after["desk/Main.java"]}, set(texts))
            ground.restore()
        self.assertIn("stays as it is", said[0])

    def test_taking_back_that_is_cut_off_is_said_and_goes_on(self) -> None:
        ground = Ground(self.root / "ground")
        met = 0
        for moment in range(88, 124, 4):
            ground.faulty(PATHS["taken back"], FAULTS["killed"], moment)
            entry = ground.journal().interrupted()
            if entry is not None and entry.record.state == "undoing":
                met += 1
                told = self.run_program("scan", str(ground.tree), "--cache-dir", str(ground.cache)) if met == 1 else None
                self.assertIn("was interrupted here", told.stderr if told else "was interrupted here")
            self.assertEqual(ground.trouble(PATHS["taken back"]), "")
            ground.restore()
        self.assertGreater(met, 3)

    def test_faults_at_every_moment(self) -> None:
        """Some of those that `benchmarks/faults.py` injects; and one that must be noticed."""
        ground = Ground(self.root / "ground")
        for number, (name, path) in enumerate(PATHS.items()):
            for offset, (what, fault) in enumerate(FAULTS.items()):
                for moment in range(3 + 5 * (number + offset) % 17, 400, share("fuzz", 97, 29)):
                    met = ground.faulty(path, fault, moment)
                    with self.subTest(path=name, fault=what, moment=moment):
                        self.assertEqual(ground.trouble(path), "")
                    ground.restore()
                    if not met:
                        break
        with mock.patch.object(Journal, "_aside", lambda *given, **options: mock.DEFAULT):
            ground.faulty(PATHS["red, saved meanwhile"], FAULTS["killed"], 10_000)
        self.assertIn("neither", ground.trouble(PATHS["written"]) or "neither")

    def test_any_kept_step_whose_files_allow_it(self) -> None:
        ground = Ground(self.root / "ground")
        ground.run(PATHS["written"])
        ground.follow("desk/Desk.java")
        with self.assertRaisesRegex(StepRefused, "Desk.java was changed since a-step .* by next-step; take that"):
            apply.take_back(ground.tree, ground.journal(), "a-step")
        self.assertIsNone(apply.take_back(ground.tree, ground.journal(), "nobody"))
        apply.take_back(ground.tree, ground.journal(), "next-step")
        ground.follow("other.java")
        apply.take_back(ground.tree, ground.journal(), "a-step")
        self.assertEqual(ground.contents(), {**ground.before, "other.java": b"// next\n"})
        self.assertIn("was carried out here", self.step("--undo", "--id", "nobody").stderr)

    def test_a_commit_is_taken_back_or_said_to_stay(self) -> None:
        self.repository()
        self.step("--write", "--commit")
        made = self.git("rev-parse", "--short", "HEAD")
        self.assertIn(f"commit {made} stays", self.step("--undo").stderr)
        self.git("reset", "-q", "--hard", "HEAD")
        self.git("revert", "--no-edit", "HEAD")
        self.step("--write", "--commit")
        self.step("--undo", "--commit")
        self.assertEqual(self.contents(), self.before)
        self.assertEqual(self.git("status", "--porcelain"), "")
        self.assertIn("Take back: ", self.git("log", "-1", "--format=%s"))

    def test_what_was_not_checked_is_said(self) -> None:
        self.assertIn("not checked: no build command", self.step("--write").stdout)

    def test_a_file_with_two_names(self) -> None:
        for name in FILES:
            if (self.tree / name).exists():
                os.link(self.tree / name, self.root / Path(name).name)
        self.assertIn("hard link", self.step("--write", code=2).stderr)
        self.assertEqual(self.contents(), self.before)


class RepositoryTest(StepTest):
    """Repositories in unusual states."""

    def test_a_folder_that_git_refuses(self) -> None:
        self.repository()
        (self.tree / "desk/Bell.java").write_text(self.before["desk/Bell.java"].decode() + MINE)
        config = self.tree / ".git/config"
        config.write_text(config.read_text() + "[broken")
        self.assertIn("git gives no answer", self.step("--write", code=2).stderr)
        self.step("--write", "--dirty")

    def test_steps_in_the_middle_of_something(self) -> None:
        self.repository()
        for file in ("MERGE_HEAD", "CHERRY_PICK_HEAD", "REVERT_HEAD", "rebase-merge"):
            (self.tree / ".git" / file).write_text(self.git("rev-parse", "HEAD") + "\n")
            self.assertIn("in the middle of", self.step("--write", "--commit", code=2).stderr)
            (self.tree / ".git" / file).unlink()
        self.assertEqual(self.contents(), self.before)

    def test_submodules_and_git_folders_elsewhere(self) -> None:
        other = self.root / "other"
        shutil.copytree(self.tree, other)
        self.repository()
        subprocess.run(["git", "init", "-q"], cwd=other, check=True)
        for command in (["add", "."], ["-c", "user.name=I", "-c", "user.email=i@hollin.example", "commit", "-qm", "x"]):
            subprocess.run(["git", *command], cwd=other, check=True)
        self.git("-c", "protocol.file.allow=always", "submodule", "--quiet", "add", str(other), "sub")
        self.git("commit", "-qm", "with it")
        done = self.run_program("step", str(self.tree), "--write", "--all", "--cache-dir", str(self.root / "cache"))
        self.assertIn("no commit holds", done.stderr)
        self.git("checkout", "-q", ".")
        self.git("clean", "-fdq")
        shutil.rmtree(self.root / "cache")
        self.step("--write", "--commit", path=self.tree / "sub")
        self.assertIn(
            "Step: ", subprocess.run(["git", "log", "-1"], cwd=self.tree / "sub", capture_output=True, text=True).stdout
        )
        shutil.move(self.tree / ".git", self.root / "away")
        (self.tree / ".git").write_text(f"gitdir: {self.root / 'away'}\n")
        self.assertIn("no commit holds", self.step("--write", "--all", code=2).stderr)
        (self.tree / ".git").write_text("gitdir: /nowhere\n")
        self.assertIn("git gives no answer", self.step("--write", code=2).stderr)

    def test_alternates_and_an_earlier_clock(self) -> None:
        self.repository()
        clone = self.root / "clone"
        subprocess.run(["git", "clone", "-q", "--shared", str(self.tree), str(clone)], check=True)
        for name, value in (("user.name", "Ilva"), ("user.email", "ilva@hollin.example")):
            subprocess.run(["git", "config", name, value], cwd=clone, check=True)
        self.step("--write", "--commit", path=clone)
        self.step("--undo", "--commit", path=clone)
        self.step("--write")
        for path in self.root.glob("cache/**/*"):
            os.utime(path, (4e9, 4e9))  # written on a day to come
        self.step("--undo")
        self.assertEqual(self.contents(), self.before)

    def test_sources_that_are_not_utf_8(self) -> None:
        for form, lead in (("utf-16-le", b"\xff\xfe"), ("utf-16-be", b"\xfe\xff"), ("latin-1", b"")):
            with self.subTest(form):
                for name, content in self.before.items():
                    text = content.decode().replace("class Desk", "/* \u00d6ffnen */ class Desk")
                    (self.tree / name).write_bytes(lead + text.encode(form))
                before = self.contents()
                done = self.run_program("step", str(self.tree), "--write", "--all", "--cache-dir", str(self.root / "cache"))
                self.assertNotIn("mistake of ours", done.stderr)
                for name, content in self.contents().items():
                    if name in before and content != before[name]:
                        content.removeprefix(lead).decode(form)
                        self.assertTrue(content.startswith(lead))
                        self.assertIn("\u00d6ffnen".encode(form), b"".join(self.contents().values()))
                for entry in reversed(Journal(self.tree, self.root / "cache").entries()):
                    self.step("--undo", "--id", entry.record.id)
                self.assertEqual(self.contents(), before)


class PatternsTest(StepTest):
    """Ignore files of strangers."""

    def test_patterns_that_took_for_ever_or_could_not_be_read(self) -> None:
        (self.tree / ("a" * 60 + ".java")).write_text("class Long {}")
        for line in ("*a*a*a*a*a*a*a*a*a*a*a*ab", "*" + "a*" * 400 + "b", "**/" + "a/**/" * 300 + "b", "[z-a]", "[[:alpha:]"):
            with self.subTest(line[:20]):
                (self.tree / ".gitignore").write_text(f"# mine\n{line}\n")
                done = self.run_program("scan", str(self.tree))
                self.assertEqual(done.returncode, 0, done.stderr)
                self.assertNotIn("Warning", done.stderr)
                if line.startswith("["):
                    self.assertRegex(done.stderr, r"\.gitignore:2 .*pattern `\[")
        done = self.run_program("scan", str(self.tree), "--exclude", "[[:alpha:]")
        self.assertEqual(done.returncode, 2)
        self.assertIn("bracket that is not closed", done.stderr)

    def test_conditions_that_are_none(self) -> None:
        (self.tree / "Odd.cs").write_text(
            "#if A (B)\nclass A { (\n#endif\n#if !A && (B || true) == false\nclass B {}\n#endif\n"
        )
        done = self.run_program("scan", str(self.tree))
        self.assertNotIn("Warning", done.stderr)

    def test_a_list_of_trees_that_is_a_page(self) -> None:
        (self.root / "page").write_text("<html>" + "x" * 100_000)
        done = self.run_program("fleet", str(self.root / "page"))
        self.assertNotIn("mistake of ours", done.stdout + done.stderr)

    def test_a_file_that_took_too_long_is_remembered(self) -> None:
        (self.tree / "Slow.java").write_text("class X{" * 20_000)
        (self.tree / "isodesm.toml").write_text("seconds-per-file = 0.05\n")
        kept = ("--cache-dir", str(self.root / "cache"))
        spent = []
        for command in ("scan", "rank", "scan"):
            if command == "scan" and spent:
                (self.tree / "isodesm.toml").write_text("seconds-per-file = 60\n")
            before = os.times()
            done = self.run_program(command, str(self.tree), *kept)
            spent.append((os.times().children_user - before.children_user, done.stderr))
        self.assertIn("takes longer than 0.05", spent[0][1])
        self.assertIn("takes longer than 0.05", spent[1][1])
        self.assertNotIn("takes longer", spent[2][1])


@unittest.skipUnless(hasattr(os, "geteuid") and os.geteuid() == 0, "only root can become another user")
class OtherUserTest(StepTest):
    def test_workers_listen_nowhere(self) -> None:
        """Another user finds no port that the run opened and could be spoken to; nor is there any."""
        python = shutil.which("python3", path="/usr/bin:/bin")
        if python is None:
            self.skipTest("no Python that another user may start")
        stranger = subprocess.Popen([python, "-c", STRANGER], user=NOBODY, cwd="/", stdout=subprocess.PIPE, text=True)
        self.addCleanup(stranger.communicate)
        self.addCleanup(stranger.kill)
        self.assertEqual(stranger.stdout.readline(), "looking\n")  # type: ignore[union-attr]
        for name in ("one", "two", "three"):
            shutil.copytree(self.tree, self.root / "trees" / name)
        reading, writing = os.pipe()
        run = subprocess.Popen(
            [sys.executable, "-m", "isodesm", "fleet", "trees/*", "--workers", "2", "--no-cache"],
            cwd=self.root,
            stdout=writing,
            stderr=subprocess.DEVNULL,
        )
        os.close(writing)
        found: set[int] = set()
        while run.poll() is None:
            found |= _ports_of(run.pid)
            time.sleep(0.02)
        os.close(reading)
        self.assertEqual((run.returncode, found), (0, set()))
        with socket.create_server(("127.0.0.1", 0)) as server:  # and both would see one
            port = server.getsockname()[1]
            self.assertIn(port, _ports_of(os.getpid()))
            met = set()  # other tests may run beside this one, with ports of their own
            while port not in met:
                met.add(int(stranger.stdout.readline().split()[1]))  # type: ignore[union-attr]
        self.assertEqual(met & found, set())


def _ports_of(process: int) -> set[int]:
    """Ports that a process and its children listen on, as another user would find them: in the table of all."""
    tree = {process}
    for status in Path("/proc").glob("[0-9]*/stat"):
        try:
            fields = status.read_text().rpartition(")")[2].split()
        except OSError:
            continue
        if int(fields[1]) in tree:
            tree.add(int(status.parent.name))
    sockets = set()
    for each in tree:
        try:
            for link in Path(f"/proc/{each}/fd").iterdir():
                sockets |= set(re.findall(r"socket:\[(\d+)\]", os.readlink(link)))
        except OSError:
            continue
    listed = Path("/proc/net/tcp").read_text().splitlines()[1:]
    rows = [line.split() for line in listed]
    return {int(row[1].rpartition(":")[2], 16) for row in rows if row[3] == "0A" and row[9] in sockets}


if __name__ == "__main__":
    unittest.main()
