"""Messages of the open protocol as they come: headers and lengths are looked at before anything is believed."""

from __future__ import annotations

import asyncio
import hmac
import json
import re
from collections.abc import Awaitable, Callable
from typing import Any, Protocol

LARGEST, LARGEST_FIRST = 50_000_000, 1_000_000
"""Bytes of a message, and of the first one over a port, whose sender nobody knows yet."""
MOST_HEADERS, LONGEST_HEADER = 8, 500
SECONDS_TO_SAY = 10.0
"""The longest that whoever connects to a port may take to say who it is."""
_HEADER = re.compile(rb"(Content-Length|Content-Type):[ \t]*([^\r\n]*)\r?\n", re.IGNORECASE)
PARSE_ERROR, INVALID_REQUEST, NOT_ALLOWED = -32700, -32600, -32002
"""Numbers of errors in JSON-RPC, and in the protocol for a server that has not been told how to begin."""


class Refused(Exception):
    """What comes is no message of the protocol; the words say why, and `code` as the protocol has it."""

    def __init__(self, words: str, code: int = INVALID_REQUEST) -> None:
        super().__init__(words)
        self.code = code


class Reader(Protocol):
    """Where messages come from."""

    def readline(self) -> Awaitable[bytes]:
        """One line, '' at the end."""

    def readexactly(self, n: int) -> Awaitable[bytes]:
        """So many bytes, or fewer at the end."""


async def read_message(reader: Reader, largest: int = LARGEST) -> bytes | None:
    """The body of the next message; None where nothing more comes. Refused for what is no header, or too large."""
    length = -1
    for count in range(MOST_HEADERS + 1):
        try:
            line = await reader.readline()
        except ValueError:  # longer than a line may be
            raise Refused("a header is too long") from None
        if not line and not count:
            return None
        if line in (b"\r\n", b"\n"):
            break
        found = _HEADER.fullmatch(line) if len(line) <= LONGEST_HEADER else None
        if found is None:
            raise Refused("what comes is no header of the protocol of editors")
        if found[1].lower() == b"content-length":
            if not re.fullmatch(rb"\d{1,12}", found[2].strip()):
                raise Refused("a length is no number")
            length = int(found[2])
    else:
        raise Refused("there are too many headers")
    if not 0 <= length <= largest:
        raise Refused(f"a message has no length, or more than {largest:,} bytes")
    try:
        body = await reader.readexactly(length)
    except asyncio.IncompleteReadError:
        return None
    return body if len(body) == length else None


def decoded(body: bytes) -> dict[str, Any]:
    """A body as the message that it is; Refused with what is wrong about it."""
    try:
        message = json.loads(body)
    except (ValueError, RecursionError):
        raise Refused("this is not JSON", PARSE_ERROR) from None
    if not isinstance(message, dict) or message.get("jsonrpc") != "2.0":
        raise Refused("this is no message")
    if "method" in message and not isinstance(message["method"], str):
        raise Refused("a method is a name")
    if not isinstance(message.get("id", 0), str | int) and "id" in message:
        raise Refused("an id is a number or a text")
    return message


def has_token(message: dict[str, Any], token: str) -> bool:
    """Whether the first message of a client holds the token, where clients put what a server of theirs asks for."""
    params = message.get("params")
    options = params.get("initializationOptions") if isinstance(params, dict) else None
    given = options.get("token") if isinstance(options, dict) else None
    if message.get("method") != "initialize" or not isinstance(given, str):
        return False
    return hmac.compare_digest(given.encode("utf-8", "replace"), token.encode("utf-8", "replace"))


def error_of(message_id: Any, code: int, words: str) -> bytes:
    """An answer that says what is wrong, as it is sent."""
    body = json.dumps({"jsonrpc": "2.0", "id": message_id, "error": {"code": code, "message": words}}).encode()
    return b"Content-Length: %d\r\n\r\n%s" % (len(body), body)


async def converse(reader: Reader, take: Callable[[dict[str, Any]], None], say: Callable[[bytes], Any]) -> None:
    """Take in one message after the other until nothing more comes; what can't be taken in is answered with what is wrong.

    Refused where what comes can't be told apart any more.
    """
    while (body := await read_message(reader)) is not None:
        message: dict[str, Any] = {}
        try:
            message = decoded(body)
            take(message)
        except Refused as error:
            say(error_of(None, error.code, str(error)))
        except Exception as error:  # one message must not end all answers
            if "id" in message:
                say(error_of(message["id"], INVALID_REQUEST, f"can't be taken in ({type(error).__name__})"))
