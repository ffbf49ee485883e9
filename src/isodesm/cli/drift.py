"""`isodesm drift`."""

from __future__ import annotations

import os
import re
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from isodesm.cli import options as opt
from isodesm.cli.answers import workspace_of
from isodesm.cli.options import Reading, reads_tree
from isodesm.cli.run import check_choice, check_figure, check_format, end_strictly, hand_out, read_tree, say, shown_root
from isodesm.errors import UsageError

if TYPE_CHECKING:
    from isodesm.cli.workspace import Workspace
    from isodesm.drifting.course import Point
    from isodesm.drifting.drift import Drift
    from isodesm.drifting.mark import Mark

FORMATS = ("table", "json", "csv", "markdown", "sarif")
GATES = ("new", "worse", "strain")
LEVELS = ("error", "warning", "note")
USUAL_POINTS, MOST_POINTS = 24, 500
_SPAN = re.compile(r"(\d{1,4})([ymwd])")
_UNITS = {"y": "years", "m": "months", "w": "weeks", "d": "days"}


@dataclass(frozen=True, slots=True)
class DriftOptions:
    """What the command is asked for."""

    mark: Annotated[
        Path | None, typer.Option("--mark", help="The mark, if it is not isodesm.mark.json in PATH.", metavar="FILE")
    ] = None
    since: Annotated[str, typer.Option("--since", help="Against this git revision instead.", metavar="REVISION")] = ""
    base: Annotated[bool, typer.Option("--base", help="Against where HEAD left that revision.")] = False
    over: Annotated[
        str, typer.Option("--over", help="The course over so many revisions, or over a time like 2y, 6m.", metavar="N|TIME")
    ] = ""
    fail_on: Annotated[
        str,
        typer.Option(
            "--fail-on",
            help="Exit with 1 on new findings, on those and ones with more places, or where strain rose.",
            metavar="new|worse|strain",
        ),
    ] = ""
    level: Annotated[
        str, typer.Option("--level", help="The mildest level that --fail-on new and worse mind.", metavar="LEVEL")
    ] = "warning"
    top: opt.Top = 10
    format: Annotated[str, typer.Option("--format", help="table, json, csv, markdown or sarif.", metavar="FORMAT")] = "table"
    figure: opt.Figure = None


@reads_tree
def drift(reading: Reading, chosen: DriftOptions) -> None:
    """Is it getting better or worse, and what is new?"""
    check_format(chosen.format, FORMATS)
    check_figure(chosen.figure)
    check_choice("--level", chosen.level, LEVELS)
    if chosen.fail_on:
        check_choice("--fail-on", chosen.fail_on, GATES)
    if chosen.base and not chosen.since:
        raise UsageError("--base goes with --since REVISION.")
    if chosen.over and (chosen.since or chosen.mark or chosen.fail_on):
        raise UsageError("--over shows a course; it goes with none of --since, --mark and --fail-on.")
    if not reading.path.is_dir():
        raise UsageError(f"Drift is of a folder, and {reading.path} is none.")
    if chosen.over:
        if chosen.format == "sarif":
            raise UsageError("--over has no findings to show; --format takes table, json, csv or markdown with it.")
        _course(reading, chosen.over, chosen.format, chosen.figure)
        return
    if chosen.figure is not None:
        raise UsageError("--figure draws the course; it goes with --over.")
    _drift(reading, chosen)


def _drift(reading: Reading, chosen: DriftOptions) -> None:
    from isodesm.disk.opening import real_name
    from isodesm.drifting.drift import Around, drift_between
    from isodesm.drifting.mark import FILE_NAME, mark_of, read_mark, seen_alike, test_places

    workspace = workspace_of(reading)
    if chosen.since:
        old, said, renamed, remarks = _at_revision(reading, workspace, chosen.since, chosen.base)
    else:
        old, said, renamed, remarks = read_mark(chosen.mark or reading.path / FILE_NAME), "the mark", {}, ()
    new = mark_of(workspace.overview, workspace.diagnosis_in_full, workspace.digests)
    old = seen_alike(old, new) if chosen.since else old
    around = Around(lambda path: os.path.lexists(reading.path / real_name(path)), test_places(workspace.diagnosis_in_full))
    found = drift_between(old, new, said, renamed, remarks, around)
    _hand_out(reading, workspace, found, chosen.top, chosen.format)
    for each in found.hidden:  # a gate that sees less says so, however quiet it is to be
        say(f"out of view since {said}: {each}")
    if found.judged_otherwise:
        say(
            f"{len(found.judged_otherwise)} findings are in files that have not changed: this version judges otherwise than "
            "the one that wrote the mark. They fail no gate; `isodesm mark` takes them in"
        )
    _gate(found, chosen.fail_on, chosen.level)
    end_strictly(reading, bool(workspace.overview.trouble))


