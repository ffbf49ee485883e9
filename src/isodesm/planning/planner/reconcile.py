"""Holds what a plan says against a scan of the tree as its steps would leave it, and takes over what that finds.

A projection knows which bonds a step cuts. It does not know that a class is taken for something else once it does less by
itself, or that more is known of what it calls once its fields have types: then bonds are judged anew that no step touches.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Sequence
from itertools import pairwise
from typing import NamedTuple

import msgspec

from isodesm.codebase.edited import edited
from isodesm.codebase.model import Codebase
from isodesm.diagnosis.diagnose import diagnose
from isodesm.diagnosis.shared.findings import Finding
from isodesm.disk.opening import read_plain
from isodesm.linking.symbols import simple_name
from isodesm.measures.dossier import counted
from isodesm.measures.strain import weigh
from isodesm.planning.model.step import HAND_IN, Measures, Step, Touched, digest_of
from isodesm.planning.text.amendments import carried_out

Totals = dict[tuple[str, str], tuple[float, int]]
"""(class, layer) to strain and hard bonds of its own."""


Differences = dict[tuple[str, str], tuple[float, int]]
"""(class, layer) to strain and hard bonds that a scan finds beyond what was projected."""
MOST_SCANS = 5
"""Scans between the steps, beside the one after the last: each takes about as long as reading and linking what changed."""


class Expected(NamedTuple):
    """What so many steps lead to by themselves, and what each class of the tree, by its name, is taken for before them."""

    totals: Callable[[int], Totals]
    roles: dict[str, str]


def expected_of(codebase: Codebase, projected: Callable[[int], Iterable[Finding]]) -> Expected:
    """What is to be held against scans: `projected` gives the hard findings that so many steps lead to by themselves."""
    return Expected(lambda count: _totals(codebase, projected(count)), _roles(codebase))


def settled(codebase: Codebase, steps: Sequence[Step], expected: Expected, most_scans: int = MOST_SCANS) -> list[Step]:
    """The steps with what scans after the last one, and between them, find. Of the codebase it asks what was read and linked
    alone.

    Where that is not what was expected, the difference counts from the step after which it is found first; where there are
    no more scans to tell, from the last of those in question that changes the class. The step says so.
    """
    roles: list[dict[str, str]] = []

    def scanned(count: int) -> Differences:
        after = edited(codebase, contents_after(codebase, steps[:count]))
        actual, wanted = _totals(after, diagnose(after, families=()).hard), expected.totals(count)
        if count == len(steps):
            roles.append(_roles(after))
        return _apart(actual, wanted)

    known: dict[int, Differences] = {0: {}, len(steps): scanned(len(steps))}
    for _ in range(most_scans):
        if (middle := _in_doubt(known)) is None:
            break
        known[middle] = scanned(middle)
    return _with_differences(steps, _dated(steps, known), (expected.roles, roles[0]))


def _apart(actual: Totals, wanted: Totals) -> Differences:
    found: Differences = {}
    for key in {*wanted, *actual}:
        (strain, bonds), (was, were) = actual.get(key, (0.0, 0)), wanted.get(key, (0.0, 0))
        if (round(strain - was, 9), bonds - were) != (0.0, 0):
            found[key] = (round(strain - was, 9), bonds - were)
    return found


def _in_doubt(known: dict[int, Differences]) -> int | None:
    """The middle of the stretch of steps in which most changes unexpectedly; None where each such change has its step."""
    counts = sorted(known)
    pairs = [(begin, end) for begin, end in pairwise(counts) if end - begin > 1 and known[begin] != known[end]]
    if not pairs:
        return None
    begin, end = max(pairs, key=lambda pair: (_size(known[pair[0]], known[pair[1]]), pair[1] - pair[0], -pair[0]))
    return (begin + end) // 2


def _size(one: Differences, other: Differences) -> float:
    return sum(abs(change[0]) + abs(change[1]) for change in _changes(one, other).values())


def _changes(before: Differences, after: Differences) -> Differences:
    """What is found after some steps beyond what was before them."""
    return _apart(after, before)


def _dated(steps: Sequence[Step], known: dict[int, Differences]) -> dict[int, list[tuple[str, str, float, int]]]:
    """Each difference by the step, counted from 0, from which on it is found."""
    found: dict[int, list[tuple[str, str, float, int]]] = defaultdict(list)
    for begin, end in pairwise(sorted(known)):
        for (source, layer), (strain, bonds) in sorted(_changes(known[begin], known[end]).items()):
            found[begin + _last(steps[begin:end], source)].append((source, layer, strain, bonds))
    return found


def _with_differences(
    steps: Sequence[Step], apart: dict[int, list[tuple[str, str, float, int]]], roles: tuple[dict[str, str], dict[str, str]]
) -> list[Step]:
    result: list[Step] = []
    moved: dict[str, tuple[float, int]] = {}
    for index, step in enumerate(steps):
        before = _shifted(step.before, moved)
        for _, layer, strain, bonds in apart.get(index, ()):
            known = moved.get(layer, (0.0, 0))
            moved[layer] = (round(known[0] + strain, 9), known[1] + bonds)
        more: dict[str, int] = defaultdict(int)
        for source, _, _, bonds in apart.get(index, ()):
            more[source] += bonds
        said = tuple(_said(source, bonds, *(each.get(source, "") for each in roles)) for source, bonds in more.items())
        result.append(
            msgspec.structs.replace(step, before=before, after=_shifted(step.after, moved), hazards=(*step.hazards, *said))
        )
    return result


def contents_after(codebase: Codebase, steps: Iterable[Step]) -> dict[str, bytes]:
    """The bytes of all files that steps touch, as they leave them; files that can't be read are left out."""
    contents: dict[str, bytes] = {}
    for step in steps:
        _carried_on(codebase, step, contents)
    return contents


