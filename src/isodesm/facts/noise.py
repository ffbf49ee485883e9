"""Patterns of texts and remarks in source. Each character is looked at a fixed number of times, whatever the source is: what is
never closed goes to its end, and nothing can be matched in two ways."""

from __future__ import annotations

QUOTED = r'"(?:[^"\\\n]|\\.)*+(?:"|(?=\n)|\Z)'
"""A text in double quotes, up to the end of its line where it is not closed."""
SINGLE = QUOTED.replace('"', "'")
BACKTICKED = r"`(?:[^`\\]|\\.)*+(?:`|\Z)"
TRIPLE = r'"""(?:(?:[^\\]|\\.)*?"""|.*)'
TRIPLE_SINGLE = TRIPLE.replace('"', "'")
BLOCK = r"/\*(?:.*?\*/|.*)"
"""A remark over lines, as are the texts above that may hold line ends; all of them want `re.DOTALL`."""
SLASHES = r"//[^\n]*"
HASH = r"#[^\n]*"


def any_of(*patterns: str) -> str:
    """One pattern for several, the first that fits a place in front."""
    return "|".join(patterns)
