"""`python -m benchmarks.green [--folder DIR] [--steps N] [--write] [NAME ...]`: whole plans carried out on public code.

Fetches the applications of `applications.toml` (all, or those whose language or name is given), makes the plan of each,
carries its steps out one by one, asks the language's compiler after each, scans again at the end, and prints what came of
it. `--write` puts the table into `docs/green.md`.
"""

from __future__ import annotations

import argparse
import datetime
import re
import shutil
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Sequence
from pathlib import Path

import msgspec

from benchmarks.applications import Application, Checker, applications, fetched
from isodesm import __version__
from isodesm.codebase.reading import read
from isodesm.diagnosis.diagnose import diagnose
from isodesm.diagnosis.shared.findings import Diagnosis
from isodesm.measures.strain import weigh
from isodesm.planning.model.step import Plan, Step
from isodesm.planning.planner.options import Options
from isodesm.planning.planner.plan import plan
from isodesm.settings import Settings
from tests.carrying import carry_out

PAGE = Path(__file__).parent.parent / "docs/green.md"
GRAVE = ("error", "warning")


class Red(msgspec.Struct, frozen=True):
    """A step after which the compiler says something that it did not say before."""

    number: int
    technique: str
    title: str
    complaint: str


class Outcome(msgspec.Struct, frozen=True):
    """What came of the plan on one application."""

    name: str
    language: str
    steps: int
    baseline: int
    """Mistakes the compiler finds in it as it ships, for want of what it needs."""
    red: tuple[Red, ...]
    hard: tuple[int, int]
    strain: float
    """Hard bonds before and after, and strain after, as a scan finds them."""
    predicted: tuple[float, int]
    """Strain and hard bonds after, as the plan says."""
    grave: tuple[int, int]
    """Hard bonds at `error` or `warning`, before and after."""
    reasons: dict[str, int]
    """Why grave ones are left, to how many bonds."""
    unproven: dict[str, int]
    tests: str = ""

    @property
    def exact(self) -> bool:
        """Whether a scan finds what the plan says."""
        return self.predicted == (self.strain, self.hard[1])


def run(application: Application, home: Path, limit: int = 0, at_once: int = 1) -> Outcome:
    """Carry out the plan (its first `limit` steps, 0: all) on a copy of the application, beside what it needs."""
    tree = Path(tempfile.mkdtemp(dir=home.parent, prefix="steps-"))
    try:
        shutil.copytree(home, tree, symlinks=True, dirs_exist_ok=True)
        _leave_aside(tree / application.folder, application.without)
        with tempfile.TemporaryDirectory() as work:
            return _carried(application, tree, Path(work), limit, at_once)
    finally:
        shutil.rmtree(tree, ignore_errors=True)


def _leave_aside(root: Path, pattern: str) -> None:
    """Take the files away whose path below `root` matches, say since they build apart."""
    for path in sorted(root.rglob("*")) if pattern else ():
        if path.is_file() and re.search(pattern, path.relative_to(root).as_posix()):
            path.unlink()


def _carried(application: Application, tree: Path, work: Path, limit: int, at_once: int) -> Outcome:
    root = tree / application.folder
    settings = Settings(cache_folder=str(work / "cache"), languages=(application.language,))
    codebase = read(root, settings)
    diagnosis = diagnose(codebase)
    found = plan(codebase, diagnosis, Options(steps=limit))  # whose end is held against a scan
    steps = found.steps[: limit or None]
    tests = [_tests(application, tree)]
    baseline, red = _climb(Checker(application, root, work / "out"), root, steps, at_once)
    tests.append(_tests(application, tree))
    after = diagnose(read(root, settings))
    weights = [weigh(each, settings.strain) for each in after.hard]
    return Outcome(
        name=application.name,
        language=application.language,
        steps=len(steps),
        baseline=baseline,
        red=red,
        hard=(found.hard_bonds[0], sum(1 for weight in weights if weight)),
        strain=round(sum(weights), 9),
        predicted=(steps[-1].after.strain, steps[-1].after.hard_bonds) if steps else (found.strain[0], found.hard_bonds[0]),
        grave=(_grave(diagnosis), _grave(after)),
        reasons=_reasons(found),
        unproven=found.unproven,
        tests=" → ".join(dict.fromkeys(tests)),
    )


def _climb(checker: Checker, root: Path, steps: Sequence[Step], at_once: int) -> tuple[int, tuple[Red, ...]]:
    """Carry the steps out one after the other: how many mistakes the compiler finds before the first, and the steps after
    which it says something that it did not say before.

    It is asked after every `at_once` steps; where it says something then, those are taken back and asked about one by one.
    """
    red: list[Red] = []
    first = last = checker.complaints({edit.file for step in steps for edit in step.edits if not edit.new})
    for begin in range(0, len(steps), at_once):
        some = steps[begin : begin + at_once]
        kept = _contents(root, some)
        for step in some:
            carry_out(root, step)
        now = checker.complaints(_touched(some))
        if len(some) == 1 or not _fresh(now, last):
            red += [_red(step, _fresh(now, last), root) for step in some if _fresh(now, last)]
            last = now if checker.sees_all else last | now
            continue
        for path, content in kept.items():
            path.write_bytes(content) if content is not None else path.unlink(missing_ok=True)
        for step in some:
            carry_out(root, step)
            now = checker.complaints(_touched([step]))
            red += [_red(step, fresh, root)] if (fresh := _fresh(now, last)) else []
            last = now if checker.sees_all else last | now
    return sum(first.values()), tuple(red)


def _touched(steps: Sequence[Step]) -> set[str]:
    return {edit.file for step in steps for edit in step.edits if not edit.by_hand}


