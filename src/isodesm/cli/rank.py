"""`isodesm rank`."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from isodesm.cli import options as opt
from isodesm.cli.run import check_choice, check_format, hand_out, hand_out_console, options_for, read_codebase, shown_root


def rank(
    path: opt.PathArgument = Path("."),
    format: opt.Format = "table",
    output: opt.Output = None,
    by: Annotated[str, typer.Option("--by", help="strain, own, borne, hard-bonds, fan-in, fan-out or instability.", metavar="MEASURE")] = "strain",
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
    """Which classes first?"""
    from isodesm.measures.ranking import ORDERS

    check_format(format)
    check_choice("--by", by, ORDERS)
    codebase = read_codebase(path, options_for(language, include, exclude, workers, cache_dir, no_cache), config, quiet=quiet, verbose=verbose)
    from isodesm.diagnosis.hardbonds import diagnose
    from isodesm.measures.ranking import rank as rank_classes

    ranking = rank_classes(codebase, diagnose(codebase), by)
    if format == "table":
        from isodesm.output.rank_table import print_ranking
        from isodesm.output.terminal import make_console

        console = make_console(output is not None)
        print_ranking(console, codebase, ranking, shown_root(path), top=top)
        hand_out_console(console, output)
        return
    from isodesm.output import delimited, envelope

    encoders = {
        "json": lambda: envelope.encode("rank", codebase, envelope.rank_result(codebase, ranking, top)),
        "csv": lambda: delimited.to_csv(delimited.rank_rows(ranking, top)),
        "markdown": lambda: delimited.to_markdown(delimited.rank_rows(ranking, top), "Ranking"),
    }
    hand_out(encoders[format](), output)
