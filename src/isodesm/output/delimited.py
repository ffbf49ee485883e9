"""CSV and Markdown tables of the results, one row a finding, class or step."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

from isodesm.diagnosis.findings import Diagnosis
from isodesm.measures.ranking import Ranking
from isodesm.output.text import number_of
from isodesm.planning.steps import Plan

Rows = tuple[Sequence[str], Iterable[Sequence[object]]]
"""Column heads and rows."""


def scan_rows(diagnosis: Diagnosis) -> Rows:
    """A row a finding, excused ones too where they were asked for."""
    heads = ("level", "kind", "file", "line", "column", "source", "member", "target", "message", "reason", "remedy", "why", "excuse", "id")
    rows = (
        (f.level, f.kind, f.file, f.line, f.column, f.source, f.member, f.target, f.message, f.reason, f.remedy, " ".join(f.why), f.excuse, f.id)
        for f in (*diagnosis.findings, *diagnosis.excused)
    )  # fmt: skip
    return heads, rows


def rank_rows(ranking: Ranking, top: int) -> Rows:
    """A row a class."""
    heads = (
        "rank", "class", "role", "layer", "strain", "own", "borne", "hard_out", "hard_in", "fan_in", "fan_out",
        "external", "instability", "locked_effects", "file", "line",
    )  # fmt: skip
    shown = ranking.classes[:top] if top else ranking.classes
    rows = (
        (c.rank, c.name, c.role, c.layer, number_of(c.strain).replace(",", ""), number_of(sum(c.own.values())).replace(",", ""),
         number_of(c.borne).replace(",", ""), c.hard_bonds, c.hard_in, c.fan_in, c.fan_out, c.external, c.instability,
         " ".join(c.locked_effects), c.file, c.line)
        for c in shown
    )  # fmt: skip
    return heads, rows


def plan_rows(plan: Plan) -> Rows:
    """A row a step."""
    heads = ("number", "id", "technique", "title", "places", "strain_before", "strain_after", "hard_bonds_before", "hard_bonds_after", "needs")
    rows = (
        (s.number, s.id, s.technique, s.title, len(s.edits), s.before.strain, s.after.strain, s.before.hard_bonds,
         s.after.hard_bonds, " ".join(s.needs))
        for s in plan.steps
    )  # fmt: skip
    return heads, rows


def to_csv(rows: Rows) -> bytes:
    """RFC 4180 CSV in UTF-8, with a head line. Cells that a spreadsheet would take for a formula get a quote in front."""
    buffer = io.StringIO()
    writer = csv.writer(buffer, lineterminator="\r\n")
    writer.writerow(rows[0])
    for row in rows[1]:
        writer.writerow([_harmless(cell) for cell in row])
    return buffer.getvalue().encode()


def _harmless(cell: object) -> object:
    return "'" + cell if isinstance(cell, str) and cell[:1] in ("=", "+", "-", "@") else cell


def to_markdown(rows: Rows, title: str) -> bytes:
    """A Markdown table under a heading."""
    lines = [f"# {title}", "", "| " + " | ".join(rows[0]) + " |", "|" + " --- |" * len(rows[0])]
    lines += ["| " + " | ".join(_cell(str(cell)) for cell in row) + " |" for row in rows[1]]
    return ("\n".join(lines) + "\n").encode()


def _cell(text: str) -> str:
    return text.replace("|", "\\|").replace("\n", " ")


def plan_checklist(plan: Plan) -> bytes:
    """The plan as a Markdown checklist to paste into an issue tracker."""
    lines = [
        "# Plan", "",
        f"Strain {number_of(plan.strain[0])} → {number_of(plan.strain[1])}, hard bonds {plan.hard_bonds[0]} → {plan.hard_bonds[1]}.",
    ]  # fmt: skip
    for step in plan.steps:
        lines += ["", f"- [ ] **{step.number}. {step.title}** (`{step.id}`)", "", f"  {step.why_now}", ""]
        lines += [f"  - [ ] `{edit.file}:{edit.line}` {edit.action}" for edit in step.edits]
        for code in step.code:
            lines += ["", f"  `{code.file}`", "", "  ```java", *(f"  {line}".rstrip() for line in code.after.rstrip().split("\n")), "  ```"]
        lines += [f"  - Mind: {hazard}" for hazard in step.hazards]
        lines += ["", f"  Check: {step.check}"]
    if plan.left:
        lines += ["", "## Not in this plan", ""]
        lines += [f"- `{each.source}` ⇒ `{each.target}` ({each.count}×, `{each.file}:{each.line}`): {each.reason}" for each in plan.left]
    return ("\n".join(lines) + "\n").encode()
