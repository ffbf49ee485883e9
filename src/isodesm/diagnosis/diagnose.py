"""The whole diagnosis: every family of findings, what people accepted, and ids."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from itertools import chain

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.folding import folded
from isodesm.diagnosis.form.contracts import unguarded_errors
from isodesm.diagnosis.form.layering import layer_skips, outward_dependencies
from isodesm.diagnosis.form.leaks import leaked_boundary_types
from isodesm.diagnosis.form.misleading_names import misleading_names
from isodesm.diagnosis.form.responsibilities import mixed_responsibilities, oversized_boundaries
from isodesm.diagnosis.hard_bonds.ambient import ambient_state
from isodesm.diagnosis.hard_bonds.judging import hard_bonds
from isodesm.diagnosis.hard_bonds.usage import Usage
from isodesm.diagnosis.shared.acceptance import sort_out
from isodesm.diagnosis.shared.findings import HARD_KINDS, KINDS, Diagnosis, Finding, Identities
from isodesm.diagnosis.shared.reporting import Report
from isodesm.diagnosis.wiring_faults.ambiguous import ambiguous_implementations
from isodesm.diagnosis.wiring_faults.captives import captive_dependencies
from isodesm.diagnosis.wiring_faults.constructors import too_many_dependencies, untyped_injection_points, unused_dependencies
from isodesm.diagnosis.wiring_faults.container_misuse import bypassed_injections, injected_containers
from isodesm.diagnosis.wiring_faults.cycles import dependency_cycles
from isodesm.diagnosis.wiring_faults.late import late_dependencies
from isodesm.diagnosis.wiring_faults.mismatched_arguments import mismatched_arguments, unfilled_parameters
from isodesm.diagnosis.wiring_faults.missing import unregistered_dependencies
from isodesm.diagnosis.wiring_faults.registered import duplicate_registrations, split_instances
from isodesm.reading.files import collector_paused, worker_count
from isodesm.reading.workers import can_fork, meanwhile

Family = Callable[[Report], Iterator[Finding]]
"""Finds one kind, or a few that belong together."""

FAMILIES: tuple[Family, ...] = (
    injected_containers,
    bypassed_injections,
    captive_dependencies,
    unregistered_dependencies,
    duplicate_registrations,
    split_instances,
    mismatched_arguments,
    unfilled_parameters,
    dependency_cycles,
    outward_dependencies,
    layer_skips,
    leaked_boundary_types,
    unguarded_errors,
    mixed_responsibilities,
    oversized_boundaries,
    too_many_dependencies,
    untyped_injection_points,
    unused_dependencies,
    late_dependencies,
    ambiguous_implementations,
    misleading_names,
)
"""What finds each kind that is judged by more than one bond; a function's findings may carry an excuse."""
PARALLEL_BONDS = 8_000
"""Bonds from which it pays to look for the families' findings in a process of its own."""
_ORDER = {kind: number for number, kind in enumerate(KINDS)}


def diagnose(
    codebase: Codebase, *, excused: bool = False, usage: Usage | None = None, families: tuple[Family, ...] = FAMILIES
) -> Diagnosis:
    """The findings of a codebase; with `excused` also the would-be findings in full, not just their number. `usage` is what
    was worked out of the codebase before; without some `families` what those would find is left out.

    Accepted ones are always given in full: somebody signed for them.
    """
    report = Report(codebase)
    counts: Counter[str] = Counter()
    findings: list[Finding] = []
    pardoned: list[Finding] = []
    usage = usage or Usage(codebase)
    with collector_paused(), _of_families(families, report) as of_families:
        for judged in hard_bonds(codebase, usage, excused=excused):
            findings += judged.findings
            pardoned += judged.pardoned
            counts.update(judged.counts)
        taken = frozenset(each.row for each in findings)
        ambient = list(ambient_state(report, usage.states, usage.roots, usage.adapters, taken))
        more = of_families()
    for finding in chain(ambient, more):
        if not finding.excuse:
            findings.append(finding)
            continue
        counts[finding.excuse] += 1
        if excused:
            pardoned.append(msgspec.structs.replace(finding, why=(), remedy="", reason="", related=()))
    kept, accepted, unused = sort_out(codebase, sorted(_each_said_once(findings), key=_place))
    counts["accepted"] += len(accepted)
    identities = Identities()
    places = tuple(map(identities.given_to, kept))
    return Diagnosis(
        findings=folded(places),
        places=places,
        excused=tuple(map(identities.given_to, sorted((*pardoned, *accepted), key=_place))),
        by_excuse=dict(sorted(((each, n) for each, n in counts.items() if n), key=lambda item: (-item[1], item[0]))),
        unused_acceptances=unused,
    )


@contextmanager
def _of_families(families: tuple[Family, ...], report: Report) -> Iterator[Callable[[], Iterable[Finding]]]:
    """What gives the findings of families: found by a process of its own meanwhile, where the codebase is large."""
    codebase = report.codebase
    if not families or not can_fork(worker_count(codebase.settings.workers), len(codebase.bonds), PARALLEL_BONDS):
        yield lambda: chain.from_iterable(family(report) for family in families)
        return
    codebase.prepare()
    with meanwhile(_packed_findings, families, report) as found:
        yield lambda: msgspec.msgpack.decode(found(), type=list[Finding])


def _packed_findings(families: tuple[Family, ...], report: Report) -> bytes:
    return msgspec.msgpack.encode([finding for family in families for finding in family(report)])


def without_excused(diagnosis: Diagnosis) -> Diagnosis:
    """A diagnosis as it is without `excused`."""
    return msgspec.structs.replace(diagnosis, excused=tuple(each for each in diagnosis.excused if each.excuse == "accepted"))


def _each_said_once(findings: list[Finding]) -> Iterator[Finding]:
    """A bond that is reported as a hard one, with the layers that it crosses, need not be reported as a wrong-way one too."""
    hard = {
        (each.source_number, each.target_number)
        for each in findings
        if each.kind in HARD_KINDS and each.crossing and each.level != "note"
    }
    for each in findings:
        if each.kind != "outward-dependency" or (each.source_number, each.target_number) not in hard:
            yield each


def _place(finding: Finding) -> tuple[str, int, int, int, str]:
    return finding.file, finding.line, finding.column, _ORDER[finding.kind], finding.id
