"""Where a program is entered from outside: mains, handlers, commands, jobs."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import NamedTuple

import msgspec

from isodesm.catalogue import EntryRules
from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.reporting import Report
from isodesm.diagnosis.shared.views import is_view
from isodesm.facts.records import Member
from isodesm.inference.evidence import SHAPE, is_start
from isodesm.linking.symbols import simple_name

WORK = ("Job", "Command", "Handler", "Task", "Worker", "Listener", "Consumer", "Function", "Round")
"""Name suffixes of classes that a host or a scheduler runs."""
RUNS = frozenset(
    (
        "run",
        "execute",
        "handle",
        "invoke",
        "__invoke",
        "process",
        "perform",
        "call",
        "main",
        "Main",
        "Run",
        "Execute",
        "Handle",
        "Tick",
    )
)
"""Names of the members that it runs."""
_ROUTE = re.compile(r"\s*(?:\w+\s*=\s*)?([\"'][^\"']*[\"'])")
"""A route or name as the first argument of a mark."""
_LIFE = frozenset(("toString", "equals", "hashCode", "dispose", "Dispose", "ngOnDestroy"))


class Entry(msgspec.Struct, frozen=True):
    """An entry point: class and member, where, and what makes it one."""

    name: str
    member: str
    file: str
    line: int
    why: str
    number: int = -1
    index: int = -1


def entry_points(codebase: Codebase) -> tuple[Entry, ...]:
    """Every entry point of production code, starts first, then what answers requests, then jobs; in order of place."""
    report = Report(codebase)
    found: list[tuple[int, Entry]] = []
    for number, declared in enumerate(codebase.symbols.types):
        if not report.is_production(number):
            continue
        for order, index, why in _of_type(report, number):
            member = declared.members[index]
            part, _ = codebase.symbols.origin(number, index)
            found.append(
                (
                    order,
                    Entry(
                        codebase.symbols.names[number],
                        member.name,
                        codebase.symbols.path(part),
                        member.place.line,
                        why,
                        number,
                        index,
                    ),
                )
            )
    found.sort(key=lambda each: (each[0], each[1].file, each[1].line))
    return tuple(entry for _, entry in found)


def _of_type(report: Report, number: int) -> Iterator[tuple[int, int, str]]:
    """(order, member, why) of the entry points of one type."""
    kind = _kind_of(report, number)
    for index, member in enumerate(report.symbols.types[number].members):
        if member.kind == "method" and member.body != (0, 0) and not member.is_private:
            if (found := _why(kind, member)) is not None:
                yield found[0], index, found[1]


class _Kind(NamedTuple):
    """What makes members of a type entry points: what the catalogue says, members that bases of a host have run, whether it
    answers outsiders, and the word for work that it ends in."""

    told: EntryRules
    run: dict[str, str]
    is_module: bool
    answers: bool
    works: str


def _kind_of(report: Report, number: int) -> _Kind:
    declared, codebase = report.symbols.types[number], report.codebase
    role, told = (
        codebase.roles[number],
        codebase.symbols.catalogues.of(codebase.symbols.files[codebase.symbols.file_of[number]].language).entries,
    )
    outward = codebase.layers.name(number) == "presentation" or any(
        each.role == "presentation" and each.strength >= SHAPE for each in role.evidence
    )
    bases = map(simple_name, codebase.roles.external_bases.get(number, ()))
    run = {member: base for base in bases for member in told.bases.get(base.partition("<")[0], ())}
    plain = declared.kind == "class" and not declared.is_abstract
    works = next((each for each in WORK if declared.name.endswith(each)), "") if plain else ""
    answers = role.name == "presentation" and outward and not is_view(report, number)
    return _Kind(told, run, report.symbols.is_module(number), answers, works)


def _why(kind: _Kind, member: Member) -> tuple[int, str] | None:
    """The order of a member among entry points, and why it is one; None for any other."""
    if is_start(member) or (member.name == "main" and kind.is_module):
        return 0, "starts the program"
    mark = next((each for each in member.modifiers.annotations if simple_name(each.name) in kind.told.marks), None)
    if mark is not None:
        route, what = _ROUTE.match(mark.arguments), kind.told.marks[simple_name(mark.name)]
        return 1 if "route" in what else 2, f"{what}{f' {route.group(1)}' if route else ''}"
    if member.name in kind.run:
        return 2, f"is run by a host: its base {kind.run[member.name]}"
    if kind.is_module and member.name in kind.told.functions:
        return 2, "is run by a host: a function"
    if kind.answers and not member.is_static and _is_open(member):
        return 1, "answers outsiders"
    return (2, f"is run by a host: a {kind.works.lower()}") if kind.works and member.name in RUNS else None


def _is_open(member: Member) -> bool:
    """Whether outsiders call a member: not an accessor, nor one of every object's."""
    return (
        member.name not in _LIFE
        and not member.name.startswith("_" if not member.name.startswith("__invoke") else "\0")
        and "protected" not in member.modifiers.words
    )
