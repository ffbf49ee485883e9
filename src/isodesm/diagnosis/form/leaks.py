"""What of the transport and presentation side leaks inwards: types in signatures, answers that services give themselves."""

from __future__ import annotations

import re
from collections.abc import Iterator

from isodesm.diagnosis.shared.findings import Finding
from isodesm.diagnosis.shared.reporting import Report, Words
from isodesm.diagnosis.shared.views import is_view, works_on_screen
from isodesm.facts.records import Member
from isodesm.inference.evidence import SHAPE
from isodesm.linking.bonds import KIND_NUMBER
from isodesm.linking.symbols import simple_name

INNER = frozenset(("service", "gateway", "repository"))
"""Roles that should not know of the boundary."""
SIGNATURES = {KIND_NUMBER["parameter"]: "takes", KIND_NUMBER["return"]: "returns", KIND_NUMBER["throws"]: "throws"}
BODIES = {KIND_NUMBER["creation"]: "makes", KIND_NUMBER["static-call"]: "asks", KIND_NUMBER["call"]: "calls"}
REQUESTS = frozenset(("request", "req"))
_ANSWER = re.compile(r"Http|HTTP|Response|Header|Cookie|Session|Output")
_STATUS = re.compile(
    rb"return\s+(?:\[|array\s*\(|\{|\(\s*\{|new\s*\{)[^;{}\[\]]{0,200}?"
    rb"[\"']?(?<![\w])status(?:_?code)?[\"']?\s*(?:=>|:|=)\s*[1-5]\d\d(?!\d)",
    re.IGNORECASE,
)
"""An answer to a request, as a table with its status."""


def leaked_boundary_types(report: Report) -> Iterator[Finding]:
    """`leaked-boundary-type`: one finding for each class and type, at the first signature or call that names it; one for each
    class that answers in tables."""
    table, seen = report.codebase.bonds, set[tuple[int, str]]()
    for found in (SIGNATURES, BODIES):
        for row, kind in enumerate(table.kind):
            if kind not in found or (found is BODIES and table.target[row] >= 0):
                continue
            if finding := _leak(report, row, found[kind], seen):
                yield finding
    yield from _tables(report)


def _leak(report: Report, row: int, verb: str, seen: set[tuple[int, str]]) -> Finding | None:
    codebase, table = report.codebase, report.codebase.bonds
    source, target, index = table.source[row], table.target[row], table.source_member[row]
    if index < 0 or not _is_inner(report, source):
        return None
    inside = verb in BODIES.values()
    function = table.text_of("callee", row) if verb == "calls" else ""
    if verb == "calls" and not function:
        return None
    other = function or simple_name(codebase.target_name(target))
    member = report.symbols.types[source].members[index]
    leaks = _leaks_inside(report, row, function) if inside else _leaks_in_signature(report, row, member)
    if not leaks or (source, other) in seen:
        return None
    seen.add((source, other))
    if verb == "makes" and _is_thrown(report, row):
        verb = "throws"
    name, member_name = report.name(source), member.name if member.kind == "method" else "constructor"
    what = f"`{other}`, a type of the {'presentation' if target >= 0 else 'transport'} side"
    said = f"`{other}`, which writes into the answer to a request" if function else what
    return report.finding(
        "leaked-boundary-type",
        "warning",
        source,
        report.at_row(row) if inside else report.at_member(source, index),
        Words(
            f"`{name}.{member_name}` {verb} {said}.",
            f"`{name}` can't be used without that side: not from a job, not from another entrance, not from a plain test.",
            _remedy(name, other, verb, inside=inside),
        ),
        member=member.name,
        target=max(target, -1),
        target_name=other if function else codebase.target_name(target),
        row=row,
    )


def _leaks_in_signature(report: Report, row: int, member: Member) -> bool:
    table = report.codebase.bonds
    open_member = not member.is_private and member.kind in ("method", "constructor")
    return open_member and _is_boundary_type(report, table.source[row], table.target[row])


