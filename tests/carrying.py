"""Carries steps of a plan out on a copy of the code, and asks the language's own compiler what it thinks of it."""

from __future__ import annotations

import atexit
import re
import shutil
import subprocess
import sys
import tempfile
from collections import defaultdict
from collections.abc import Callable
from functools import cache
from pathlib import Path

from isodesm.planning.model.step import Edit, Step

COMPILERS = {".java": "javac", ".cs": "mcs", ".ts": "tsc", ".php": "php", ".py": sys.executable}
"""Suffix of sources to the program that checks them."""


def carry_out(tree: Path, step: Step) -> None:
    """Make the edits of a step, those left to a person apart."""
    by_file: dict[str, list[Edit]] = defaultdict(list)
    for edit in step.edits:
        if not edit.by_hand:
            by_file[edit.file].append(edit)
    for name, edits in by_file.items():
        path = tree / name
        if edits[0].new:
            assert not path.exists(), f"{name} is there already"
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(edits[0].text.encode())
            continue
        content = path.read_bytes()
        for edit in sorted(edits, key=lambda each: (each.start, each.end), reverse=True):
            content = content[: edit.start] + edit.text.encode() + content[edit.end :]
        path.write_bytes(content)


def _java(tree: Path, out: Path) -> list[list[str]]:
    sources = sorted(str(path) for path in tree.rglob("*.java"))
    (out / "roads.txt").write_text("ESK valley road\n")
    (out / "wardens.txt").write_text("Ilva\nTorben\n")
    run = ["java", "-ea", "-XX:TieredStopAtLevel=1", "-XX:+UseSerialGC", "-cp", str(out)]
    mains = ("app.DutyRosterTest", "domain.DangerScaleTest", "console.DeskConsole")
    compiler = ["javac", "-J-XX:TieredStopAtLevel=1", "-J-XX:+UseSerialGC", "-d", str(out), *sources]
    return [compiler, *([*run, f"org.hollin.desk.{each}"] for each in mains)]


def _csharp(tree: Path, out: Path) -> list[list[str]]:
    sources, tests = (sorted(str(path) for path in (tree / each).rglob("*.cs")) for each in ("src", "test"))
    hub = ["mcs", f"-out:{out}/hub.exe", "-main:Hollin.Hub.Host.Program", *sources]
    checks = ["mcs", f"-out:{out}/tests.exe", "-main:Hollin.Hub.Tests.RoundTests", *sources, *tests]
    return [hub, checks, ["mono", f"{out}/tests.exe"], ["mono", f"{out}/hub.exe", "localhost"]]


def _python(tree: Path, out: Path) -> list[list[str]]:
    (out / "data").mkdir()
    (out / "data/Hart.txt").write_text("40 3\n5 1\n")
    quick = "import runpy, sys, time; time.sleep = lambda seconds: None; sys.argv = ['main', 'data', 'found', 'Hart']; "
    program = f"{quick}sys.path.insert(0, {str(tree)!r}); runpy.run_module('forecast.main', run_name='__main__')"
    return [
        [sys.executable, "-m", "unittest", "discover", "-q", "-s", str(tree / "tests"), "-t", str(tree)],
        [sys.executable, "-c", program],
    ]


PROGRAMS: dict[str, Callable[[Path, Path], list[list[str]]]] = {
    "bulletin-desk": _java,
    "sensor-hub": _csharp,
    "slope-map": lambda tree, out: [
        ["tsc", "--skipLibCheck", "--project", str(tree), "--outDir", str(out)],
        ["node", f"{out}/test/slope-rating.test.js"],
    ],
    "warden-portal": lambda tree, out: [
        *(["php", "-l", str(path)] for path in sorted(tree.rglob("*.php"))),
        ["php", "-d", "error_reporting=-1", "-d", "display_errors=1", str(tree / "tests/run.php")],
        ["php", "-d", "error_reporting=-1", "-d", "display_errors=1", str(tree / "public/index.php")],
    ],
    "forecast-jobs": _python,
}
"""Sample to the commands that build it, run its tests and its program, given its tree and a folder to run in."""


def outcome(name: str, tree: Path) -> str:
    """What a sample's tests and its program say; with what failed where one of them does."""
    with tempfile.TemporaryDirectory() as out:
        said = ""
        for command in (each for each in PROGRAMS[name](tree, Path(out)) if shutil.which(each[0])):
            result = subprocess.run(command, cwd=out, capture_output=True, text=True, timeout=300)
            said += re.sub(r" in [\d.]+s|No syntax errors [^\n]*\n", "", (result.stdout + result.stderr).replace(str(tree), ""))
            if result.returncode:
                return f"failed: {command[:3]}: {said[-2000:]}"
        return said


@cache
def _java_compiler() -> subprocess.Popen[str]:
    """One that goes on, for starting it takes longer than what it is asked."""
    quick = ["-XX:TieredStopAtLevel=1", "-XX:+UseSerialGC"]
    command = ["java", *quick, str(Path(__file__).with_name("Compiler.java"))]
    compiler = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, encoding="utf-8")
    atexit.register(compiler.communicate)
    return compiler


def _compiled(tree: Path) -> str:
    compiler = _java_compiler()
    assert compiler.stdin is not None and compiler.stdout is not None
    print(tree, file=compiler.stdin, flush=True)
    return "".join(compiler.stdout.readline() for _ in range(int(compiler.stdout.readline())))


def suffix_of(tree: Path) -> str:
    """The suffix of most sources of a tree."""
    suffixes = [path.suffix for path in sorted(tree.rglob("*")) if path.suffix in COMPILERS]
    return max(suffixes, key=suffixes.count) if suffixes else ""


def has_compiler(suffix: str) -> bool:
    """Whether the program that checks such sources is installed."""
    return shutil.which(COMPILERS.get(suffix, "")) is not None


def complaints(tree: Path) -> str:
    """What the compiler says of a tree that it doesn't take; '' where it does."""
    suffix = suffix_of(tree)
    if suffix == ".java":
        return _compiled(tree)
    sources = sorted(str(path) for path in tree.rglob(f"*{suffix}"))
    with tempfile.TemporaryDirectory() as out:
        commands = {
            ".cs": [["mcs", "-target:library", "-langversion:7.2", f"-out:{out}/all.dll", *sources]],
            ".ts": [["tsc", "--noEmit", "--skipLibCheck", "-p", "."]],
            ".php": [["php", "-l", source] for source in sources],
            ".py": [
                [sys.executable, "-m", "compileall", "-q", "."],
                *([[sys.executable, "-m", "unittest", "-q"]] if (tree / "tests").exists() else []),
            ],
        }[suffix]
        results = [subprocess.run(command, cwd=tree, capture_output=True, text=True) for command in commands]
    return "".join(result.stdout + result.stderr for result in results if result.returncode)
