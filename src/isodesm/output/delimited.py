"""CSV and Markdown tables of the results, one row a finding, class or step."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

import msgspec

from isodesm.output.cells import csv_lines, markdown_cell, plain

if TYPE_CHECKING:  # a table is of one kind of result: the others need not be loaded
    from isodesm.diagnosis.shared.findings import Diagnosis, Finding
    from isodesm.measures.ranking import Ranking
    from isodesm.planning.model.step import Plan
    from isodesm.queries.entries import Entry
    from isodesm.queries.layer_report import LayerReport
    from isodesm.queries.wiring_report import WiringReport

Rows = tuple[Sequence[str], Iterable[Sequence[object]]]
"""Column heads and rows."""


def scan_rows(diagnosis: Diagnosis, *, excused: bool, unknown: bool = False) -> Rows:
    """A row a finding; excused ones, and those of which nobody can tell, where they are asked for."""
    more = (*(diagnosis.proven if excused else ()), *(diagnosis.unknown if unknown else ()))
    heads = (
        "level",
        "kind",
        "file",
        "line",
        "column",
        "source",
        "member",
        "target",
        "message",
        "reason",
        "remedy",
        "why",
        "excuse",
        "id",
    )
    rows = (
        (
            f.level,
            f.kind,
            f.file,
            f.line,
            f.column,
            f.source,
            f.member,
            f.target,
            f.message,
            f.reason,
            f.remedy,
            " ".join(f.why),
            f.excuse,
            f.id,
        )
        for f in (*diagnosis.findings, *more)
    )
    return heads, rows


def finding_rows(findings: Iterable[Finding]) -> Rows:
    """A row a finding, in short."""
    heads = ("level", "kind", "file", "line", "source", "target", "message", "remedy")
    return heads, ((f.level, f.kind, f.file, f.line, f.source, f.target, f.message, f.remedy) for f in findings)


def entry_rows(entries: Iterable[Entry]) -> Rows:
    """A row an entry point."""
    return ("class", "member", "why", "file", "line"), (
        (each.name, each.member, each.why, each.file, each.line) for each in entries
    )


def layer_rows(report: LayerReport) -> Rows:
    """A row a pair of layers."""
    heads = ("from", "to", "bonds", "hard", "outward")
    return heads, (
        (each.source, each.target, each.bonds, each.hard, "yes" if each.outward else "") for each in report.crossings
    )


def wiring_rows(report: WiringReport) -> Rows:
    """A row a registration."""
    from isodesm.queries.wiring_report import Wired

    heads = tuple(each.name for each in msgspec.structs.fields(Wired))
    return heads, ([_plain(getattr(each, name)) for name in heads] for each in report.registrations)


def rank_rows(ranking: Ranking, top: int) -> Rows:
    """A row a class, a column a measure; lists and tables in words."""
    from isodesm.measures.ranking import RankedClass

    names = [each.name for each in msgspec.structs.fields(RankedClass) if each.name != "number"]
    shown = ranking.classes[:top] if top else ranking.classes
    return names, ([_plain(getattr(row, name)) for name in names] for row in shown)


def _plain(value: object) -> object:
    if isinstance(value, dict):
        return " ".join(f"{key}={amount:g}" for key, amount in value.items())
    if isinstance(value, bool):
        return "yes" if value else ""
    if isinstance(value, tuple):
        return " ".join(map(str, value))
    return f"{value:g}" if isinstance(value, float) else value


def plan_rows(plan: Plan) -> Rows:
    """A row a step."""
    heads = (
        "number",
        "id",
        "technique",
        "title",
        "places",
        "strain_before",
        "strain_after",
        "hard_bonds_before",
        "hard_bonds_after",
        "needs",
        "estimated",
    )
    rows = (
        (
            s.number,
            s.id,
            s.technique,
            s.title,
            len(s.edits),
            s.before.strain,
            s.after.strain,
            s.before.hard_bonds,
            s.after.hard_bonds,
            " ".join(s.needs),
            "yes" if s.estimated else "",
        )
        for s in plan.steps
    )
    return heads, rows


def to_csv(rows: Rows) -> bytes:
    """RFC 4180 CSV in UTF-8, with a head line."""
    return csv_lines([rows[0], *rows[1]])


def to_markdown(rows: Rows, title: str) -> bytes:
    """A Markdown table under a heading."""
    lines = [f"# {plain(title)}", "", "| " + " | ".join(rows[0]) + " |", "|" + " --- |" * len(rows[0])]
    lines += ["| " + " | ".join(markdown_cell(str(cell)) for cell in row) + " |" for row in rows[1]]
    return ("\n".join(lines) + "\n").encode()
