"""Gives a command's answer: made from the codebase, or, where nothing has changed since, the one that was given before."""

from __future__ import annotations

import os
import sys
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from isodesm.cli.options import Reading
from isodesm.cli.run import end_strictly, hand_out, load, read_tree, say

if TYPE_CHECKING:
    from rich.console import Console

    from isodesm.codebase.model import Codebase
    from isodesm.reading.discovery import Discovery
    from isodesm.settings import Settings

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


class Request(NamedTuple):
    """What was asked: the command with all that shapes its result in `asked`, and what to read."""

    asked: tuple[Any, ...]
    reading: Reading
    figure: Path | None = None
    """Where a drawing goes, if one was asked for."""


def give(request: Request, make: Callable[[Codebase], Answer]) -> None:
    """Hand out the answer to a request. A failed gate exits with 1, and says which."""
    settings = load(request.reading)
    answer = None
    if settings.cache_folder and request.reading.path.is_dir():
        from isodesm.reading.replay import Replay

        replay = Replay(request.reading.path, settings, _shape(request))
        answer = replay.find(Answer)
        if answer is None:
            answer = _made(request, settings, make, replay.found)
            replay.keep(answer, len(answer.content))
    else:
        answer = _made(request, settings, make)
    _deliver(request, answer)


def printed(request: Request, show: Callable[[Console], None]) -> bytes:
    """What `show` prints on a console, as a terminal or a file would have it."""
    from isodesm.output.terminal import content_of, make_console

    console = make_console(request.reading.output is not None)
    show(console)
    return content_of(console)


def _shape(request: Request) -> bytes:
    """Everything beside the tree and the settings that an answer depends on."""
    from isodesm.output.terminal import width_of_terminal

    terminal = (
        sys.stdout.isatty() and request.reading.output is None,
        width_of_terminal(),
        *(os.environ.get(word, "") for word in TERMINAL_WORDS),
    )
    return repr(
        (
            request.asked,
            request.figure is not None and request.figure.suffix,
            request.reading.path.resolve().name,
            request.reading.output is not None,
            terminal,
        )
    ).encode()


def _made(request: Request, settings: Settings, make: Callable[[Codebase], Answer], found: Discovery | None = None) -> Answer:
    from isodesm.output.terminal import trouble_lines

    codebase = read_tree(request.reading.path, settings, quiet=request.reading.quiet, found=found)
    answer = make(codebase)
    return answer._replace(
        remarks=(*trouble_lines(codebase, False), *answer.remarks),
        all_remarks=(*trouble_lines(codebase, True), *answer.all_remarks),
        incomplete=answer.incomplete or bool(codebase.trouble),
    )


def _deliver(request: Request, answer: Answer) -> None:
    import typer

    if not request.reading.quiet:
        for line in answer.all_remarks if request.reading.verbose else answer.remarks:
            say(line)
    if request.figure is not None:
        hand_out(answer.figure, request.figure)
    hand_out(answer.content, request.reading.output)
    if answer.failed:
        say(answer.failed)
        raise typer.Exit(1)
    end_strictly(request.reading, answer.incomplete)
