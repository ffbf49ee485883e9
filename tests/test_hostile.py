"""What a tree that nobody trusts may try: commands in a repository's settings, odd files under the names that are opened."""

from __future__ import annotations

import csv
import io
import json
import os
import pickle
import re
import shutil
import signal
import stat
import subprocess
import sys
import time
import unittest
from pathlib import Path
from xml.etree import ElementTree

from isodesm.codebase.reading import read
from isodesm.errors import TreeChanged, UsageError
from isodesm.reading.workers import WorkerLost, meanwhile
from tests import server
from tests.support import TreeTest, as_text

WITHOUT_GIT = unittest.skipUnless(shutil.which("git"), "git is not installed")
SOURCE = "package hut;\npublic class Bell {\n    void ring() { new java.net.Socket(); }\n}\n"
HOOKS = (
    "applypatch-msg commit-msg fsmonitor-watchman post-checkout post-index-change pre-auto-gc pre-commit query-watchman "
    "reference-transaction sendemail-validate update".split()
)
COMMANDS = (
    "core.fsmonitor core.pager core.editor core.sshCommand core.askPass core.gitProxy core.alternateRefsCommand diff.external "
    "diff.odd.command diff.odd.textconv filter.odd.clean filter.odd.smudge filter.odd.process gpg.program gpg.ssh.program "
    "gpg.x509.program sequence.editor interactive.diffFilter uploadpack.packObjectsHook pager.log pager.rev-parse "
    "merge.odd.driver remote.far.uploadpack remote.far.receivepack trailer.odd.cmd web.browser".split()
)


OF_STATES = (
    ("mark",),
    ("drift", "--since", "HEAD"),
    ("drift", "--since", "HEAD~1"),
    ("drift", "--over", "2"),
    ("step", "--write"),
)


class HostileTest(TreeTest):
    def run_tool(self, *arguments: str, seconds: float = 60) -> subprocess.CompletedProcess[str]:
        done = server.run(arguments, self.root, dict(os.environ), seconds)
        return subprocess.CompletedProcess(done.args, done.returncode, as_text(done.stdout), as_text(done.stderr))


@WITHOUT_GIT
class RepositoryTest(HostileTest):
    """A repository whose settings name a command wherever git knows one; the command leaves a mark."""

    def setUp(self) -> None:
        super().setUp()
        self.mark, self.tree = self.root / "mark", self.root / "tree"
        self.command = self.root / "command"
        self.command.write_text(f'#!/bin/sh\necho "$0 $*" >> {self.mark}\nexit 1\n')
        self.command.chmod(0o755)

    def git(self, *arguments: str, given: str = "") -> str:
        named = ["-c", "user.name=x", "-c", "user.email=x@hollin.example"]
        done = subprocess.run(
            ["git", *named, *arguments], cwd=self.tree, input=given, capture_output=True, text=True, check=True
        )
        return done.stdout.strip()

    def make(self) -> None:
        self.write({"tree/hut/Bell.java": SOURCE, "tree/.gitattributes": "* diff=odd filter=odd merge=odd\n"})
        self.git("init", "--quiet")
        self.git("add", "--all")
        self.git("commit", "--quiet", "-m", "first")
        self.write({"tree/hut/Bell.java": SOURCE.replace("ring", "toll")})
        self.git("commit", "--quiet", "--all", "-m", "second")
        signed = self.git("cat-file", "commit", "HEAD").replace(
            "\n\n", "\ngpgsig -----BEGIN PGP SIGNATURE-----\n \n x\n -----END PGP SIGNATURE-----\n\n", 1
        )
        self.git("update-ref", "HEAD", self.git("hash-object", "-t", "commit", "-w", "--stdin", given=signed + "\n"))

    def arm(self) -> None:
        """Name the command everywhere, and take away an object that only a remote then has."""
        lost = self.git("rev-parse", "HEAD~1:hut/Bell.java")
        hooks = self.tree / ".git/odd-hooks"
        hooks.mkdir()
        for name in HOOKS:
            shutil.copy(self.command, hooks / name)
        settings = "".join(
            f'[{" ".join(_section(name))}]\n\t{name.rpartition(".")[2]} = "{self.command}"\n' for name in COMMANDS
        )
        settings += f'[core]\n\thooksPath = "{hooks}"\n[log]\n\tshowSignature = true\n[extensions]\n\tpartialClone = far\n'
        settings += f'[remote "far"]\n\turl = "{self.root}"\n\tpromisor = true\n[credential]\n\thelper = "!{self.command}"\n'
        settings += "".join(f'[alias]\n\t{each} = "!{self.command}"\n' for each in ("log", "rev-parse", "show"))
        with (self.tree / ".git/config").open("a") as out:
            out.write(settings.replace("repositoryformatversion = 0", "repositoryformatversion = 1"))
        self.git("config", "core.repositoryFormatVersion", "1")
        (self.tree / ".git/objects" / lost[:2] / lost[2:]).unlink()

    def test_no_command_of_a_repository_runs(self) -> None:
        self.make()
        self.arm()
        subprocess.run(["git", "--no-pager", "log", "--numstat"], cwd=self.tree, capture_output=True, check=False)
        self.assertTrue(self.mark.exists(), "plain git runs a command here, or this shows nothing")
        self.mark.unlink()
        for command in (("rank",), ("about", "Bell"), ("scan",), ("plan",), ("rank", "--evaluate"), *OF_STATES):
            with self.subTest(command=command):
                done = self.run_tool(command[0], *command[1:], str(self.tree))
                self.assertNotIn("Traceback", done.stderr)
                self.assertIn(done.returncode, (0, 1, 2), done.stderr)
                self.assertFalse(self.mark.exists(), self.mark.read_text() if self.mark.exists() else "")

    def test_a_folder_that_looks_like_a_repository_is_none(self) -> None:
        self.write({"tree/hut/Bell.java": SOURCE})
        self.git("init", "--quiet", "--bare", ".")
        with (self.tree / "config").open("a") as out:
            out.write(f'[core]\n\tbare = false\n\tworktree = "{self.tree}"\n\tfsmonitor = "{self.command}"\n')
        done = self.run_tool("rank", str(self.tree))
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertFalse(self.mark.exists())


