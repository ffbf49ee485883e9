"""A mark: a state of a codebase small enough to be kept with it, one entry a line, so that two marks can be merged by making
one again."""

from __future__ import annotations

import hashlib
import json
from collections import defaultdict
from pathlib import Path
from typing import Any

import msgspec

from isodesm import __version__
from isodesm.codebase.overview import Overview, Shown
from isodesm.diagnosis.shared.findings import Diagnosis, Finding
from isodesm.disk.opening import read_plain
from isodesm.errors import UsageError
from isodesm.measures.strain import Strain, measure_strain
from isodesm.settings import StrainWeights

FILE_NAME = "isodesm.mark.json"
SCHEMA = "isodesm/mark@1"
LARGEST = 200_000_000
"""Bytes of the largest mark that is read."""
SETTLED = frozenset(("accepted", "exception", "generated", "standard-value", "test", "unknown-library"))
"""Excuses that rest on the place or the name alone: what changes elsewhere does not turn them into findings."""
SNIPPET = 100
"""Characters of the line of a finding that are kept to know it by."""


class MarkedFinding(msgspec.Struct, frozen=True):
    """A finding by what it rests on. `code` is its line, squeezed."""

    id: str
    kind: str
    level: str
    source: str
    member: str
    target: str
    file: str
    line: int
    places: int
    code: str


class MarkedClass(msgspec.Struct, frozen=True):
    """A class that bears strain or has findings: where it is, the parts of its strain, and its members to know it by."""

    name: str
    file: str
    layer: str
    own: dict[str, float]
    borne: float
    hard_bonds: int
    members: str

    @property
    def strain(self) -> float:
        """All of it."""
        return sum(self.own.values()) + self.borne


class MarkedExcuses(msgspec.Struct, frozen=True):
    """The places of a class that would be findings without an excuse: a short digest each, in order, parted by spaces."""

    source: str
    places: str


class Totals(msgspec.Struct, frozen=True):
    """Strain and hard bonds of the whole, or of a layer."""

    strain: float = 0.0
    hard_bonds: int = 0


class Mark(msgspec.Struct, frozen=True):
    """A state of a codebase; what it was made with says whether two may be compared."""

    schema: str
    version: str
    settings: str
    """A digest of the settings that shape results."""
    files: int
    lines: int
    class_count: int
    totals: Totals
    layers: dict[str, Totals]
    classes: tuple[MarkedClass, ...]
    findings: tuple[MarkedFinding, ...]
    accepted: tuple[MarkedFinding, ...]
    excused: tuple[MarkedExcuses, ...] = ()
    """By class, the places that would be findings without an excuse; missing in marks of earlier versions."""


def mark_of(overview: Overview, diagnosis: Diagnosis) -> Mark:
    """The mark of a codebase that was diagnosed in full. Strain as `measures.strain` defines it."""
    strains = measure_strain(diagnosis.places, overview.strain)
    shown = {each.number: each for each in overview.shown}
    with_findings = {each.source_number for each in diagnosis.findings}
    numbers = sorted((with_findings | set(strains)) & set(shown), key=lambda number: (shown[number].name, shown[number].path))
    by_layer: dict[str, list[Strain]] = defaultdict(list)
    for number, strain in strains.items():
        by_layer[shown[number].layer if number in shown else ""].append(strain)
    return Mark(
        schema=SCHEMA,
        version=__version__,
        settings=hashlib.blake2b(
            json.dumps(overview.settings, sort_keys=True, default=str).encode(), digest_size=8
        ).hexdigest(),
        files=overview.files,
        lines=overview.lines,
        class_count=overview.classes,
        totals=_totals(list(strains.values())),
        layers={layer: _totals(own) for layer, own in sorted(by_layer.items())},
        classes=tuple(_class(shown[number], strains.get(number, Strain())) for number in numbers),
        findings=tuple(sorted(map(_finding, diagnosis.findings), key=_order)),
        accepted=tuple(sorted((_finding(each) for each in diagnosis.excused if each.excuse == "accepted"), key=_order)),
        excused=_excuses(diagnosis.excused),
    )


