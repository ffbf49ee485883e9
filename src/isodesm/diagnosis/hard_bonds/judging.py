"""Hard bonds: creations, shared instances, static effects and lookups that decide on the spot what is used."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, NamedTuple

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.hard_bonds.cases import Case
from isodesm.diagnosis.hard_bonds.creations import is_helper_of_owner, is_strategy
from isodesm.diagnosis.hard_bonds.excuses import EVERYWHERE, excuse_of
from isodesm.diagnosis.hard_bonds.explaining import Explainer
from isodesm.diagnosis.hard_bonds.levels import effect_level
from isodesm.diagnosis.hard_bonds.seams import goes_into_own_object, is_at_seam
from isodesm.diagnosis.hard_bonds.sharing import behind_of, is_shared_instance, shared_behind, uses_shared
from isodesm.diagnosis.hard_bonds.usage import Usage
from isodesm.diagnosis.shared.findings import Finding, Pool
from isodesm.facts.languages import dialect_of
from isodesm.inference.effect_kinds import SEVERE, UNSURE
from isodesm.inference.evidence import WEAK_SHAPE
from isodesm.inference.local_evidence import HAS_EFFECTS
from isodesm.linking.bonds import AT_SEAM, KIND_NUMBER
from isodesm.reading.files import worker_count
from isodesm.reading.workers import can_fork, forked, portions_of

PARALLEL_ROWS = 3_000
"""Rows from which it pays to fork workers."""
ROWS_PER_TASK, TASKS = 8_000, 2
"""Rows that a worker is given at once, at most, and how often it is given some, at least."""


class Verdict(NamedTuple):
    """What was decided about a bond: a kind of finding with its level, or the excuse it has."""

    row: int
    kind: str
    level: str
    excuse: str = ""


class Judged(NamedTuple):
    """What came of some rows: findings, excused ones in full if asked for, and how many each excuse spoke for."""

    findings: list[Finding]
    pardoned: list[Finding]
    counts: dict[str, int]


def hard_bonds(codebase: Codebase, usage: Usage, *, excused: bool) -> Iterator[Judged]:
    """What comes of every bond that has the shape of a hard one, in portions and in order of place.

    With `excused` also the would-be findings in full, not just their number.
    """
    return _judged(codebase, usage, _candidates(codebase, usage), excused)


def _candidates(codebase: Codebase, usage: Usage) -> list[int]:
    """Rows that have the shape of a hard bond, in order of file and place."""
    wanted = {KIND_NUMBER["creation"], KIND_NUMBER["static-call"], KIND_NUMBER["static-field"], KIND_NUMBER["lookup"]}
    functions, kinds = _uses_of_functions(codebase, usage), codebase.bonds.kind
    return [row for row in codebase.rows_in_order() if kinds[row] in wanted or row in functions]


def _judged(codebase: Codebase, usage: Usage, rows: list[int], excused: bool) -> Iterator[Judged]:
    """The rows judged, in portions and in order; by forked workers where there are many."""
    workers = worker_count(codebase.settings.workers)
    usage.prepare()
    behind_of(usage)
    shared = (codebase, usage, lookup_places(codebase), excused)
    if not can_fork(workers, len(rows), PARALLEL_ROWS):
        yield judge_rows(rows, *shared)
        return
    codebase.prepare()
    pool = Pool()
    size = min(ROWS_PER_TASK, -(-len(rows) // (workers * TASKS)))
    for packed in forked(workers, _judge_portion, portions_of(rows, size), *shared):
        judged = msgspec.msgpack.decode(packed, type=Judged)
        yield judged._replace(pardoned=[pool.of(each) for each in judged.pardoned])


def _judge_portion(rows: list[int], *shared: Any) -> bytes:
    return msgspec.msgpack.encode(judge_rows(rows, *shared))


def judge_rows(rows: list[int], codebase: Codebase, usage: Usage, looked_up: set[tuple[int, int]], excused: bool) -> Judged:
    """What comes of some rows, in their order; `looked_up` are the places of look-ups."""
    judges = {KIND_NUMBER["creation"]: judge_creation, KIND_NUMBER["lookup"]: judge_lookup}
    explainer, kinds = Explainer(codebase, usage), codebase.bonds.kind
    judged = Judged([], [], {})
    for row in rows:
        decide = judges.get(kinds[row], judge_static)
        if decide is not judge_lookup and _place(codebase, row) in looked_up:
            continue
        case = Case(codebase, usage, row)
        verdict = decide(case)
        if verdict is None:
            continue
        if not verdict.excuse:
            judged.findings.append(explainer.finding(case, verdict.kind, verdict.level))
            continue
        judged.counts[verdict.excuse] = judged.counts.get(verdict.excuse, 0) + 1
        if excused:
            judged.pardoned.append(explainer.bare(case, verdict.kind, verdict.excuse))
    return judged


def _uses_of_functions(codebase: Codebase, usage: Usage) -> set[int]:
    """Rows of calls of functions that stand in modules: static calls by another name.

    Of modules outside the tree those with an effect, of those in the tree all that reach a grave one, or something shared.
    """
    call, table, effects = KIND_NUMBER["call"], codebase.bonds, codebase.effects
    modular = {file for file, facts in enumerate(codebase.symbols.files) if dialect_of(facts.language).has_module}
    found = {
        use.row
        for uses in effects.direct.values()
        for use in uses
        if table.kind[use.row] == call and table.target[use.row] < 0 and table.file[use.row] in modular
    }
    known: dict[tuple[int, int], bool] = {}
    for row, (kind, source, target, callee) in enumerate(
        zip(table.kind, table.source, table.target, table.callee, strict=True)
    ):
        if kind != call or target < 0 or source == target or not codebase.symbols.is_module(target):
            continue
        key = (target, callee)
        if key not in known:
            members = codebase.symbols.members(target).get(table.names.strings[callee], ())
            nodes = [(target, index) for index, _ in members]
            known[key] = any(SEVERE.intersection(effects.near(node)) for node in nodes) or bool(behind_of(usage).of(nodes))
        if known[key]:
            found.add(row)
    return found


def _place(codebase: Codebase, row: int) -> tuple[int, int]:
    return codebase.bonds.file[row], codebase.bonds.site[row]


def lookup_places(codebase: Codebase) -> set[tuple[int, int]]:
    """Places of lookups: the static call beneath one is not reported a second time."""
    return {_place(codebase, row) for row in codebase.bonds.rows_of_kind("lookup")}


# --- creations --------------------------------------------------------------------------------


def judge_creation(case: Case) -> Verdict:
    """`hard-wired-creation`, or the excuse for it."""
    if excuse := excuse_of(case):
        return Verdict(case.row, "hard-wired-creation", "note", excuse)
    return Verdict(case.row, "hard-wired-creation", creation_level(case))


def creation_level(case: Case) -> str:
    """`note` where a seam is there already; `error` for an effect, an outer layer or a choice among implementations."""
    if is_at_seam(case):
        return "note"
    if case.external:
        return effect_level(case)
    grave = SEVERE.union(UNSURE).intersection(case.effects).difference(case.catalogue.light.replaced.split())
    if grave or case.crossing or is_strategy(case):
        return "error"
    return "note" if _hardly_serves(case) or is_helper_of_owner(case) else "warning"


def _hardly_serves(case: Case) -> bool:
    """Whether so little speaks for a class being a service that reasonable people would leave it where it is."""
    evidence = case.roles[case.target].evidence[0]
    return evidence.strength <= WEAK_SHAPE and evidence.reason != HAS_EFFECTS and not case.effects and not uses_shared(case)


# --- static members ---------------------------------------------------------------------------


def judge_static(case: Case) -> Verdict | None:
    """`static-singleton` or `static-effect`, or the excuse; None for members that a class uses of itself."""
    if not case.external and _same_unit(case):
        return None
    kind = "static-effect"
    if is_shared_instance(case):
        kind = "static-singleton"
    excuse = excuse_of(case)
    if (
        not excuse
        and kind == "static-effect"
        and (not case.effects or (case.kind == "static-field" and not case.direct_effect))
    ):
        if case.row in case.usage.states.rows:
            return None  # reported with all other uses of that state
        if shared_behind(case):  # a function that stands in a module can be replaced by its name
            return Verdict(case.row, kind, "note" if case.flags & AT_SEAM or case.kind == "call" else "warning")
        excuse = "pure" if _is_proven_pure(case) else "unknown"
    if excuse:
        return Verdict(case.row, kind, "note", excuse)
    if case.flags & AT_SEAM or goes_into_own_object(case):  # a default: whoever calls may hand in something else
        return Verdict(case.row, kind, "note")
    if kind == "static-singleton":
        grave = SEVERE.union(UNSURE).intersection(case.effects)
        return Verdict(case.row, kind, "error" if grave or case.crossing else "warning")
    level = effect_level(case)
    return Verdict(case.row, kind, "warning" if level == "note" and not case.direct_effect and shared_behind(case) else level)


def _is_proven_pure(case: Case) -> bool:
    """Whether nothing that a static member reaches has an effect or touches a state; a variable of a module is pure where what
    it holds never changes."""
    if not case.nodes and case.shared_type >= 0:
        return not case.codebase.own_changes.of(case.shared_type)
    return all(map(case.usage.purity.is_pure, case.nodes))


def _same_unit(case: Case) -> bool:
    """Whether source and target are nested in the same outermost type, or one inherits from the other."""

    def outermost(number: int) -> int:
        while (outer := case.symbols.outer(number)) >= 0:
            number = outer
        return number

    if case.kind == "call" and case.symbols.file_of[case.target] == case.file:
        return True  # a function of the same module: what it does is reported where it does it
    return outermost(case.source) == outermost(case.target) or case.target in case.roles.ancestors(case.source)


# --- lookups ----------------------------------------------------------------------------------


def judge_lookup(case: Case) -> Verdict:
    """`service-lookup`, or the excuse for it."""
    for rule in EVERYWHERE:
        if excuse := rule(case):
            return Verdict(case.row, "service-lookup", "note", excuse)
    if case.flags & AT_SEAM:
        return Verdict(case.row, "service-lookup", "note")
    effects = () if case.external else case.known.through(case.source, case.target)
    return Verdict(case.row, "service-lookup", "error" if effects else "warning")
