"""One decision, one finding: what a class does to one target in one way is said once, with all places where it does."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable

import msgspec

from isodesm.diagnosis.shared.findings import LEVELS, Finding, Related

AGAIN = {
    "hard-wired-creation": "creates it here, too",
    "static-singleton": "fetches it here, too",
    "static-effect": "calls it here, too",
    "service-lookup": "looks it up here, too",
}
"""Kinds that are folded, with what is said of the further places."""


def folded(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Findings with those of one kind, class and target made one, at the first place of the gravest; seams stay apart.

    The order is that of the places which are kept.
    """
    return _folded(findings, lambda each: (each.kind, each.source, each.target, each.level == "note"))


def by_member(places: Iterable[Finding]) -> tuple[Finding, ...]:
    """The same with those of each member by themselves: what changes are told by, for one who writes a further member with the
    same fault has made a new one."""
    return _folded(places, lambda each: (each.kind, each.source, each.member, each.target, each.level == "note"))


def _folded(findings: Iterable[Finding], key_of: Callable[[Finding], tuple[object, ...]]) -> tuple[Finding, ...]:
    groups: dict[tuple[object, ...], list[Finding]] = defaultdict(list)
    for number, each in enumerate(findings):
        groups[key_of(each) if each.kind in AGAIN else (number,)].append(each)
    kept = [_one_of(group) for group in groups.values()]
    return tuple(sorted(kept, key=lambda each: (each.file, each.line, each.column)))


def _one_of(group: list[Finding]) -> Finding:
    first = min(group, key=lambda each: LEVELS.index(each.level))
    if len(group) == 1:
        return first
    others = tuple(Related(each.file, each.line, _again(each, first)) for each in group if each is not first)
    places = f"{first.message.rstrip('.')}, one of {len(group)} places."
    why = tuple(dict.fromkeys(tag for each in (first, *group) for tag in each.why))
    return msgspec.structs.replace(first, message=places, related=(*others, *first.related), places=len(group), why=why)


def _again(finding: Finding, first: Finding) -> str:
    """What stands at a further place; named where it is another member of the same target."""
    called, known = _called(finding), _called(first)
    return f"calls `{called}` here" if finding.kind == "static-effect" and called != known else AGAIN[finding.kind]


def _called(finding: Finding) -> str:
    return finding.message.rpartition(" calls `")[2].partition("`")[0]
