"""What goals and stages say: one sentence that a maintainer can say in a meeting, each the result of a scan."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import msgspec

from isodesm.inference.effect_kinds import EFFECT_WORDS
from isodesm.linking.symbols import simple_name
from isodesm.measures.dossier import counted
from isodesm.measures.testable import Obstacle


class Freed(msgspec.Struct, frozen=True):
    """What is known of a class before and after steps."""

    name: str
    branches: int
    before: Sequence[Obstacle]
    after: Sequence[Obstacle]
    steps: int
    files: int
    commits: int = 0
    keeps: bool = False
    """Whether production still makes it by an old constructor, or a default."""


def freed(facts: Freed) -> str:
    """What steps do for a class."""
    who = f"`{facts.name}` ({_worth(facts)})"
    if not facts.before:
        return f"{who} can be unit-tested alone already"
    if not facts.after:
        where = "; callers still use its old constructor" if facts.keeps else ""
        return f"{who} can be unit-tested without {_kept_out(facts.before)}: {_cost(facts)}{where}"
    left = f"{who} can't be unit-tested alone yet"
    if not facts.steps:
        return f"{left}: {_kept_out(facts.after)} would come along"
    return f"{left} after {_cost(facts)}: {_kept_out(facts.after)} would still come along"


def asked_no_more(classes: int, of: int, where: str, target: str, *, made: bool, steps: int, files: int) -> str:
    """What some of the classes of a folder do no longer with one target."""
    who = f"{classes} classes" if classes == of else f"{classes} of {of} classes"
    what = f"make `{target}` themselves" if made else f"ask for `{target}` by name"
    return f"{who} of `{where}` no longer {what}: {counted(steps, 'step')}, {counted(files, 'file')}"


def the_rest(steps: int, files: int) -> str:
    """What the last stage of a plan is."""
    return f"What else can be loosened, class by class: {counted(steps, 'step')}, {counted(files, 'file')}"


def _worth(facts: Freed) -> str:
    commits = f", {counted(facts.commits, 'commit')}" if facts.commits > 1 else ""
    return f"{counted(facts.branches, 'branch', 'branches')}{commits}"


def _cost(facts: Freed) -> str:
    return f"{counted(facts.steps, 'step')}, {counted(facts.files, 'file')}"


def _kept_out(obstacles: Sequence[Obstacle]) -> str:
    """What a test does not meet any more, effects by their names, decisions by those of their targets."""
    effects = [EFFECT_WORDS[each.what] for each in obstacles if each.kind == "effect"]
    targets = dict.fromkeys(simple_name(each.what) for each in obstacles if each.kind == "decision")
    others = [f"`{each}`" for each in targets] if not effects else []
    return listed([*effects, *others])


def listed(words: Iterable[str]) -> str:
    """Words as a sentence has them."""
    found = list(words)
    return found[0] if len(found) == 1 else f"{', '.join(found[:-1])} and {found[-1]}"
