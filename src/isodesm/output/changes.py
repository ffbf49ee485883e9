"""Code before and after as one text: lines that go, lines that come, and those around them."""

from __future__ import annotations

import difflib

from isodesm.planning.steps import Code

ADDED, REMOVED, KEPT = "+", "-", " "


def changed_lines(code: Code) -> list[tuple[str, str]]:
    """Each line with its mark; all of a new file are added."""
    old, new = code.before.splitlines(), code.after.splitlines()
    found: list[tuple[str, str]] = []
    for tag, i1, i2, j1, j2 in difflib.SequenceMatcher(None, old, new, autojunk=False).get_opcodes():
        if tag == "equal":
            found += [(KEPT, line) for line in old[i1:i2]]
        else:
            found += [(REMOVED, line) for line in old[i1:i2]] + [(ADDED, line) for line in new[j1:j2]]
    return found
