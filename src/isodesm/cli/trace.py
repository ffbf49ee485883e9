"""`isodesm trace`."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from isodesm.cli import options as opt
from isodesm.cli.answers import Answer, Request, give, printed
from isodesm.cli.options import Reading, reads_tree
from isodesm.cli.run import check_figure, check_format, shown_root
from isodesm.errors import UsageError

if TYPE_CHECKING:
    from isodesm.cli.workspace import Workspace

FORMATS = ("table", "json", "markdown")


@reads_tree
def trace(
    reading: Reading,
    member: Annotated[
        str,
        typer.Argument(
            help="CLASS.METHOD to begin with; a class lists its members, nothing the entry points.", metavar="[CLASS.METHOD]"
        ),
    ] = "",
    format: opt.Shown = "table",
    bind: Annotated[
        list[str] | None,
        typer.Option("--bind", help="What runs behind an abstraction; may be repeated.", metavar="ABSTRACTION=IMPLEMENTATION"),
    ] = None,
    depth: Annotated[int, typer.Option("--depth", min=1, max=60, help="Hops between classes to follow.", metavar="N")] = 12,
    top: Annotated[int, typer.Option("--top", min=0, help="Entry points to list; 0 for all.", metavar="N")] = 30,
    figure: opt.Figure = None,
) -> None:
    """Where does this call go, layer by layer, and what really runs behind each interface?"""
    if member and reading.path == Path(".") and Path(member).exists():
        reading, member = reading._replace(path=Path(member)), ""  # only a folder was named
    check_format(format, FORMATS)
    check_figure(figure)
    if figure is not None and not member:
        raise UsageError("--figure draws a trace; name where it begins: CLASS.METHOD.")
    request = Request(("trace", member, format, bind, depth, top), reading, figure)
    give(request, lambda workspace: _answer(workspace, request, member, format, tuple(bind or ()), depth, top))


def _answer(
    workspace: Workspace, request: Request, member: str, format: str, bind: tuple[str, ...], depth: int, top: int
) -> Answer:
    from isodesm.output import delimited, envelope
    from isodesm.output.trace_table import print_entries

    root = shown_root(request.reading.path)
    from isodesm.queries.entries import entry_points
    from isodesm.queries.trace import members_to_choose

    entries = members_to_choose(workspace.codebase, member) if member else entry_points(workspace.codebase)
    if member and not entries:
        return _traced(workspace, request, member, format, bind, depth)
    encoders: dict[str, Any] = {
        "table": lambda: printed(request, lambda console: print_entries(console, workspace.overview, entries, root, top=top)),
        "json": lambda: envelope.encode("trace", workspace.overview, envelope.entries_result(workspace.overview, entries)),
        "markdown": lambda: delimited.to_markdown(
            delimited.entry_rows(entries), f"Members of {member}" if member else "Entry points"
        ),
    }
    return Answer(encoders[format]())


def _traced(workspace: Workspace, request: Request, member: str, format: str, bind: tuple[str, ...], depth: int) -> Answer:
    from isodesm.output import envelope
    from isodesm.output.markdown import trace_text
    from isodesm.output.trace_table import print_trace
    from isodesm.queries.trace import find_member, read_choices
    from isodesm.queries.trace import trace as follow

    found = follow(
        workspace.codebase,
        workspace.diagnosis,
        find_member(workspace.codebase, member),
        read_choices(workspace.codebase, bind),
        depth,
    )
    root, drawn = shown_root(request.reading.path), b""
    if request.figure is not None:
        from isodesm.output.figures.sequence import draw_sequence

        drawn = draw_sequence(found, root, request.figure.suffix)
    encoders: dict[str, Any] = {
        "table": lambda: printed(request, lambda console: print_trace(console, workspace.overview, found, root)),
        "json": lambda: envelope.encode("trace", workspace.overview, envelope.trace_result(workspace.overview, found)),
        "markdown": lambda: trace_text(found),
    }
    return Answer(encoders[format](), figure=drawn)
