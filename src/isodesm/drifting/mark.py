"""A mark: a state of a codebase small enough to be kept with it, one entry a line, so that two marks can be merged by making
one again."""

from __future__ import annotations

import hashlib
import json
from collections import Counter, defaultdict
from collections.abc import Mapping
from pathlib import Path
from types import MappingProxyType
from typing import Any

import msgspec

from isodesm import __version__
from isodesm.codebase.overview import Overview, Shown
from isodesm.diagnosis.folding import AGAIN, by_member
from isodesm.diagnosis.shared.findings import LEVELS, Diagnosis, Finding
from isodesm.disk.opening import read_plain
from isodesm.errors import UsageError
from isodesm.measures.strain import Strain, measure_strain
from isodesm.reading.replay import program_version
from isodesm.settings import StrainWeights

FILE_NAME = "isodesm.mark.json"
SCHEMA, EARLIER = "isodesm/mark@2", "isodesm/mark@1"
"""The form that is written, and the one before, in which a finding stands for all members of a class."""
DIGITS = 12
"""Of the digest of a file."""
HIDDEN = {"accepted": "accepted finding", "generated": "place in generated code"}
"""Excuses that take something out of view, and what each is called."""
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


class MarkedSource(msgspec.Struct, frozen=True):
    """A file that was read, and the beginning of the digest of what it held."""

    path: str
    digest: str


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
    program: str = ""
    """A digest of the program that judged: what another judges otherwise nobody wrote."""
    hidden: dict[str, int] = {}
    """Files, folders and places that are out of view, by reason."""
    sources: tuple[MarkedSource, ...] = ()
    """The files that were read."""


def mark_of(overview: Overview, diagnosis: Diagnosis, digests: Mapping[str, str] = MappingProxyType({})) -> Mark:
    """The mark of a codebase that was diagnosed in full. Strain as `measures.strain` defines it.

    `digests` maps each file that was read to the digest of what it held.
    """
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
        findings=tuple(sorted(map(_finding, by_member(diagnosis.places)), key=_order)),
        accepted=tuple(sorted((_finding(each) for each in diagnosis.excused if each.excuse == "accepted"), key=_order)),
        excused=_excuses(diagnosis.excused),
        program=program_version().hex()[:DIGITS],
        hidden=_hidden(overview, diagnosis),
        sources=tuple(MarkedSource(path, digest[:DIGITS]) for path, digest in sorted(digests.items())),
    )


def _hidden(overview: Overview, diagnosis: Diagnosis) -> dict[str, int]:
    excuses = Counter(each.excuse for each in diagnosis.excused)
    found = overview.left_out | {name: excuses[excuse] for excuse, name in HIDDEN.items() if excuses[excuse]}
    return dict(sorted(found.items()))


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
    if mark.schema not in (SCHEMA, EARLIER):
        raise UsageError(f"{path} is of another form ({mark.schema}). Make it again with `isodesm mark`.")
    return mark


def empty_mark(settings: dict[str, Any]) -> Mark:
    """The mark of a tree that holds no source yet."""
    none = Diagnosis(findings=(), places=(), excused=(), by_excuse={})
    return mark_of(Overview({}, 0, 0, (), {}, (), settings, StrainWeights(), ()), none)


def test_places(diagnosis: Diagnosis) -> frozenset[str]:
    """What the places are known by that are excused for lying in tests."""
    return frozenset(
        place_digest(each.target.rpartition(".")[2], _code(each)) for each in diagnosis.excused if each.excuse == "test"
    )


def seen_alike(old: Mark, new: Mark) -> Mark:
    """A mark of a revision, which holds nothing that is ignored, as if it left out as many files as the other does."""
    left_out = {name: count for name, count in new.hidden.items() if name not in HIDDEN.values()}
    return msgspec.structs.replace(old, hidden=old.hidden | left_out)


def as_before(mark: Mark) -> Mark:
    """A mark as it was written before members were told apart: to hold it against one of that form."""
    groups: dict[tuple[str, ...], list[MarkedFinding]] = defaultdict(list)
    for number, each in enumerate(mark.findings):
        folds = each.kind in AGAIN
        groups[(each.kind, each.source, each.target, str(each.level == "note")) if folds else (str(number),)].append(each)
    findings = []
    for group in groups.values():
        first = min(group, key=lambda each: (LEVELS.index(each.level), each.file, each.line))
        findings.append(msgspec.structs.replace(first, places=sum(each.places for each in group)))
    return msgspec.structs.replace(mark, findings=tuple(findings))
