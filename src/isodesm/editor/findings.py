"""Findings as an editor shows them, and the remark by which one is accepted."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from isodesm.diagnosis.shared.findings import Finding
from isodesm.editor.seen import Seen
from isodesm.facts.languages import dialect_of
from isodesm.output.pages import folder as pages

SEVERITY = {"error": 1, "warning": 2, "note": 3}
SOURCE = "isodesm"
REASON = "say why"
"""What stands in an acceptance until somebody puts the reason in its place."""


def by_file(seen: Seen, folder: Path) -> dict[str, list[dict[str, Any]]]:
    """Path to the diagnostics of a file, in order of place."""
    found: dict[str, list[Finding]] = defaultdict(list)
    for finding in seen.diagnosis.findings:
        if finding.file in seen.numbers:
            found[finding.file].append(finding)
    return {path: diagnostics_of(seen, folder, own) for path, own in found.items()}


def diagnostics_of(seen: Seen, folder: Path, findings: Iterable[Finding]) -> list[dict[str, Any]]:
    """Findings in the form of the protocol."""
    return [diagnostic(seen, folder, each) for each in findings]


def diagnostic(seen: Seen, folder: Path, finding: Finding) -> dict[str, Any]:
    """A finding in the form of the protocol."""
    lines = seen.lines(seen.numbers[finding.file])
    made: dict[str, Any] = {
        "range": lines.span(finding.line, finding.column, finding.end_column),
        "severity": SEVERITY[finding.level],
        "code": finding.kind,
        "source": SOURCE,
        "message": "\n".join(each for each in (finding.message, finding.reason, finding.remedy) if each),
        "data": {"number": finding.source_number, "target": finding.target},
    }
    if (page := pages() / "findings" / f"{finding.kind}.md").is_file():
        made["codeDescription"] = {"href": page.as_uri()}
    related = [each for each in finding.related if each.file in seen.numbers and each.line > 0]
    if related:
        made["relatedInformation"] = [
            {
                "location": {"uri": (folder / each.file).as_uri(), "range": _line(seen, each.file, each.line)},
                "message": each.message,
            }
            for each in related
        ]
    return made


def _line(seen: Seen, path: str, line: int) -> dict[str, Any]:
    lines = seen.lines(seen.numbers[path])
    start = {"line": min(line - 1, len(lines.starts) - 1), "character": 0}
    return {"start": start, "end": start}


def acceptance(seen: Seen, path: str, given: dict[str, Any]) -> dict[str, Any]:
    """The quick fix that accepts what a diagnostic says: a remark above its line, whose reason is to be filled in."""
    lines, line = seen.lines(seen.numbers[path]), given["range"]["start"]["line"]
    language = seen.codebase.symbols.files[seen.numbers[path]].language
    at = {"line": line, "character": 0}
    end = "\r\n" if b"\r\n" in lines.text else "\n"
    text = f"{lines.indent(line)}{dialect_of(language).remark} isodesm: accept {given['code']} – {REASON}{end}"
    return {
        "title": f"isodesm: accept {given['code']}, with a reason",
        "kind": "quickfix",
        "diagnostics": [given],
        "edit": {"documentChanges": [{"path": path, "edits": [{"range": {"start": at, "end": at}, "newText": text}]}]},
    }