class OutputTest(HostileTest):
    def test_what_is_no_regular_file_is_written_to_as_it_stands(self) -> None:
        self.write({"hut/Bell.java": SOURCE})
        os.mkfifo(self.root / "pipe")
        reader = subprocess.Popen(["cat", str(self.root / "pipe")], stdout=subprocess.PIPE, text=True)
        (self.root / "real.json").write_text("old")
        (self.root / "real.json").chmod(0o640)
        (self.root / "link.json").symlink_to("real.json")
        for name in ("/dev/null", "pipe", "link.json"):
            self.assertEqual(self.run_tool("scan", "hut", "--format", "json", "-o", name).returncode, 0, name)
        said, _ = reader.communicate(timeout=20)
        self.assertTrue(stat.S_ISCHR(os.stat("/dev/null").st_mode))
        self.assertTrue(stat.S_ISFIFO((self.root / "pipe").stat().st_mode))
        self.assertTrue((self.root / "link.json").is_symlink())
        self.assertEqual((said, stat.S_IMODE((self.root / "real.json").stat().st_mode)), (self.text("real.json"), 0o640))
        self.assertIn("isodesm/scan@", said)

    def text(self, name: str) -> str:
        return (self.root / name).read_text(encoding="utf-8")

    @unittest.skipUnless(Path("/dev/full").exists(), "there is no device that is always full")
    def test_a_full_disk_is_no_mistake_of_ours(self) -> None:
        self.write({"hut/Bell.java": SOURCE})
        for command in (["scan", "hut"], ["plan", "hut"], ["export", "bonds", "hut"], ["--help"]):
            with self.subTest(command=command), open("/dev/full", "wb") as full:
                done = subprocess.run(
                    [sys.executable, "-m", "isodesm", *command], cwd=self.root, stdout=full, stderr=-1, text=True
                )
                self.assertEqual(done.returncode, 74, done.stderr)
                self.assertIn("No space left", done.stderr)

    def test_names_stay_names_in_every_format(self) -> None:
        """Names of folders and files, and what the source names by texts, with marks of every format."""
        odd = ["=cmd()", "a|b", "<script>x", "x](y)", "a`b`c", "\x1b[31mred", "a\nb", "&amp;", "\u202edab", "-1+1", "b\\|c"]
        body = "<?php\nnamespace H;\nclass A%d {{ public function f() {{ $x = new B%d(); $x->g('{0}'); }} }}\n"
        body += "class B%d {{ public function g($a) {{ fopen($a, 'r'); header('{0}'); }} }}\n"
        for at, name in enumerate(odd):
            self.write({f"t/{name}/{name}.php": body.format(name.replace("'", "")) % (at, at, at)})
        bytes_name = os.fsencode(self.root) + b"/t/\xff\xfe.php"
        Path(os.fsdecode(bytes_name)).write_text(
            "<?php class Z { function f() { new Y(); } } class Y { function g() { fopen('x', 'r'); } }"
        )
        commands = (["scan"], ["rank"], ["plan"], ["layers"], ["wiring"], ["about", "A3"], ["trace", "A3"])
        for command in commands:
            asked = command[0] in ("about", "trace")
            for form in ("table", "json", "markdown", *(["sarif"] if command == ["scan"] else []), *([] if asked else ["csv"])):
                with self.subTest(command=command, form=form):
                    done = self.run_tool(*command, "t", "--format", form)
                    self.assertEqual(
                        done.returncode, 0 if form != "markdown" or done.returncode == 0 else 2, done.stderr[-500:]
                    )
                    self.check(form, done.stdout)
        for what, form in (("bonds", "csv"), ("types", "csv"), ("bonds", "jsonl"), ("graph", "dot"), ("graph", "graphml")):
            with self.subTest(export=what, form=form):
                done = self.run_tool("export", what, "t", "--format", form)
                self.assertEqual(done.returncode, 0, done.stderr[-500:])
                self.check(form, done.stdout)

    def check(self, form: str, said: str) -> None:
        self.assertNotIn("\x1b", said)
        if form in ("json", "sarif"):
            json.loads(said)
        elif form == "csv":
            rows = list(csv.reader(io.StringIO(said)))
            self.assertEqual({len(row) for row in rows}, {len(rows[0])} if rows else set())
            self.assertEqual([cell for row in rows for cell in row if cell[:1] in ("=", "@")], [])
        elif form == "markdown":
            outside = re.sub(r"(?ms)^ *(`{3,}).*?^ *\1|`[^`\n]*`", "", said)
            self.assertNotIn("<script>", outside)
            self.assertNotRegex(outside, r"(?<!\\)\]\(y\)")
            tables = [line for line in said.splitlines() if line.startswith("| ")]
            bars = {len(re.findall(r"(?<!\\)\|", re.sub(r"`[^`]*`", "", line))) for line in tables}
            self.assertLessEqual(len(bars), 2 if tables else 0, tables[:3])
        elif form == "graphml":
            ElementTree.fromstring(said)


