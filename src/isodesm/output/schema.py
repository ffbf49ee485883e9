"""`export schema`: one JSON Schema of all outputs, made from the records themselves."""

from __future__ import annotations

from functools import cache
from typing import Any

import msgspec

from isodesm.diagnosis.shared.findings import Finding, Related
from isodesm.drifting.course import Point
from isodesm.drifting.drift import Drift
from isodesm.drifting.mark import SCHEMA as MARK_SCHEMA
from isodesm.drifting.mark import Mark
from isodesm.facts.records import Trouble
from isodesm.fleet.shared import SharedType
from isodesm.inference.layers import PackageLayer
from isodesm.inference.registrations import Registration
from isodesm.linking.bonds import Bond
from isodesm.measures.dossier import Dossier
from isodesm.measures.evaluation import Evaluation
from isodesm.measures.ranking import RankedClass
from isodesm.measures.ripple import Chance
from isodesm.output.envelope import INTERNAL, SCHEMA_VERSION
from isodesm.output.types import TypeRecord
from isodesm.planning.model.step import Plan, Step
from isodesm.queries.entries import Entry
from isodesm.queries.layer_report import Crossing, LayerRow
from isodesm.queries.object_tree import ObjectNode
from isodesm.queries.trace import Hop
from isodesm.queries.wiring_report import Rule, Wired
from isodesm.rewriting.apply import Outcome

DIALECT = "https://json-schema.org/draft/2020-12/schema"


@cache
def _public(record: type[msgspec.Struct]) -> Any:
    """A record as it goes out, without what only this process understands."""
    fields = [
        (each.encode_name, each.type, each.default) if each.default is not msgspec.NODEFAULT else (each.encode_name, each.type)
        for each in msgspec.structs.fields(record)
        if each.name not in INTERNAL
    ]
    return msgspec.defstruct(
        record.__name__, fields, frozen=True, kw_only=True, forbid_unknown_fields=True, module=record.__module__
    )


