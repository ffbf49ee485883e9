"""`isodesm plan`."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, NamedTuple

import typer

from isodesm.cli import options as opt
from isodesm.cli.answers import Answer, Request, give, printed, workspace_of
from isodesm.cli.options import Reading, reads_tree
from isodesm.cli.run import (
    FORMATS,
    check_choice,
    check_figure,
    check_format,
    check_goal,
    load,
    said_of_mistakes,
    say,
    shown_root,
)
from isodesm.errors import UsageError

if TYPE_CHECKING:
    from isodesm.cli.workspace import Workspace
    from isodesm.planning.model.step import Plan, Step


class Wanted(NamedTuple):
    """What shapes the result."""

    format: str
    steps: int
    focus: str
    shown: str
    """`all`, `none`, the number or the id of a step."""
    techniques: tuple[str, ...]
    until: float | None
    members: str
    no_new_abstractions: bool
    earlier: tuple[str, ...]
    red: tuple[tuple[str, str], ...] = ()
    """Steps that turned the check red, with what it said."""
    goal: tuple[str, ...] = ()
    callers: bool = False


@dataclass(frozen=True, slots=True)
class PlanOptions:
    """What the command is asked for."""

    format: Annotated[str, typer.Option("--format", help="table, json, csv, markdown or patch.", metavar="FORMAT")] = "table"
    steps: Annotated[int, typer.Option("--steps", min=0, help="Steps to plan; 0 for all.", metavar="N")] = 12
    goal: opt.For = None
    callers: opt.Callers = False
    focus: opt.Focus = ""
    technique: opt.Techniques = None
    until: opt.Until = None
    members: opt.Members = "used"
    no_new_abstractions: opt.NoNew = False
    earlier: Annotated[
        Path | None,
        typer.Option(
            "--earlier", help="A plan saved as JSON: says which of its steps are done.", metavar="FILE", dir_okay=False
        ),
    ] = None
    check: Annotated[
        str,
        typer.Option("--check", help="Try the steps in a copy, with this after each; leave red ones out.", metavar="COMMAND"),
    ] = ""
    figure: opt.Figure = None
    brief: Annotated[bool, typer.Option("--brief", help="The overview only.")] = False
    full: Annotated[bool, typer.Option("--full", help="All steps, with their code.")] = False
    show: Annotated[str, typer.Option("--show", help="This step with its code: its number, or its id.", metavar="N|ID")] = ""


@reads_tree
def plan(reading: Reading, chosen: PlanOptions) -> None:
    """In which steps do I take it apart, and what does each gain?"""
    from isodesm.planning.model.step import TECHNIQUES

    check_format(chosen.format, (*FORMATS, "patch"))
    check_figure(chosen.figure)
    check_choice("--members", chosen.members, ("used", "all"))
    for each in chosen.technique or ():
        check_choice("--technique", each, TECHNIQUES)
    check_goal(chosen.goal, chosen.callers, chosen.focus, chosen.technique)
    if sum((chosen.brief, chosen.full, bool(chosen.show))) > 1:
        raise UsageError("--brief, --full and --show each say what is shown; give one of them.")
    shown = "none" if chosen.brief else "all" if chosen.full else chosen.show or "1"
    known = tuple(sorted(_ids_of(chosen.earlier))) if chosen.earlier is not None else ()
    wanted = Wanted(
        chosen.format,
        chosen.steps,
        chosen.focus,
        shown,
        tuple(chosen.technique or ()),
        chosen.until,
        chosen.members,
        chosen.no_new_abstractions,
        known,
        _turned_red(reading, chosen) if chosen.check else (),
        tuple(chosen.goal or ()),
        chosen.callers,
    )
    if chosen.format == "patch" and reading.output is not None and (reading.output.is_dir() or not reading.output.suffix):
        _write_patches(reading, wanted, reading.output)
        return
    request = Request(("plan", wanted), reading, chosen.figure)
    give(request, lambda workspace: _answer(workspace, request, wanted))


def _turned_red(reading: Reading, chosen: PlanOptions) -> tuple[tuple[str, str], ...]:
    """The steps that turn the check red in a copy of the tree, with what it says of each."""
    from isodesm.cli.stepping import narrowed_by
    from isodesm.cli.trying import tried
    from isodesm.output.text import counted

    if not reading.path.is_dir():
        raise UsageError(f"--check tries steps in a copy of a folder, and {reading.path} is none.")
    narrowed = narrowed_by(chosen)
    found = tried(reading.path, load(reading), narrowed, chosen.steps, chosen.check)
    say(f"tried: {counted(found.kept, 'step')} green, {len(found.red)} red and left out")
    return found.red


def _ids_of(path: Path) -> frozenset[str]:
    from isodesm.disk.opening import read_plain
    from isodesm.planning.planner.progress import planned_ids

    try:
        return planned_ids(read_plain(path))
    except OSError as error:
        raise UsageError(f"--earlier {path}: {error.strerror or error}") from error
    except ValueError as error:
        raise UsageError(f"--earlier {path} is no plan saved by `plan --format json`: {error}") from error


def _planned(workspace: Workspace, wanted: Wanted, mistakes: list[Exception]) -> Plan:
    from isodesm.codebase.class_lookup import classes_or_layer
    from isodesm.planning.planner.options import Options

    options = Options(
        steps=wanted.steps if not wanted.goal else 0,
        goal=workspace.goal(wanted.goal),
        production=wanted.callers,
        focus=classes_or_layer(workspace.overview, wanted.focus),
        techniques=frozenset(wanted.techniques),
        until=wanted.until,
        all_members=wanted.members == "all",
        no_new_abstractions=wanted.no_new_abstractions,
        earlier=frozenset(wanted.earlier),
        red=wanted.red,
    )
    return workspace.plan(options, mistakes)


def _steps_to_show(made: Plan, shown: str) -> tuple[Step, ...]:
    """The steps that are shown in full. UsageError for one that isn't there."""
    if shown in ("none", "all"):
        return made.steps if shown == "all" else ()
    found = tuple(each for each in made.steps if shown in (each.id, str(each.number)))
    if not found and made.steps:
        raise UsageError(f"The plan has no step `{shown}`. It has 1 to {len(made.steps)}; --steps 0 plans all.")
    return found


