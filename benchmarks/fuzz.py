"""`python -m benchmarks.fuzz [--minutes N | --count N] [--files N] [FOLDER…]`: spoilt source through all, and what came of it.

Files of the samples, or of the folders named, are spoilt in several ways and put into trees of many beside one whole file.
Each tree goes through reading, the verdict, the ranking, the plan with its edits carried out, the wiring and all formats, in
a process of its own. Counted are files, processes that failed or took too long, and whole files whose findings were lost.
"""

from __future__ import annotations

import argparse
import random
import shutil
import subprocess
import sys
import tempfile
import time
import traceback
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

from isodesm.facts.languages import language_by_suffix
from tests.support import DEMO
from tests.test_fuzz import drop_brackets, flip, splice, truncate

FILES, SECONDS, LARGEST = 60, 240, 200_000
"""Spoilt files of a tree, the seconds that one may take, and the bytes of the largest file that is spoilt."""
WHOLE = {
    "java": (
        "Whole.java",
        "class Whole { WholeBell bell = new WholeBell(); }\n"
        "class WholeBell { void f() throws Exception { new java.net.Socket(); } }",
    ),
    "csharp": (
        "Whole.cs",
        'class Whole { WholeBell bell = new WholeBell(); }\nclass WholeBell { void F() { System.IO.File.Delete("x"); } }',
    ),
    "typescript": (
        "whole.ts",
        "export class Whole { bell = new WholeBell(); }\nexport class WholeBell { f() { fetch('x'); } }",
    ),
    "php": (
        "whole.php",
        "<?php\nclass Whole { function f() { new WholeBell(); } }\nclass WholeBell { function g() { fopen('x', 'r'); } }",
    ),
    "python": (
        "whole.py",
        "class Whole:\n    def __init__(self):\n        self.bell = WholeBell()\n\n\n"
        "class WholeBell:\n    def f(self):\n        open('x')\n",
    ),
}
"""Language to a file whose one hard bond must be found whatever lies beside it."""


def sources(folders: list[Path], largest: int = LARGEST) -> dict[str, list[tuple[str, bytes]]]:
    """Language to the files that are spoilt, by suffix and content."""
    known, found = language_by_suffix(), {language: [] for language in WHOLE}
    for folder in folders:
        for path in sorted(folder.rglob("*")):
            language = known.get(path.suffix, "")
            if language in found and path.is_file() and 0 < path.stat().st_size <= largest:
                found[language].append((path.suffix, path.read_bytes()))
    return found


def tree_of(root: Path, language: str, known: list[tuple[str, bytes]], files: int, chance: random.Random) -> None:
    """A tree of `files` spoilt files of one language, and a whole one."""
    name, text = WHOLE[language]
    (root / "whole").mkdir(parents=True)
    (root / "whole" / name).write_text(text)
    for at in range(files):
        suffix, content = chance.choice(known)
        for mutate in chance.sample((truncate, splice, flip, drop_brackets), chance.randint(1, 3)):
            content = mutate(content, chance) if content else b"x"
        (root / f"f{at}{suffix}").write_bytes(content)


def check(root: Path) -> None:
    """All of the program over a tree; a SystemExit with what is missing where the whole file's finding is lost."""
    from isodesm.codebase.reading import read
    from isodesm.diagnosis.diagnose import diagnose
    from isodesm.measures.ranking import rank
    from isodesm.output.delimited import plan_rows, scan_rows, to_csv, to_markdown
    from isodesm.output.plan_text import plan_text
    from isodesm.output.sarif import to_sarif
    from isodesm.planning.planner.reconcile import contents_after
    from isodesm.planning.planner.staging import plan

    codebase = read(root)
    diagnosis = diagnose(codebase)
    rank(codebase, diagnosis)
    mistakes: list[Exception] = []
    made = plan(codebase, diagnosis, None, mistakes)
    contents_after(codebase, made.steps)
    for write in (
        lambda: to_csv(scan_rows(diagnosis, excused=True)),
        lambda: to_markdown(plan_rows(made), "Plan"),
        lambda: plan_text(made),
        lambda: to_sarif(diagnosis, "."),
        lambda: codebase.wiring.services,
    ):
        write()
    if mistakes:
        raise mistakes[0]
    if reports := [each for each in codebase.trouble if "please report" in each.reason]:
        sys.exit(f"{reports[0].path}: {reports[0].reason}")
    if not any(each.source.rpartition(".")[2].rpartition("#")[2] == "Whole" for each in diagnosis.findings):
        sys.exit("lost")


