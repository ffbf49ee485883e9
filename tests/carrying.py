"""Carries steps of a plan out on a copy of the code, and asks the language's own compiler what it thinks of it."""

from __future__ import annotations

import shutil
import subprocess
import sys
import tempfile
from collections import defaultdict
from pathlib import Path

from isodesm.planning.steps import Edit, Step

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
    sources = sorted(str(path) for path in tree.rglob(f"*{suffix}"))
    with tempfile.TemporaryDirectory() as out:
        commands = {
            ".java": [["javac", "-J-XX:TieredStopAtLevel=1", "-J-XX:+UseSerialGC", "-d", out, *sources]],
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
