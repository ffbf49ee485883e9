"""What code keeps on the host's global object, under keys of its own."""

from __future__ import annotations

import re
from collections.abc import Iterator

_HOST = re.compile(r"\b(?:window|globalThis|global|self)\b")
_NAMED_HOST = re.compile(
    r"\b(?:const|let|var)\s++(\w++)[^=;\n]{0,60}+=\s*+\(?\s*+(?:window|globalThis|global|self)\b(?!\s*[.\[])"
)
_NAMED_KEY = re.compile(r"\b(?:const|let|var)\s++(\w++)[^=;\n]{0,60}+=\s*+([\w.]++)[ \t]*+[;\n]")
_IN_HOST = re.compile(
    r"(\breturn\b[\s(]*)?(?:\b(\w+)\b|\(\s*((?:window|globalThis|global|self))\b[^()]*\))\s*\[\s*([\w.]+)\s*\](\s*=(?!=))?"
)
"""A part of an object under a key: group 1 where it is returned, 2 or 3 the object, 4 the key, 5 where it is set."""


def keys_of_host(body: str, pattern: re.Pattern[str]) -> Iterator[tuple[str, bool, bool]]:
    """(state, whether it is set, whether it is returned) of what the host's global object keeps under a state as its key, for
    everybody; the object and the key may have local names."""
    if not _HOST.search(body):
        return
    hosts = {found[1] for found in _NAMED_HOST.finditer(body)}
    keys = {found[1]: found[2] for found in _NAMED_KEY.finditer(body)}
    for found in _IN_HOST.finditer(body):
        if not (found[2] in hosts or _HOST.fullmatch(found[2] or "") or found[3]):
            continue
        key = found[4].rpartition(".")[2]
        state = pattern.fullmatch(keys.get(key, found[4]))
        if state is not None:
            yield state[2], bool(found[5]), bool(found[1])