def touched(codebase: Codebase, steps: Iterable[Step]) -> Iterator[tuple[Touched, ...]]:
    """For each step the files that it changes, with what they hold before and after it."""
    contents: dict[str, bytes] = {}
    for step in steps:
        before = _carried_on(codebase, step, contents)
        yield tuple(Touched(path, digest_of(before[path]), digest_of(contents.get(path))) for path in sorted(before))


def _carried_on(codebase: Codebase, step: Step, contents: dict[str, bytes]) -> dict[str, bytes | None]:
    """Bring contents up to what they are after a step; what its files held before, None for what was not there."""
    before: dict[str, bytes | None] = {}
    by_file: dict[str, list[tuple[int, int, str]]] = defaultdict(list)
    for edit in step.edits:
        if edit.new:
            before.setdefault(edit.file, contents.get(edit.file))
            contents[edit.file] = edit.text.encode()
        elif not edit.by_hand:
            by_file[edit.file].append((edit.start, edit.end, edit.text))
    for path, edits in by_file.items():
        if path not in contents:
            try:
                contents[path] = read_plain(codebase.root / path)
            except OSError:
                continue
        before.setdefault(path, contents[path])
        contents[path] = carried_out(contents[path], edits)
    return before


def _totals(codebase: Codebase, findings: Iterable[Finding]) -> Totals:
    found: Totals = {}
    for each in findings:
        weight = weigh(each, codebase.settings.strain)
        strain, bonds = found.get((each.source, each.layer), (0.0, 0))
        found[each.source, each.layer] = (strain + weight, bonds + bool(weight))
    return found


def _last(steps: Sequence[Step], source: str) -> int:
    """The last step that hands something to a class, for that is when it does less by itself; else the last that changes it;
    the last of all where none does."""
    own = [index for index, step in enumerate(steps) if source in step.classes]
    handed = [index for index in own if steps[index].id.startswith(HAND_IN) and steps[index].classes[0] == source]
    return (handed or own or [len(steps) - 1])[-1]


def _shifted(measures: Measures, moved: dict[str, tuple[float, int]]) -> Measures:
    if not moved:
        return measures
    layers = dict(measures.by_layer)
    for layer, (strain, bonds) in moved.items():
        known = layers.get(layer, (0.0, 0))
        layers[layer] = (round(known[0] + strain, 9), known[1] + bonds)
    return msgspec.structs.replace(
        measures,
        strain=round(measures.strain + sum(strain for strain, _ in moved.values()), 9),
        hard_bonds=measures.hard_bonds + sum(bonds for _, bonds in moved.values()),
        by_layer=dict(sorted(layers.items())),
    )


def _roles(codebase: Codebase) -> dict[str, str]:
    """Name of a class to its role; the first of that name counts."""
    found: dict[str, str] = {}
    for number, name in enumerate(codebase.symbols.names):
        found.setdefault(name, codebase.roles.name(number))
    return found


def _said(source: str, bonds: int, before: str, after: str) -> str:
    """What changes in the judgement of a class, which was taken for one thing before and is for another after, and why."""
    name = simple_name(source)
    change = f"{counted(abs(bonds), 'bond')} {'more' if bonds > 0 else 'fewer'}" if bonds else "its bonds otherwise"
    why = (
        f"it is taken for {after or 'a class like any other'}, no longer for {before or 'one like any other'}"
        if before != after
        else "more is known of what it reaches, or less is left to reach"
    )
    return f"a scan then finds `{name}` with {change}: {why}"
