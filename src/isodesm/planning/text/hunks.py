"""Code before and after changes, as few lines as show them."""

from __future__ import annotations

from collections.abc import Sequence

from isodesm.planning.model.amendment import Change
from isodesm.planning.text.amendments import carried_out

CONTEXT = 1
"""Lines shown around a change."""
JOINED = 3
"""Lines that may lie between two changes that are shown as one."""


def hunks(old: bytes, edits: Sequence[Change]) -> list[tuple[str, str]]:
    """What edits do to a text, as pairs of the lines before and after, with a line around each; near ones together."""
    groups: list[list[Change]] = []
    for each in edits:
        if groups and old.count(b"\n", groups[-1][-1].end, each.start) <= JOINED:
            groups[-1].append(each)
        else:
            groups.append([each])
    return [_hunk(old, group) for group in groups]


def _hunk(old: bytes, group: list[Change]) -> tuple[str, str]:
    first = old.rfind(b"\n", 0, group[0].start) + 1
    last = old.find(b"\n", group[-1].end)
    last = last if last >= 0 else len(old)
    new = carried_out(old[first:last], [(each.start - first, each.end - first, each.text) for each in group])
    before, after = (part.decode("utf-8", "replace").splitlines() for part in (old[first:last], new))
    while (
        before
        and after
        and before[0] == after[0]
        and len(before) > CONTEXT
        and len(after) > CONTEXT
        and before[1:2] == after[1:2]
    ):
        before, after = before[1:], after[1:]
    lead = old[:first].decode("utf-8", "replace").splitlines()[-CONTEXT:] if before[:1] != after[:1] else []
    tail = old[last + 1 :].partition(b"\n")[0].decode("utf-8", "replace").splitlines() if before[-1:] != after[-1:] else []
    return "\n".join([*lead, *before, *tail]), "\n".join([*lead, *after, *tail])
