"""Where a program is entered from outside: mains, handlers, commands, jobs."""

from __future__ import annotations

import re
from collections.abc import Iterator

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.form.two_jobs import is_view
from isodesm.diagnosis.shared.reporting import Report
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
    declared, codebase = report.symbols.types[number], report.codebase
    role = codebase.roles[number]
    answers = (
        role.name == "presentation"
        and not is_view(report, number)
        and (
            any(each.role == "presentation" and each.strength >= SHAPE for each in role.evidence)
            or codebase.layers.name(number) == "presentation"
        )
    )
    told = codebase.symbols.catalogues.of(codebase.symbols.files[codebase.symbols.file_of[number]].language).entries
    run = {
        member: base
        for base in map(simple_name, codebase.roles.external_bases.get(number, ()))
        for member in told.bases.get(base.partition("<")[0], ())
    }
    works = declared.name.endswith(WORK) and declared.kind == "class" and not declared.is_abstract
    for index, member in enumerate(declared.members):
        if member.kind != "method" or member.body == (0, 0) or member.is_private:
            continue
        if is_start(member) or (member.name == "main" and report.symbols.is_module(number)):
            yield 0, index, "starts the program"
        elif mark := next((each for each in member.modifiers.annotations if simple_name(each.name) in told.marks), None):
            route = _ROUTE.match(mark.arguments)
            what = told.marks[simple_name(mark.name)]
            yield 1 if "route" in what else 2, index, f"{what}{f' {route.group(1)}' if route else ''}"
        elif member.name in run:
            yield 2, index, f"is run by a host: its base {run[member.name]}"
        elif report.symbols.is_module(number) and member.name in told.functions:
            yield 2, index, "is run by a host: a function"
        elif answers and not member.is_static and _is_open(member):
            yield 1, index, "answers outsiders"
        elif works and member.name in RUNS:
            yield 2, index, f"is run by a host: a {next(each for each in WORK if declared.name.endswith(each)).lower()}"


def _is_open(member: Member) -> bool:
    """Whether outsiders call a member: not an accessor, nor one of every object's."""
    return (
        member.name not in _LIFE
        and not member.name.startswith("_" if not member.name.startswith("__invoke") else "\0")
        and "protected" not in member.modifiers.words
    )
