"""SARIF 2.1.0 (OASIS): the findings for code hosts and editors."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import msgspec

from isodesm import __version__
from isodesm.diagnosis.shared.findings import KINDS, Diagnosis, Finding

SCHEMA = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json"
FINGERPRINT = "isodesm/v1"
USUAL_LEVEL = {"misleading-name": "note", "layer-skip": "note"}
"""Level of a rule where it is not `warning`; a finding has its own."""


def to_sarif(
    diagnosis: Diagnosis, root: str, states: Mapping[str, str] | None = None, gone: Sequence[dict[str, Any]] = ()
) -> bytes:
    """One run with a rule for each kind of finding; accepted findings are suppressed, with their reason.

    `root` is the folder that paths are relative to, itself below the repository's or absolute; `states` maps ids to what each
    is against an earlier state; `gone` are results for findings that were there then.
    """
    accepted = [each for each in diagnosis.excused if each.excuse == "accepted"]
    rules = [each for each in KINDS if any(found.kind == each for found in (*diagnosis.findings, *accepted))]
    rules += [each for each in KINDS if each not in rules and any(result["ruleId"] == each for result in gone)]
    numbers = {kind: index for index, kind in enumerate(rules)}
    results = [_result(each, numbers) for each in (*diagnosis.findings, *accepted)]
    if states is not None:
        for result in results:
            result["baselineState"] = states.get(result["partialFingerprints"][FINGERPRINT], "unchanged")
    results += [{**result, "ruleIndex": numbers[result["ruleId"]], "baselineState": "absent"} for result in gone]
    log = {
        "$schema": SCHEMA,
        "version": "2.1.0",
        "runs": [
            {
                "tool": {
                    "driver": {
                        "name": "isodesm",
                        "semanticVersion": __version__,
                        "version": __version__,
                        "rules": [_rule(kind) for kind in rules],
                    }
                },
                "columnKind": "unicodeCodePoints",
                "originalUriBaseIds": _bases(root),
                "results": results,
            }
        ],
    }
    return msgspec.json.format(msgspec.json.encode(log), indent=2) + b"\n"


def _bases(root: str) -> dict[str, Any]:
    """Where the folder that was scanned lies: below the top of the repository, which only the reader knows, or absolutely."""
    scanned = {"description": {"text": "The folder that was scanned."}}
    if root.startswith("/") or ":" in root[:3]:
        return {"ROOT": {"uri": f"file:///{_uri(root.lstrip('/'))}/", **scanned}}
    if root == "." or root.startswith(".."):
        return {"ROOT": scanned}
    top = {"description": {"text": "The top of the repository, or the folder that the scan was made from."}}
    return {"TOP": top, "ROOT": {"uri": f"{_uri(root)}/", "uriBaseId": "TOP", **scanned}}


def gone_result(kind: str, level: str, text: str, file: str, line: int, name: str) -> dict[str, Any]:
    """The result for a finding that is no longer there; its id is `name`."""
    place = {"artifactLocation": {"uri": _uri(file), "uriBaseId": "ROOT"}, "region": {"startLine": max(line, 1)}}
    return {
        "ruleId": kind,
        "level": level,
        "message": {"text": text},
        "locations": [{"physicalLocation": place}],
        "partialFingerprints": {FINGERPRINT: name},
    }


def _rule(kind: str) -> dict[str, Any]:
    return {
        "id": kind,
        "name": "".join(word.capitalize() for word in kind.split("-")),
        "shortDescription": {"text": KINDS[kind]},
        "help": _help_of(kind),
        "defaultConfiguration": {"level": USUAL_LEVEL.get(kind, "warning")},
    }


def _help_of(kind: str) -> dict[str, str]:
    """The page about a kind, as text and as Markdown."""
    from isodesm.output.pages import page_of

    page = page_of(kind)
    return {"text": page, "markdown": page}


def _result(finding: Finding, numbers: dict[str, int]) -> dict[str, Any]:
    result: dict[str, Any] = {
        "ruleId": finding.kind,
        "ruleIndex": numbers[finding.kind],
        "level": finding.level,
        "message": {"text": f"{finding.message} {finding.reason} {finding.remedy}".strip()},
        "locations": [
            {
                "physicalLocation": {
                    "artifactLocation": {"uri": _uri(finding.file), "uriBaseId": "ROOT"},
                    "region": {
                        "startLine": finding.line,
                        "startColumn": finding.column,
                        "endLine": finding.end_line,
                        "endColumn": finding.end_column,
                        "snippet": {"text": finding.snippet},
                    },
                },
                "logicalLocations": [{"fullyQualifiedName": finding.source, "kind": "type"}],
            }
        ],
        "partialFingerprints": {FINGERPRINT: finding.id},
        "properties": {"tags": list(finding.why), "layer": finding.layer, "target": finding.target},
    }
    if finding.related:
        result["relatedLocations"] = [
            {
                "id": number,
                "message": {"text": each.message},
                "physicalLocation": {
                    "artifactLocation": {"uri": _uri(each.file), "uriBaseId": "ROOT"},
                    "region": {"startLine": max(each.line, 1)},
                },
            }
            for number, each in enumerate(finding.related, 1)
        ]
    if finding.chain:
        result["properties"]["chain"] = list(finding.chain)
    if finding.excuse == "accepted":
        kind = "inSource" if finding.accepted_in == "remark" else "external"
        result["suppressions"] = [{"kind": kind, "status": "accepted", "justification": finding.justification}]
    return result


def _uri(path: str) -> str:
    from urllib.parse import quote

    return quote(path)
