"""Changes of a file as spans of its original text with what goes there, and the edits that lead from one set to the next.

All amendments of a plan count in bytes of the original. A step's edits count in the text that the steps before it
left behind: so they can be carried out one step after the other.

    original   a b c d          amendments before the step   [b → X]         text  a X c d
                                amendments after it          [b → X, d → Y]  edit  (the d of `a X c d` → Y)
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Sequence

from isodesm.planning.model.amendment import LAST, Amendment, Change

Segment = tuple[int, int, str]


def outermost(amendments: Iterable[Amendment]) -> list[Amendment]:
    """The amendments in order of place, without those inside a span that goes as a whole, and each once."""
    kept: list[Amendment] = []
    edge = -1
    for each in sorted(
        dict.fromkeys(amendments), key=lambda each: (each.start, -(each.end > each.start), -each.end, each.rank)
    ):
        if each.start < edge and each.end <= edge and not (each.start == each.end == edge):
            continue
        kept.append(each)
        edge = max(edge, each.end if each.end > each.start else edge)
    return sorted(kept, key=lambda each: (each.start, each.end, each.rank))


def segments(amendments: Iterable[Amendment]) -> list[Segment]:
    """What gives way to what, in order and without overlaps; insertions at one place joined."""
    found: list[Segment] = []
    for start, end, _, text, _ in outermost(amendments):
        if found and found[-1][:2] == (start, end) and start == end:
            found[-1] = (start, end, found[-1][2] + text)
        else:
            found.append((start, end, text))
    return found


def amended(text: bytes, amendments: Iterable[Amendment], start: int = 0, end: int | None = None) -> bytes:
    """The text, or the part of it from `start` to `end`, with the amendments that lie within."""
    end = len(text) if end is None else end
    parts, position = [], start
    for first, last, new in segments(each for each in amendments if start <= each.start and each.end <= end):
        parts += [text[position:first], new.encode()]
        position = last
    return b"".join((*parts, text[position:end]))


def changes(text: bytes, before: Sequence[Amendment], after: Sequence[Amendment]) -> list[Change]:
    """The edits that lead from the text with one set of amendments to that with another, first to last."""
    known = set(before)
    found: list[Change] = []
    shift = 0
    hulls = _hulls([*segments(before), *segments(after)])
    for (start, end), was, becomes in zip(hulls, _shared_out(before, hulls), _shared_out(after, hulls), strict=True):
        old = amended(text, was, start, end)
        new = amended(text, becomes, start, end)
        if old != new:
            words = tuple(dict.fromkeys(each.action for each in becomes if each.action and each not in known))
            head, tail = common(old, new)
            at = start + shift
            found.append(Change(at + head, at + len(old) - tail, new[head : len(new) - tail].decode("utf-8", "replace"), words))
        shift += len(old) - (end - start)
    return found


def _shared_out(amendments: Sequence[Amendment], hulls: Sequence[tuple[int, int]]) -> list[list[Amendment]]:
    """The amendments within each of some spans that don't touch, in the order in which they were given."""
    starts = [start for start, _ in hulls]
    found: list[list[Amendment]] = [[] for _ in hulls]
    for each in amendments:
        at = bisect_right(starts, each.start) - 1
        if at >= 0 and each.end <= hulls[at][1]:
            found[at].append(each)
    return found


def within_one(at: int, spans: Sequence[tuple[int, int]]) -> bool:
    """Whether a byte lies in one of some spans that don't overlap, sorted."""
    found = bisect_right(spans, (at, LAST)) - 1
    return found >= 0 and at < spans[found][1]


def _hulls(spans: Iterable[Segment]) -> list[tuple[int, int]]:
    """Spans joined where they overlap or touch: an addition at the edge of a span belongs to it."""
    found: list[tuple[int, int]] = []
    for start, end, _ in sorted(spans):
        if found and start <= found[-1][1]:
            found[-1] = (found[-1][0], max(end, found[-1][1]))
        else:
            found.append((start, end))
    return found


def common(old: bytes, new: bytes) -> tuple[int, int]:
    """Lengths of what both begin and end with, no character cut in two."""
    least = min(len(old), len(new))
    head = next((at for at in range(least) if old[at] != new[at]), least)
    while head and (old[head : head + 1] or new[head : head + 1] or b" ")[0] & 0xC0 == 0x80:
        head -= 1
    least -= head
    tail = next((at for at in range(least) if old[-1 - at] != new[-1 - at]), least)
    while tail and old[len(old) - tail] & 0xC0 == 0x80:
        tail -= 1
    return head, tail


def carried_out(text: bytes, edits: Iterable[tuple[int, int, str]]) -> bytes:
    """A text after edits that count in it, from the last to the first."""
    for start, end, new in sorted(edits, reverse=True):
        text = text[:start] + new.encode() + text[end:]
    return text
