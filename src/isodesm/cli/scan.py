"""`isodesm scan`."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from isodesm.cli import options as opt
from isodesm.cli.answers import Answer, Request, give
from isodesm.cli.run import check_choice, check_format, options_for, shown_root

GATES = {"error": ("error",), "warning": ("error", "warning"), "note": ("error", "warning", "note")}

if TYPE_CHECKING:
    from isodesm.codebase.model import Codebase


def scan(
    path: opt.PathArgument = Path("."),
    format: opt.Format = "table",
    output: opt.Output = None,
    excused: Annotated[bool, typer.Option("--excused", help="List the places that an excuse spoke for, too.")] = False,
    fail_on: Annotated[str, typer.Option("--fail-on", help="Exit with 1 if there is a finding of this level or worse: error, warning, note.", metavar="LEVEL")] = "",
    top: opt.Top = 20,
    language: opt.Language = None,
    include: opt.Include = None,
    exclude: opt.Exclude = None,
    workers: opt.Workers = None,
    cache_dir: opt.CacheDir = None,
    no_cache: opt.NoCache = False,
    config: opt.Config = None,
    quiet: opt.Quiet = False,
    verbose: opt.Verbose = False,
) -> None:
    """Where is my code hard-wired, and how bad is it?"""
    check_format(format)
    if fail_on:
        check_choice("--fail-on", fail_on, GATES)
    options = options_for(language, include, exclude, workers, cache_dir, no_cache)
    asked = ("scan", format, excused, fail_on, top)
    request = Request(asked=asked, path=path, options=options, config=config, output=output, quiet=quiet, verbose=verbose)
    give(request, lambda codebase: _answer(codebase, request, format, excused, fail_on, top))


def _answer(codebase: Codebase, request: Request, format: str, excused: bool, fail_on: str, top: int) -> Answer:
    from isodesm.diagnosis.hardbonds import diagnose

    diagnosis = diagnose(codebase, excused=excused or format == "json")
    count = sum(1 for finding in diagnosis.findings if finding.level in GATES.get(fail_on, ()))
    failed = f"--fail-on {fail_on}: {count} findings of this level or worse" if count else ""
    if format == "table":
        from isodesm.output.scan_table import print_scan
        from isodesm.output.terminal import content_of, make_console

        console = make_console(request.output is not None)
        print_scan(console, codebase, diagnosis, shown_root(request.path), top=top, excused=excused)
        return Answer(content_of(console), failed)
    from isodesm.output import delimited, envelope

    encoders = {
        "json": lambda: envelope.encode("scan", codebase, envelope.scan_result(codebase, diagnosis)),
        "csv": lambda: delimited.to_csv(delimited.scan_rows(diagnosis)),
        "markdown": lambda: delimited.to_markdown(delimited.scan_rows(diagnosis), "Hard bonds"),
    }
    return Answer(encoders[format](), failed)
