"""`isodesm wiring`."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

import typer

from isodesm.cli import options as opt
from isodesm.cli.answers import Answer, Request, give, printed
from isodesm.cli.options import Reading, reads_tree
from isodesm.cli.run import check_figure, check_format, shown_root
from isodesm.errors import UsageError

if TYPE_CHECKING:
    from isodesm.cli.workspace import Workspace


@reads_tree
def wiring(
    reading: Reading,
    format: opt.Format = "table",
    root: Annotated[
        str, typer.Option("--root", help="Show the objects that it takes to have one of this class.", metavar="CLASS")
    ] = "",
    top: opt.Top = 20,
    figure: opt.Figure = None,
) -> None:
    """What is registered, for how long, and what breaks at start-up?"""
    check_format(format)
    check_figure(figure)
    if figure is not None and not root:
        raise UsageError("--figure draws the objects below a class; name it with --root.")
    request = Request(("wiring", format, root, top), reading, figure)
    give(request, lambda workspace: _answer(workspace, request, format, root, top))


def _answer(workspace: Workspace, request: Request, format: str, root: str, top: int) -> Answer:
    from isodesm.codebase.class_lookup import find_class
    from isodesm.output import delimited, envelope
    from isodesm.output.wiring_table import print_wiring
    from isodesm.queries.entries import entry_points
    from isodesm.queries.wiring_report import report_wiring

    number = find_class(workspace.overview, root) if root else -1
    entered = frozenset(entry.number for entry in entry_points(workspace.codebase))
    report = report_wiring(workspace.codebase, workspace.diagnosis, number, entered)
    drawn = b""
    if request.figure is not None and report.tree is not None:
        from isodesm.output.figures.objects import draw_objects

        drawn = draw_objects(report.tree, shown_root(request.reading.path), request.figure.suffix)
    encoders = {
        "table": lambda: printed(
            request,
            lambda console: print_wiring(console, workspace.overview, report, shown_root(request.reading.path), top=top),
        ),
        "json": lambda: envelope.encode("wiring", workspace.overview, envelope.wiring_result(workspace.overview, report)),
        "csv": lambda: delimited.to_csv(delimited.wiring_rows(report)),
        "markdown": lambda: b"\n".join(
            (
                delimited.to_markdown(delimited.wiring_rows(report), "Registrations"),
                delimited.to_markdown(delimited.finding_rows((*report.problems, *report.by_hand)), "Problems"),
            )
        ),
    }
    return Answer(encoders[format](), figure=drawn)
