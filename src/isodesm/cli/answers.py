"""Gives a command's answer: made from the codebase, or, where nothing has changed since, the one that was given before."""

from __future__ import annotations

import os
import sys
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from isodesm.cli.options import Reading
from isodesm.cli.phases import Phases
from isodesm.cli.run import end_strictly, hand_out, hand_out_chunks, load, read_tree, say, say_of_interrupted, stated_root

if TYPE_CHECKING:
    from rich.console import Console

    from isodesm.cli.workspace import Workspace

TERMINAL_WORDS = ("COLUMNS", "TERM", "COLORTERM", "NO_COLOR", "FORCE_COLOR")
"""Environment that shapes what a terminal is shown."""


class Answer(NamedTuple):
    """What a command says: its result, the gate that failed, a drawing, remarks for standard error (few, and all of them),
    and the gate that failed, if one did."""

    content: bytes
    failed: str = ""
    figure: bytes = b""
    remarks: tuple[str, ...] = ()
    all_remarks: tuple[str, ...] = ()
    incomplete: bool = False
    """Whether something could not be read in full, or planned."""


class Streamed(NamedTuple):
    """An answer whose result is too large to be kept: it comes in pieces."""

    answer: Answer
    chunks: Callable[[], Iterable[bytes]]


class Request(NamedTuple):
    """What was asked: the command with all that shapes its result in `asked`, and what to read."""

    asked: tuple[Any, ...]
    reading: Reading
    figure: Path | None = None
    """Where a drawing goes, if one was asked for."""


def workspace_of(reading: Reading) -> Workspace:
    """The tree that a command reads."""
    from isodesm.cli.workspace import Workspace

    path, settings = reading.path, load(reading)
    say_of_interrupted(path, settings)
    root = stated_root(path, reading.absolute) if path.exists() else "."
    phases = Phases(quiet=reading.quiet)
    return Workspace(
        path, settings, lambda phases, replay: read_tree(path, settings, phases, replay, reading.scheduler), phases, root
    )


def give(request: Request, make: Callable[[Workspace], Answer | Streamed]) -> None:
    """Hand out the answer to a request. A failed gate exits with 1, and says which."""
    workspace = workspace_of(request.reading)
    shape, drawn = (*_shape(request), workspace.root), request.figure is not None
    streams: list[Callable[[], Iterable[bytes]]] = []

    def whole(workspace: Workspace) -> Answer:
        found = make(workspace)
        if isinstance(found, Streamed):
            streams.append(found.chunks)
            return found.answer
        return found

    answer = workspace.kept(shape, Answer, lambda: _made(workspace, whole, drawn), unless=lambda: bool(streams))
    if workspace.is_read:
        remarks = workspace.codebase.remarks
        answer = answer._replace(remarks=(*remarks, *answer.remarks), all_remarks=(*remarks, *answer.all_remarks))
    if request.reading.verbose:
        answer = answer._replace(all_remarks=(*answer.all_remarks, workspace.phases.said()))
    _deliver(request, answer, streams[0]() if streams else [answer.content])


def printed(request: Request, show: Callable[[Console], None]) -> bytes:
    """What `show` prints on a console, as a terminal or a file would have it."""
    from isodesm.output.terminal import content_of, make_console

    console = make_console(request.reading.output is not None)
    show(console)
    return content_of(console)


def _shape(request: Request) -> tuple[Any, ...]:
    """Everything beside the tree and the settings that an answer depends on."""
    from isodesm.output.shape import width_of_terminal

    terminal = (
        sys.stdout.isatty() and request.reading.output is None,
        width_of_terminal(),
        *(os.environ.get(word, "") for word in TERMINAL_WORDS),
    )
    figure = request.figure is not None and request.figure.suffix
    return "answer", request.asked, figure, request.reading.output is not None, terminal


def _made(workspace: Workspace, make: Callable[[Workspace], Answer], figure: bool) -> Answer:
    from isodesm.output.trouble import trouble_lines

    with workspace.phases.during("drawing" if figure else "writing"):
        answer = make(workspace)
    return answer._replace(
        remarks=(*trouble_lines(workspace.overview, False), *answer.remarks),
        all_remarks=(*trouble_lines(workspace.overview, True), *answer.all_remarks),
        incomplete=answer.incomplete or bool(workspace.overview.trouble),
    )


def _deliver(request: Request, answer: Answer, content: Iterable[bytes]) -> None:
    import typer

    if not request.reading.quiet:
        for line in answer.all_remarks if request.reading.verbose else answer.remarks:
            say(line)
    if request.figure is not None:
        hand_out(answer.figure, request.figure)
    hand_out_chunks(content, request.reading.output)
    if answer.failed:
        say(answer.failed)
        raise typer.Exit(1)
    end_strictly(request.reading, answer.incomplete)
