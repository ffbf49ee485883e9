"""Holds what a plan says against a scan of the tree as its steps would leave it, and takes over what that finds.

A projection knows which bonds a step cuts. It does not know that a class is taken for something else once it does less by
itself, or that more is known of what it calls once its fields have types: then bonds are judged anew that no step touches.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
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


class Expected(NamedTuple):
    """What steps lead to by themselves, and what each class of the tree, by its name, is taken for before them."""

    totals: Totals
    roles: dict[str, str]


def expected_of(codebase: Codebase, projected: Iterable[Finding]) -> Expected:
    """What is to be held against a scan: `projected` are the hard findings that steps lead to by themselves."""
    return Expected(_totals(codebase, projected), _roles(codebase))


def settled(codebase: Codebase, steps: Sequence[Step], expected: Expected) -> list[Step]:
    """The steps with what a scan after the last one finds. Of the codebase it asks what was read and linked alone.

    Where that is not what was expected, the difference counts from the last step that changes the class, which says so.
    """
    after = edited(codebase, contents_after(codebase, steps))
    actual, roles = _totals(after, diagnose(after, families=()).hard), (expected.roles, _roles(after))
    apart: dict[int, list[tuple[str, str, float, int]]] = defaultdict(list)
    for source, layer in sorted({*expected.totals, *actual}):
        strain, bonds = actual.get((source, layer), (0.0, 0))
        was, were = expected.totals.get((source, layer), (0.0, 0))
        if (round(strain - was, 9), bonds - were) != (0.0, 0):
            apart[_last(steps, source)].append((source, layer, round(strain - was, 9), bonds - were))
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
