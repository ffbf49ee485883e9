"""Reads a file of odd content in a process of its own, so that it may take too long, or too much, without harm."""

from __future__ import annotations

import re
from collections.abc import Callable
from multiprocessing import get_context
from typing import Any

LONGEST_LINE = 5_000
"""Bytes of a line beyond which no person wrote it."""
MOST_MEMORY = 3_000_000_000
"""Bytes of address space that such a process may have."""

_DEEP = re.compile(rb"[(\[{]{150}|<{400}")
"""Brackets, with all else left out, that are opened one in the other, deeper than any person nests them."""
_NO_BRACKETS = bytes(byte for byte in range(256) if byte not in b"()[]{}<>")


def looks_odd(content: bytes) -> bool:
    """Whether content has a line, or nesting, as only programs write it: grammars may take very long over that, or fail."""
    if len(content) < LONGEST_LINE:
        return False
    start = 0
    while start + LONGEST_LINE < len(content):  # from one line end to the last one within reach
        end = content.rfind(b"\n", start, start + LONGEST_LINE)
        if end < 0 and (end := content.rfind(b"\r", start, start + LONGEST_LINE)) < 0:
            return True
        start = end + 1
    return _DEEP.search(content.translate(None, _NO_BRACKETS)) is not None


def run_apart(seconds: float, function: Callable[..., Any], *arguments: Any) -> Any:
    """What a function returns in a process of its own, or a sentence on why it came to nothing."""
    context = get_context()
    receiving, sending = context.Pipe(duplex=False)
    process = context.Process(target=_work, args=(sending, function, arguments))
    process.start()
    sending.close()
    try:
        if not receiving.poll(seconds):
            return f"takes longer than {seconds:g} seconds to read (setting `seconds-per-file`); left out"
        return receiving.recv()
    except EOFError:
        return "is more than the parser can take; left out"
    finally:
        process.kill()
        process.join()
        receiving.close()


def _work(sending: Any, function: Callable[..., Any], arguments: tuple[Any, ...]) -> None:
    try:
        import resource

        resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
        resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    except (ImportError, ValueError, OSError):
        pass  # where memory can't be limited, time still is
    sending.send(function(*arguments))
