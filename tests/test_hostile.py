"""What a tree that nobody trusts may try: commands in a repository's settings, odd files under the names that are opened."""

from __future__ import annotations

import shutil
import subprocess
import sys
import unittest

from tests.support import TreeTest

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


class HostileTest(TreeTest):
    def run_tool(self, *arguments: str, seconds: float = 60) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [sys.executable, "-m", "isodesm", *arguments],
            cwd=self.root,
            capture_output=True,
            text=True,
            timeout=seconds,
            stdin=subprocess.DEVNULL,
        )


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
        for command in (("rank",), ("about", "Bell"), ("scan",), ("plan",), ("rank", "--evaluate")):
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


def _section(name: str) -> list[str]:
    first, *rest = name.split(".")
    return [first, *(f'"{each}"' for each in rest[:-1])]


if __name__ == "__main__":
    unittest.main()
