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
from isodesm.diagnosis.shared.findings import Diagnosis, Finding
from isodesm.linking.symbols import simple_name
from isodesm.measures.dossier import counted
from isodesm.measures.strain import weigh
from isodesm.planning.model.step import HAND_IN, Measures, Step, Touched, digest_of
from isodesm.planning.text.amendments import carried_out


class Key(NamedTuple):
    """Whose bonds, of which layer, on what."""

    source: str
    layer: str
    target: str


Totals = dict[Key, tuple[float, int]]
"""Strain and hard bonds."""
Differences = dict[Key, tuple[float, int]]
"""Strain and hard bonds that a scan finds beyond what was projected."""
MOST_SCANS = 5
"""Scans between the steps, beside the one after the last: each takes about as long as reading and linking what changed."""


class Expected(NamedTuple):
    """What so many steps lead to by themselves, and what each class of the tree, by its name, is taken for before them."""

    totals: Callable[[int], Totals]
    roles: dict[str, str]


def expected_of(codebase: Codebase, projected: Callable[[int], Iterable[Finding]]) -> Expected:
    """What is to be held against scans: `projected` gives the hard findings that so many steps lead to by themselves."""
    return Expected(lambda count: _totals(codebase, projected(count)), _roles(codebase))


class Scanned(NamedTuple):
    """A codebase as steps would leave it, and what is found in it."""

    codebase: Codebase
    diagnosis: Diagnosis


def scan_after(codebase: Codebase, steps: Iterable[Step]) -> Scanned:
    """The tree as steps would leave it, read again in memory, with its hard bonds."""
    contents = contents_after(codebase, steps)
    after = edited(codebase, contents)
    after.written = {**codebase.written, **contents}
    return Scanned(after, diagnose(after, families=()))


def settled(
    codebase: Codebase, steps: Sequence[Step], expected: Expected, most_scans: int = MOST_SCANS, at_end: Scanned | None = None
) -> list[Step]:
    """The steps with what scans after the last one, which may be given, and between them, find. Of the codebase it asks what
    was read and linked alone.

    Where that is not what was expected, the difference counts from the step after which it is found first, and the step says
    so. Where there are no more scans to tell, it counts from the likeliest of those in question, and the figures in between
    are said to be estimated.
    """
    roles: list[dict[str, str]] = []

    def scanned(count: int) -> Differences:
        last = count == len(steps)
        scan = at_end if last and at_end is not None else scan_after(codebase, steps[:count])
        actual, wanted = _totals(scan.codebase, scan.diagnosis.hard), expected.totals(count)
        if last:
            roles.append(_roles(scan.codebase))
        return _apart(actual, wanted)

    known: dict[int, Differences] = {0: {}, len(steps): scanned(len(steps))}
    for _ in range(most_scans):
        if (middle := _in_doubt(known)) is None:
            break
        known[middle] = scanned(middle)
    said = _Words(sorted(known), expected.roles, roles[0])
    corrected = _with_differences(steps, _dated(steps, known, expected), said)
    unsure = {count for begin, end in _stretches(known) for count in range(begin + 1, end + 1)}
    return [
        msgspec.structs.replace(step, estimated=True) if number in unsure else step for number, step in enumerate(corrected, 1)
    ]


def _apart(actual: Totals, wanted: Totals) -> Differences:
    found: Differences = {}
    for key in {*wanted, *actual}:
        (strain, bonds), (was, were) = actual.get(key, (0.0, 0)), wanted.get(key, (0.0, 0))
        if (round(strain - was, 9), bonds - were) != (0.0, 0):
            found[key] = (round(strain - was, 9), bonds - were)
    return found


def _stretches(known: dict[int, Differences]) -> list[tuple[int, int]]:
    """Steps, as (number of the one before, number of the last), in which something changes that nobody expected, so that
    several may have done it."""
    return [(begin, end) for begin, end in pairwise(sorted(known)) if end - begin > 1 and known[begin] != known[end]]


def _in_doubt(known: dict[int, Differences]) -> int | None:
    """The middle of the stretch of steps in which most changes unexpectedly; None where each such change has its step."""
    if not (pairs := _stretches(known)):
        return None
    begin, end = max(pairs, key=lambda pair: (_size(known[pair[0]], known[pair[1]]), pair[1] - pair[0], -pair[0]))
    return (begin + end) // 2


def _size(one: Differences, other: Differences) -> float:
    return sum(abs(change[0]) + abs(change[1]) for change in _changes(one, other).values())


def _changes(before: Differences, after: Differences) -> Differences:
    """What is found after some steps beyond what was before them."""
    return _apart(after, before)


def _dated(steps: Sequence[Step], known: dict[int, Differences], expected: Expected) -> dict[int, list[tuple[Key, float, int]]]:
    """Each difference by the step, counted from 0, from which on it is found or, in a stretch, most likely so."""
    found: dict[int, list[tuple[Key, float, int]]] = defaultdict(list)
    for begin, end in pairwise(sorted(known)):
        changes = _changes(known[begin], known[end])
        projected = _last_changes(expected, begin, end, changes) if changes and end - begin > 1 else {}
        for key, (strain, bonds) in sorted(changes.items()):
            at = projected[key] if key in projected else begin + _last(steps[begin:end], key)
            found[at].append((key, strain, bonds))
    return found


