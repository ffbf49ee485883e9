"""`isodesm scan`."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from isodesm.cli import options as opt
from isodesm.cli.run import check_choice, check_format, hand_out, hand_out_console, options_for, read_codebase, say, shown_root

GATES = {"error": ("error",), "warning": ("error", "warning"), "note": ("error", "warning", "note")}


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
    codebase = read_codebase(path, options_for(language, include, exclude, workers, cache_dir, no_cache), config, quiet=quiet, verbose=verbose)
    from isodesm.diagnosis.hardbonds import diagnose

    diagnosis = diagnose(codebase, excused=excused or format == "json")
    if format == "table":
        from isodesm.output.scan_table import print_scan
        from isodesm.output.terminal import make_console

        console = make_console(output is not None)
        print_scan(console, codebase, diagnosis, shown_root(path), top=top, excused=excused)
        hand_out_console(console, output)
    else:
        from isodesm.output import delimited, envelope

        encoders = {
            "json": lambda: envelope.encode("scan", codebase, envelope.scan_result(codebase, diagnosis)),
            "csv": lambda: delimited.to_csv(delimited.scan_rows(diagnosis)),
            "markdown": lambda: delimited.to_markdown(delimited.scan_rows(diagnosis), "Hard bonds"),
        }
        hand_out(encoders[format](), output)
    failed = sum(1 for finding in diagnosis.findings if finding.level in GATES.get(fail_on, ()))
    if failed:
        say(f"--fail-on {fail_on}: {failed} findings of this level or worse")
        raise typer.Exit(1)
