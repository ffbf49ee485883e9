"""settle-lifetime: what holds something shorter-lived is registered to live no longer than that, where nothing else changes.

There are always two ways out: the holder lives shorter, or it is handed a way to get the other when it needs one. The step
takes the first where that changes one lifetime; else the question stays one for a person, with what each way changes.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator

from isodesm.diagnosis.shared.findings import Finding
from isodesm.inference.resolution import Service
from isodesm.measures.dossier import counted
from isodesm.planning.analysis.statefulness import is_set_once
from isodesm.planning.containers.statements import statement_at
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.step import PlannedStep, TechniqueName, step_id
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.lifetimes import RANK
from isodesm.planning.state.recorder import record
from isodesm.planning.text.insertions import FIELDS
from isodesm.planning.wording import steps as wording

NAME = TechniqueName.SETTLE_LIFETIME
CAPTIVE = "captive-dependency"


def captives(findings: Iterable[Finding], focus: frozenset[int]) -> Iterator[Finding]:
    """The findings on captives that a plan is about."""
    return (each for each in findings if each.kind == CAPTIVE and (not focus or each.source_number in focus))


def question(context: PlanContext, finding: Finding) -> str:
    """What a person has to decide on a captive, with what each way out changes."""
    holder, captive = context.name(finding.source_number), context.name(finding.target_number)
    changed = _shortened(context, finding)
    names = ", ".join(f"`{context.name(each)}`" for each in sorted(changed, key=context.symbols.names.__getitem__))
    lives = _lifetime(finding)
    uses = _uses(context, finding)
    return (
        f"{finding.message} Decide first which of the two should change. Living as {lives}, `{holder}` changes "
        f"{counted(len(changed), 'lifetime')} ({names}). Handing it a way to get a `{captive}` changes none, but "
        f"{counted(uses, 'place')} in `{holder}`."
    )


def lifetime_id(context: PlanContext, finding: Finding) -> str:
    """The id of the step that changes the lifetime of a holder."""
    return step_id(NAME, finding.source, finding.target)


def plan_lifetime(context: PlanContext, finding: Finding) -> PlannedStep | None:
    """The step by which the holder of a captive lives as long as that; None where more would change, or nothing shows how
    the container is told."""
    number, lives = finding.source_number, _lifetime(finding)
    found = [each for each in context.codebase.wiring.by_implementation.get(number, ()) if not each.registration.alias]
    if len(found) != 1 or len(_shortened(context, finding)) > 1:
        return None
    amendment = _registered_otherwise(context, found[0], lives)
    if amendment is None:
        return None
    file = context.codebase.wiring.file_numbers[found[0].registration.file]
    changes = record(context, [file], lambda: context.edit(file, amendment))
    holder, captive = context.name(number), context.name(finding.target_number)
    members = context.symbols.types[number].members
    own = [m.name for m in members if m.kind == "field" and _changes(context, number, m.name)]
    said, places = f"{finding.message} {finding.reason}", counted(_uses(context, finding), "place")
    return PlannedStep(
        technique=NAME,
        id=lifetime_id(context, finding),
        about=number,
        follows=number,
        classes=(number, finding.target_number),
        text=wording.lifetime_shortened(holder, captive, said, places, own),
        edits=tuple(changes.edits),
        code=tuple(changes.code),
        lifetime=lives,
    )


def _lifetime(finding: Finding) -> str:
    """The lifetime of the captive."""
    return next(tag.rpartition("-")[2] for tag in finding.why if "-holds-" in tag)


def _shortened(context: PlanContext, finding: Finding) -> set[int]:
    """The classes whose lifetimes change if the holder lives as long as its captive: nothing may outlive what it holds."""
    wiring, lives = context.codebase.wiring, RANK[_lifetime(finding)]
    found = {finding.source_number}
    changed = True
    while changed:
        changed = False
        for service in wiring.services:
            number = service.implementation
            if number < 0 or number in found or RANK.get(service.lifetime, -1) <= lives:
                continue
            held = {wiring.answer(each).chosen for each in wiring.handed_to(number) if not each.deferred}
            if held & found:
                found.add(number)
                changed = True
    return found


def _uses(context: PlanContext, finding: Finding) -> int:
    """Calls by which the holder asks its captive for something."""
    table = context.codebase.bonds
    kinds = table.rows_of_kind("call", "field")
    line = set(context.codebase.roles.ancestors(finding.target_number))
    return sum(1 for row in kinds if table.source[row] == finding.source_number and table.target[row] in line)


def _changes(context: PlanContext, number: int, name: str) -> bool:

    member = next(m for m in context.symbols.types[number].members if m.name == name)
    return not {"final", "readonly", "const"} & set(member.modifiers.words) and not is_set_once(context.sources, number, member)


def _registered_otherwise(context: PlanContext, service: Service, lives: str) -> Amendment | None:
    """The call that registers a class, by the name of one that registers others of the same file to live as wanted."""
    given = service.registration
    if given.how != "call" or given.file not in context.codebase.wiring.file_numbers:
        return None
    file = context.codebase.wiring.file_numbers[given.file]
    syntax = context.sources.syntax(file)
    known = context.symbols.catalogues.of(syntax.language).containers.get(given.family)
    words = known.calls if known else {}
    own = _called(context, file, given.line, given.column, words)
    others = {
        _called(context, file, each.registration.line, each.registration.column, words)
        for each in context.codebase.wiring.services
        if each.registration.how == "call"
        and each.registration.file == given.file
        and each.lifetime == lives
        and each.registration.family == given.family
    } - {"", own}
    twins = {name for name, lifetime in words.items() if lifetime == lives and _differ_in_lifetime(name, own)}
    name = min(others or twins, default="")
    statement = statement_at(syntax, given.line, given.column)
    if not name or not own or statement is None:
        return None
    text = syntax.of(statement)
    at = text.find(f".{own}") + 1 if f".{own}" in text else -1
    if at < 0:
        return None
    start = statement.start_byte + len(text[:at].encode())
    return Amendment(
        start, start + len(own), FIELDS, name, f"`{context.name(service.implementation)}` is registered as {lives}"
    )


def _differ_in_lifetime(name: str, own: str) -> bool:
    """Whether two calls have the same name but for the word of a lifetime."""
    words = ("Singleton", "Scoped", "Transient")
    plain = [next((each.replace(word, "") for word in words if word in each), "") for each in (name, own)]
    return bool(plain[0]) and plain[0] == plain[1]


def _called(context: PlanContext, file: int, line: int, column: int, words: Collection[str]) -> str:
    """The name of the registering call that stands at a place, where others that are chained to it begin, too."""
    sites = context.codebase.content(file).sites
    return next(
        (
            each.name
            for each in sites
            if each.kind == "call"
            and (not words or each.name in words)
            and (each.place.line, each.place.column) == (line, column)
        ),
        "",
    )
