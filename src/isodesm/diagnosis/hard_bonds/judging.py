"""Hard bonds: creations, shared instances, static effects and lookups that decide on the spot what is used."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, NamedTuple

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.hard_bonds.behind import Behind
from isodesm.diagnosis.hard_bonds.cases import Case, Usage
from isodesm.diagnosis.hard_bonds.excuses import EVERYWHERE, excuse_of, is_strategy
from isodesm.diagnosis.hard_bonds.explaining import Explainer
from isodesm.diagnosis.hard_bonds.levels import effect_level
from isodesm.diagnosis.shared.findings import Finding, Pool
from isodesm.facts import typetext
from isodesm.facts.languages import dialect_of
from isodesm.inference.effect_kinds import SEVERE, UNSURE
from isodesm.inference.evidence import SERVICE_LIKE, is_field
from isodesm.inference.use_graph import OWN_TYPES
from isodesm.linking.bonds import AT_SEAM, KIND_NUMBER
from isodesm.linking.symbols import simple_name
from isodesm.reading.files import worker_count
from isodesm.reading.workers import can_fork, forked, portions_of

PARALLEL_ROWS = 3_000
"""Rows from which it pays to fork workers."""
ROWS_PER_TASK, TASKS = 8_000, 2
"""Rows that a worker is given at once, at most, and how often it is given some, at least."""
MOST_BELOW = 12
"""Classes below an abstract one that are asked whether the one object would be worth handing in."""


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
    usage.behind = Behind(codebase, usage.states, lambda row: _hands_out_shared(Case(codebase, usage, row)))
    return _judged(codebase, usage, _candidates(codebase, usage), excused)


def _hands_out_shared(case: Case) -> bool:
    return is_shared_instance(case) and not (case.shared_type >= 0 and case.usage.states.is_cross_cutting(case.shared_type))


def _candidates(codebase: Codebase, usage: Usage) -> list[int]:
    """Rows that have the shape of a hard bond, in order of file and place."""
    wanted = {KIND_NUMBER["creation"], KIND_NUMBER["static-call"], KIND_NUMBER["static-field"], KIND_NUMBER["lookup"]}
    functions, kinds = _uses_of_functions(codebase, usage), codebase.bonds.kind
    return [row for row in codebase.rows_in_order() if kinds[row] in wanted or row in functions]


def _judged(codebase: Codebase, usage: Usage, rows: list[int], excused: bool) -> Iterator[Judged]:
    """The rows judged, in portions and in order; by forked workers where there are many."""
    workers = worker_count(codebase.settings.workers)
    usage.prepare()
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
            known[key] = any(SEVERE.intersection(effects.near(node)) for node in nodes) or bool(usage.behind.of(nodes))
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
    if case.flags & AT_SEAM or accepts_target(case) or case.is_fallback:
        return "note"
    if case.external:
        return effect_level(case)
    grave = SEVERE.union(UNSURE).intersection(case.effects).difference(case.catalogue.light.replaced.split())
    return "error" if grave or case.crossing or is_strategy(case) else "warning"


def accepts_target(case: Case) -> bool:
    """Whether a constructor of the class takes such an object already, so that this place only supplies a default."""
    if _goes_into_own_object(case):
        return True
    if case.external or case.member is None or case.member.kind not in ("constructor", "field"):
        return False
    names = {case.symbols.types[each].name for each in case.roles.ancestors(case.target)}
    return any(
        simple_name(typetext.head(parameter.type)) in names
        for member in case.source_type.members
        if member.kind == "constructor"
        for parameter in member.parameters
    )


def _goes_into_own_object(case: Case) -> bool:
    """Whether static code of a class gets something only to hand it to the constructor of that class."""
    if case.member is None or not case.member.is_static:
        return False
    sites, site, own = case.codebase.content(case.file).sites, case.site, (*OWN_TYPES, case.source_type.name)
    while site.inside >= 0:
        site = sites[site.inside]
        if site.kind == "creation" and simple_name(typetext.head(site.text)) in own:
            return True
    return False


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
        if case.behind:
            return Verdict(case.row, kind, "note" if case.flags & AT_SEAM else "warning")
        excuse = "pure" if all(map(case.usage.purity.is_pure, case.nodes)) else "plain-use"
    if excuse:
        return Verdict(case.row, kind, "note", excuse)
    if case.flags & AT_SEAM or _goes_into_own_object(case):  # a default: whoever calls may hand in something else
        return Verdict(case.row, kind, "note")
    if kind == "static-singleton":
        grave = SEVERE.union(UNSURE).intersection(case.effects)
        return Verdict(case.row, kind, "error" if grave or case.crossing else "warning")
    return Verdict(case.row, kind, effect_level(case))


def _same_unit(case: Case) -> bool:
    """Whether source and target are nested in the same outermost type, or one inherits from the other."""

    def outermost(number: int) -> int:
        while (outer := case.symbols.outer(number)) >= 0:
            number = outer
        return number

    if case.kind == "call" and case.symbols.file_of[case.target] == case.file:
        return True  # a function of the same module: what it does is reported where it does it
    return outermost(case.source) == outermost(case.target) or case.target in case.roles.ancestors(case.source)


def is_shared_instance(case: Case) -> bool:
    """Whether a static member hands out one shared object of a service-like class of the tree, judged by shape."""
    if case.external or _is_empty(case):
        return False
    if case.known is not case.codebase.effects:  # as they would be
        return _is_one_of_its_kind(case)
    key, known = (case.kind, case.target, case.callee), case.usage.shared_instances
    if key not in known:
        known[key] = _is_one_of_its_kind(case)
    return known[key]


def _is_one_of_its_kind(case: Case) -> bool:
    """The same, whoever asks for it."""
    for each in case.roles.ancestors(case.target):
        if found := case.symbols.members(each).get(case.callee):
            wanted = "method" if case.kind == "static-call" else "field"  # which may share a name
            member = next((member for _, member in found if member.kind == wanted), found[0][1])
            break
    else:  # a variable of a module that holds an object of the class
        return case.kind == "static-field" and (
            (case.shared_type >= 0 and case.target_role in SERVICE_LIKE) or _is_one_that_changes(case)
        )
    if case.kind == "static-field" and is_field(member):
        if "[" in member.type or case.usage.is_constant(member, case.shared_type):
            return False  # a list of them, or one of many
        own = typetext.head(member.type) == case.symbols.types[each].name
        kept = member.kind == "constant" or _is_service(case, member.type) or (own and _keeps_itself(case, each))
        return kept or _is_one_that_changes(case)
    hands_out_itself = typetext.head(member.type) in (case.symbols.types[each].name, *OWN_TYPES) or _is_base(case, member.type)
    if case.codebase.shared.is_accessor(case.target, case.callee):
        return is_worth_handing_in(case, each)
    if member.is_static and not member.parameters and not hands_out_itself and _hands_out_kept(case):
        return _is_service(case, member.type)
    if member.is_static and not (hands_out_itself and member.parameters) and _answers_from_itself(case, each):
        return is_worth_handing_in(case, each)
    return member.is_static and not member.parameters and hands_out_itself and _keeps_itself(case, each)


def _is_one_that_changes(case: Case) -> bool:
    """Whether what is shared is the only object of its class, and changes while the program runs: what one user does to it
    all others see."""
    held = case.shared_type
    if held < 0 or held in case.usage.made_elsewhere or case.usage.kinds_of_places(held) > 1:
        return False
    return case.codebase.own_changes.of(held)


def _answers_from_itself(case: Case, number: int) -> bool:
    """Whether a static member asks the one object that its class keeps: for a part of it or an answer, or to do something."""
    kept = case.codebase.shared.own_instances(number)
    touches = map(case.codebase.shared.touch, case.nodes)
    return any(kept & touch.reads and (touch.gives_value or not kept & touch.changes) for touch in touches)


def _hands_out_kept(case: Case) -> bool:
    """Whether a static member gives back an object that its class keeps."""
    return any(case.codebase.shared.touch(node).hands_out for node in case.nodes)


def _is_empty(case: Case) -> bool:
    """Whether the class that is shared has no object state, no effect and no collaborator: any object of it is as good."""
    held = case.shared_type
    if held < 0 or case.effects:
        return False
    below = case.roles.implementers.get(held, ()) if case.symbols.types[held].is_abstract else ()
    return all(case.usage.is_bare(each) for each in (held, *below[:MOST_BELOW]))


def _is_base(case: Case, text: str) -> bool:
    name = simple_name(typetext.head(text))
    return any(case.symbols.types[base].name == name for base in case.roles.ancestors(case.target)[1:])


def _is_service(case: Case, text: str) -> bool:
    """Whether a type text, as seen from the target, names something service-like or an abstraction of it."""
    name = typetext.head(text)
    if name == case.target_type.name:
        return case.target_role in SERVICE_LIKE
    number = case.shared_type
    if number < 0 or case.symbols.types[number].name != simple_name(name):
        file = case.symbols.file_of[case.target]
        package = case.symbols.files[file].package
        number, _ = case.symbols.find(f"{package}.{name}" if package else name, file)
    if number < 0:
        return False
    implementers = case.roles.implementers.get(number, ())
    return case.roles.name(number) in SERVICE_LIKE or (
        case.roles.name(number) == "abstraction" and any(case.roles.name(each) in SERVICE_LIKE for each in implementers)
    )


def _keeps_itself(case: Case, number: int) -> bool:
    """Whether a class, or a holder nested in it, has a static field of its own or a base type, and is more than data."""
    names = {*OWN_TYPES, *(case.symbols.types[each].name for each in case.roles.ancestors(number))}
    holders = [number, *(below for (outer, _), below in _nested_of(case, number))]
    kept = any(
        member.is_static and is_field(member) and names.intersection(typetext.names(member.type))
        for each in holders
        for member in case.symbols.types[each].members
    )
    return kept and is_worth_handing_in(case, number)


def is_worth_handing_in(case: Case, number: int) -> bool:
    """Whether the one object of a class is more than a constant: it serves, has effects, or changes."""
    if case.roles.name(number) in SERVICE_LIKE:
        return True
    if number in case.usage.made_elsewhere or case.usage.kinds_of_places(number) > 1:
        return False  # of a data type that is made all over, a shared object is a constant, not the one and only
    if SEVERE.intersection(case.known.of_type(number)) or _is_mutable(case, number) or case.codebase.own_changes.of(number):
        return True
    below = case.roles.implementers.get(number, ()) if case.symbols.types[number].is_abstract else ()
    return any(is_worth_handing_in(case, each) for each in below[:MOST_BELOW])


def _nested_of(case: Case, number: int) -> list[tuple[tuple[int, str], int]]:
    file = case.symbols.file_of[number]
    first = case.symbols.first[file]
    return [
        ((number, declared.name), first + index)
        for index, declared in enumerate(case.symbols.files[file].types)
        if declared.name and declared.outer >= 0 and first + declared.outer == number
    ]


def _is_mutable(case: Case, number: int) -> bool:
    """Whether an object of the class has a field that can change: not final, or a collection."""
    return any(
        member.kind == "field"
        and not member.is_static
        and ("final" not in member.modifiers.words or "<" in member.type or "[" in member.type)
        for member in case.symbols.types[number].members
    )


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
