"""Lets a server speak with its client: over standard input and output, or over a port of the loopback to who has the token."""

from __future__ import annotations

import asyncio
import contextlib
import sys
from collections.abc import Callable
from threading import Event
from typing import Any

from pygls.io_ import StdinAsyncReader, StdoutWriter

from isodesm.editor.messages import (
    LARGEST_FIRST,
    NOT_ALLOWED,
    SECONDS_TO_SAY,
    Refused,
    converse,
    decoded,
    error_of,
    has_token,
    read_message,
)
from isodesm.editor.server import Server

HOST = "127.0.0.1"


def speak(server: Server, tell: Callable[[str], None]) -> None:
    """Over standard input and output, until the client is gone. `tell` hears of what ends it otherwise."""

    async def run() -> None:
        reader = StdinAsyncReader(sys.stdin.buffer, server.thread_pool)
        writer = StdoutWriter(sys.stdout.buffer)
        server.protocol.set_writer(writer)
        await converse(reader, _taker(server), writer.write)

    _until_the_end(server, run, tell)


def listen(server: Server, port: int, token: str, tell: Callable[[str], None]) -> None:
    """On a port of the loopback, to the one client that begins with the token; it ends with that one.

    What is no message of the protocol – what a page in a browser sends, say – gets no answer.
    """

    async def run() -> None:
        ended = asyncio.Event()
        taken = asyncio.Lock()

        async def meet(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
            with contextlib.suppress(Refused, OSError, TimeoutError):
                first = await asyncio.wait_for(_first(reader, writer, token), SECONDS_TO_SAY)
                if first is not None and not taken.locked():
                    async with taken:
                        server.protocol.set_writer(writer)  # type: ignore[arg-type]
                        _taker(server)(first)
                        try:
                            await converse(reader, _taker(server), writer.write)
                        except Refused as error:
                            tell(f"the client was let go: {error}")
                        ended.set()
            writer.close()

        async with await asyncio.start_server(meet, HOST, port) as open_port:
            tell(f"listening on {HOST}:{open_port.sockets[0].getsockname()[1]}")
            await ended.wait()

    _until_the_end(server, run, tell)


async def _first(reader: asyncio.StreamReader, writer: asyncio.StreamWriter, token: str) -> dict[str, Any] | None:
    """The first message of a client that may speak; None, with a word to the client, for any other."""
    body = await read_message(reader, LARGEST_FIRST)
    if body is None:
        return None
    message = decoded(body)
    if has_token(message, token):
        return message
    words = "this port wants the token that its start printed, as `initializationOptions.token`"
    writer.write(error_of(message.get("id"), NOT_ALLOWED, words))
    await writer.drain()
    return None


def _taker(server: Server) -> Callable[[dict[str, Any]], None]:
    def take(message: dict[str, Any]) -> None:
        server.protocol.handle_message(server.protocol.structure_message(message))

    return take


def _until_the_end(server: Server, run: Callable[[], Any], tell: Callable[[str], None]) -> None:
    server._stop_event = Event()
    try:
        asyncio.run(run())
    except Refused as error:
        tell(f"what came is not understood, and ends this: {error}")
    except (BrokenPipeError, ConnectionError, KeyboardInterrupt, asyncio.CancelledError, SystemExit):
        pass
    finally:
        server.shutdown()
