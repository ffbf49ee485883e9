"""`python -m benchmarks.green [--folder DIR] [--steps N] [--write] [NAME ...]`: whole plans carried out on public code.

Fetches the applications of `applications.toml` (all, or those whose language or name is given), makes the plan of each,
carries its steps out one by one, asks after each what is amiss, scans again on the way and at the end, and prints what came
of it. `--write` puts the table into `docs/green.md`.
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
    """A step after which something is amiss that was not before."""

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
    """What is amiss with it as it ships, for want of what it needs."""
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
    asked: str = ""
    """What was checked after the steps."""
    apart: tuple[int, int, int] = (0, 0, 0)
    """Of the scans on the way, those that found other figures than the step says; how many there were; and how many found
    others than were said to be estimated."""

    @property
    def exact(self) -> bool:
        """Whether a scan finds what the plan says."""
        return self.predicted == (self.strain, self.hard[1])


def run(application: Application, home: Path, limit: int = 0, at_once: int = 1, scans: int = 0) -> Outcome:
    """Carry out the plan (its first `limit` steps, 0: all) on a copy of the application, beside what it needs; `scans` are
    how many there are on the way."""
    tree = Path(tempfile.mkdtemp(dir=home.parent, prefix="steps-"))
    try:
        shutil.copytree(home, tree, symlinks=True, dirs_exist_ok=True)
        _leave_aside(tree / application.folder, application.without)
        with tempfile.TemporaryDirectory() as work:
            return _carried(application, tree, Path(work), limit, at_once, scans)
    finally:
        shutil.rmtree(tree, ignore_errors=True)


def _leave_aside(root: Path, pattern: str) -> None:
    """Take the files away whose path below `root` matches, say since they build apart."""
    for path in sorted(root.rglob("*")) if pattern else ():
        if path.is_file() and re.search(pattern, path.relative_to(root).as_posix()):
            path.unlink()


def _carried(application: Application, tree: Path, work: Path, limit: int, at_once: int, scans: int) -> Outcome:
    root = tree / application.folder
    settings = Settings(cache_folder=str(work / "cache"), languages=(application.language,))
    codebase = read(root, settings)
    diagnosis = diagnose(codebase)
    found = plan(codebase, diagnosis, Options(steps=limit))  # whose end is held against a scan
    steps = found.steps[: limit or None]
    tests = [_tests(application, tree)]
    checker = Checker(application, root, work / "out", _modules(tree))
    every = max(len(steps) // (scans + 1), 1) if scans else 0
    climb = _Climb(checker, root, at_once, settings, every)
    climb.carry_out(steps)
    tests.append(_tests(application, tree))
    after = diagnose(read(root, settings))
    strain, hard = _measured(after, settings)
    return Outcome(
        name=application.name,
        language=application.language,
        steps=len(steps),
        baseline=sum(climb.first.values()),
        red=tuple(climb.red),
        hard=(found.hard_bonds[0], hard),
        strain=strain,
        predicted=(steps[-1].after.strain, steps[-1].after.hard_bonds) if steps else (found.strain[0], found.hard_bonds[0]),
        grave=(_grave(diagnosis), _grave(after)),
        reasons=_reasons(found),
        unproven=found.unproven,
        tests=" → ".join(dict.fromkeys(tests)),
        asked=checker.asked(),
        apart=(climb.apart, climb.scans, climb.estimated),
    )


def _modules(tree: Path) -> Path:
    """Where the packages lie that were installed with an application."""
    return next((each for each in tree.parents if each.name == "node_modules"), tree)


def _measured(found: Diagnosis, settings: Settings) -> tuple[float, int]:
    """Strain and number of hard bonds, as a scan finds them."""
    weights = [weigh(each, settings.strain) for each in found.hard]
    return round(sum(weights), 9), sum(1 for weight in weights if weight)


class _Climb:
    """Carries steps out one after the other, and asks on the way what is amiss, and what a scan finds."""

    def __init__(self, checker: Checker, root: Path, at_once: int, settings: Settings, every: int) -> None:
        self.checker, self.root, self.at_once = checker, root, at_once
        self.settings, self.every = settings, every
        self.first = self.last = checker.complaints()
        self.red: list[Red] = []
        self.apart = self.scans = self.estimated = 0

    def carry_out(self, steps: Sequence[Step]) -> None:
        """All steps. It is asked after every `at_once`; where something is amiss then, those are taken back and asked about
        one by one."""
        for begin in range(0, len(steps), self.at_once):
            some = steps[begin : begin + self.at_once]
            kept = _contents(self.root, some)
            for step in some:
                carry_out(self.root, step)
                self._scan(step)
            now = self.checker.complaints()
            if len(some) == 1 or not self.checker.fresh(now, self.last, self.first):
                self._note(some[-1], now)
                continue
            for path, content in kept.items():
                path.write_bytes(content) if content is not None else path.unlink(missing_ok=True)
            for step in some:
                carry_out(self.root, step)
                self._note(step, self.checker.complaints())

    def _note(self, step: Step, now: Counter[str]) -> None:
        if fresh := self.checker.fresh(now, self.last, self.first):
            print(f"  red: {step.number} {step.technique}: {step.title}", *fresh[:4], sep="\n    ", file=sys.stderr)
            self.red.append(Red(step.number, step.technique, step.title, fresh[0].replace(str(self.root), "")))
        self.last = now

    def _scan(self, step: Step) -> None:
        if self.every and step.number % self.every == 0:
            self.scans += 1
            found = diagnose(read(self.root, self.settings))
            other = _measured(found, self.settings) != (step.after.strain, step.after.hard_bonds)
            self.apart += other and not step.estimated
            self.estimated += other and step.estimated


def _touched(steps: Sequence[Step]) -> set[str]:
    return {edit.file for step in steps for edit in step.edits if not edit.by_hand}


def _contents(root: Path, steps: Sequence[Step]) -> dict[Path, bytes | None]:
    paths = [root / name for name in sorted(_touched(steps))]
    return {path: path.read_bytes() if path.exists() else None for path in paths}


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
        "on a copy, and on the way it is asked whether anything is amiss that was not before: after every step, or after as",
        "many as `--at-once` says, and then step by step where something is. *Checked* says what is asked; libraries that are",
        "not here are missing before and after. The tree is scanned again at the end, and where *on the way* says so between",
        f"steps. {date}, version {__version__}.",
        "",
        "| application | language | checked | amiss as it ships | steps | red | hard bonds | predicted | on the way | "
        "at `error` or `warning` | loosened | own tests |",
        "|---|---|---|--:|--:|--:|--:|---|---|--:|--:|---|",
    ]
    for each in outcomes:
        before, after = each.grave
        wrong, scans, estimated = each.apart
        right = f"{scans - wrong - estimated} of {scans} exact" if scans else ""
        right += f", {estimated} estimated" if estimated else ""
        cells: list[object] = [each.name, each.language, each.asked, each.baseline, each.steps, len(each.red)]
        cells += [f"{each.hard[0]} → {each.hard[1]}", "exact" if each.exact else _apart(each), right]
        cells += [f"{before} → {after}", _share(before - after, before), each.tests]
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
    parser.add_argument("--scans", type=int, default=0, help="scans on the way, held against the figures of steps")
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
            home = fetched(application, asked.folder)
            outcomes[application.name] = run(application, home, asked.steps, asked.at_once, asked.scans)
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
