"""`isodesm layers`."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

import typer

from isodesm.cli import options as opt
from isodesm.cli.answers import Answer, Request, give, printed
from isodesm.cli.options import Reading, reads_tree
from isodesm.cli.run import check_figure, check_format, hand_out_as, read_codebase, shown_root
from isodesm.errors import UsageError

if TYPE_CHECKING:
    from isodesm.cli.workspace import Workspace


@reads_tree
def layers(
    reading: Reading,
    format: opt.Format = "table",
    top: opt.Top = 12,
    figure: opt.Figure = None,
    write: Annotated[
        bool, typer.Option("--write", help="Write the layers into the settings, isodesm.toml, for me to correct.")
    ] = False,
) -> None:
    """What are the layers, and what crosses them the wrong way?"""
    check_format(format)
    check_figure(figure)
    if write:
        _write(reading)
        return
    request = Request(("layers", format, top), reading, figure)
    give(request, lambda workspace: _answer(workspace, request, format, top))


def _write(reading: Reading) -> None:
    """Add the layers to the settings of the tree, which may have none so far; UsageError where they have."""
    from isodesm.disk.opening import read_plain
    from isodesm.output.settings_layers import layers_block
    from isodesm.settings import FILE_NAME

    if reading.output is not None:
        raise UsageError("--write adds to isodesm.toml; with --output, use `isodesm setup`, which writes all settings.")
    folder = reading.path if reading.path.is_dir() else reading.path.parent
    target = folder / FILE_NAME
    codebase = read_codebase(reading)
    if codebase.settings.layers:
        raise UsageError("The settings name layers already; nothing is written. Correct them there, or take them out first.")
    before = read_plain(target) if target.exists() else b""
    block = layers_block(codebase).encode() + b"\n"
    hand_out_as(before + (b"\n" if before else b"") + block, None, folder, FILE_NAME)


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
