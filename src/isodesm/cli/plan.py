"""`isodesm plan`."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from isodesm.cli import options as opt
from isodesm.cli.answers import Answer, Request, give
from isodesm.cli.run import check_format, options_for, shown_root

if TYPE_CHECKING:
    from isodesm.codebase.model import Codebase


def plan(
    path: opt.PathArgument = Path("."),
    format: opt.Format = "table",
    output: opt.Output = None,
    steps: Annotated[int, typer.Option("--steps", min=0, help="Steps to plan; 0 for all.", metavar="N")] = 12,
    focus: Annotated[str, typer.Option("--focus", help="Only steps for this class or layer.", metavar="CLASS|LAYER")] = "",
    brief: Annotated[bool, typer.Option("--brief", help="The overview only.")] = False,
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
    """In which steps do I take it apart, and what does each gain?"""
    check_format(format)
    options = options_for(language, include, exclude, workers, cache_dir, no_cache)
    asked = ("plan", format, steps, focus, brief)
    request = Request(asked=asked, path=path, options=options, config=config, output=output, quiet=quiet, verbose=verbose)
    give(request, lambda codebase: _answer(codebase, request, format, steps, focus, brief))


def _answer(codebase: Codebase, request: Request, format: str, steps: int, focus: str, brief: bool) -> Answer:
    from isodesm.codebase.lookup_names import classes_or_layer
    from isodesm.diagnosis.hardbonds import diagnose
    from isodesm.planning.planner import plan as make_plan

    made = make_plan(codebase, diagnose(codebase), steps=steps, focus=classes_or_layer(codebase, focus))
    if format == "table":
        from isodesm.output.plan_table import print_plan
        from isodesm.output.terminal import content_of, make_console

        console = make_console(request.output is not None)
        print_plan(console, codebase, made, shown_root(request.path), detailed=0 if brief else len(made.steps))
        return Answer(content_of(console))
    from isodesm.output import delimited, envelope

    encoders = {
        "json": lambda: envelope.encode("plan", codebase, envelope.plan_result(codebase, made)),
        "csv": lambda: delimited.to_csv(delimited.plan_rows(made)),
        "markdown": lambda: delimited.plan_checklist(made),
    }
    return Answer(encoders[format]())
