"""What the page shows, as one value of plain data: numbers by language, classes, findings, layers, objects, steps, course."""

from __future__ import annotations

import difflib
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Sequence
from typing import Any, NamedTuple

import msgspec

from isodesm import __version__
from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import HARD_KINDS, KINDS, Diagnosis, Finding
from isodesm.drifting.course import Point
from isodesm.drifting.drift import Drift
from isodesm.drifting.mark import MarkedFinding
from isodesm.linking.bonds import KINDS as BONDS
from isodesm.measures.churn import Churn
from isodesm.measures.dossier import make_dossier
from isodesm.measures.ranking import ORDERS, RankedClass, Ranking
from isodesm.output.envelope import finding_record
from isodesm.output.text import counted, number_of
from isodesm.planning.model.step import Plan
from isodesm.planning.wording.goals import listed
from isodesm.queries.entries import Entry, entry_points
from isodesm.queries.layer_report import report_layers
from isodesm.queries.object_tree import ObjectNode, object_tree
from isodesm.queries.trace import trace

ROWS, FINDINGS, DOSSIERS = 4_000, 1_500, 60
"""Classes of the table, findings and dossiers that a page has at most: those that weigh most."""
BONDS_OF_CELL, TREES, TRACES, DEPTH = 24, 12, 12, 8
"""Bonds behind a cell of the matrix, trees of objects, traces, and how deep those go."""
STORIES, MARKED_AT_MOST = 3, 200
"""Classes to begin with, and new or gone findings, that are shown."""


class Material(NamedTuple):
    """What a page is made from; the course, the drift and the date only where they were asked for."""

    codebase: Codebase
    diagnosis: Diagnosis
    ranking: Ranking
    churn: Churn
    plan: Plan
    title: str
    points: Sequence[Point] = ()
    drift: Drift | None = None
    date: str = ""


def content_of(given: Material) -> dict[str, Any]:
    """All that the page shows, ready to be written as JSON."""
    codebase, ranking = given.codebase, given.ranking
    rows = sorted(ranking.classes, key=lambda row: (-row.strain, row.name))
    return {
        "title": given.title,
        "version": __version__,
        "date": given.date,
        "files": codebase.overview.files,
        "lines": codebase.overview.lines,
        "classCount": ranking.total_classes,
        "languages": _languages(codebase),
        "kinds": [[kind, KINDS[kind], kind in HARD_KINDS] for kind in KINDS],
        "counts": _counts(codebase, given.diagnosis),
        "layerCounts": _layer_counts(codebase, rows),
        "alone": _alone(codebase, rows),
        "stories": [_story(codebase, row, given.diagnosis) for row in _first(rows)],
        "measures": list(ORDERS),
        "classes": [_row(codebase, row) for row in rows[:ROWS]],
        "classesLeft": max(len(rows) - ROWS, 0),
        "findings": [_finding(codebase, each) for each in _weightiest(given.diagnosis.findings, FINDINGS)],
        "findingsLeft": max(len(given.diagnosis.findings) - FINDINGS, 0),
        "dossiers": dict(_dossiers(given, rows)),
        "layers": _layers(codebase, given.diagnosis),
        "objects": _objects(codebase, rows),
        "traces": _traces(codebase, given.diagnosis),
        "plan": _plan(given.plan),
        "course": [[each.day, each.subject, each.totals.strain, each.totals.hard_bonds] for each in given.points],
        "drift": _drift(given.drift) if given.drift is not None else None,
    }


# --- numbers ---------------------------------------------------------------------------------


def _language(codebase: Codebase, number: int) -> str:
    symbols = codebase.symbols
    return symbols.files[symbols.file_of[number]].language


def _languages(codebase: Codebase) -> list[list[Any]]:
    """Each language with its files and lines, the largest first."""
    lines: Counter[str] = Counter()
    for facts in codebase.symbols.files:
        lines[facts.language] += facts.lines
    return [[name, codebase.overview.languages[name], count] for name, count in lines.most_common()]


def _counts(codebase: Codebase, diagnosis: Diagnosis) -> list[list[Any]]:
    """(language, kind, level, findings, places)."""
    found: dict[tuple[str, str, str], list[int]] = defaultdict(lambda: [0, 0])
    for each in diagnosis.findings:
        cell = found[_language(codebase, each.source_number), each.kind, each.level]
        cell[0] += 1
        cell[1] += each.places
    return [[*key, *counts] for key, counts in sorted(found.items())]


def _layer_counts(codebase: Codebase, rows: Iterable[RankedClass]) -> list[list[Any]]:
    """(language, layer, classes, strain, hard bonds)."""
    found: dict[tuple[str, str], list[float]] = defaultdict(lambda: [0, 0, 0])
    for row in rows:
        cell = found[_language(codebase, row.number), row.layer]
        for at, value in enumerate((1, sum(row.own.values()), row.hard_bonds)):
            cell[at] += value
    return [[*key, *counts] for key, counts in sorted(found.items())]


