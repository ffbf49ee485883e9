"""`isodesm report`."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from isodesm.cli.answers import workspace_of
from isodesm.cli.options import Reading, reads_tree
from isodesm.cli.run import end_strictly, hand_out_as, said_of_mistakes, say, shown_root

if TYPE_CHECKING:
    from isodesm.cli.workspace import Workspace
    from isodesm.drifting.drift import Drift

FILE_NAME = "report.html"


@reads_tree
def report(
    reading: Reading,
    mark: Annotated[
        Path | None, typer.Option("--mark", help="Show what is new and gone since this mark.", metavar="FILE")
    ] = None,
    over: Annotated[
        str, typer.Option("--over", help="Show the course over so many revisions, or a time like 2y, 6m.", metavar="N|TIME")
    ] = "",
    steps: Annotated[int, typer.Option("--plan", min=0, help="Steps of the plan; 0 for all.", metavar="N")] = 12,
    title: Annotated[
        str, typer.Option("--title", help="What the page is called, if not like the folder.", metavar="TEXT")
    ] = "",
    date: Annotated[
        str, typer.Option("--date", help="A date to stand on the page, which has none of its own.", metavar="TEXT")
    ] = "",
) -> None:
    """Can we look at it together? One page with all of it, to open, mail or print."""
    from isodesm.cli.drift import course_points

    workspace = workspace_of(reading)
    drift = _since(workspace, mark) if mark is not None else None
    points = course_points(reading, workspace, over) if over else []
    mistakes: list[Exception] = []
    page = page_of_tree(workspace, title or shown_root(reading.path), steps, mistakes, points=points, drift=drift, date=date)
    if not reading.quiet:
        from isodesm.output.trouble import trouble_lines

        for line in (*workspace.codebase.remarks, *trouble_lines(workspace.overview, reading.verbose)):
            say(line)
        if reading.verbose:
            say(workspace.phases.said())
    if mistakes:
        say(said_of_mistakes(mistakes))
    hand_out_as(page, reading.output, Path(), FILE_NAME)
    end_strictly(reading, bool(workspace.overview.trouble or mistakes))


def page_of_tree(
    workspace: Workspace,
    title: str,
    steps: int,
    mistakes: list[Exception],
    *,
    points: list = (),  # type: ignore[assignment, type-arg]
    drift: Drift | None = None,
    date: str = "",
) -> bytes:
    """The page about a tree."""
    from isodesm.output.page.content import Material, content_of
    from isodesm.output.page.writing import page_of
    from isodesm.planning.planner.options import Options

    plan = workspace.plan(Options(steps=steps), mistakes)
    ranking = workspace.ranking()
    codebase = workspace.codebase
    with workspace.phases.during("drawing"):
        material = Material(codebase, workspace.diagnosis, ranking, workspace.churn(""), plan, title, points, drift, date)
        return page_of(content_of(material))


def _since(workspace: Workspace, mark: Path) -> Drift:
    from isodesm.drifting.drift import drift_between
    from isodesm.drifting.mark import mark_of, read_mark

    new = mark_of(workspace.overview, workspace.diagnosis_in_full, workspace.digests)
    return drift_between(read_mark(mark), new, f"the mark {mark.name}")