def _gate(found: Drift, fail_on: str, level: str) -> None:
    """Exit with 1 where a change is not to pass."""
    news, grown = found.at_least(level), found.grown(level)
    if fail_on in ("new", "worse") and news:
        say(f"--fail-on {fail_on}: {len(news)} new findings of level {level} or worse")
        raise typer.Exit(1)
    if fail_on == "worse" and grown:
        say(f"--fail-on worse: {len(grown)} findings of level {level} or worse have more places than before")
        raise typer.Exit(1)
    if fail_on == "strain" and found.after.strain > found.before.strain:
        say(f"--fail-on strain: it rose from {found.before.strain:g} to {found.after.strain:g}")
        raise typer.Exit(1)


def _at_revision(
    reading: Reading, workspace: Workspace, since: str, base: bool
) -> tuple[Mark, str, dict[str, str], tuple[str, ...]]:
    """The mark of a revision, what it is called, the files renamed since, and what was left out."""
    from isodesm.reading.revisions import renamed_since, resolve

    commit = resolve(reading.path, since, base)
    made, remarks = _mark_of_commit(reading, workspace, commit, full=True)
    name = f"{since} ({commit[:9]})" if not base else f"where HEAD left {since} ({commit[:9]})"
    return made, name, renamed_since(reading.path, commit), remarks


def _mark_of_commit(reading: Reading, workspace: Workspace, commit: str, *, full: bool) -> tuple[Mark, tuple[str, ...]]:
    from isodesm.cli.workspace import Workspace
    from isodesm.drifting.mark import empty_mark, mark_of
    from isodesm.errors import NothingToRead
    from isodesm.reading.revisions import checked_out

    with checked_out(reading.path, commit) as revision:
        settings, root = workspace.settings, revision.root
        then = Workspace(root, settings, lambda phases, replay: read_tree(root, settings, phases, replay))
        try:
            judged = then.diagnosis_in_full if full else then.diagnosis
            return mark_of(then.overview, judged, then.digests if full else {}), revision.remarks
        except NothingToRead:
            return empty_mark(settings.of_results()), revision.remarks


def _hand_out(reading: Reading, workspace: Workspace, found: Drift, top: int, format: str) -> None:
    from isodesm.diagnosis.folding import by_member
    from isodesm.output import delimited, drift_text, envelope
    from isodesm.output.drift_table import print_drift
    from isodesm.output.terminal import content_of, make_console

    if not reading.quiet:
        for remark in found.remarks:
            say(remark)
    if format == "json":
        content = envelope.encode("drift", workspace.overview, envelope.drift_result(workspace.overview, found))
    elif format == "csv":
        content = delimited.to_csv(drift_text.drift_rows(found))
    elif format == "markdown":
        content = drift_text.drift_remark(found)
    elif format == "sarif":
        content = drift_text.drift_sarif(found, workspace.diagnosis, workspace.overview.root)
    else:
        console = make_console(reading.output is not None)
        today = {each.id: each for each in by_member(workspace.diagnosis.places)}
        print_drift(console, workspace.overview, found, today, shown_root(reading.path), top=top)
        content = content_of(console)
    hand_out(content, reading.output)


def _course(reading: Reading, over: str, format: str, figure: Path | None) -> None:
    from isodesm.output import delimited, drift_text, envelope
    from isodesm.output.drift_table import print_course
    from isodesm.output.terminal import content_of, make_console

    workspace = workspace_of(reading)
    points = course_points(reading, workspace, over)
    root = shown_root(reading.path)
    if figure is not None:
        from isodesm.output.figures.course import draw_course

        hand_out(draw_course(points, root, figure.suffix), figure)
    if format == "json":
        content = envelope.encode("course", workspace.overview, envelope.course_result(workspace.overview, points))
    elif format == "csv":
        content = delimited.to_csv(drift_text.course_rows(points))
    elif format == "markdown":
        content = delimited.to_markdown(drift_text.course_rows(points), f"Course of {root}")
    else:
        console = make_console(reading.output is not None)
        print_course(console, workspace.overview, points, root)
        content = content_of(console)
    hand_out(content, reading.output)


def course_points(reading: Reading, workspace: Workspace, over: str) -> list[Point]:
    """What a scan finds at each of the revisions that --over means, oldest first."""
    from isodesm.drifting.course import Point
    from isodesm.reading.revisions import course_of

    count, since = _points(over)
    commits = course_of(reading.path, count, since)
    if not commits:
        raise UsageError("No commit of that time changed anything here.")
    points = []
    for number, (commit, time, subject) in enumerate(commits, 1):
        if not reading.quiet and number % 5 == 0:
            say(f"{number} of {len(commits)} revisions")
        made, _ = _mark_of_commit(reading, workspace, commit, full=False)
        points.append(Point(commit, time, subject, made.totals, made.layers, made.lines))
    return points


def _points(over: str) -> tuple[int, str]:
    """How many revisions, and since when ('' for ever)."""
    if over.isdigit() and 1 <= int(over) <= MOST_POINTS:
        return int(over), ""
    if found := _SPAN.fullmatch(over):
        return USUAL_POINTS, f"{found[1]} {_UNITS[found[2]]} ago"
    raise UsageError(f"--over takes a number of revisions up to {MOST_POINTS}, or a time like 2y, 6m, 8w or 30d, not `{over}`.")
