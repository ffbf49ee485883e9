"""Drift for other programs and for remarks on a merge request: rows, Markdown, SARIF."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import msgspec

from isodesm.diagnosis.folding import by_member
from isodesm.diagnosis.shared.findings import Diagnosis
from isodesm.drifting.course import Point
from isodesm.drifting.drift import Drift
from isodesm.drifting.mark import MarkedFinding, Totals
from isodesm.output.cells import code_span, prose
from isodesm.output.delimited import Rows
from isodesm.output.sarif import gone_result, to_sarif
from isodesm.output.text import counted, number_of

MOST_SHOWN, MOST_CLASSES = 10, 5
"""Findings and classes of a remark: it has to fit a screen."""


def change_of(before: float, after: float) -> str:
    """A measure then and now: `80 → 62 (−18)`."""
    if before == after:
        return number_of(after)
    sign = "+" if after > before else "−"
    return f"{number_of(before)} → {number_of(after)} ({sign}{number_of(abs(after - before))})"


def drift_rows(drift: Drift) -> Rows:
    """A row a finding that is new, gone, moved or otherwise changed."""
    heads = ("state", "level", "kind", "source", "member", "target", "file", "line", "was_in", "id")
    pairs = [
        *(("new", "", each) for each in drift.new),
        *(("gone", "", each) for each in drift.gone),
        *(("no-longer-excused", "", each) for each in drift.no_longer_excused),
        *(("newly-excused", "", each) for each in drift.newly_excused),
        *(("moved", each.before.source, each.after) for each in drift.moved),
        *(("updated", each.before.source, each.after) for each in drift.updated),
        *(("judged-otherwise", "", each) for each in drift.judged_otherwise),
    ]
    return heads, (
        (state, at.level, at.kind, at.source, at.member, at.target, at.file, at.line, was, at.id) for state, was, at in pairs
    )


def course_rows(points: Sequence[Point]) -> Rows:
    """A row a revision; a pair of columns for each layer."""
    layers = sorted({layer for point in points for layer in point.layers})
    names = [layer or "no_layer" for layer in layers]
    heads = ("day", "commit", "strain", "hard_bonds", "lines")
    more = [f"{what}_{name}" for name in names for what in ("strain", "hard_bonds")]
    return (*heads, *more, "subject"), (_course_row(point, layers) for point in points)


def _course_row(point: Point, layers: Sequence[str]) -> list[Any]:
    of_layers = [point.layers.get(layer, Totals()) for layer in layers]
    parts = [part for each in of_layers for part in (each.strain, each.hard_bonds)]
    totals = point.totals
    return [point.day, point.commit[:12], totals.strain, totals.hard_bonds, point.lines, *parts, point.subject]


def drift_remark(drift: Drift) -> bytes:
    """A remark for a merge request, at most a screen long."""
    before, after = drift.before, drift.after
    lines = [
        f"## Drift since {prose(drift.since)}",
        "",
        f"Strain {change_of(before.strain, after.strain)}, hard bonds {change_of(before.hard_bonds, after.hard_bonds)}. "
        f"{counted(len(drift.new), 'new finding')}, {len(drift.gone)} gone, {len(drift.moved)} moved, "
        f"{drift.unchanged + len(drift.updated)} as before.",
    ]
    sections = (
        ("New", drift.new),
        ("No longer excused", drift.no_longer_excused),
        ("Gone", drift.gone),
        ("Excused now", drift.newly_excused),
    )
    for title, findings in sections:
        if findings:
            lines += ["", f"**{title}**", "", *(f"- {_said(each)}" for each in findings[:MOST_SHOWN])]
        if len(findings) > MOST_SHOWN:
            lines.append(f"- … and {len(findings) - MOST_SHOWN} more")
    if drift.classes:
        lines += ["", "| class | strain | hard bonds |", "|---|---|---|"]
        lines += [
            f"| {code_span(each.name)} | {change_of(each.before, each.after)} | {change_of(*each.hard_bonds)} |"
            for each in drift.classes[:MOST_CLASSES]
        ]
    said = [*drift.remarks, *(f"out of view now: {each}" for each in drift.hidden)]
    if drift.judged_otherwise:
        said.append(f"{len(drift.judged_otherwise)} more only because this version judges otherwise")
    lines += ["", *(f"_{prose(each)}_" for each in said)] if said else []
    return ("\n".join(lines) + "\n").encode()


def _said(finding: MarkedFinding) -> str:
    on = f" on {code_span(finding.target)}" if finding.target else ""
    return f"{finding.level}: {finding.kind} of {code_span(finding.source)}{on}, {code_span(f'{finding.file}:{finding.line}')}"


def drift_sarif(drift: Drift, diagnosis: Diagnosis, root: str) -> bytes:
    """The findings of today with what each is against the earlier state, and those that are gone."""
    states = {each.id: "new" for each in drift.new} | {each.id: "updated" for each in drift.no_longer_excused}
    states |= {each.after.id: "updated" for each in (*drift.moved, *drift.updated)}
    states |= {each.id: "unchanged" for each in drift.judged_otherwise}
    gone = [
        gone_result(each.kind, each.level, f"No longer there: `{each.source}`, `{each.target}`.", each.file, each.line, each.id)
        for each in (*drift.gone, *drift.newly_excused)
    ]
    return to_sarif(msgspec.structs.replace(diagnosis, findings=by_member(diagnosis.places)), root, states, gone)
