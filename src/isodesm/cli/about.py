"""`isodesm about`."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any

import typer

from isodesm.cli import options as opt
from isodesm.cli.answers import Answer, Request, give, printed
from isodesm.cli.options import Reading, reads_tree
from isodesm.cli.run import check_format, head_of_tree, shown_root

if TYPE_CHECKING:
    from isodesm.cli.workspace import Workspace

FORMATS = ("table", "json", "markdown")


@reads_tree
def about(
    reading: Reading,
    class_name: Annotated[
        str,
        typer.Argument(
            help="Simple name, qualified name or a tail of it; with a member, what a change of that touches.",
            metavar="CLASS[.MEMBER]",
        ),
    ],
    format: opt.Shown = "table",
    full: Annotated[bool, typer.Option("--full", help="Everything, however long.")] = False,
    since: Annotated[
        str, typer.Option("--since", help="Only commits since then: a date, or `2 years ago`.", metavar="DATE")
    ] = "",
) -> None:
    """What do I need to know of this class: who makes it, who uses it, what does it drag in?"""
    check_format(format, FORMATS)
    request = Request(("about", class_name, format, full, since, head_of_tree(reading.path)), reading)
    give(request, lambda workspace: _answer(workspace, request, class_name, format, full, since))


def _answer(workspace: Workspace, request: Request, class_name: str, format: str, full: bool, since: str) -> Answer:
    import msgspec

    from isodesm.codebase.class_lookup import find_class_and_member
    from isodesm.measures.dossier import make_dossier
    from isodesm.output import envelope
    from isodesm.output.about_table import print_about
    from isodesm.output.markdown import about_text
    from isodesm.planning.planner.options import Options

    number, member = find_class_and_member(workspace.overview, class_name)
    codebase, ranking = workspace.codebase, workspace.ranking(since=since)
    found = make_dossier(codebase, workspace.diagnosis, ranking, workspace.churn(since), number, member)
    planned = workspace.plan(Options(focus=frozenset((number,)), settle=False), [])
    left = [f"leave `{each.target}` for now: {each.reason}" for each in planned.left if each.source == found.name]
    found = msgspec.structs.replace(found, plan=tuple([step.title for step in planned.steps] + list(dict.fromkeys(left))))
    encoders: dict[str, Any] = {
        "table": lambda: printed(
            request,
            lambda console: print_about(console, workspace.overview, found, shown_root(request.reading.path), full=full),
        ),
        "json": lambda: envelope.encode("about", workspace.overview, envelope.about_result(workspace.overview, found)),
        "markdown": lambda: about_text(found),
    }
    return Answer(encoders[format]())
