"""`python -m benchmarks.speed [FOLDER] --language NAME [--sizes N,N…] [--rounds N,N…] [--other LANGUAGE=FOLDER …]
[--before SOURCES] [--write]`: what each command costs, and how that grows.

For each size the first files of the folder, up to so many lines, are copied; every command runs on them in turn, the floors
between them, and the medians of all rounds are told as ratios to the bare parser of one core. Beside that floor stand two that
users know: a text search, and the language's own compiler up to its type check, where that is installed. `--write` makes
`docs/speed.md` and its figure of the table. `--other` measures another language at one size, for a table of its own.
`--before` names the `src` folder of an earlier state of the program, which runs in turn with this one wherever there are three
rounds or more.
"""

from __future__ import annotations

import argparse
import json
import math
import os
import shutil
import statistics
import subprocess
import sys
import tempfile
from collections import defaultdict
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from benchmarks.floor import ENVIRONMENT, Run, bare, timed
from isodesm.reading.discovery import discover
from isodesm.settings import Settings

DOCS = Path(__file__).parent.parent / "docs"
SIZES = (10_000, 30_000, 100_000)
ROUNDS_OF_BOTH = 3
"""Rounds from which an earlier state is measured beside this one."""
ROUNDS_OF_OTHERS = 3
OTHERS = "## Other languages"
BEFORE = "before: "
FLOOR = "bare parser, one core"
LARGEST = 2_000_000
"""Lines beyond which no compiler is asked."""
ROWS = {
    FLOOR: "the floor: each file parsed, nothing else",
    "text search": "`grep` counts creations and calls on class names",
    "compiler": "the language's own, up to its type check, without output",
    "import of the command line's library": "what no command can be quicker than",
    "--help": "no tree is read",
    "scan, cold": "the first time",
    "scan, the same again": "nothing has changed",
    "scan --top 20": "another view of the same",
    "scan, one file changed": "a line more in one file",
    "about CLASS": "one class, after a scan",
    "rank": "after a scan",
    "plan --steps 12": "after a scan",
    "scan --format json": "after a scan",
}
SEARCH = {"java": r"new [A-Z]|[A-Z]\w+\.\w+\(", "csharp": r"new [A-Z]|[A-Z]\w+\.\w+\("}


def part_of(folder: Path, language: str, lines: int, into: Path) -> int:
    """Copy the first files of a language, up to so many lines (0: all); how many lines that are."""
    total = 0
    for file in discover(folder, Settings(languages=(language,))).files:
        content = (folder / file.path).read_bytes()
        target = into / file.path
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_bytes(content)
        total += content.count(b"\n")
        if lines and total >= lines:
            break
    return total


class Measured(NamedTuple):
    """Seconds and peak megabytes of one run of something."""

    what: str
    run: Run


def compiler_of(language: str, tree: Path, scratch: Path) -> list[str] | None:
    """The command that checks all files of a tree; None where there is none here."""
    if language == "java" and shutil.which("javac"):
        listed = scratch / "files"
        listed.write_text("\n".join(f'"{path}"' for path in sorted(tree.rglob("*.java"))))
        flow = ("-XDshould-stop.ifError=FLOW", "-XDcompilePolicy=attr")  # names that are missing here stop nothing
        return ["javac", "-proc:none", "-implicit:none", "-nowarn", *flow, "-d", str(scratch), f"@{listed}"]
    if language == "typescript" and shutil.which("tsc"):
        return ["tsc", "--noEmit", "--skipLibCheck", "--allowJs", *map(str, sorted(tree.rglob("*.ts")))]
    return None


def one_round(
    tree: Path, language: str, scratch: Path, some_class: str, large: bool, before: Path | None
) -> Iterator[Measured]:
    """Everything once, with an empty cache to begin with; what the earlier state takes has its mark in front."""
    yield Measured("import of the command line's library", timed([sys.executable, "-c", "import typer"], ours=False))
    yield Measured(FLOOR, Run(bare(tree, language)[0], 0))
    yield Measured("text search", timed(["grep", "-rEc", SEARCH.get(language, r"new [A-Z]|\w+::\w+\("), "."], tree, ours=False))
    for sources, mark in ((None, ""), (before, BEFORE)):
        if sources is not None or not mark:
            for what, run in commands(tree, scratch, some_class, sources):
                yield Measured(mark + what, run)
    if (command := compiler_of(language, tree, scratch)) and not large:
        yield Measured("compiler", timed(command, tree, ours=False))