def _alone(codebase: Codebase, rows: Iterable[RankedClass]) -> list[list[Any]]:
    """(language, classes that a test can have alone, classes that one would want to): those with logic."""
    found: dict[str, list[int]] = defaultdict(lambda: [0, 0])
    for row in rows:
        if row.logic:
            cell = found[_language(codebase, row.number)]
            cell[0] += not row.obstacles
            cell[1] += 1
    return [[name, *counts] for name, counts in sorted(found.items())]


# --- classes and findings --------------------------------------------------------------------


def _first(rows: Sequence[RankedClass]) -> list[RankedClass]:
    """The classes to begin with: those that decide themselves, the most strained first."""
    return [row for row in rows if row.strain and row.hard_bonds][:STORIES] or [row for row in rows if row.strain][:STORIES]


def _story(codebase: Codebase, row: RankedClass, diagnosis: Diagnosis) -> dict[str, Any]:
    """A class to begin with, and in sentences why."""
    said = [f"It decides on {counted(row.hard_bonds, 'collaborator')} itself."] if row.hard_bonds else []
    if row.locked_effects:
        said.append(f"No test of it can keep out {listed(row.locked_effects)}.")
    if row.fan_in:
        said.append(f"{counted(row.fan_in, 'class', 'classes')} depend{'s' if row.fan_in == 1 else ''} on it.")
    gravest = next((each for each in diagnosis.findings if each.source_number == row.number and each.kind in HARD_KINDS), None)
    return {
        "name": row.name,
        "simple": codebase.symbols.types[row.number].name,
        "language": _language(codebase, row.number),
        "file": row.file,
        "line": row.line,
        "strain": row.strain,
        "said": " ".join(said),
        "finding": gravest.message if gravest is not None else "",
    }


def _row(codebase: Codebase, row: RankedClass) -> list[Any]:
    """A class of the table: name, file, line, role, layer, language, effects, parts of strain, then every measure in order."""
    parts = {**{kind: value for kind, value in row.own.items() if value}, **({"borne": row.borne} if row.borne else {})}
    measures = [round(float(measure(row)), 2) for measure in ORDERS.values()]
    return [
        row.name,
        row.file,
        row.line,
        row.role,
        row.layer,
        _language(codebase, row.number),
        list(row.locked_effects),
        parts,
        measures,
    ]


def _weightiest(findings: Sequence[Finding], most: int) -> Sequence[Finding]:
    """So many findings, the gravest kept; in their own order."""
    if len(findings) <= most:
        return findings
    grave = {"error": 0, "warning": 1, "note": 2}
    kept = {id(each) for each in sorted(findings, key=lambda each: grave[each.level])[:most]}
    return [each for each in findings if id(each) in kept]


def _finding(codebase: Codebase, each: Finding) -> dict[str, Any]:
    record = finding_record(each)
    wanted = (
        "id",
        "kind",
        "level",
        "message",
        "reason",
        "remedy",
        "source",
        "target",
        "file",
        "line",
        "column",
        "snippet",
        "chain",
    )
    return {name: record[name] for name in wanted if record[name]} | {
        "places": each.places,
        "language": _language(codebase, each.source_number),
    }


def _dossiers(given: Material, rows: Sequence[RankedClass]) -> Iterator[tuple[str, dict[str, Any]]]:
    """The classes that weigh most, each with what `about` says of it; findings go by their ids."""
    for row in [row for row in rows if row.strain][:DOSSIERS] or rows[:DOSSIERS]:
        made = make_dossier(given.codebase, given.diagnosis, given.ranking, given.churn, row.number)
        record = msgspec.to_builtins(made)
        for name in ("measures", "findings", "plan", "asked_member", "layer_evidence", "objects"):
            del record[name]
        record["findings"] = [each.id for each in made.findings]
        yield row.name, {name: value for name, value in record.items() if value}


# --- layers and objects ----------------------------------------------------------------------


def _layers(codebase: Codebase, diagnosis: Diagnosis) -> dict[str, Any]:
    report = report_layers(codebase, diagnosis)
    behind = _behind(codebase, diagnosis)
    return {
        "names": [row.name for row in report.layers],
        "classes": [len(row.classes) for row in report.layers],
        "told": report.told,
        "packages": [
            [each.name, each.layer, each.certainty, each.classes, "; ".join(each.reasons)] for each in report.packages
        ],
        "order": report.order,
        "unplaced": report.unplaced,
        "cells": [
            [each.source, each.target, each.bonds, each.hard, each.outward, behind.get((each.source, each.target), [])]
            for each in report.crossings
        ],
    }


