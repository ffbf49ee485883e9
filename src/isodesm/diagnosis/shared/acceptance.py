"""What people have looked at and want to keep: remarks in the source, and settings, each with its reason."""

from __future__ import annotations

import fnmatch
import re
from collections.abc import Iterable

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import KINDS, Finding, Related
from isodesm.settings import Acceptance

_FORM = re.compile(r"accept\s+([\w-]+)\s*(?:[–—:]|--?)?\s*(.*)$")
"""`accept <slug> – reason`."""


class Acceptances:
    """Asks each finding whether somebody accepted it, and remembers which acceptances were of use."""

    def __init__(self, codebase: Codebase) -> None:
        self.settings = codebase.settings.accept
        self.remarks: dict[tuple[str, int], tuple[str, str]] = {}
        """(file, line) of a remark to kind and reason."""
        self.useless: list[Related] = []
        self._used_settings: set[int] = set()
        self._used_remarks: set[tuple[str, int]] = set()
        for facts in codebase.symbols.files:
            for remark in facts.remarks:
                self._read(facts.path, remark.line, remark.text)

    def _read(self, path: str, line: int, text: str) -> None:
        found = _FORM.match(text)
        kind, reason = found.groups() if found else ("", "")
        if kind not in KINDS:
            self.useless.append(
                Related(path, line, f"`{text}` names no kind of finding; write `isodesm: accept <kind> – reason`")
            )
        elif not reason.strip():
            self.useless.append(Related(path, line, f"the acceptance of `{kind}` gives no reason, so it does not count"))
        else:
            self.remarks[path, line] = (kind, reason.strip())

    def reason_for(self, finding: Finding) -> tuple[str, str]:
        """The reason for which a finding was accepted, and where it says so; '' twice if it was not."""
        line = finding.line
        if reason := self._in_remark(finding.file, line, finding.kind):
            return reason, "remark"
        while (finding.file, line - 1) in self.remarks:  # remarks above the line, one below the other
            line -= 1
            if reason := self._in_remark(finding.file, line, finding.kind):
                return reason, "remark"
        for index, each in enumerate(self.settings):
            if each.kind == finding.kind and _fits(each, finding):
                self._used_settings.add(index)
                return each.reason, "settings"
        return "", ""

    def _in_remark(self, file: str, line: int, kind: str) -> str:
        accepted, reason = self.remarks.get((file, line), ("", ""))
        if accepted != kind:
            return ""
        self._used_remarks.add((file, line))
        return reason

    def unused(self) -> tuple[Related, ...]:
        """Acceptances that spoke for nothing."""
        remarks = [
            Related(file, line, f"accepts `{kind}`, which is not found here")
            for (file, line), (kind, _) in sorted(self.remarks.items())
            if (file, line) not in self._used_remarks
        ]
        settings = [
            Related("isodesm.toml", 0, f"accepts `{each.kind}` for `{each.class_}`, which is not found")
            for index, each in enumerate(self.settings)
            if index not in self._used_settings
        ]
        return (*sorted((*self.useless, *remarks), key=lambda each: (each.file, each.line)), *settings)


def _fits(acceptance: Acceptance, finding: Finding) -> bool:
    def matches(pattern: str, name: str) -> bool:
        plain = name.replace("\\", ".").replace("#", ".")
        return any(fnmatch.fnmatchcase(each, pattern) for each in (name, plain, plain.rpartition(".")[2]))

    return matches(acceptance.class_, finding.source) and (
        acceptance.target == "*" or matches(acceptance.target, finding.target)
    )


def sort_out(codebase: Codebase, findings: Iterable[Finding]) -> tuple[list[Finding], list[Finding], tuple[Related, ...]]:
    """Findings that stay, those that were accepted, and the acceptances that are not needed."""
    acceptances = Acceptances(codebase)
    kept: list[Finding] = []
    accepted: list[Finding] = []
    for finding in findings:
        reason, where = acceptances.reason_for(finding)
        if reason:
            accepted.append(msgspec.structs.replace(finding, excuse="accepted", justification=reason, accepted_in=where))
        else:
            kept.append(finding)
    return kept, accepted, acceptances.unused()
