"""Code before and after as one text: lines that go, lines that come, and those around them."""

from __future__ import annotations

import difflib
from collections import Counter

from isodesm.planning.model.step import Code, Step

ADDED, REMOVED, KEPT = "+", "-", " "


def balance_of(step: Step) -> str:
    """Hard bonds that a step removes and soft bonds that it adds, each once with its count; '' where it does neither."""
    parts = []
    for sign, bonds in (("−", step.balance.removed), ("+", step.balance.added)):
        parts += [f"{sign} {name}" + (f" ×{count}" if count > 1 else "") for name, count in Counter(bonds).items()]
    return ", ".join(parts)


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
