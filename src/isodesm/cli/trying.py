"""Tries the steps of a plan beforehand, in a copy of the tree, and tells which turn the user's own build red."""

from __future__ import annotations

import re
from pathlib import Path
from typing import NamedTuple

import msgspec

from isodesm.cli.run import read_tree, say
from isodesm.cli.stepping import Course, Narrowed
from isodesm.disk.copying import copied
from isodesm.disk.opening import read_plain
from isodesm.errors import UsageError
from isodesm.rewriting.apply import Outcome, Wish
from isodesm.rewriting.checks import run_check
from isodesm.settings import Settings

_TELLING = re.compile(r"(?i)\berror\b|\bfail(?:ed|ure)?\b|exception\b|\bundefined\b")
"""What the line of a build has that says what is wrong."""


class Tried(NamedTuple):
    """What came of steps in the copy: so many were kept, and those that turned red, each with what the build said of it."""

    kept: int
    red: tuple[tuple[str, str], ...]


def tried(path: Path, settings: Settings, narrowed: Narrowed, most: int, check: str) -> Tried:
    """Carry at most so many steps (0: all) out in a copy of the tree, `check` run after each; the tree stays as it is.

    UsageError where the check is red before the first step: it would say nothing about any.
    """
    say(f"trying the steps in a copy of {path}; check after each: {check}")
    with copied(path) as tree:
        folder = tree.parent.parent
        log = folder / "before.log"
        if not run_check(check, tree, log, settings.step.check_seconds).is_green:
            said = first_telling(read_plain(log).decode("utf-8", "replace").splitlines())
            raise UsageError(f"The check is red before any step, in a copy of {path}: {said or 'it says nothing'}")
        own = msgspec.structs.replace(settings, cache_folder=str(folder / "cache"))
        course = Course(tree, own, lambda phases, replay: read_tree(tree, own, phases, replay))
        course.choose(narrowed, (), None)
        wish = Wish(check=check, check_seconds=settings.step.check_seconds, dirty=True, doubt=False)
        course.carry_out(wish, most, True, _tell, lambda strain, bonds: None)
        red = tuple((each.id, _said(each)) for each in course.outcomes if not each.is_kept)
        return Tried(sum(each.is_kept for each in course.outcomes), red)


def _tell(outcome: Outcome) -> None:
    if not outcome.is_kept:
        say(f"red, and left out: {outcome.title} ({outcome.id}): {_said(outcome)}")


def _said(outcome: Outcome) -> str:
    """What the build said of a step, in a line."""
    try:
        lines = read_plain(Path(outcome.log)).decode("utf-8", "replace").splitlines() if outcome.log else []
    except OSError:
        lines = []
    return first_telling(lines or list(outcome.said)) or outcome.reason


def first_telling(lines: list[str]) -> str:
    """The first line that says what is wrong; else the first that says anything."""
    kept = [line.strip() for line in lines if line.strip()]
    return next((line for line in kept if _TELLING.search(line)), kept[0] if kept else "")[:200]
