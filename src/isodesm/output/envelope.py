"""The JSON envelope around every result: schema name, tool, root, settings, result."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import TYPE_CHECKING, Any

import msgspec

from isodesm import __version__

if TYPE_CHECKING:  # a result is of one kind: what the others are made of need not be loaded
    from isodesm.codebase.overview import Overview
    from isodesm.diagnosis.shared.findings import Diagnosis, Finding
    from isodesm.drifting.course import Point
    from isodesm.drifting.drift import Drift
    from isodesm.measures.dossier import Dossier
    from isodesm.measures.evaluation import Evaluation
    from isodesm.measures.ranking import Ranking
    from isodesm.planning.model.step import Plan, Step
    from isodesm.queries.entries import Entry
    from isodesm.queries.layer_report import LayerReport
    from isodesm.queries.trace import Trace
    from isodesm.queries.wiring_report import WiringReport
    from isodesm.rewriting.apply import Outcome

SCHEMA_VERSION = 1
INTERNAL = ("source_number", "target_number", "row", "number", "index")


def encode(command: str, overview: Overview, result: Any) -> bytes:
    """A result in its envelope, as indented JSON with a line end."""
    return enveloped(command, overview.root, overview.settings, result)


def enveloped(command: str, root: str, settings: dict[str, Any], result: Any) -> bytes:
    """The same for what is about no single tree."""
    envelope = {
        "schema": f"isodesm/{command}@{SCHEMA_VERSION}",
        "tool": {"name": "isodesm", "version": __version__},
        "root": root,
        "settings": settings,
        "result": result,
    }
    return msgspec.json.format(msgspec.json.encode(envelope), indent=2) + b"\n"


def scan_chunks(overview: Overview, diagnosis: Diagnosis) -> Iterator[bytes]:
    """Findings and excused would-be findings with the totals, in their envelope, piece by piece: there may be hundreds of
    thousands, and none stands in memory as text together with the others."""
    listed = {"findings": diagnosis.findings, "excused": diagnosis.proven, "unknown": diagnosis.unknown}
    by_excuse, by_unknown = diagnosis.counts
    result = {
        "summary": {
            **tree_summary(overview),
            "findings": len(diagnosis.findings),
            "places": sum(each.places for each in diagnosis.findings),
            "by_level": diagnosis.by_level,
            "by_excuse": by_excuse,
            "by_unknown": by_unknown,
        },
        **{name: [] for name in listed},
        "unused_acceptances": msgspec.to_builtins(diagnosis.unused_acceptances),
        "trouble": msgspec.to_builtins(overview.trouble),
    }
    rest = encode("scan", overview, result)
    for name, findings in listed.items():
        head, empty, rest = rest.partition(b'\n    "%s": []' % name.encode())
        yield head + empty[: -len(b"[]")]
        yield from _list(findings)
    yield rest


def _list(findings: Sequence[Finding]) -> Iterator[bytes]:
    """Findings as a list of the result, indented as all of it is."""
    if not findings:
        yield b"[]"
        return
    lead = b"[\n      "
    for each in findings:
        record = msgspec.json.format(msgspec.json.encode(finding_record(each)), indent=2)
        yield lead + record.replace(b"\n", b"\n      ")
        lead = b",\n      "
    yield b"\n    ]"


def layers_result(overview: Overview, report: LayerReport) -> dict[str, Any]:
    """The layers, and findings about them as `scan` gives them."""
    return {
        "summary": tree_summary(overview),
        "order": report.order,
        "unplaced": report.unplaced,
        "layers": msgspec.to_builtins(report.layers),
        "crossings": msgspec.to_builtins(report.crossings),
        "wrong_way": [finding_record(each) for each in report.wrong_way],
        "told": report.told,
        "packages": msgspec.to_builtins(report.packages),
    }


def wiring_result(overview: Overview, report: WiringReport) -> dict[str, Any]:
    """The registrations, what is wrong with them, and the tree of objects if one was asked for."""
    return {
        "summary": tree_summary(overview),
        "registrations": msgspec.to_builtins(report.registrations),
        "problems": [finding_record(each) for each in report.problems],
        "by_hand": [finding_record(each) for each in report.by_hand],
        "tree": msgspec.to_builtins(report.tree),
        "rules": msgspec.to_builtins(report.rules),
        "programs": list(report.programs),
    }


def finding_record(finding: Finding) -> dict[str, Any]:
    """A finding without what only this process understands; `excuse` only where there is one."""
    record = msgspec.to_builtins(finding)
    for name in INTERNAL[:3]:
        del record[name]
    if not finding.excuse:
        del record["excuse"]
    if not finding.justification:
        del record["justification"], record["accepted_in"]
    return record


def rank_result(overview: Overview, ranking: Ranking, shown: int, evaluation: Evaluation | None = None) -> dict[str, Any]:
    """The ranking, its first `shown` rows (0: all), and how well it foretells, if that was asked."""
    rows = ranking.classes[:shown] if shown else ranking.classes
    classes = [{key: value for key, value in msgspec.to_builtins(row).items() if key != "number"} for row in rows]
    return {
        "summary": {**tree_summary(overview), "strain": ranking.total_strain, "hard_bonds": ranking.total_hard_bonds},
        "by": ranking.by,
        "classes": classes,
        "chances": msgspec.to_builtins(ranking.chances),
        "radius": ranking.radius,
        "scale": ranking.scale,
        "commits": ranking.commits,
        "history": ranking.history,
        "evaluation": msgspec.to_builtins(evaluation),
    }


def about_result(overview: Overview, dossier: Dossier) -> dict[str, Any]:
    """Everything that is known of a class; findings as `scan` gives them."""
    record = msgspec.to_builtins(dossier)
    if record["measures"] is not None:
        del record["measures"]["number"]
    return {"summary": tree_summary(overview), **record, "findings": [finding_record(each) for each in dossier.findings]}


def trace_result(overview: Overview, found: Trace) -> dict[str, Any]:
    """A trace as it is."""
    return {
        "summary": tree_summary(overview),
        "start": msgspec.to_builtins(found.start),
        "hidden": found.hidden,
        "idle": list(found.idle),
        "entries": [],
    }


def entries_result(overview: Overview, entries: Iterable[Entry]) -> dict[str, Any]:
    """The entry points, where no trace was asked for."""
    records = [
        {key: value for key, value in msgspec.to_builtins(each).items() if key not in ("number", "index")} for each in entries
    ]
    return {"summary": tree_summary(overview), "start": None, "hidden": 0, "idle": [], "entries": records}


def plan_result(overview: Overview, plan: Plan) -> dict[str, Any]:
    """The plan as it is."""
    return {"summary": tree_summary(overview), **msgspec.to_builtins(plan)}


def preview_result(overview: Overview, step: Step, patch: bytes) -> dict[str, Any]:
    """A step that was not carried out, and its diff ('' where a person has to finish it)."""
    return {"summary": tree_summary(overview), "step": msgspec.to_builtins(step), "patch": patch.decode("utf-8", "replace")}


def steps_result(
    overview: Overview, outcomes: Sequence[Outcome], standings: Sequence[tuple[float, int]], left: Sequence[str]
) -> dict[str, Any]:
    """What came of steps that were carried out; `standings` are strain and hard bonds at the start and after each."""
    said = [{"strain": strain, "hard_bonds": bonds} for strain, bonds in standings]
    return {
        "summary": tree_summary(overview),
        "before": said[0],
        "steps": [msgspec.to_builtins(each) | {"then": then} for each, then in zip(outcomes, said[1:], strict=True)],
        "after": said[-1],
        "left": list(left),
    }


def drift_result(overview: Overview, drift: Drift) -> dict[str, Any]:
    """What changed since another state."""
    return {"summary": tree_summary(overview), **msgspec.to_builtins(drift)}


def course_result(overview: Overview, points: Sequence[Point]) -> dict[str, Any]:
    """What a scan finds at each of some revisions, oldest first."""
    return {"summary": tree_summary(overview), "points": [{"day": each.day, **msgspec.to_builtins(each)} for each in points]}


def tree_summary(overview: Overview) -> dict[str, Any]:
    """What was read."""
    return {
        "files": overview.files,
        "lines": overview.lines,
        "classes": overview.classes,
        "layers": list(overview.layers),
        "left_out": overview.left_out,
    }