def _write_patches(reading: Reading, wanted: Wanted, folder: Path) -> None:
    """One file a step, named in order."""
    from isodesm.disk.told import make_folder, write_whole
    from isodesm.output.text import counted
    from isodesm.rewriting.patches import patches_of

    made = _planned(workspace_of(reading), wanted, [])
    make_folder(folder)
    for name, content in patches_of(reading.path, made.steps):
        write_whole(folder / name, content)
    say(f"written: {counted(len(made.steps), 'patch', 'patches')} in {folder}")


def _answer(workspace: Workspace, request: Request, wanted: Wanted) -> Answer:
    mistakes: list[Exception] = []
    made = _planned(workspace, wanted, mistakes)
    shown = _steps_to_show(made, wanted.shown)
    root, drawn = shown_root(request.reading.path), b""
    if request.figure is not None:
        from isodesm.output.figures.progress import draw_progress

        drawn = draw_progress(made, root, request.figure.suffix)
    from isodesm.output import delimited, envelope
    from isodesm.output.plan_table import print_plan
    from isodesm.output.plan_text import plan_text
    from isodesm.rewriting.patches import patches_of

    encoders = {
        "table": lambda: printed(
            request,
            lambda console: print_plan(console, workspace.overview, made, root, shown),
        ),
        "json": lambda: envelope.encode("plan", workspace.overview, envelope.plan_result(workspace.overview, made)),
        "csv": lambda: delimited.to_csv(delimited.plan_rows(made)),
        "markdown": lambda: plan_text(made),
        "patch": lambda: b"".join(content for _, content in patches_of(request.reading.path, made.steps)),
    }
    remarks: tuple[str, ...] = ()
    if mistakes:
        remarks = (said_of_mistakes(mistakes),)
    counts = ", ".join(f"{check} {count}" for check, count in made.unproven.items()) or "none"
    proof = f"isodesm: decisions left for what would be written did not hold, by check: {counts}"
    return Answer(
        encoders[wanted.format](), figure=drawn, remarks=remarks, all_remarks=(*remarks, proof), incomplete=bool(mistakes)
    )