def _leaks_inside(report: Report, row: int, function: str) -> bool:
    """Whether a body makes or asks what belongs to the transport, or calls a function that writes into an answer; the rows are
    of what lies outside the tree."""
    table = report.codebase.bonds
    source, target = table.source[row], table.target[row]
    if _handles_requests(report, source):
        return False
    return _answers_request(report, row, function) if function else _is_boundary_type(report, source, target)


def _is_thrown(report: Report, row: int) -> bool:
    table = report.codebase.bonds
    sites, site = report.codebase.content(table.file[row]).sites, table.site[row]
    around = sites[site].inside if site >= 0 else -1
    return around >= 0 and sites[around].kind == "throw"


def _remedy(name: str, other: str, verb: str, *, inside: bool) -> str:
    if not inside:
        return f"Let the boundary class turn `{other}` into plain values or an object of `{name}`'s own, and back."
    if verb == "throws":
        return f"Throw an error of the domain, and let the boundary class answer with `{other}`."
    answer = "call" if verb == "calls" else "answer with"
    return f"Let `{name}` give back what it found, and the boundary class {answer} `{other}`."


def _answers_request(report: Report, row: int, function: str) -> bool:
    """Whether a call is of a function outside that writes into the answer to a request."""
    table, symbols = report.codebase.bonds, report.symbols
    language = symbols.files[table.file[row]].language
    return table.target[row] < 0 and function in symbols.catalogues.of(language).boundary.members.split()


def _tables(report: Report) -> Iterator[Finding]:
    """Services that return an answer to a request, as a table with its status."""
    for number, declared in enumerate(report.symbols.types):
        if report.codebase.roles.name(number) != "service" or not _is_inner(report, number):
            continue
        for index, member in enumerate(declared.members):
            if member.kind != "method" or member.body == (0, 0):
                continue
            part, _ = report.symbols.origin(number, index)
            if _STATUS.search(report.codebase.text(report.symbols.file_of[part]), *member.body) is None:
                continue
            name = report.name(number)
            yield report.finding(
                "leaked-boundary-type",
                "warning",
                number,
                report.at_member(number, index),
                Words(
                    f"`{name}.{member.name}` returns an answer to a request: a table with its `status`.",
                    "Whoever else calls it, a job or another entrance, has to know what the numbers of a transport mean.",
                    "Return what was found, or throw an error of the domain, and let the boundary class choose the status.",
                ),
                member=member.name,
                key="status",
                why=["answers-in-tables"],
            )
            break


def _is_inner(report: Report, number: int) -> bool:
    layer, role = report.codebase.layers.name(number), report.codebase.roles[number]
    if role.evidence[0].strength < SHAPE and layer not in ("application", "domain"):
        return False
    return role.name in INNER and layer not in ("presentation", "shared") and report.is_production(number)


def _handles_requests(report: Report, number: int) -> bool:
    """Whether a class is there for requests or answers itself, by what its members take or by its name."""
    if _ANSWER.search(report.name(number)):
        return True
    names = (each.name for member in report.symbols.types[number].members for each in member.parameters)
    return any(name.lower().lstrip("$_") in REQUESTS for name in names)


def _is_boundary_type(report: Report, source: int, target: int) -> bool:
    codebase = report.codebase
    language = report.symbols.files[report.symbols.file_of[source]].language
    if target < 0:
        return target > -(2**31) and report.symbols.catalogues.is_boundary(codebase.target_name(target), language)
    if report.symbols.path(source).rpartition("/")[0] == report.symbols.path(target).rpartition("/")[0]:
        return False  # parts of one and the same view
    role = codebase.roles[target]
    if is_view(report, source) or is_view(report, target, itself=True) or works_on_screen(report, source):
        return False
    return (
        role.name == "presentation"
        and role.evidence[0].strength >= SHAPE
        and codebase.layers.name(target) in ("", "presentation")
    )
