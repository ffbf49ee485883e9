"""`isodesm export`."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from isodesm.cli import options as opt
from isodesm.cli.run import check_choice, hand_out, options_for, read_codebase

WHAT = ("bonds",)


def export(
    what: Annotated[str, typer.Argument(help="bonds", metavar="WHAT")],
    path: opt.PathArgument = Path("."),
    format: Annotated[str, typer.Option("--format", help="jsonl or csv.", metavar="FORMAT")] = "jsonl",
    output: opt.Output = None,
    kind: Annotated[list[str] | None, typer.Option("--kind", help="Only bonds of this kind; may be repeated.", metavar="KIND")] = None,
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
    """Give me the data: every bond with its place."""
    from isodesm.codebase.bonds import KINDS

    check_choice("What to export:", what, WHAT)
    check_choice("--format", format, ("jsonl", "csv"))
    for each in kind or ():
        check_choice("--kind", each, KINDS)
    codebase = read_codebase(path, options_for(language, include, exclude, workers, cache_dir, no_cache), config, quiet=quiet, verbose=verbose)
    from isodesm.output.bonds import bond_chunks

    chunks = bond_chunks(codebase, format, frozenset(kind or ()))
    if output is not None:
        hand_out(b"".join(chunks), output)
        return
    for chunk in chunks:
        sys.stdout.buffer.write(chunk)
    sys.stdout.buffer.flush()
