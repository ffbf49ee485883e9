"""`isodesm step`."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from isodesm.cli import options as opt
from isodesm.cli.options import Reading, reads_tree
from isodesm.cli.phases import Phases
from isodesm.cli.run import (
    check_choice,
    check_format,
    check_goal,
    hand_out,
    load,
    read_tree,
    said_of_mistakes,
    say,
    say_of_damaged,
    stated_root,
)
from isodesm.errors import UsageError

if TYPE_CHECKING:
    from isodesm.cli.stepping import Course
    from isodesm.rewriting.apply import Wish
    from isodesm.settings import Settings

FORMATS = ("table", "json", "patch")


Write = Annotated[bool, typer.Option("--write", help="Carry it out; without, it is only shown.")]
Count = Annotated[int, typer.Option("--count", min=1, help="Steps to carry out.", metavar="N")]
Stage = Annotated[bool, typer.Option("--stage", help="All steps of the first stage.")]
Every = Annotated[bool, typer.Option("--all", help="As many as there are.")]
Ids = Annotated[list[str] | None, typer.Option("--id", help="This step, with those it needs; may be repeated.", metavar="ID")]
Saved = Annotated[Path | None, typer.Option("--from", help="Steps of a plan saved as JSON.", metavar="FILE", dir_okay=False)]
Check = Annotated[
    str | None,
    typer.Option("--check", help="Run this after each step; a red one is taken back.", metavar="COMMAND"),
]
CheckSeconds = Annotated[
    float | None, typer.Option("--check-seconds", min=0, help="The longest that the check may take.", metavar="N")
]
KeepGoing = Annotated[bool, typer.Option("--keep-going", help="Go on after a red step, as --all does.")]
Stop = Annotated[bool, typer.Option("--stop", help="End at the first red step, with --all, too.")]
Commit = Annotated[bool, typer.Option("--commit", help="One commit for each step; with --undo one that takes it back.")]
Dirty = Annotated[bool, typer.Option("--dirty", help="Also where files have changes that no commit holds.")]
Undo = Annotated[
    bool, typer.Option("--undo", help="Take the last step back, or one that was interrupted; with --id the last of that id.")
]
Format = Annotated[str, typer.Option("--format", help="table, json or patch.", metavar="FORMAT")]


@dataclass(frozen=True, slots=True)
class StepOptions:
    """What the command is asked for."""

    write: Write = False
    count: Count = 1
    every: Every = False
    id: Ids = None
    saved: Saved = None
    stage: Stage = False
    goal: opt.For = None
    callers: opt.Callers = False
    focus: opt.Focus = ""
    technique: opt.Techniques = None
    until: opt.Until = None
    members: opt.Members = "used"
    no_new_abstractions: opt.NoNew = False
    check: Check = None
    check_seconds: CheckSeconds = None
    keep_going: KeepGoing = False
    stop: Stop = False
    commit: Commit = False
    dirty: Dirty = False
    undo: Undo = False
    format: Format = "table"


@reads_tree
def step(reading: Reading, chosen: StepOptions) -> None:
    """Carry the next step out: change, check, and keep it or take it back."""
    from isodesm.cli.stepping import narrowed_by
    from isodesm.rewriting.apply import Wish

    _check(reading, chosen)
    settings = load(reading)
    if chosen.undo:
        _undo(reading.path, settings, chosen.id or [], chosen.commit)
        return
    narrowed = narrowed_by(chosen)
    own = settings.step
    wish = Wish(
        check=own.check if chosen.check is None else chosen.check,
        check_seconds=own.check_seconds if chosen.check_seconds is None else chosen.check_seconds,
        commit=chosen.commit,
        dirty=chosen.dirty,
    )
    most = 0 if chosen.every or ((chosen.id or chosen.saved) and chosen.count == 1) else chosen.count
    say_of_damaged(reading.path, settings)
    course = _course(reading, settings)
    course.choose(narrowed, tuple(chosen.id or ()), chosen.saved)
    if chosen.stage:
        most = course.length_of_stage()
    try:
        going = chosen.keep_going or (chosen.every and not chosen.stop)
        _write(reading, course, wish, most, going, chosen.format) if chosen.write else _show(reading, course, chosen.format)
    finally:
        if course.mistakes:
            say(said_of_mistakes(course.mistakes))


def _check(reading: Reading, chosen: StepOptions) -> None:
    """UsageError for what does not go together."""
    from isodesm.planning.model.step import TECHNIQUES

    check_format(chosen.format, FORMATS)
    check_choice("--members", chosen.members, ("used", "all"))
    for each in chosen.technique or ():
        check_choice("--technique", each, TECHNIQUES)
    if not reading.path.is_dir():
        raise UsageError(f"Steps are carried out in a folder, and {reading.path} is none.")
    if chosen.undo:
        return
    if chosen.stop and chosen.keep_going:
        raise UsageError("--stop ends at the first red step, --keep-going goes on after it: give one of them.")
    if chosen.commit and not chosen.write:
        raise UsageError("--commit goes with --write.")
    check_goal(chosen.goal, chosen.callers, chosen.focus, chosen.technique)
    if chosen.stage and (chosen.every or chosen.id or chosen.saved or chosen.focus or chosen.technique or chosen.count != 1):
        raise UsageError("--stage takes the steps of the first stage of the whole plan: leave out what chooses others.")
    if chosen.saved is not None and (chosen.goal or chosen.id or chosen.focus or chosen.technique or chosen.until is not None):
        raise UsageError("--from takes the steps as they were saved; what narrows a plan can't be given with it.")


def _course(reading: Reading, settings: Settings) -> Course:
    from isodesm.cli.stepping import Course

    return Course(
        reading.path,
        settings,
        lambda phases, replay: read_tree(reading.path, settings, phases, replay, reading.scheduler),
        Phases(quiet=reading.quiet),
        stated_root(reading.path, reading.absolute),
    )


def carried_out(path: Path, settings: Settings, wish: Wish, most: int) -> Course:
    """Carry at most so many steps out, and print what comes of each."""
    from isodesm.cli.stepping import Course
    from isodesm.output.step_table import print_outcome, print_standing
    from isodesm.output.terminal import content_of, make_console

    def tell(print_it: Any, *said: Any) -> None:
        console = make_console(to_file=False)
        print_it(console, *said)
        hand_out(content_of(console), None)

    course = Course(path, settings, lambda phases, replay: read_tree(path, settings, phases, replay))
    course.carry_out(wish, most, False, partial(tell, print_outcome), partial(tell, print_standing))
    return course


def _show(reading: Reading, course: Course, format: str) -> None:
    from isodesm.output import envelope
    from isodesm.output.step_table import print_preview
    from isodesm.output.terminal import content_of, make_console
    from isodesm.rewriting.changes import changes_of
    from isodesm.rewriting.patches import patch_of

    following = course.following()
    if following is None:
        _nothing_left(course)
        return
    patch = b"" if any(edit.by_hand for edit in following.edits) else patch_of(changes_of(reading.path, following))
    if format == "patch":
        hand_out(patch, reading.output)
    elif format == "json":
        result = envelope.preview_result(course.overview, following, patch)
        hand_out(envelope.encode("next-step", course.overview, result), reading.output)
    else:
        console = make_console(reading.output is not None)
        print_preview(console, following, patch)
        hand_out(content_of(console), reading.output)
        if not reading.quiet:
            say("nothing was changed; --write carries it out")


def _write(reading: Reading, course: Course, wish: Any, most: int, keep_going: bool, format: str) -> None:
    from isodesm.output import envelope
    from isodesm.output.step_table import print_end, print_outcome, print_standing
    from isodesm.output.terminal import content_of, make_console

    shown = format == "table"

    def tell(print_it: Any, *said: Any) -> None:
        if shown:
            console = make_console(reading.output is not None)
            print_it(console, *said)
            parts.append(content_of(console))
            if reading.output is None:
                hand_out(parts.pop(), None)

    parts: list[bytes] = []
    if wish.check:  # it may come from a file of the codebase: nothing of a stranger's runs unseen
        say(f"check after each step: {wish.check}")
    course.carry_out(
        wish,
        most,
        keep_going,
        lambda outcome: tell(print_outcome, outcome),
        lambda strain, bonds: tell(print_standing, strain, bonds),
    )
    if not course.outcomes:
        _nothing_left(course)
    if shown and course.outcomes:
        tell(print_end, course.outcomes, course.left())
        if reading.output is not None:
            hand_out(b"".join(parts), reading.output)
    elif not shown:
        result = envelope.steps_result(course.overview, course.outcomes, course.standings, course.left())
        hand_out(envelope.encode("step", course.overview, result), reading.output)
    if course.is_red:
        raise typer.Exit(1)


def _nothing_left(course: Course) -> None:
    say("There is no step to carry out here.")
    for each in course.left():
        say(f"  {each}")


def _undo(path: Path, settings: Settings, ids: list[str], commit: bool) -> None:
    from isodesm.cli.stepping import undo

    if len(ids) > 1:
        raise UsageError("--undo takes one step back at a time; name one with --id.")
    say_of_damaged(path, settings)
    done = undo(path, settings, next(iter(ids), ""), commit)
    if done is None:
        which = f"No step {ids[0]} was carried out here" if ids else "No step was carried out here that could be taken back"
        say(f"{which}.")
        return
    record = done.entry.record
    say(f"taken back: {record.title} ({record.id})")
    if done.commit:
        say(f"commit {done.commit} takes commit {record.commit} back")
    elif record.commit:
        say(f"commit {record.commit} stays; the files are as before it, and not committed (--undo --commit does that, too)")
    if done.aside:
        raise typer.Exit(1)