class OddFilesTest(HostileTest):
    def test_pipes_under_the_names_of_data_files(self) -> None:
        names = "package.json tsconfig.json .gitignore services.yaml beans.xml pom.xml isodesm.toml x.csproj B.java b.ts b.php"
        self.write({"t/hut/Bell.java": SOURCE, "t/a.ts": "export class A { f() { fetch('x'); } }\n"})
        for name in names.split():
            os.mkfifo(self.root / "t" / name)
        for command in ("scan", "plan", "wiring"):
            with self.subTest(command=command):
                done = self.run_tool(command, "t", "--format", "json")
                self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("B.java is not a regular file; left out", done.stderr)

    def test_a_tree_of_which_nothing_can_be_read(self) -> None:
        terms = "".join(f"\n + f({at})" for at in range(6_000))
        heavy = f'class A {{ String s() {{ return "" {terms}; }} }}\n'
        self.write({"t/Bell.java": heavy, "t/isodesm.toml": "seconds-per-file = 0.02\n"})
        for command in (["scan"], ["rank"], ["plan"], ["layers"], ["wiring"], ["export", "graph"]):
            with self.subTest(command=command):
                done = self.run_tool(*command, "t", "--no-cache", seconds=20)
                self.assertEqual(done.returncode, 0, done.stderr)
                self.assertIn("Bell.java takes longer than 0.02 seconds", done.stderr)

    def test_data_that_never_ends(self) -> None:
        aliases = "".join(f"    {chr(98 + i)}: &{chr(98 + i)} [{','.join([f'*{chr(97 + i)}'] * 9)}]\n" for i in range(12))
        php = (
            "<?php\nnamespace H;\nclass A { public function f() { new B(); } }\nclass B { function g() { fopen('x', 'r'); } }\n"
        )
        files = {
            "aliases.yaml": "services:\n    a: &a [x,x,x,x,x,x,x,x,x]\n" + aliases,
            "deep.yaml": "services:\n    a: " + "[" * 20_000 + "\n",
            "blank.yaml": "\n" * 300_000 + "services:\n    a:\n        class: H\\A\n",
            "deep.xml": "<container><services>" + "<service id='a' class='H\\A'>" * 5_000 + "</services></container>",
            "package.json": "[" * 100_000,
            "tsconfig.json": '{"extends":[' + ",".join(['"./a.json"', '"./b.json"'] * 15) + "]}",
            "a.json": '{"extends":[' + ",".join(['"./b.json"', '"./a.json"'] * 15) + "]}",
            "b.json": '{"extends":[' + ",".join(['"./a.json"', '"./b.json"'] * 15) + "]}",
        }
        self.write(
            {f"t/config/{name}": body for name, body in files.items()}
            | {"t/A.php": php, "t/config/a.ts": "export class C {}\n"}
        )
        done = self.run_tool("scan", "t", "--format", "json", "--no-cache", seconds=60)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("H\\B", {each["target"] for each in json.loads(done.stdout)["result"]["findings"]})
        self.assertIn("package.json", done.stderr)

    def test_a_file_that_changes_meanwhile_is_named(self) -> None:
        codebase = read(self.write({"hut/Bell.java": SOURCE}))
        (self.root / "hut/Bell.java").write_text(SOURCE.replace("ring", "x"))
        with self.assertRaisesRegex(TreeChanged, "hut/Bell.java changed while it was worked on"):
            codebase.text(0)

    def test_errors_keep_their_words_between_processes(self) -> None:
        for error in (TreeChanged("a.java", "gone"), WorkerLost(), UsageError("wrong")):
            with self.subTest(error=type(error).__name__):
                again = pickle.loads(pickle.dumps(error))
                self.assertEqual((type(again), str(again)), (type(error), str(error)))
        codebase = read(self.write({"hut/Bell.java": SOURCE}))
        (self.root / "hut/Bell.java").write_text(SOURCE.replace("ring", "x"))
        with meanwhile(codebase.text, 0) as found, self.assertRaisesRegex(TreeChanged, "hut/Bell.java changed"):
            found()

    def test_what_could_not_be_read_is_said_by_the_exit_code_if_asked(self) -> None:
        self.write({"t/hut/Bell.java": SOURCE, "t/hut/Spoilt.java": "class A { void f( }\n"})
        for command in (["scan"], ["plan"], ["export", "bonds"]):
            codes = [self.run_tool(*command, "t", *more).returncode for more in ([], ["--strict"])]
            self.assertEqual(codes, [0, 1], command)
        (self.root / "t/hut/Spoilt.java").unlink()
        self.assertEqual(self.run_tool("scan", "t", "--strict").returncode, 0)

    def test_settings_that_make_no_sense(self) -> None:
        self.write({"t/hut/Bell.java": SOURCE})
        cases = {
            "workers = 100000": "workers is a number from 0 to 256",
            "workers = 99999999999999999999999": "workers is a number from 0 to 256",
            "seconds-per-file = nan": "seconds-per-file",
            "[strain]\nborne = inf": "",
            '[roles]\n"*" = "servic"': "did you mean `service`",
            '[[accept]]\nkind = "hard-wired"\nreason = "x"': "is not a kind of finding",
            '"\\u001b[31m" = 1': "unknown setting",
        }
        for text, said in cases.items():
            with self.subTest(text=text):
                self.write({"t/isodesm.toml": text + "\n"})
                done = self.run_tool("scan", "t")
                self.assertEqual(done.returncode, 2, done.stderr)
                self.assertIn(said, done.stderr)
                self.assertNotIn("\x1b", done.stderr)
                self.assertNotIn("mistake of ours", done.stderr)

    def test_no_process_is_left_behind(self) -> None:
        for number in (signal.SIGTERM, signal.SIGKILL):
            self.write({f"t/{at}/Bell.java": SOURCE * 900 for at in range(40)})
            command = [sys.executable, "-m", "isodesm", "scan", "t", "--no-cache", "--workers", "3", "--format", "json"]
            process = subprocess.Popen(command, cwd=self.root, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
            time.sleep(1.5)
            below = _children(process.pid)
            process.send_signal(number)
            process.wait(timeout=20)
            until = time.monotonic() + 10
            while (alive := [each for each in below if Path(f"/proc/{each}").exists()]) and time.monotonic() < until:
                time.sleep(0.1)
            with self.subTest(signal=number):
                self.assertEqual(alive, [])


def _children(pid: int) -> list[int]:
    """Processes that a process has started, on systems that list them."""
    listed = Path(f"/proc/{pid}/task/{pid}/children")
    return [int(each) for each in listed.read_text().split()] if listed.exists() else []


def _section(name: str) -> list[str]:
    first, *rest = name.split(".")
    return [first, *(f'"{each}"' for each in rest[:-1])]


if __name__ == "__main__":
    unittest.main()