def outcomes(
    folders: list[Path], minutes: float, count: int, files: int, seed: int, largest: int
) -> Iterator[tuple[str, str, str]]:
    """Language, outcome (`ok`, `failed`, `hung`, `lost`) and details of one tree after the other, until each language has had
    so many spoilt files, or (with a count of 0) until the time is up."""
    known, chance, until = sources(folders, largest), random.Random(seed), time.monotonic() + minutes * 60
    begun = 0
    while begun < count if count else time.monotonic() < until:
        begun += files
        for language in (each for each in WHOLE if known[each]):
            with tempfile.TemporaryDirectory() as folder:
                root = Path(folder) / "t"
                tree_of(root, language, known[language], files, chance)
                command = [sys.executable, "-m", "benchmarks.fuzz", "--check", str(root)]
                try:
                    done = subprocess.run(command, capture_output=True, text=True, timeout=max(SECONDS, 2 * files), check=False)
                except subprocess.TimeoutExpired:
                    kept = shutil.move(root, tempfile.mkdtemp(prefix="isodesm-fuzz-"))
                    yield language, "hung", str(kept)
                    continue
                if done.returncode == 0:
                    yield language, "ok", ""
                else:
                    kept = shutil.move(root, tempfile.mkdtemp(prefix="isodesm-fuzz-"))
                    yield language, "lost" if done.stderr.strip() == "lost" else "failed", f"{kept}\n{done.stderr[-1500:]}"


def main() -> int:
    """Run, and print a table; 1 where anything went wrong."""
    parser = argparse.ArgumentParser(prog="python -m benchmarks.fuzz", description=__doc__)
    parser.add_argument("folders", nargs="*", type=Path, metavar="FOLDER")
    parser.add_argument("--minutes", type=float, default=5.0)
    parser.add_argument("--count", type=int, default=0, help="spoilt files of each language, instead of minutes")
    parser.add_argument("--largest", type=int, default=LARGEST, help="bytes of the largest file that is spoilt")
    parser.add_argument("--files", type=int, default=FILES, help="spoilt files of a tree")
    parser.add_argument("--seed", type=int, default=7, help="what the spoiling is drawn from")
    parser.add_argument("--check", type=Path, help=argparse.SUPPRESS)
    asked = parser.parse_args()
    if asked.check:
        try:
            check(asked.check)
        except Exception:
            traceback.print_exc()
            return 1
        return 0
    found: Counter[tuple[str, str]] = Counter()
    for language, outcome, details in outcomes(
        asked.folders or [DEMO], asked.minutes, asked.count, asked.files, asked.seed, asked.largest
    ):
        found[language, outcome] += 1
        if details:
            print(f"{language}: {outcome}: {details}", flush=True)
    print(f"{'language':12} {'files':>8} {'failed':>7} {'hung':>5} {'lost':>5}")
    for language in WHOLE:
        trees = sum(count for (own, _), count in found.items() if own == language)
        wrong = [found[language, each] for each in ("failed", "hung", "lost")]
        print(f"{language:12} {trees * asked.files:>8} {wrong[0]:>7} {wrong[1]:>5} {wrong[2]:>5}")
    return int(any(outcome != "ok" for _, outcome in found))


if __name__ == "__main__":
    sys.exit(main())