def _contents(root: Path, steps: Sequence[Step]) -> dict[Path, bytes | None]:
    paths = [root / name for name in sorted(_touched(steps))]
    return {path: path.read_bytes() if path.exists() else None for path in paths}


def _fresh(now: Counter[str], last: Counter[str]) -> list[str]:
    """What the compiler says now and did not say before; a package that is missing as it ships is so in new files, too."""
    missing = {_said(line) for line in last if line.endswith("does not exist")}
    return [line for line in now if now[line] > last.get(line, 0) and _said(line) not in missing]


def _said(line: str) -> str:
    return line.partition(" error: ")[2] or line


def _red(step: Step, fresh: list[str], root: Path) -> Red:
    print(f"  red: {step.number} {step.technique}: {step.title}", *fresh[:4], sep="\n    ", file=sys.stderr)
    return Red(step.number, step.technique, step.title, fresh[0].replace(str(root), ""))


def _grave(diagnosis: Diagnosis) -> int:
    """Hard bonds that are an error or a warning."""
    return sum(1 for each in diagnosis.hard if each.level in GRAVE)


def _reasons(found: Plan) -> dict[str, int]:
    """Why grave bonds are left, most first."""
    counted: Counter[str] = Counter()
    for each in found.left:
        if each.level in GRAVE:
            counted[re.sub(r"`[^`]*`", "`…`", each.reason)] += each.count
    return dict(sorted(counted.items(), key=lambda pair: (-pair[1], pair[0])))


def _tests(application: Application, tree: Path) -> str:
    """What the application's own tests say at their end, and how many ran; '' where it names none."""
    if not application.tests:
        return ""
    command = [sys.executable, *application.tests.split()]
    done = subprocess.run(command, cwd=tree, capture_output=True, text=True, errors="replace", check=False)
    said = f"{done.stdout}\n{done.stderr}".strip()
    ran = re.search(r"^Ran (\d+) tests", said, re.MULTILINE)
    return f"{ran[1] if ran else 'no'} tests: {said.rpartition(chr(10))[2]}"


def page(outcomes: Sequence[Outcome], date: str) -> str:
    """What came of it, as a page in Markdown."""
    lines = [
        "# Plans carried out on public code",
        "",
        "Made by `python -m benchmarks.green --write`: each application is fetched as it ships, its whole plan is carried out",
        "on a copy, and the language's compiler is asked on the way whether it says anything that it did not say before: after",
        "every step, or after as many as `--at-once` says, and then step by step where it objects. At the end the tree is",
        f"scanned again. {date}, version {__version__}.",
        "",
        "| application | language | mistakes as it ships | steps | red | hard bonds | predicted | "
        "at `error` or `warning` | loosened | own tests |",
        "|---|---|--:|--:|--:|--:|---|--:|--:|---|",
    ]
    for each in outcomes:
        before, after = each.grave
        cells = [each.name, each.language, each.baseline, each.steps, len(each.red), f"{each.hard[0]} → {each.hard[1]}"]
        cells += ["exact" if each.exact else _apart(each), f"{before} → {after}", _share(before - after, before), each.tests]
        lines.append(f"| {' | '.join(map(str, cells))} |")
    for each in outcomes:
        lines += ["", f"## {each.name[0].upper()}{each.name[1:]}", ""]
        lines += [f"- **red** step {red.number} ({red.technique}): {red.title}: `{red.complaint[:160]}`" for red in each.red]
        lines += [f"- {count} left: {reason}" for reason, count in each.reasons.items()]
        lines += [
            f"- not offered, for what would be written failed the check of its {check}: {count}"
            for check, count in each.unproven.items()
        ]
    return "\n".join(lines) + "\n"


def _apart(outcome: Outcome) -> str:
    strain, hard = outcome.predicted
    return f"strain {strain:g}, is {outcome.strain:g}; hard bonds {hard}, are {outcome.hard[1]}"


def _share(part: int, whole: int) -> str:
    return f"{100 * part / whole:.0f} %" if whole else "–"


def _is_file(path: Path | None) -> bool:
    return path is not None and path.is_file()


def main(arguments: Sequence[str] | None = None) -> None:
    """Run it as asked for on the command line."""
    parser = argparse.ArgumentParser(prog="python -m benchmarks.green", description=__doc__)
    parser.add_argument("names", nargs="*", help="languages or names of applications; all without")
    parser.add_argument("--folder", type=Path, default=Path(tempfile.gettempdir()) / "isodesm-green")
    parser.add_argument("--steps", type=int, default=0, help="at most so many steps of each plan")
    parser.add_argument("--at-once", type=int, default=1, help="steps between two checks")
    parser.add_argument("--outcomes", type=Path, help="a file that outcomes are added to, and the page is made from")
    parser.add_argument("--write", action="store_true", help=f"write {PAGE.name}")
    asked = parser.parse_args(arguments)
    known = msgspec.json.decode(asked.outcomes.read_bytes(), type=list[Outcome]) if _is_file(asked.outcomes) else []
    outcomes = {each.name: each for each in known}
    for application in applications():
        if asked.names and not {application.language, application.name, application.slug} & set(asked.names):
            continue
        print(f"{application.name} ({application.language})", file=sys.stderr)
        try:
            outcomes[application.name] = run(application, fetched(application, asked.folder), asked.steps, asked.at_once)
        except OSError as error:
            print(f"  left out: {error}", file=sys.stderr)
    if asked.outcomes:
        asked.outcomes.write_bytes(msgspec.json.encode(list(outcomes.values())))
    ordered = [outcomes[each.name] for each in applications() if each.name in outcomes]
    text = page(ordered, datetime.date.today().isoformat())
    if asked.write:
        PAGE.write_text(text, encoding="utf-8")
    print(text)


if __name__ == "__main__":
    main()
