"""The public applications of `applications.toml`: fetched by package client, and checked by their language's compiler."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
import tomllib
from collections import Counter
from glob import glob
from pathlib import Path

import msgspec

CHECKS = {
    "java": "javac -proc:none -nowarn -XDrawDiagnostics -Xmaxerrs 100000 -XDshould-stop.ifError=FLOW -encoding utf-8 "
    "-d {out} -cp {jars} {sources}",
    "php": "php {checks}/php.php {tree}",
    "python": "{python} {checks}/python.py {tree} --stand-ins",
    "typescript": "node {checks}/typescript.js {tree} {modules}",
}
"""Language to the command that says what is amiss, where the table gives none. C# has none: what it refers to differs."""

ASKED = {
    "javac": "compiler",
    "mcs": "compiler",
    "typescript.js": "compiler",
    "php.php": "declarations, signatures, arguments, variables",
    "loading.php": "its own loader finds every type",
    "python.py": "compiles, names, every module imported first",
}
"""Program to what it checks, in words."""

COMPILERS = {"java": "javac", "csharp": "mcs", "php": "php", "python": "python3", "typescript": "npx"}
"""Language to the program that has to be there."""

MISTAKES = {"java": r"compiler\.err", "csharp": r"error CS"}
"""Language to what marks a mistake in its compiler's output, rather than a warning; elsewhere every line is one."""

MISSING = {
    "java": r"cant\.resolve\S*: kindname\.\w+, (\w+)|doesnt\.exist: ([\w.]+)",
    "typescript": r"Cannot find (?:module|name) '([^']+)'",
    "php": r": (\S+) is declared nowhere",
    "csharp": r"The type or namespace name `(\w+)'",
}
"""Language to how it says that something is not there; what is missing as an application ships is so in new files, too."""

CHECKED_BY = Path(__file__).parent / "checks"
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
    check: tuple[str, ...] = ()
    """Commands in the place of the usual one."""
    options: str = ""
    """What the usual command is given beside the tree."""
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
    how, *names = application.origin.split()
    what = names[0]
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
        return [["apt-get", "download", "-qq", *names], "for each in *.deb; do dpkg -x $each code; done"]
    return [["apt-get", "source", "-qq", "--download-only", "--tar-only", what], unpack]


class Checker:
    """Asks about a tree what is amiss, again and again."""

    def __init__(self, application: Application, tree: Path, out: Path, modules: Path) -> None:
        self.application, self.tree, self.out, self.modules = application, tree, out, modules
        self.mistakes = re.compile(MISTAKES.get(application.language, ""))
        self.missing = re.compile(MISSING.get(application.language, r"(?!)()"))
        usual = f"{CHECKS.get(application.language, '')} {application.options}"
        self.commands = [each.split() for each in application.check or (usual,)]
        out.mkdir(parents=True, exist_ok=True)

    def complaints(self) -> Counter[str]:
        """What is amiss with the tree, each without the place in its file, to how often."""
        lists = {"{python}": [sys.executable], "{jars}": [_jars()], "{sources}": self._sources()}
        texts = {"{out}": self.out, "{checks}": CHECKED_BY, "{tree}": self.tree, "{modules}": self.modules}
        lines: set[str] = set()
        for command in self.commands:
            words = [part for word in command for part in lists.get(word, [word])]
            for name, value in texts.items():
                words = [word.replace(name, str(value)) for word in words]
            done = subprocess.run(words, cwd=self.tree, capture_output=True, text=True, errors="replace", check=False)
            lines |= {line for line in f"{done.stdout}\n{done.stderr}".splitlines() if line and self.mistakes.search(line)}
        return Counter(re.sub(r"\(\d+,\d+\)|(?<=\.java):\d+:\d+|\bline \d+", "", line) for line in lines)

    def fresh(self, now: Counter[str], last: Counter[str], first: Counter[str]) -> list[str]:
        """What is amiss now and was not before, what was missing at first apart."""
        missing = {self._missed(line) for line in first} - {""}
        return [line for line in sorted(now) if now[line] > last.get(line, 0) and self._missed(line) not in missing]

    def _missed(self, line: str) -> str:
        found = self.missing.search(line)
        return next((each for each in found.groups() if each), "") if found else ""

    def asked(self) -> str:
        """What is checked, in words."""
        names = [word.rpartition("/")[2] for command in self.commands for word in command]
        return "; ".join(dict.fromkeys(ASKED[each] for each in names if each in ASKED))

    def _sources(self) -> list[str]:
        """All files of the language, in order."""
        suffixes = SUFFIXES[self.application.language]
        found = (path for path in self.tree.rglob("*") if path.suffix in suffixes and "node_modules" not in path.parts[-4:])
        return sorted(str(path) for path in found if not path.name.endswith(".d.ts"))


def _jars() -> str:
    return os.pathsep.join(sorted([*glob("/usr/share/java/*.jar"), *glob("/usr/share/openjfx/lib/*.jar")])) or "."
