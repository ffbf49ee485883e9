"""`isodesm editor`."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Annotated

import typer

from isodesm.cli.run import say

TOKEN = "ISODESM_EDITOR_TOKEN"


def editor(
    folders: Annotated[
        list[Path] | None,
        typer.Argument(
            help="The only folders that may be read.",
            metavar="FOLDER...",
            show_default="those that the client names; with --port the current one",
        ),
    ] = None,
    port: Annotated[
        int | None,
        typer.Option(
            "--port",
            help=f"Listen on this port of the loopback (0: any free one), for the client that has the token ({TOKEN}, or else "
            "one that is printed), instead of standard input.",
            metavar="PORT",
            min=0,
            max=65535,
        ),
    ] = None,
) -> None:
    """What is found, what stands here, what would the step look like: for editors that speak the open protocol (LSP)."""
    from isodesm.errors import UsageError

    try:
        import logging

        from isodesm.editor.features import make_server
        from isodesm.editor.speaking import listen, speak
    except ImportError as error:
        raise UsageError(
            f"The server needs packages that are not installed ({error.name}). `pip install 'isodesm[editor]'` brings them."
        ) from None
    logging.getLogger("pygls").setLevel(logging.CRITICAL)  # what goes wrong with a message is answered
    server = make_server()
    given = folders or ([Path()] if port is not None else [])
    if missing := next((each for each in given if not each.is_dir()), None):
        raise UsageError(f"There is no folder {missing} to read.")
    server.within = tuple(each.resolve() for each in given)
    try:
        if port is None:
            speak(server, say)
        else:
            listen(server, port, _token(), say)
    except OSError as error:
        if port is None:
            raise
        raise UsageError(f"Port {port} can't be listened on: {error.strerror or error}.") from None
    finally:
        server.close()


def _token() -> str:
    """What a client has to know: what the environment holds, or a new one, which is said."""
    import secrets

    token = os.environ.get(TOKEN, "")
    if not token:
        token = secrets.token_urlsafe(24)
        say(f"token: {token}")
    return token
