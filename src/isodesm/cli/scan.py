"""`isodesm scan`."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Annotated

import typer

from isodesm.cli import options as opt
from isodesm.cli.answers import Answer, Request, Streamed, give, printed
from isodesm.cli.options import Reading, reads_tree
from isodesm.cli.run import FORMATS, check_choice, check_format, path_from_here, shown_root

GATES = {"error": ("error",), "warning": ("error", "warning"), "note": ("error", "warning", "note")}

AS_A_WHOLE = 20_000
"""Findings up to which a result is kept as it is given; a larger one is written piece by piece."""

if TYPE_CHECKING:
    from isodesm.cli.workspace import Workspace
    from isodesm.diagnosis.shared.filters import Wanted
    from isodesm.output.shape import View


@dataclass(frozen=True, slots=True)
class ScanOptions:
    """What the command is asked for."""

    format: Annotated[str, typer.Option("--format", help="table, json, csv, markdown or sarif.", metavar="FORMAT")] = "table"
    excused: Annotated[bool, typer.Option("--excused", help="List the places that an excuse spoke for, too.")] = False
    unknown: Annotated[
        bool, typer.Option("--unknown", help="List the places of which nobody can tell whether they are harmless, too.")
    ] = False
    fail_on: Annotated[
        str,
        typer.Option(
            "--fail-on", help="Exit with 1 if there is a finding of this level or worse: error, warning, note.", metavar="LEVEL"
        ),
    ] = ""
    kind: Annotated[
        list[str] | None, typer.Option("--kind", help="Only findings of this kind; may be repeated.", metavar="KIND")
    ] = None
    level: Annotated[
        str, typer.Option("--level", help="Only findings of this level or worse: error, warning, note.", metavar="LEVEL")
    ] = ""
    layer: Annotated[str, typer.Option("--layer", help="Only findings in classes of this layer.", metavar="LAYER")] = ""
    class_name: Annotated[str, typer.Option("--class", help="Only findings from or about this class.", metavar="CLASS")] = ""
    full: Annotated[
        bool, typer.Option("--full", help="Every finding with its source, why it matters and what would loosen it.")
    ] = False
    top: opt.Top = 10


@reads_tree
def scan(reading: Reading, chosen: ScanOptions) -> None:
    """Where is my code hard-wired, and how bad is it?"""
    from isodesm.diagnosis.shared.filters import Wanted
    from isodesm.diagnosis.shared.findings import KINDS
    from isodesm.output.shape import View

    check_format(chosen.format, (*FORMATS, "sarif"))
    for option, given in (("--fail-on", chosen.fail_on), ("--level", chosen.level)):
        if given:
            check_choice(option, given, GATES)
    for each in chosen.kind or ():
        check_choice("--kind", each, KINDS)
    wanted = Wanted(kinds=tuple(chosen.kind or ()), level=chosen.level, layer=chosen.layer, class_name=chosen.class_name)
    view = View(
        chosen.top, chosen.full or bool(chosen.class_name), chosen.excused, chosen.unknown, path_from_here(reading.path)
    )
    asked = ("scan", chosen.format, chosen.fail_on, view, wanted)
    request = Request(asked, reading)
    give(request, lambda workspace: _answer(workspace, request, chosen.format, chosen.fail_on, view, wanted))


def _answer(workspace: Workspace, request: Request, format: str, fail_on: str, view: View, wanted: Wanted) -> Answer | Streamed:
    from isodesm.diagnosis.shared.filters import only

    full = view.excused or view.unknown or format == "json"
    found = workspace.diagnosis_in_full if full or not wanted.is_all else workspace.diagnosis
    diagnosis = only(found, wanted, workspace.overview)
    count = sum(1 for finding in diagnosis.findings if finding.level in GATES.get(fail_on, ()))
    failed = f"--fail-on {fail_on}: {count} findings of this level or worse" if count else ""
    if format == "json":
        from isodesm.output.envelope import scan_chunks

        if len(diagnosis.findings) + len(diagnosis.excused) > AS_A_WHOLE:
            return Streamed(Answer(b"", failed), lambda: scan_chunks(workspace.overview, diagnosis))
        return Answer(b"".join(scan_chunks(workspace.overview, diagnosis)), failed)
    if format == "table":
        from isodesm.output.scan_table import print_scan

        shown = shown_root(request.reading.path)
        return Answer(printed(request, lambda console: print_scan(console, workspace.overview, diagnosis, shown, view)), failed)
    if format == "sarif":
        from isodesm.output.sarif import to_sarif

        return Answer(to_sarif(diagnosis, workspace.overview.root), failed)
    from isodesm.output import delimited

    rows = delimited.scan_rows(diagnosis, excused=view.excused, unknown=view.unknown)
    return Answer(delimited.to_csv(rows) if format == "csv" else delimited.to_markdown(rows, "Findings"), failed)