def commands(tree: Path, scratch: Path, some_class: str, sources: Path | None) -> Iterator[Measured]:
    """Every command of ours once, those of this state of the program or of another."""
    cache = scratch / "cache"
    shutil.rmtree(cache, ignore_errors=True)

    def ours(*words: str) -> Run:
        return timed([*words, "--quiet", "--cache-dir", str(cache)], tree, sources=sources)

    yield Measured("--help", timed(["--help"], sources=sources))
    yield Measured("scan, cold", ours("scan"))
    yield Measured("scan, the same again", ours("scan"))
    yield Measured("scan --top 20", ours("scan", "--top", "20"))
    yield Measured("about CLASS", ours("about", some_class))
    yield Measured("rank", ours("rank"))
    yield Measured("plan --steps 12", ours("plan", "--steps", "12"))
    yield Measured("scan --format json", ours("scan", "--format", "json"))
    changed = sorted(path for path in tree.rglob("*.*") if path.is_file())
    path = changed[len(changed) // 2]
    content = path.read_bytes()
    path.write_bytes(content + b"\n")
    yield Measured("scan, one file changed", ours("scan"))
    path.write_bytes(content)


def class_of(tree: Path, scratch: Path) -> str:
    """A class with findings, to ask about."""
    command = [sys.executable, "-m", "isodesm", "scan", str(tree), "--format", "json", "--cache-dir", str(scratch / "asked")]
    found = json.loads(subprocess.run(command, capture_output=True, check=True, env=ENVIRONMENT).stdout)["result"]["findings"]
    return found[0]["source"]


def measure(folder: Path, language: str, lines: int, rounds: int, before: Path | None = None) -> tuple[int, dict[str, Run]]:
    """Lines, and the median of each thing that was run."""
    with tempfile.TemporaryDirectory() as holder:
        tree, scratch = Path(holder) / "tree", Path(holder) / "scratch"
        scratch.mkdir()
        total = part_of(folder, language, lines, tree)
        found: dict[str, list[Run]] = defaultdict(list)
        some_class, both = class_of(tree, scratch), before if rounds >= ROUNDS_OF_BOTH else None
        for _ in range(rounds):
            for each in one_round(tree, language, scratch, some_class, total > LARGEST, both):
                found[each.what].append(each.run)
    medians = {
        what: Run(statistics.median(run.seconds for run in runs), max(run.megabytes for run in runs))
        for what, runs in found.items()
    }
    return total, medians


def slope(sizes: list[int], seconds: list[float]) -> float:
    """The exponent by which seconds grow with lines: least squares on the logarithms of both."""
    x, y = [math.log(each) for each in sizes], [math.log(each) for each in seconds]
    mean = (statistics.mean(x), statistics.mean(y))
    above = sum((a - mean[0]) * (b - mean[1]) for a, b in zip(x, y, strict=True))
    return above / sum((a - mean[0]) ** 2 for a in x)


Results = list[tuple[int, dict[str, Run]]]
"""Lines, and what was measured at that size."""


def page(language: str, rounds: list[int], results: Results) -> str:
    """The table as Markdown."""
    head = " | ".join(f"{lines:,} lines" for lines, _ in results)
    told = ", ".join(map(str, rounds[: len(results)]))
    lines = [
        "# Speed",
        "",
        "Made by `python -m benchmarks.speed`: ratios to the bare parser of one core; in brackets seconds, and the peak",
        f"megabytes of the main process. Medians of {told} rounds (a number a size) on {os.cpu_count()} cores, everything in",
        "turn. *Growth* is the exponent by which the seconds grow with the lines: 1 is in proportion.",
        "Megabytes that are no more than those of the text search are",
        "the benchmark's own, which a new process begins with.",
        "",
        f"| {language} | {head} | growth |",
        "|---|" + "--:|" * (len(results) + 1),
    ]
    for what, said in ROWS.items():
        cells = [cell(each[what], each[FLOOR]) if what in each else "" for _, each in results]
        if any(cells):
            lines.append(f"| {what}: {said} | {' | '.join(cells)} | {growth(what, results)} |")
    return "\n".join([*lines, *compared(results), "", "![seconds by lines](speed.svg)", ""])


def growth(what: str, results: Results) -> str:
    """The exponent for one row, where it was measured at two sizes or more."""
    known = [(lines, each[what].seconds) for lines, each in results if what in each]
    return f"{slope([lines for lines, _ in known], [seconds for _, seconds in known]):.2f}" if len(known) > 1 else ""


def beside(others: dict[str, tuple[int, dict[str, Run]]]) -> str:
    """The table of other languages, each against its own bare parser, as Markdown."""
    head = " | ".join(f"{language}, {lines:,} lines" for language, (lines, _) in others.items())
    told = f"Medians of {ROUNDS_OF_OTHERS} rounds on {os.cpu_count()} cores, in a run of their own."
    table = [OTHERS, "", told, "", f"| | {head} |", "|---|" + "--:|" * len(others)]
    for what in ROWS:
        cells = [cell(runs[what], runs[FLOOR]) if what in runs else "" for _, runs in others.values()]
        if any(cells):
            table.append(f"| {what} | {' | '.join(cells)} |")
    return "\n".join([*table, ""])


def compared(results: Results) -> list[str]:
    """The table of an earlier state beside this one, at the largest size at which both ran."""
    both = [(lines, runs) for lines, runs in results if any(what.startswith(BEFORE) for what in runs)]
    if not both:
        return []
    total, runs = both[-1]
    floor = runs[FLOOR]
    lines = ["", f"## Before and now, in one run ({total:,} lines)", "", "| | before | now | quicker |", "|---|--:|--:|--:|"]
    for what in ROWS:
        if BEFORE + what in runs:
            old, new = runs[BEFORE + what], runs[what]
            lines.append(f"| {what} | {cell(old, floor)} | {cell(new, floor)} | {old.seconds / new.seconds:.1f} × |")
    return lines


def cell(run: Run, floor: Run) -> str:
    """Ratio, seconds and megabytes of a run."""
    memory = f", {run.megabytes:.0f} MB" if run.megabytes else ""
    return f"{run.seconds / floor.seconds:.2f} ({run.seconds:.2f} s{memory})"


def draw(results: Results, target: Path) -> None:
    """The seconds by lines, both by their logarithms."""
    import matplotlib

    matplotlib.use("svg")
    matplotlib.rcParams |= {"svg.hashsalt": "isodesm", "svg.fonttype": "none"}
    from matplotlib import pyplot

    figure, axes = pyplot.subplots(figsize=(9, 5.5))
    marks = "os^vD<>pP*X"
    for number, what in enumerate(each for each in ROWS if any(each in one for _, one in results)):
        known = [(lines, each[what].seconds) for lines, each in results if what in each]
        axes.plot(*zip(*known, strict=True), marker=marks[number % len(marks)], label=what, linewidth=1)
    axes.set(xscale="log", yscale="log", xlabel="lines", ylabel="seconds")
    axes.spines[["top", "right"]].set_visible(False)
    axes.legend(frameon=False, fontsize=8, loc="center left", bbox_to_anchor=(1, 0.5))
    figure.tight_layout()
    figure.savefig(target, metadata={"Date": None})


def main() -> None:
    """Print the page, or write it with its figure."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path, nargs="?", help="without it, only other languages are measured")
    parser.add_argument("--language", default="java")
    parser.add_argument("--sizes", default=",".join(map(str, SIZES)), help="lines, 0 for all there are")
    parser.add_argument("--rounds", default="5", help="rounds, one number for all sizes or one for each")
    parser.add_argument("--other", action="append", default=[], help="LANGUAGE=FOLDER of another language, for one size")
    parser.add_argument("--before", type=Path, help="the src folder of an earlier state of the program")
    parser.add_argument("--write", action="store_true", help="write docs/speed.md and docs/speed.svg")
    given = parser.parse_args()
    others = {}
    for language, _, folder in (each.partition("=") for each in given.other):
        others[language] = measure(Path(folder).resolve(), language, SIZES[-1], ROUNDS_OF_OTHERS)
    table, mark, rest = (DOCS / "speed.md").read_text(encoding="utf-8").partition(OTHERS)
    if given.folder is not None:
        results, sizes = [], [int(each) for each in given.sizes.split(",")]
        rounds = [int(each) for each in given.rounds.split(",")]
        rounds += rounds[-1:] * (len(sizes) - len(rounds))
        for size, times in zip(sizes, rounds, strict=False):
            results.append(measure(given.folder.resolve(), given.language, size, times, given.before))
            print(page(given.language, rounds, results), flush=True)
        table = page(given.language, rounds, results)
        if given.write:
            draw(results, DOCS / "speed.svg")
    beside_it = beside(others) if others else mark + rest
    print(beside_it)
    if given.write:
        (DOCS / "speed.md").write_text(f"{table.rstrip()}\n\n{beside_it}".rstrip() + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
