"""`isodesm layers`."""

from __future__ import annotations

from typing import TYPE_CHECKING

from isodesm.cli import options as opt
from isodesm.cli.answers import Answer, Request, give, printed
from isodesm.cli.options import Reading, reads_tree
from isodesm.cli.run import check_figure, check_format, shown_root

if TYPE_CHECKING:
    from isodesm.cli.workspace import Workspace


@reads_tree
def layers(
    reading: Reading,
    format: opt.Format = "table",
    top: opt.Top = 12,
    figure: opt.Figure = None,
) -> None:
    """What are the layers, and what crosses them the wrong way?"""
    check_format(format)
    check_figure(figure)
    request = Request(("layers", format, top), reading, figure)
    give(request, lambda workspace: _answer(workspace, request, format, top))


def _answer(workspace: Workspace, request: Request, format: str, top: int) -> Answer:
    from isodesm.output import delimited, envelope
    from isodesm.output.layers_table import print_layers
    from isodesm.queries.layer_report import report_layers

    report = report_layers(workspace.codebase, workspace.diagnosis)
    drawn = b""
    if request.figure is not None:
        from isodesm.output.figures.layers import draw_layers

        drawn = draw_layers(report, shown_root(request.reading.path), request.figure.suffix)
    encoders = {
        "table": lambda: printed(
            request,
            lambda console: print_layers(console, workspace.overview, report, shown_root(request.reading.path), top=top),
        ),
        "json": lambda: envelope.encode("layers", workspace.overview, envelope.layers_result(workspace.overview, report)),
        "csv": lambda: delimited.to_csv(delimited.layer_rows(report)),
        "markdown": lambda: b"\n".join(
            (
                delimited.to_markdown(delimited.layer_rows(report), "Layers"),
                delimited.to_markdown(delimited.finding_rows(report.wrong_way), "Wrong-way bonds"),
            )
        ),
    }
    return Answer(encoders[format](), figure=drawn)