def _behind(codebase: Codebase, diagnosis: Diagnosis) -> dict[tuple[str, str], list[Any]]:
    """Pair of layers to bonds between them: hard ones first, then one of each kind between two classes."""
    table, symbols, layers = codebase.bonds, codebase.symbols, codebase.layers
    hard = {each.row for each in diagnosis.places if each.kind in HARD_KINDS and each.level != "note"}
    tests = {number for number in range(len(symbols)) if codebase.roles.name(number) == "test"}
    found: dict[tuple[str, str], dict[tuple[Any, ...], list[Any]]] = defaultdict(dict)
    for row in range(len(table)):
        source, target, kind = table.source[row], table.target[row], table.kind[row]
        if kind >= len(BONDS) or target < 0 or source == target or source in tests or target in tests:
            continue
        pair = layers.name(source), layers.name(target)
        if all(pair):
            key = (row not in hard, symbols.names[source], symbols.names[target], BONDS[kind])
            found[pair].setdefault(key, [f"{symbols.files[table.file[row]].path}:{table.line[row]}", row in hard])
    return {pair: [[*key[1:], *own[key]] for key in sorted(own)[:BONDS_OF_CELL]] for pair, own in sorted(found.items())}


def _objects(codebase: Codebase, rows: Sequence[RankedClass]) -> list[Any]:
    """The trees of what it takes to have one: of starting classes, then of those that drag most along."""
    starts = [number for number in range(len(codebase.symbols)) if codebase.roles.name(number) == "composition-root"]
    wanted = dict.fromkeys(
        [row.number for row in sorted(rows, key=lambda row: (-row.chain_count, row.name)) if row.chain_count > 1]
    )
    trees = [object_tree(codebase, number) for number in [*wanted, *starts][: TREES * 2]]
    return [_node(each) for each in trees if each.children][:TREES]


def _node(node: ObjectNode) -> list[Any]:
    """(name, how, lifetime, where, children)."""
    where = f"{node.file}:{node.line}" if node.file else ""
    return [node.name, node.how, node.lifetime, where, [_node(each) for each in node.children]]


def _traces(codebase: Codebase, diagnosis: Diagnosis) -> list[Any]:
    found: list[Any] = []
    entries: Iterable[Entry] = entry_points(codebase)
    for each in [entry for entry in entries if entry.index >= 0][: TRACES * 3]:
        made = trace(codebase, diagnosis, (each.number, each.index), depth=DEPTH)
        if made.start.hops and len(found) < TRACES:
            found.append([f"{each.name}.{each.member}", each.why, _hop(made.start)])
    return found


def _hop(hop: Any) -> list[Any]:
    """(class, member, layer, effect, hard, how it is bound, where, hops)."""
    return [
        hop.class_name,
        hop.member,
        hop.layer,
        hop.effect,
        hop.hard,
        hop.bound if hop.bound not in ("itself", "start", "effect") else "",
        f"{hop.file}:{hop.line}" if hop.file else "",
        [_hop(each) for each in hop.hops],
    ]


# --- plan and drift --------------------------------------------------------------------------


def _plan(plan: Plan) -> dict[str, Any]:
    return {
        "strain": list(plan.strain),
        "hardBonds": list(plan.hard_bonds),
        "notShown": plan.not_shown,
        "stages": [[each.number, each.said, each.first, each.last] for each in plan.stages],
        "steps": [
            {
                "id": step.id,
                "number": step.number,
                "title": step.title,
                "technique": step.technique,
                "classes": list(step.classes),
                "why": step.why_now,
                "frees": list(step.frees),
                "hazards": list(step.hazards),
                "check": step.check,
                "strain": step.after.strain,
                "hardBonds": step.after.hard_bonds,
                "estimated": step.estimated,
                "actions": [[each.file, each.line, each.action, each.by_hand] for each in step.edits],
                "code": [[each.file, _compared(each.before, each.after)] for each in step.code],
            }
            for step in plan.steps
        ],
        "left": _left(plan),
    }


def _compared(before: str, after: str) -> list[list[str]]:
    """Lines with a sign each: ` ` for what stays, `-` for what goes, `+` for what comes."""
    old, new = before.splitlines(), after.splitlines()
    found: list[list[str]] = []
    for tag, begin, end, start, stop in difflib.SequenceMatcher(None, old, new, autojunk=False).get_opcodes():
        if tag == "equal":
            found += [[" ", each] for each in old[begin:end]]
        else:
            found += [["-", each] for each in old[begin:end]] + [["+", each] for each in new[start:stop]]
    return found


def _left(plan: Plan) -> list[list[Any]]:
    """Why decisions are left, with how many of them, the most frequent first."""
    return [list(each) for each in Counter(each.reason for each in plan.left).most_common(12)]


def _drift(drift: Drift) -> dict[str, Any]:
    return {
        "since": drift.since,
        "strain": [number_of(drift.before.strain), number_of(drift.after.strain)],
        "hardBonds": [drift.before.hard_bonds, drift.after.hard_bonds],
        "new": _marked(drift.new),
        "gone": _marked(drift.gone),
        "unchanged": drift.unchanged,
        "remarks": list(drift.remarks),
    }


def _marked(found: Sequence[MarkedFinding]) -> list[list[str]]:
    return [[each.level, each.kind, each.source, each.target, f"{each.file}:{each.line}"] for each in found[:MARKED_AT_MOST]]