class Tool(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What made the output."""

    name: str
    version: str


class Summary(msgspec.Struct, frozen=True, kw_only=True):
    """What was read, and a command's own totals beside it."""

    files: int
    lines: int
    classes: int
    layers: tuple[str, ...]
    left_out: dict[str, int]


class Standing(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a scan finds at some moment."""

    strain: float
    hard_bonds: int


def _taken() -> Any:
    """What came of one step, and what a scan found then."""
    fields = [(each.encode_name, each.type) for each in msgspec.structs.fields(Outcome)]
    return msgspec.defstruct("Taken", [*fields, ("then", Standing)], frozen=True, forbid_unknown_fields=True)


def _point() -> Any:
    """A revision of a course, with its day."""
    fields = [(each.encode_name, each.type) for each in msgspec.structs.fields(Point)]
    return msgspec.defstruct("DatedPoint", [("day", str), *fields], frozen=True, forbid_unknown_fields=True)


def _envelope(name: str, result: list[tuple[str, Any]]) -> type[msgspec.Struct]:
    inner = msgspec.defstruct(
        f"{name.title().replace('-', '')}Result", [("summary", Summary), *result], frozen=True, forbid_unknown_fields=True
    )
    outer = [("schema", str), ("tool", Tool), ("root", str), ("settings", dict[str, Any]), ("result", inner)]
    return msgspec.defstruct(f"{name.title().replace('-', '')}Output", outer, frozen=True, forbid_unknown_fields=True)


class FleetSummary(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """All trees together."""

    trees: int
    lines: int
    classes: int
    strain: float
    hard_bonds: int


class FleetTree(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One tree of a fleet; `error` says why nothing is known of it."""

    tree: str
    languages: dict[str, int]
    files: int
    lines: int
    classes: int
    strain: float
    hard_bonds: int
    density: float
    """Strain per thousand lines."""
    worst: str
    """The class with the most strain."""
    worst_strain: float
    marked_strain: float | None
    """Strain at the time of its own mark, null where it has none."""
    trouble: int
    """Files that could not be read in full."""
    error: str
    kinds: dict[str, int]
    """Findings by kind."""


def _of_fleet() -> type[msgspec.Struct]:
    fields = [("summary", FleetSummary), ("by", str), ("trees", tuple[FleetTree, ...]), ("shared", tuple[SharedType, ...])]
    result = msgspec.defstruct("FleetResult", fields, frozen=True, forbid_unknown_fields=True)
    outer = [("schema", str), ("tool", Tool), ("root", str), ("settings", dict[str, Any]), ("result", result)]
    return msgspec.defstruct("FleetOutput", outer, frozen=True, forbid_unknown_fields=True)


def _of_layers(findings: Any) -> list[tuple[str, Any]]:
    return [
        ("order", str),
        ("unplaced", int),
        ("layers", tuple[LayerRow, ...]),
        ("crossings", tuple[Crossing, ...]),
        ("wrong_way", findings),
        ("told", bool),
        ("packages", tuple[PackageLayer, ...]),
    ]


def _of_wiring(findings: Any) -> list[tuple[str, Any]]:
    return [
        ("registrations", tuple[Wired, ...]),
        ("problems", findings),
        ("by_hand", findings),
        ("tree", ObjectNode | None),
        ("rules", tuple[Rule, ...]),
        ("programs", tuple[str, ...]),
    ]


def _several(record: Any) -> Any:
    """The type of any number of records."""
    return tuple[record, ...]


def outputs() -> dict[str, Any]:
    """Each output's name to the record it is made of; for line formats that of one line."""
    plan = [(each.encode_name, each.type) for each in msgspec.structs.fields(Plan)]
    findings = _several(_public(Finding))
    measures = _public(RankedClass) | None
    about = [(each.encode_name, measures if each.name == "measures" else each.type) for each in msgspec.structs.fields(Dossier)]
    return {
        "bonds": Bond,
        "types": TypeRecord,
        "registrations": Registration,
        "scan": _envelope(
            "scan",
            [
                ("findings", findings),
                ("excused", findings),
                ("unknown", findings),
                ("unused_acceptances", tuple[Related, ...]),
                ("trouble", tuple[Trouble, ...]),
            ],
        ),
        "layers": _envelope("layers", _of_layers(findings)),
        "wiring": _envelope("wiring", _of_wiring(findings)),
        "rank": _envelope(
            "rank",
            [
                ("by", str),
                ("classes", _several(_public(RankedClass))),
                ("chances", tuple[Chance, ...]),
                ("radius", float),
                ("scale", float),
                ("commits", int),
                ("history", str),
                ("evaluation", Evaluation | None),
            ],
        ),
        "about": _envelope("about", [(name, findings if name == "findings" else kind) for name, kind in about]),
        "trace": _envelope(
            "trace", [("start", Hop | None), ("hidden", int), ("idle", list[str]), ("entries", _several(_public(Entry)))]
        ),
        "plan": _envelope("plan", plan),
        "drift": _envelope("drift", [(each.encode_name, each.type) for each in msgspec.structs.fields(Drift)]),
        "course": _envelope("course", [("points", _several(_point()))]),
        "fleet": _of_fleet(),
        "mark": Mark,
        "next-step": _envelope("next-step", [("step", Step), ("patch", str)]),
        "step": _envelope(
            "step", [("before", Standing), ("steps", _several(_taken())), ("after", Standing), ("left", tuple[str, ...])]
        ),
    }


OTHER_VERSIONS = {"mark": MARK_SCHEMA}
"""Outputs that have another version than most."""
LINES = ("bonds", "types", "registrations")
"""Exports of a line a record, which have no envelope: each line is validated by the definition of that name."""


def schema_document() -> bytes:
    """One JSON Schema that any output validates by, told apart by its `schema` field; `$defs` has that of lines by name."""
    records = outputs()
    (*given,), parts = msgspec.json.schema_components(tuple(records.values()), ref_template="#/$defs/{name}")
    of_name = dict(zip(records, given, strict=True))
    named = {
        OTHER_VERSIONS.get(name, f"isodesm/{name}@{SCHEMA_VERSION}"): of_name[name] for name in of_name if name not in LINES
    }
    document = {
        "$schema": DIALECT,
        "title": "Outputs of isodesm",
        "description": "Whatever has a `schema` field is validated by the one of that name.",
        "type": "object",
        "required": ["schema"],
        "properties": {"schema": {"enum": sorted(named)}},
        "allOf": [
            {"if": {"properties": {"schema": {"const": name}}}, "then": record} for name, record in sorted(named.items())
        ],
        "$defs": {**{name: of_name[name] for name in LINES}, **dict(sorted(parts.items()))},
    }
    return msgspec.json.format(msgspec.json.encode(document), indent=2) + b"\n"