def _last_changes(expected: Expected, begin: int, end: int, wanted: Iterable[Key]) -> dict[Key, int]:
    """Of some bonds, the last step of a stretch, counted from 0, that changes them by itself: what it did not foresee of them
    is likely its doing."""
    found: dict[Key, int] = {}
    before = expected.totals(begin)
    for count in range(begin + 1, end + 1):
        now = expected.totals(count)
        found.update({key: count - 1 for key in wanted if now.get(key) != before.get(key)})
        before = now
    return found


def _with_differences(steps: Sequence[Step], apart: dict[int, list[tuple[Key, float, int]]], words: _Words) -> list[Step]:
    result: list[Step] = []
    moved: Differences = {}
    for index, step in enumerate(steps):
        before = _shifted(step, step.before, moved)
        more: dict[str, int] = defaultdict(int)
        for key, strain, bonds in apart.get(index, ()):
            known = moved.get(key, (0.0, 0))
            moved[key] = (round(known[0] + strain, 9), known[1] + bonds)
            more[key.source] += bonds
        said = tuple(words.said(index, source, bonds) for source, bonds in more.items())
        result.append(
            msgspec.structs.replace(
                step, before=before, after=_shifted(step, step.after, moved), hazards=(*step.hazards, *said)
            )
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
                contents[path] = codebase.read_file(path)
            except OSError:
                continue
        before.setdefault(path, contents[path])
        contents[path] = carried_out(contents[path], edits)
    return before


def _totals(codebase: Codebase, findings: Iterable[Finding]) -> Totals:
    found: Totals = {}
    for each in findings:
        weight = weigh(each, codebase.settings.strain)
        key = Key(each.source, each.layer, each.target)
        strain, bonds = found.get(key, (0.0, 0))
        found[key] = (strain + weight, bonds + bool(weight))
    return found


def _last(steps: Sequence[Step], key: Key) -> int:
    """The last step that injects something into a class, or into what it depends on, for that is when one does less by
    itself; else the last that changes one of them; the last of all where none does."""
    for number in (key.source, key.target):
        own = [index for index, step in enumerate(steps) if number in step.classes]
        handed = [index for index in own if steps[index].id.startswith(HAND_IN) and steps[index].classes[0] == number]
        if own:
            return (handed or own)[-1]
    return len(steps) - 1


def _shifted(step: Step, measures: Measures, moved: Differences) -> Measures:
    """Measures with what is found beyond them: of all, by layer, and of the class that a step is about."""
    if not moved:
        return measures
    layers, own, borne, bonds_of_class = dict(measures.by_layer), 0.0, 0.0, 0
    for key, (strain, bonds) in moved.items():
        known = layers.get(key.layer, (0.0, 0))
        layers[key.layer] = (round(known[0] + strain, 9), known[1] + bonds)
        if key.source == step.classes[0]:
            own, bonds_of_class = own + strain, bonds_of_class + bonds
        if key.target == step.classes[0]:
            borne += strain
    return msgspec.structs.replace(
        measures,
        strain=round(measures.strain + sum(strain for strain, _ in moved.values()), 9),
        hard_bonds=measures.hard_bonds + sum(bonds for _, bonds in moved.values()),
        class_strain=round(measures.class_strain + own + borne, 9),
        class_hard_bonds=measures.class_hard_bonds + bonds_of_class,
        by_layer=dict(sorted(layers.items())),
    )


def _roles(codebase: Codebase) -> dict[str, str]:
    """Name of a class to its role; the first of that name counts."""
    found: dict[str, str] = {}
    for number, name in enumerate(codebase.symbols.names):
        found.setdefault(name, codebase.roles.name(number))
    return found


class _Words(NamedTuple):
    """What says why figures are other than expected: after how many steps scans were made, and what classes are taken for
    before the steps and after them."""

    scans: Sequence[int]
    before: dict[str, str]
    after: dict[str, str]

    def said(self, index: int, source: str, bonds: int) -> str:
        """What a scan finds of a class beyond what a step, counted from 0, does by itself."""
        name, before, after = simple_name(source), self.before.get(source, ""), self.after.get(source, "")
        change = f"{counted(abs(bonds), 'bond')} {'more' if bonds > 0 else 'fewer'}" if bonds else "its bonds otherwise"
        why = (
            f"it is taken for {after or 'a class like any other'}, no longer for {before or 'one like any other'}"
            if before != after
            else "more is known of what it reaches, or less is left to reach"
        )
        scan = next(count for count in self.scans if count > index)
        when = "a scan then finds" if scan == index + 1 else f"by step {scan} a scan finds"
        return f"{when} `{name}` with {change}: {why}"