def _totals(strains: list[Strain]) -> Totals:
    return Totals(
        round(sum((each.own_total for each in strains), 0.0), 6), sum(sum(each.hard_out.values()) for each in strains)
    )


def _class(shown: Shown, strain: Strain) -> MarkedClass:
    own = {kind: round(weight, 6) for kind, weight in sorted(strain.own.items())}
    hard = sum(strain.hard_out.values())
    return MarkedClass(shown.name, shown.path, shown.layer, own, round(float(strain.borne), 6), hard, shown.members)


def _finding(finding: Finding) -> MarkedFinding:
    return MarkedFinding(
        id=finding.id,
        kind=finding.kind,
        level=finding.level,
        source=finding.source,
        member=finding.member,
        target=finding.target,
        file=finding.file,
        line=finding.line,
        places=finding.places,
        code=_code(finding),
    )


def _code(finding: Finding) -> str:
    return " ".join(finding.snippet.split())[:SNIPPET]


def _excuses(excused: tuple[Finding, ...]) -> tuple[MarkedExcuses, ...]:
    found: dict[str, set[str]] = defaultdict(set)
    for each in excused:
        if each.excuse not in SETTLED:
            found[each.source].add(place_digest(each.target, _code(each)))
    return tuple(MarkedExcuses(source, " ".join(sorted(places))) for source, places in sorted(found.items()))


def place_digest(target: str, code: str) -> str:
    """What a place is known by within its class, whether it is a finding or excused."""
    return hashlib.blake2b(f"{target}\x1f{code}".encode("utf-8", "replace"), digest_size=4).hexdigest()


def _order(finding: MarkedFinding) -> tuple[str, ...]:
    return finding.source, finding.kind, finding.target, finding.member, finding.id


def written(mark: Mark) -> bytes:
    """A mark as JSON, sorted, one class and one finding a line."""
    plain: dict[str, Any] = msgspec.to_builtins(mark)
    lines = ["{"]
    for number, (name, value) in enumerate(plain.items()):
        end = "," if number < len(plain) - 1 else ""
        if isinstance(value, list | tuple) and value:
            lines += [f" {json.dumps(name)}: [", ",\n".join(f"  {_plain(each)}" for each in value), f" ]{end}"]
        else:
            lines.append(f" {json.dumps(name)}: {_plain(value)}{end}")
    return ("\n".join([*lines, "}"]) + "\n").encode()


def _plain(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False)


def read_mark(path: Path) -> Mark:
    """The mark in a file. UsageError where it is none, or was made by a version that wrote others."""
    try:
        content = read_plain(path, LARGEST)
    except FileNotFoundError:
        raise UsageError(f"There is no mark {path}. `isodesm mark` makes one; --since REVISION does without.") from None
    except OSError as error:
        raise UsageError(f"{path} can't be read: {error.strerror or error}.") from None
    if b"<<<<<<<" in content[:LARGEST] and b">>>>>>>" in content:
        raise UsageError(f"{path} holds a conflict that was not solved: make it again with `isodesm mark`.")
    try:
        mark = msgspec.json.decode(content, type=Mark)
    except msgspec.DecodeError as error:
        raise UsageError(f"{path} is no mark: {error}. Make it again with `isodesm mark`.") from None
    if mark.schema != SCHEMA:
        raise UsageError(f"{path} is of another form ({mark.schema}). Make it again with `isodesm mark`.")
    return mark


def empty_mark(settings: dict[str, Any]) -> Mark:
    """The mark of a tree that holds no source yet."""
    none = Diagnosis(findings=(), places=(), excused=(), by_excuse={})
    return mark_of(Overview({}, 0, 0, (), {}, (), settings, StrainWeights(), ()), none)
