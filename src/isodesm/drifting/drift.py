"""What changed between two states: findings new, gone and moved, classes and layers that bear more or less."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import NamedTuple

import msgspec

from isodesm.diagnosis.shared.findings import HARD_KINDS, LEVELS
from isodesm.drifting.mark import EARLIER, Mark, MarkedClass, MarkedExcuses, MarkedFinding, Totals, as_before, place_digest
from isodesm.drifting.matching import matched

LEAST_CHANGE = 1e-6
OF_LAYERS = frozenset(("outward-dependency", "layer-skip"))
"""Kinds that say of a dependency what a hard bond between the same two said before: loosening that ties no new knot."""


class Moved(msgspec.Struct, frozen=True):
    """A finding that is still there, in another class, member or file."""

    before: MarkedFinding
    after: MarkedFinding


class ClassChange(msgspec.Struct, frozen=True):
    """A class whose strain is another: its name, what it was called before, and the parts then and now."""

    name: str
    before_name: str
    file: str
    layer: str
    before: float
    after: float
    parts: dict[str, tuple[float, float]]
    """Kind of finding, or `borne`, to strain then and now, where it differs."""
    hard_bonds: tuple[int, int]


class LayerChange(msgspec.Struct, frozen=True):
    """A layer then and now."""

    name: str
    before: Totals
    after: Totals


class Around(NamedTuple):
    """What a tree holds besides what is read: whether a file is still there, and what the places in tests are known by."""

    is_there: Callable[[str], bool] = lambda path: False
    in_tests: frozenset[str] = frozenset()


class Drift(msgspec.Struct, frozen=True):
    """What changed. `unchanged` counts findings; `updated` are those in place whose level or number of places is another."""

    since: str
    before: Totals
    after: Totals
    new: tuple[MarkedFinding, ...]
    gone: tuple[MarkedFinding, ...]
    moved: tuple[Moved, ...]
    updated: tuple[Moved, ...]
    unchanged: int
    classes: tuple[ClassChange, ...]
    layers: tuple[LayerChange, ...]
    newly_accepted: tuple[MarkedFinding, ...]
    no_longer_accepted: tuple[MarkedFinding, ...]
    newly_excused: tuple[MarkedFinding, ...] = ()
    """What stands there as before, and has an excuse by what is around it now."""
    no_longer_excused: tuple[MarkedFinding, ...] = ()
    """Findings now whose line stood there before with an excuse: what it leads to, or what is around it, has changed."""
    remarks: tuple[str, ...] = ()
    """What makes the two states hard to compare."""
    judged_otherwise: tuple[MarkedFinding, ...] = ()
    """Findings in files that are as they were, where another version of this program judged them before."""
    hidden: tuple[str, ...] = ()
    """What is out of view now that was in view, or was not there, in words."""

    def at_least(self, level: str) -> tuple[MarkedFinding, ...]:
        """The new findings of a level or worse."""
        wanted = LEVELS[: LEVELS.index(level) + 1]
        return tuple(each for each in self.new if each.level in wanted)

    def grown(self, level: str) -> tuple[MarkedFinding, ...]:
        """Findings of a level or worse that have more places than they had."""
        wanted = LEVELS[: LEVELS.index(level) + 1]
        pairs = (*self.updated, *self.moved)
        return tuple(each.after for each in pairs if each.after.places > each.before.places and each.after.level in wanted)


def drift_between(
    old: Mark,
    new: Mark,
    since: str,
    renamed_files: Mapping[str, str] | None = None,
    remarks: tuple[str, ...] = (),
    around: Around | None = None,
) -> Drift:
    """What changed from one state to another. `around` tells what is out of view now from what is gone."""
    if old.schema == EARLIER:
        new = as_before(new)
    paired = _paired(old, new, renamed_files or {})
    updated = [*paired.updated, *paired.said_otherwise]
    accepted_then, accepted_now = _by_id(old.accepted), _by_id(new.accepted)
    judged = tuple(each for each in paired.come if each.file in _untouched(old, new)) if _other_program(old, new) else ()
    return Drift(
        since=since,
        before=old.totals,
        after=new.totals,
        new=tuple(each for each in paired.come if each not in judged),
        gone=paired.gone,
        moved=tuple(sorted(paired.moved, key=lambda each: (each.after.source, each.after.id))),
        updated=tuple(sorted(updated, key=lambda each: (each.after.source, each.after.id))),
        unchanged=paired.unchanged,
        classes=_classes(old, new, paired.names),
        layers=_layers(old, new),
        newly_accepted=tuple(each for key, each in accepted_now.items() if key not in accepted_then),
        no_longer_accepted=tuple(each for key, each in accepted_then.items() if key not in accepted_now),
        newly_excused=paired.newly_excused,
        no_longer_excused=paired.no_longer_excused,
        remarks=(*remarks, *_remarks(old, new)),
        judged_otherwise=judged,
        hidden=tuple(_hidden(old, new, paired.gone, around or Around())),
    )


class _Paired(NamedTuple):
    """The findings of two states, each with its like in the other, or with what has become of it."""

    names: Mapping[str, str]
    """Classes of the old state to their names in the new one."""
    moved: list[Moved]
    updated: list[Moved]
    unchanged: int
    said_otherwise: list[Moved]
    """Findings between layers that go by another kind now."""
    newly_excused: tuple[MarkedFinding, ...]
    no_longer_excused: tuple[MarkedFinding, ...]
    come: list[MarkedFinding]
    gone: tuple[MarkedFinding, ...]


def _paired(old: Mark, new: Mark, renamed_files: Mapping[str, str]) -> _Paired:
    pairs, names = matched(old, new, renamed_files)
    then, now = {id(one) for one, _ in pairs}, {id(other) for _, other in pairs}
    known = {(names.get(each.source, each.source), names.get(each.target, each.target)): each for each in old.findings}
    said_otherwise = [
        Moved(known[each.source, each.target], each)
        for each in new.findings
        if id(each) not in now and each.kind in OF_LAYERS and (each.source, each.target) in known
    ]
    now |= {id(each.after) for each in said_otherwise}
    excused_then, excused_now = _places(old.excused, names), _places(new.excused, {})
    left, come = ([each for each in one if id(each) not in seen] for one, seen in ((old.findings, then), (new.findings, now)))
    excused = [each for each in left if _stands(each, names.get(each.source, each.source), excused_now)]
    no_longer = [each for each in come if _stands(each, each.source, excused_then)]
    then |= set(map(id, excused))
    now |= set(map(id, no_longer))
    moved = [Moved(*pair) for pair in pairs if _is_moved(*pair)]
    updated = [Moved(one, other) for one, other in pairs if not _is_moved(one, other) and _is_updated(one, other)]
    return _Paired(
        names,
        moved,
        updated,
        len(pairs) - len(moved) - len(updated),
        said_otherwise,
        tuple(excused),
        tuple(no_longer),
        [each for each in come if id(each) not in now],
        tuple(each for each in left if id(each) not in then),
    )


def _layers(old: Mark, new: Mark) -> tuple[LayerChange, ...]:
    names = sorted({*old.layers, *new.layers})
    return tuple(LayerChange(name, old.layers.get(name, Totals()), new.layers.get(name, Totals())) for name in names)


def _remarks(old: Mark, new: Mark) -> Iterator[str]:
    """What makes two marks hard to compare."""
    if old.version != new.version:
        yield f"the mark is of version {old.version}, this is {new.version}: some of what differs may be due to that"
    if old.settings != new.settings:
        yield "the settings are others than those of the mark"


def _other_program(old: Mark, new: Mark) -> bool:
    return old.program != new.program if old.program else old.version != new.version


def _untouched(old: Mark, new: Mark) -> frozenset[str]:
    """Files that hold what they held."""
    return frozenset(each.path for each in {*old.sources} & {*new.sources})


def _hidden(old: Mark, new: Mark, gone: tuple[MarkedFinding, ...], around: Around) -> Iterator[str]:
    """What is out of view now: more of a kind than before, and files with findings that are no longer read."""
    if old.hidden or old.sources:
        for what, count in new.hidden.items():
            if (more := count - old.hidden.get(what, 0)) > 0:
                yield f"{what}: {more} more ({count} now)"
    read = {each.path for each in new.sources}
    left = [each for each in gone if new.sources and each.file not in read and around.is_there(each.file)]
    if moved := [each for each in gone if place_digest(each.target.rpartition(".")[2], each.code) in around.in_tests]:
        yield f"{len(moved)} of the findings that are gone stand in tests now"
    if left:
        files = len({each.file for each in left})
        yield f"{len(left)} of the findings that are gone stood in {files} files that are still there and not read any more"


def _is_moved(one: MarkedFinding, other: MarkedFinding) -> bool:
    return (one.source, one.member, one.file, one.target) != (other.source, other.member, other.file, other.target)


def _is_updated(one: MarkedFinding, other: MarkedFinding) -> bool:
    return (one.level, one.places) != (other.level, other.places)


def _places(excused: tuple[MarkedExcuses, ...], names: Mapping[str, str]) -> dict[str, frozenset[str]]:
    """Class, as it is called now, to the digests of its excused places."""
    return {names.get(each.source, each.source): frozenset(each.places.split()) for each in excused}


def _stands(finding: MarkedFinding, source: str, excused: Mapping[str, frozenset[str]]) -> bool:
    """Whether the place of a finding is among the excused ones of a class."""
    return finding.kind in HARD_KINDS and place_digest(finding.target, finding.code) in excused.get(source, ())


def _by_id(findings: tuple[MarkedFinding, ...]) -> dict[str, MarkedFinding]:
    return {each.id: each for each in findings}


def _classes(old: Mark, new: Mark, names: Mapping[str, str]) -> tuple[ClassChange, ...]:
    """Classes that bear another strain, those first that changed most."""
    then = {names.get(each.name, each.name): each for each in old.classes}
    now = {each.name: each for each in new.classes}
    found = []
    for name in sorted({*then, *now}):
        one, other = then.get(name), now.get(name)
        before, after = (each.strain if each is not None else 0.0 for each in (one, other))
        if abs(after - before) < LEAST_CHANGE:
            continue
        at = other or one
        assert at is not None
        found.append(
            ClassChange(
                name=name,
                before_name=one.name if one is not None else "",
                file=at.file,
                layer=at.layer,
                before=round(before, 6),
                after=round(after, 6),
                parts=_parts(one, other),
                hard_bonds=(one.hard_bonds if one else 0, other.hard_bonds if other else 0),
            )
        )
    return tuple(sorted(found, key=lambda each: (-abs(each.after - each.before), each.name)))


def _parts(one: MarkedClass | None, other: MarkedClass | None) -> dict[str, tuple[float, float]]:
    then, now = ({**each.own, "borne": each.borne} if each is not None else {} for each in (one, other))
    pairs = {kind: (then.get(kind, 0.0), now.get(kind, 0.0)) for kind in sorted({*then, *now})}
    return {kind: pair for kind, pair in pairs.items() if abs(pair[0] - pair[1]) >= LEAST_CHANGE}
