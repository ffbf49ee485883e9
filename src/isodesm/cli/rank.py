"""`isodesm rank`."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from isodesm.cli import options as opt
from isodesm.cli.answers import Answer, Request, give
from isodesm.cli.run import check_choice, check_format, options_for, shown_root

if TYPE_CHECKING:
    from isodesm.codebase.model import Codebase


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
    options = options_for(language, include, exclude, workers, cache_dir, no_cache)
    asked = ("rank", format, by, top)
    request = Request(asked=asked, path=path, options=options, config=config, output=output, quiet=quiet, verbose=verbose)
    give(request, lambda codebase: _answer(codebase, request, format, by, top))


def _answer(codebase: Codebase, request: Request, format: str, by: str, top: int) -> Answer:
    from isodesm.diagnosis.hardbonds import diagnose
    from isodesm.measures.ranking import rank as rank_classes

    ranking = rank_classes(codebase, diagnose(codebase), by)
    if format == "table":
        from isodesm.output.rank_table import print_ranking
        from isodesm.output.terminal import content_of, make_console

        console = make_console(request.output is not None)
        print_ranking(console, codebase, ranking, shown_root(request.path), top=top)
        return Answer(content_of(console))
    from isodesm.output import delimited, envelope

    encoders = {
        "json": lambda: envelope.encode("rank", codebase, envelope.rank_result(codebase, ranking, top)),
        "csv": lambda: delimited.to_csv(delimited.rank_rows(ranking, top)),
        "markdown": lambda: delimited.to_markdown(delimited.rank_rows(ranking, top), "Ranking"),
    }
    return Answer(encoders[format]())
