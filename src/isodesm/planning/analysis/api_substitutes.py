"""What the catalogue offers in the place of an API with an effect: a clock, a source of chance, a pause."""

from __future__ import annotations

from isodesm.catalogue import StandIn
from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import Finding
from isodesm.facts.records import Site

OUTSIDE_CLASSES = ("functions", "builtins", "globals")
"""Names of what holds functions that belong to no class."""
SHARED = "static-effect"
"""Kind of a decision on APIs that one stand-in serves, be they called or made."""


def substitute_of(codebase: Codebase, finding: Finding, site: Site) -> StandIn | None:
    """The stand-in for the API that a finding is about; None where the catalogue has none, or not for what is passed."""
    if finding.target_number >= 0 or finding.row < 0:
        return None
    language = codebase.symbols.files[codebase.symbols.file_of[finding.source_number]].language
    known = codebase.symbols.catalogues.of(language).stand_ins
    if finding.kind == "hard-wired-creation":
        return None if site.arguments.strip() else known.get(finding.target)
    if finding.kind != "static-effect":
        return None
    return known.get(f"{finding.target}.{codebase.bonds.text_of('callee', finding.row)}")


def shared_key(found: StandIn | None) -> str:
    """What uses of several APIs that one stand-in serves have in common; '' where each needs one of its own."""
    if found is None or "{" in found.supply + found.type:
        return ""
    return "\0".join((found.name, found.type, found.supply))
