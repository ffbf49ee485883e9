"""Names that modules give to types."""

from __future__ import annotations

import re

_ALIAS = re.compile(rb"^[ \t]*+(?:export\s++)?+(?:declare\s++)?+type\s++(\w++)", re.MULTILINE)


def aliases_in(text: bytes) -> list[str]:
    """Names that a file gives to types which it does not declare as such."""
    return [name.decode() for name in _ALIAS.findall(text)]
