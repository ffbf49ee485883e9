"""The public applications of `applications.toml`: fetched by package client, and checked by their language's compiler."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
import tomllib
from collections import Counter
from collections.abc import Iterable
from glob import glob
from pathlib import Path

import msgspec

CHECKS = {
    "java": "javac -proc:none -nowarn -Xmaxerrs 5000 -XDshould-stop.ifError=FLOW -encoding utf-8 -d {out} -cp {jars} {sources}",
    "php": "php -l {changed}",
    "python": "{python} -m pyflakes {changed}",
    "typescript": "npx tsc --noEmit --skipLibCheck --target es2020 --lib es2022,dom --module esnext --moduleResolution node "
    "--experimentalDecorators --esModuleInterop --jsx react --strict {sources}",
}
"""Language to the command of its compiler, where the table gives none."""

COMPILERS = {"java": "javac", "csharp": "mcs", "php": "php", "python": "python3", "typescript": "npx"}
"""Language to the program that has to be there."""

MISTAKES = {
    "java": r": error:",
    "csharp": r"error CS",
    "php": r"^(?!No syntax errors)\S",
    "python": r"undefined name|syntax|invalid|duplicate argument|referenced before|redefinition",
    "typescript": r"error TS",
}
"""Language to what marks a mistake in its compiler's output, rather than a warning."""

SUFFIXES = {"java": (".java",), "csharp": (".cs",), "php": (".php",), "python": (".py",), "typescript": (".ts", ".tsx")}


class Application(msgspec.Struct, frozen=True, rename={"origin": "from"}):
    """A row of the table: what it is, how it is fetched, and what says whether it builds."""

    name: str
    language: str
    origin: str
    folder: str = ""
    without: str = ""
    """What is left aside of the folder: files whose path matches this."""
    libraries: str = ""
    check: str = ""
    tests: str = ""
    small: bool = False
    """Whether it is among those that every run of the tests carries some steps out on."""

    @property
    def slug(self) -> str:
        """Its name as that of a folder."""
        return re.sub(r"\W+", "-", self.name)


def applications() -> list[Application]:
    """The rows of the table, in order."""
    with (Path(__file__).parent / "applications.toml").open("rb") as file:
        return msgspec.convert(tomllib.load(file)["application"], list[Application])


def fetched(application: Application, folder: Path) -> Path:
    """Where the application lies below `folder`, fetched first where it isn't there; OSError where it can't be."""
    home = folder / application.slug
    if not home.is_dir():
        work = folder / f".{application.slug}"
        shutil.rmtree(work, ignore_errors=True)
        work.mkdir(parents=True)
        try:
            for command in _commands(application):
                subprocess.run(command, cwd=work, check=True, capture_output=True, shell=isinstance(command, str))
        except subprocess.CalledProcessError as error:
            raise OSError(error.stderr.decode("utf-8", "replace").strip().rpartition("\n")[2]) from error
        work.rename(home)
    return home / ("node_modules/" + _package(application) if application.origin.startswith("npm") else "code")


def _package(application: Application) -> str:
    return re.sub(r"(?<=.)@.*", "", application.origin.split()[1])


def _commands(application: Application) -> list[list[str] | str]:
    how, what = application.origin.split()
    unpack = "mkdir -p code && tar xf $(ls -d *.tar.* | head -1) -C code --strip-components=1"
    if how == "npm":
        extras = ["typescript@5", "@types/node@20", "@types/react@18"]
        return [
            "echo '{\"private\": true}' > package.json",
            ["npm", "install", "--ignore-scripts", "--no-audit", "--no-fund", what, *extras],
        ]
    if how == "pip":
        return [[sys.executable, "-m", "pip", "download", "-q", "--no-deps", "--no-binary", ":all:", what], unpack]
    if how == "deb":
        return [["apt-get", "download", "-qq", what], "dpkg -x *.deb code"]
    return [["apt-get", "source", "-qq", "--download-only", "--tar-only", what], unpack]


class Checker:
    """Asks the compiler about a tree, again and again."""

    def __init__(self, application: Application, tree: Path, out: Path) -> None:
        self.application, self.tree, self.out = application, tree, out
        self.mistakes = re.compile(MISTAKES[application.language], re.IGNORECASE)
        self.command = (application.check or CHECKS[application.language]).replace("{out}", str(out)).split()
        self.sees_all = "{changed}" not in self.command
        out.mkdir(parents=True, exist_ok=True)

    def complaints(self, changed: Iterable[str]) -> Counter[str]:
        """Mistakes the compiler finds in the tree or, where it goes file by file, in those that changed: each without the
        place in its file, to how often."""
        files = sorted(str(self.tree / name) for name in changed if name.endswith(SUFFIXES[self.application.language]))
        if not self.sees_all and not files:
            return Counter()
        lists = {"{changed}": files, "{python}": [sys.executable], "{jars}": [_jars()]}
        lists |= {"{sources}": self._sources()} if self.sees_all else {}
        alone = self.application.language == "php"  # it reads one file a call
        commands = [[*self.command[:-1], each] for each in files] if alone else [self.command]
        lines: list[str] = []
        for command in commands:
            words = [part for word in command for part in lists.get(word, [word])]
            done = subprocess.run(words, cwd=self.tree, capture_output=True, text=True, errors="replace", check=False)
            lines += (done.stdout + done.stderr).splitlines()
        found = (line for line in lines if self.mistakes.search(line))
        return Counter(re.sub(r"\(\d+,\d+\)|:\d+(:\d+)?|on line \d+", "", line) for line in found)

    def _sources(self) -> list[str]:
        """All files of the language, in order."""
        suffixes = SUFFIXES[self.application.language]
        found = (path for path in self.tree.rglob("*") if path.suffix in suffixes and "node_modules" not in path.parts[-4:])
        return sorted(str(path) for path in found if not path.name.endswith(".d.ts"))


def _jars() -> str:
    return os.pathsep.join(sorted([*glob("/usr/share/java/*.jar"), *glob("/usr/share/openjfx/lib/*.jar")])) or "."
