"""`isodesm rank`."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Annotated, Any, NamedTuple

import typer

from isodesm.cli import options as opt
from isodesm.cli.answers import Answer, Request, give, printed
from isodesm.cli.options import Reading, reads_tree
from isodesm.cli.run import check_choice, check_figure, check_format, head_of_tree, shown_root

if TYPE_CHECKING:
    from isodesm.cli.workspace import Workspace

ROLES = (
    "entity",
    "value",
    "service",
    "gateway",
    "repository",
    "factory",
    "presentation",
    "composition-root",
    "utility",
    "abstraction",
    "algorithm",
    "exception",
    "part",
)


USUAL = 20
"""Classes that are shown to a reader."""


class Asked(NamedTuple):
    """What shapes the result; `head` is the commit that the history ends with."""

    format: str
    by: str
    top: int
    layer: str
    role: str
    since: str
    evaluate: bool
    head: str


@dataclass(frozen=True, slots=True)
class RankOptions:
    """What the command is asked for."""

    format: opt.Format = "table"
    by: Annotated[
        str,
        typer.Option(
            "--by",
            help="The measure to sort by: strain, ripple, fan-in, reach, commits …; `isodesm explain measures` has all.",
            metavar="MEASURE",
        ),
    ] = "strain"
    top: Annotated[
        int | None,
        typer.Option("--top", min=0, help="Classes to show; 0 for all. Usually 20, in JSON and CSV all.", metavar="N"),
    ] = None
    layer: Annotated[str, typer.Option("--layer", help="Only classes of this layer.", metavar="LAYER")] = ""
    role: Annotated[str, typer.Option("--role", help="Only classes of this role.", metavar="ROLE")] = ""
    since: Annotated[
        str, typer.Option("--since", help="Only commits since then: a date, or `2 years ago`.", metavar="DATE")
    ] = ""
    evaluate: Annotated[
        bool, typer.Option("--evaluate", help="Say how well the ranking foretells the newest fifth of the history.")
    ] = False
    figure: opt.Figure = None


@reads_tree
def rank(reading: Reading, chosen: RankOptions) -> None:
    """Which classes first?"""
    from isodesm.measures.ranking import ORDERS

    check_format(chosen.format)
    check_figure(chosen.figure)
    check_choice("--by", chosen.by, ORDERS)
    if chosen.role:
        check_choice("--role", chosen.role, ROLES)
    shown = chosen.top if chosen.top is not None else 0 if chosen.format in ("json", "csv") else USUAL
    asked = Asked(
        chosen.format, chosen.by, shown, chosen.layer, chosen.role, chosen.since, chosen.evaluate, head_of_tree(reading.path)
    )
    request = Request(("rank", asked), reading, chosen.figure)
    give(request, lambda workspace: _answer(workspace, request, asked))


def _answer(workspace: Workspace, request: Request, asked: Asked) -> Answer:
    from isodesm.codebase.class_lookup import check_layer
    from isodesm.measures.ranking import history_of, only
    from isodesm.output import delimited, envelope
    from isodesm.output.rank_table import print_ranking

    if asked.layer:
        check_layer(workspace.overview, asked.layer)
    ranking = only(workspace.ranking(asked.by, asked.since), asked.layer, asked.role)
    evaluation = None
    if asked.evaluate:
        from isodesm.measures.evaluation import evaluate

        evaluation = evaluate(workspace.codebase, workspace.diagnosis, history_of(workspace.codebase, asked.since))
    root, drawn = shown_root(request.reading.path), b""
    if request.figure is not None:
        from isodesm.output.figures.ranking import draw_ranking

        drawn = draw_ranking(workspace.codebase, workspace.diagnosis, ranking, root, request.figure.suffix)
    encoders: dict[str, Any] = {
        "table": lambda: printed(
            request,
            lambda console: print_ranking(console, workspace.overview, ranking, root, top=asked.top, evaluation=evaluation),
        ),
        "json": lambda: envelope.encode(
            "rank", workspace.overview, envelope.rank_result(workspace.overview, ranking, asked.top, evaluation)
        ),
        "csv": lambda: delimited.to_csv(delimited.rank_rows(ranking, asked.top)),
        "markdown": lambda: delimited.to_markdown(delimited.rank_rows(ranking, asked.top), "Ranking"),
    }
    return Answer(encoders[asked.format](), figure=drawn)
