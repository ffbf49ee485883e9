"""The JSON envelope around every result: schema name, tool, root, settings, result."""

from __future__ import annotations

from typing import Any

import msgspec

from isodesm import __version__
from isodesm.codebase.model import Codebase
from isodesm.diagnosis.findings import Diagnosis, Finding
from isodesm.measures.ranking import Ranking
from isodesm.planning.steps import Plan

SCHEMA_VERSION = 1
INTERNAL = ("source_number", "target_number", "row", "number")


def encode(command: str, codebase: Codebase, result: Any) -> bytes:
    """A result in its envelope, as indented JSON with a line end."""
    envelope = {
        "schema": f"isodesm/{command}@{SCHEMA_VERSION}",
        "tool": {"name": "isodesm", "version": __version__},
        "root": ".",
        "settings": codebase.settings.of_results(),
        "result": result,
    }
    return msgspec.json.format(msgspec.json.encode(envelope), indent=2) + b"\n"


def scan_result(codebase: Codebase, diagnosis: Diagnosis) -> dict[str, Any]:
    """Findings and excused would-be findings with the totals."""
    return {
        "summary": {
            **codebase_summary(codebase), "findings": len(diagnosis.findings), "by_level": diagnosis.by_level,
            "by_excuse": diagnosis.by_excuse,
        },
        "findings": [_encoded(each) for each in diagnosis.findings],
        "excused": [_encoded(each) for each in diagnosis.excused],
        "trouble": msgspec.to_builtins(codebase.trouble),
    }  # fmt: skip


def _encoded(finding: Finding) -> msgspec.Raw:
    """One finding as JSON: there may be hundreds of thousands, and as text each takes a fraction of the memory."""
    return msgspec.Raw(msgspec.json.encode(finding_record(finding)))


def finding_record(finding: Finding) -> dict[str, Any]:
    """A finding without what only this process understands; `excuse` only where there is one."""
    record = msgspec.to_builtins(finding)
    for name in INTERNAL[:3]:
        del record[name]
    if not finding.excuse:
        del record["excuse"]
    return record


def rank_result(codebase: Codebase, ranking: Ranking, shown: int) -> dict[str, Any]:
    """The ranking, its first `shown` rows (0: all)."""
    rows = ranking.classes[:shown] if shown else ranking.classes
    classes = [{key: value for key, value in msgspec.to_builtins(row).items() if key != "number"} for row in rows]
    return {
        "summary": {**codebase_summary(codebase), "strain": ranking.total_strain, "hard_bonds": ranking.total_hard_bonds},
        "by": ranking.by, "classes": classes,
    }  # fmt: skip


def plan_result(codebase: Codebase, plan: Plan) -> dict[str, Any]:
    """The plan as it is."""
    return {"summary": codebase_summary(codebase), **msgspec.to_builtins(plan)}


def codebase_summary(codebase: Codebase) -> dict[str, Any]:
    """What was read."""
    return {
        "files": len(codebase.symbols.files), "lines": codebase.lines, "classes": codebase.class_count,
        "layers": [layer.name for layer in codebase.layers.layers], "left_out": codebase.left_out,
    }  # fmt: skip
