"""Gives a command's answer: made from the codebase, or, where nothing has changed since, the one that was given before."""

from __future__ import annotations

import os
import sys
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from isodesm.cli.run import hand_out, load, read_tree, say

if TYPE_CHECKING:
    from isodesm.codebase.discovery import Discovery
    from isodesm.codebase.model import Codebase
    from isodesm.settings import Settings

TERMINAL_WORDS = ("COLUMNS", "TERM", "COLORTERM", "NO_COLOR", "FORCE_COLOR")
"""Environment that shapes what a terminal is shown."""


class Answer(NamedTuple):
    """What a command says: its result, remarks for standard error (few, and all of them), and the gate that failed, if one did."""

    content: bytes
    failed: str = ""
    remarks: tuple[str, ...] = ()
    all_remarks: tuple[str, ...] = ()


class Request(NamedTuple):
    """What was asked: the command with all that shapes its result in `asked`, and where to read and to write."""

    asked: tuple[Any, ...]
    path: Path
    options: dict[str, Any]
    config: Path | None
    output: Path | None
    quiet: bool
    verbose: bool


def give(request: Request, make: Callable[[Codebase], Answer]) -> None:
    """Hand out the answer to a request. A failed gate exits with 1, and says which."""
    settings = load(request.path, request.options, request.config)
    answer = None
    if settings.cache_folder and request.path.is_dir():
        from isodesm.codebase.replay import Replay

        replay = Replay(request.path, settings, _shape(request))
        answer = replay.find(Answer)
        if answer is None:
            answer = _made(request, settings, make, replay.found)
            replay.keep(answer, len(answer.content))
    else:
        answer = _made(request, settings, make)
    _deliver(request, answer)


def _shape(request: Request) -> bytes:
    """Everything beside the tree and the settings that an answer depends on."""
    from isodesm.output.terminal import width_of_terminal

    terminal = (sys.stdout.isatty() and request.output is None, width_of_terminal(), *(os.environ.get(word, "") for word in TERMINAL_WORDS))
    return repr((request.asked, request.path.resolve().name, request.output is not None, terminal)).encode()


def _made(
    request: Request, settings: Settings, make: Callable[[Codebase], Answer], found: Discovery | None = None
) -> Answer:
    from isodesm.output.terminal import trouble_lines

    codebase = read_tree(request.path, settings, quiet=request.quiet, found=found)
    return make(codebase)._replace(remarks=tuple(trouble_lines(codebase, False)), all_remarks=tuple(trouble_lines(codebase, True)))


def _deliver(request: Request, answer: Answer) -> None:
    import typer

    if not request.quiet:
        for line in answer.all_remarks if request.verbose else answer.remarks:
            say(line)
    hand_out(answer.content, request.output)
    if answer.failed:
        say(answer.failed)
        raise typer.Exit(1)
