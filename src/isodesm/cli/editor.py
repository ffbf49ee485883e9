"""`isodesm editor`."""

from __future__ import annotations

from typing import Annotated

import typer

HOST = "127.0.0.1"


def editor(
    port: Annotated[
        int,
        typer.Option(
            "--port", help="Listen on this port of the loopback, instead of standard input.", metavar="PORT", min=0, max=65535
        ),
    ] = 0,
) -> None:
    """What is found, what stands here, what would the step look like: for editors that speak the open protocol (LSP)."""
    from isodesm.errors import UsageError

    try:
        from isodesm.editor.features import make_server
    except ImportError as error:
        raise UsageError(
            f"The server needs packages that are not installed ({error.name}). `pip install 'isodesm[editor]'` brings them."
        ) from None
    server = make_server()
    try:
        if port:
            server.start_tcp(HOST, port)
        else:
            server.start_io()
    finally:
        server.close()
