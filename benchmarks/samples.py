"""`python -m benchmarks.samples [--write]`: what the whole plans of the sample codebases leave, once they are carried out.

Every step is carried out on a copy; after each, the sample's own tests and its program are run (where its compiler is
installed), and what they say is held against what they said before. `--write` puts the table into `docs/samples.md`.
"""

from __future__ import annotations

import argparse
import shutil
import tempfile
from collections import Counter
from pathlib import Path

from isodesm.codebase.reading import read
from isodesm.diagnosis.diagnose import diagnose
from isodesm.measures.strain import weigh
from isodesm.planning.planner.staging import plan
from tests.carrying import carry_out, has_compiler, outcome, suffix_of
from tests.support import DEMO

PAGE = Path(__file__).parent.parent / "docs/samples.md"
WIRING = ("unregistered-dependency", "captive-dependency")


def row(name: str) -> tuple[str, list[str]]:
    """A line of the table for a sample, and what is left there with the reasons."""
    with tempfile.TemporaryDirectory() as folder:
        tree = Path(folder) / name
        shutil.copytree(DEMO / name, tree, ignore=shutil.ignore_patterns("__pycache__"))
        codebase = read(tree)
        made = plan(codebase, diagnose(codebase))
        runs = has_compiler(suffix_of(tree))
        said, differ = outcome(name, tree) if runs else "", 0
        for step in made.steps:
            carry_out(tree, step)
            differ += runs and outcome(name, tree) != said
        after = diagnose(read(tree))
        hard = [each for each in after.hard if weigh(each, codebase.settings.strain)]
        wiring = Counter(each.kind for each in after.findings if each.kind in WIRING)
        by_hand = sum(any(edit.by_hand for edit in step.edits) for step in made.steps)
        cells = (
            f"`{name}`",
            len(made.steps),
            by_hand,
            differ if runs else "not run",
            len(made.kept),
            wiring[WIRING[0]],
            wiring[WIRING[1]],
            f"{made.hard_bonds[0]} → {len(hard)}",
        )
        reasons = [f"- `{name}`: {each.count} × `{short(each.source)}`: {each.reason}" for each in made.left]
        reasons += [f"- `{name}`: the old constructor of `{short(each.name)}`: {each.reason}" for each in made.kept]
        return f"| {' | '.join(map(str, cells))} |", reasons


def short(name: str) -> str:
    """The simple name of a class."""
    return name.replace("\\", ".").replace("#", ".").rpartition(".")[2]


def page() -> str:
    """The whole page."""
    found = [row(path.name) for path in sorted(DEMO.iterdir()) if path.is_dir() and not path.name.startswith("_")]
    return "\n".join(
        [
            "# Whole plans of the samples",
            "",
            "Made by `python -m benchmarks.samples --write`: all steps are carried out; after each, the sample's tests and its",
            "program run, and say what they said before.",
            "",
            "| sample | steps | by hand | runs that differ | old constructors | unregistered needs | captives | hard bonds |",
            "|---|--:|--:|--:|--:|--:|--:|--:|",
            *(line for line, _ in found),
            "",
            "## What is left, and why",
            "",
            *(reason for _, reasons in found for reason in reasons),
            "",
        ]
    )


def main() -> None:
    """Print the page, or write it."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--write", action="store_true", help=f"write {PAGE.name}")
    text = page()
    if parser.parse_args().write:
        PAGE.write_text(text, encoding="utf-8")
    print(text)


if __name__ == "__main__":
    main()
