"""Errors that reach the boundary, and that nobody on the way handles."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator
from functools import cached_property
from typing import NamedTuple

from isodesm.diagnosis.shared.findings import Finding
from isodesm.diagnosis.shared.reach import reached
from isodesm.diagnosis.shared.reporting import Report, Words
from isodesm.diagnosis.shared.views import is_view
from isodesm.inference.evidence import SHAPE, is_start
from isodesm.inference.roles import Roles
from isodesm.linking.bonds import KIND_NUMBER, OWN_CALL
from isodesm.linking.remembering import remembered
from isodesm.linking.symbols import simple_name

HOPS = 4
"""Calls over which an error is followed from where it is thrown to the boundary."""
MOST_IMPLEMENTATIONS = 8
_CATCH_ALL = re.compile(
    rb"\bexcept\s*:|\bcatch\s*\{|\bcatch\s*\(\s*+\w*+\s*+\)|\.catch\s*\(|\bcatch\s*\(\s*\\?(?:Throwable|\w*Exception|Error)\b"
)
"""Handlers that take any error, as the languages spell them."""
_MISTAKES = frozenset(
    "IllegalArgumentException IllegalStateException NullPointerException IndexOutOfBoundsException "
    "UnsupportedOperationException "
    "ClassCastException ArithmeticException AssertionError InternalError VirtualMachineError ArgumentException "
    "ArgumentNullException "
    "InvalidOperationException ProgrammingError NotSupportedException NotImplementedException LogicException "
    "NotImplementedError "
    "TypeError AssertError "
    "RangeError".split()
)
"""Standard errors that say that the program is wrong, not that something went wrong; heirs of them included."""
_ANY_ERROR = frozenset(("Exception", "Throwable", "Error", "BaseException", "RuntimeException"))


Node = tuple[int, int]
"""(type, member index)."""


class _Escape(NamedTuple):
    """An error on its way out: the class of the error, where it was thrown, and the row of the last call on the way."""

    error: int
    thrown: int
    call: int


def unguarded_errors(report: Report) -> Iterator[Finding]:
    """`unguarded-error`: one finding for each boundary class and error class, at the call that lets it through."""
    errors = _Errors(report)
    if errors.handled_by_host or not errors.boundary:
        return
    seen: set[tuple[int, int]] = set()
    for node, escape in errors.arrivals():
        source, error = node[0], escape.error
        if (source, error) in seen:
            continue
        seen.add((source, error))
        table = report.codebase.bonds
        thrower = table.source[escape.thrown]
        name, thrown_by = report.name(source), report.name(thrower)
        starts = report.codebase.roles.name(source) == "composition-root"
        yield report.finding(
            "unguarded-error",
            "warning",
            source,
            report.at_row(escape.call),
            Words(
                f"`{name}` lets `{report.name(error)}` through, which `{thrown_by}` throws.",
                "Nobody on the way handles it, so "
                + ("the program ends with it." if starts else "whoever asked gets a crash instead of an answer."),
                f"Handle `{report.name(error)}` in `{name}`{'' if starts else ', or in one handler for all boundary classes'}, "
                "and say what went wrong.",
            ),
            member=table.text_of("member", escape.call),
            target=error,
            row=escape.call,
            related=[report.at_row(escape.thrown).related(f"`{thrown_by}` throws it")],
        )


class _Errors:
    """Follows the tree's own errors from where they are thrown, against the calls, until somebody handles them."""

    def __init__(self, report: Report) -> None:
        self.report, self.codebase, self.roles = report, report.codebase, report.codebase.roles
        self.table = self.codebase.bonds

    @cached_property
    def boundary(self) -> frozenset[int]:
        """Production classes that outsiders call: presentation by more than their name, and no views; and what starts a
        program."""
        return frozenset(
            number
            for number in range(len(self.report.symbols))
            if self.report.is_production(number)
            and (self._starts(number) or (self.roles.name(number) == "presentation" and self._answers(self.roles, number)))
        )

    def _starts(self, number: int) -> bool:
        """Whether a class, and no module, starts the program: what it lets through ends that."""
        return (
            self.roles.name(number) == "composition-root"
            and not self.report.symbols.is_module(number)
            and any(map(is_start, self.report.symbols.types[number].members))
        )

    def _answers(self, roles: Roles, number: int) -> bool:
        """Whether it is known by more than a name, or lies in the presentation layer; visual parts of a toolkit answer
        nobody."""
        if is_view(self.report, number):
            return False
        shown = any(each.role == "presentation" and each.strength >= SHAPE for each in roles[number].evidence)
        return shown or self.codebase.layers.name(number) == "presentation"

    @cached_property
    def handled_by_host(self) -> bool:
        """Whether some class handles errors for all boundary classes."""
        for facts in self.report.symbols.files:
            handlers = self.report.symbols.catalogues.of(facts.language).error_handlers
            for declared in facts.types:
                names = {simple_name(each.name) for each in declared.modifiers.annotations}
                names.update(simple_name(a.name) for member in declared.members for a in member.modifiers.annotations)
                if names.intersection(handlers.annotations) or declared.name in handlers.names:
                    return True
        bases = {
            name
            for language in {f.language for f in self.report.symbols.files}
            for name in self.report.symbols.catalogues.of(language).error_handlers.bases
        }
        if any(base in bases for found in self.roles.external_bases.values() for base in found):
            return True
        calls = {
            name
            for language in {f.language for f in self.report.symbols.files}
            for name in self.report.symbols.catalogues.of(language).error_handlers.calls
        }
        return bool(calls) and any(
            self.table.names.strings[self.table.callee[row]] in calls for row in self.table.rows_of_kind("call", "static-call")
        )

    @cached_property
    def thrown(self) -> dict[Node, list[tuple[int, int]]]:
        """Member that something at the boundary leads to, to (error class of the tree, row) of what it throws itself."""
        found: dict[Node, list[tuple[int, int]]] = defaultdict(list)
        for row in self.table.rows_of_kind("creation"):
            source, target, member = self.table.source[row], self.table.target[row], self.table.source_member[row]
            if target >= 0 and (source, member) in self.callers and self._is_news(target) and self.report.is_production(source):
                if self.roles.name(source) not in ("presentation", "exception"):
                    site = self.codebase.content(self.table.file[row]).sites
                    inside = site[self.table.site[row]].inside
                    if inside >= 0 and site[inside].kind == "throw":
                        found[source, member].append((target, row))
        return found

    @remembered
    def _is_news(self, target: int) -> bool:
        """Whether a class is an error that callers should reckon with, and no sign of a mistake in the program."""
        if self.roles.name(target) != "exception":
            return False
        line = self.roles.ancestors(target)
        names = {self.report.symbols.types[each].name for each in line}
        names.update(simple_name(base) for each in line for base in self.roles.external_bases.get(each, ()))
        return not names.intersection(_MISTAKES)

    @cached_property
    def callers(self) -> dict[Node, list[tuple[Node, int]]]:
        """Member to the (member, row) that call it, in order of rows, of those that members at the boundary lead to: errors of
        others never get there. What a call may mean is the named member, or one that implements it."""
        found: dict[Node, list[tuple[Node, int]]] = defaultdict(list)
        types = self.report.symbols.types
        starts = [(number, index) for number in self.boundary for index in range(len(types[number].members))]
        for caller in reached(lambda caller: [node for node, _ in self._called(caller)], starts).union(starts):
            for node, row in self._called(caller):
                found[node].append((caller, row))
        for calls in found.values():
            calls.sort(key=lambda call: call[1])
        return found

    @remembered
    def _called(self, caller: Node) -> list[tuple[Node, int]]:
        """The members that a member may call, each with the row of the call."""
        table = self.table
        rows = self._calls_of(caller[0]).get(caller[1], ())
        return [(node, row) for row in rows for node in self._meant(table.target[row], table.text_of("callee", row))]

    @remembered
    def _calls_of(self, number: int) -> dict[int, list[int]]:
        """Index of each member of a type to the rows of its calls of members of the tree."""
        kinds, table = (KIND_NUMBER["call"], KIND_NUMBER["static-call"], OWN_CALL), self.table
        found: dict[int, list[int]] = defaultdict(list)
        for row in table.rows_of_source(number):
            if table.kind[row] in kinds and table.target[row] >= 0 and table.source_member[row] >= 0:
                found[table.source_member[row]].append(row)
        return found

    @remembered
    def _meant(self, target: int, name: str) -> list[Node]:
        members = self.report.symbols.members
        below = self.roles.implementers.get(target, ()) if self.report.symbols.types[target].is_abstract else ()
        candidates = [*self.roles.ancestors(target), *(below if len(below) <= MOST_IMPLEMENTATIONS else ())]
        return [
            (each, index) for each in candidates for index, member in members(each).get(name, ()) if member.kind == "method"
        ]

    @cached_property
    def _caught(self) -> dict[Node, set[int]]:
        """Member to the targets of its handlers."""
        found: dict[Node, set[int]] = defaultdict(set)
        for row in self.table.rows_of_kind("catch"):
            found[self.table.source[row], self.table.source_member[row]].add(self.table.target[row])
        return found

    def handles(self, node: Node, error: int) -> bool:
        """Whether a member has a handler for an error, or for any."""
        line = set(self.roles.ancestors(error))
        bases = {simple_name(base) for each in line for base in self.roles.external_bases.get(each, ())}
        for target in self._caught.get(node, ()):
            if target in line:
                return True
            name = simple_name(self.codebase.target_name(target)) if target < 0 and target > -(2**31) else ""
            if name and (name in bases or name in _ANY_ERROR):
                return True
        part, local = self.report.symbols.origin(*node)
        member = self.report.symbols.types[node[0]].members[node[1]]
        text = self.codebase.text(self.report.symbols.file_of[part])
        return _CATCH_ALL.search(text, *(member.body if member.body != (0, 0) else member.whole)) is not None

    def arrivals(self) -> Iterator[tuple[Node, _Escape]]:
        """(boundary member, error) for each error that gets there, the nearest first."""
        if not self.boundary:
            return
        frontier = [
            (node, _Escape(error, row, row))
            for node in sorted(self.thrown)
            for error, row in self.thrown[node]
            if not self.handles(node, error)
        ]
        seen: set[tuple[Node, int]] = {(node, escape.error) for node, escape in frontier}
        for _ in range(HOPS):
            following = []
            for node, escape in frontier:
                for caller, row in self.callers.get(node, ()):
                    if (caller, escape.error) in seen or not self.report.is_production(caller[0]):
                        continue
                    seen.add((caller, escape.error))
                    if self.handles(caller, escape.error):
                        continue
                    moved = escape._replace(call=row)
                    if caller[0] in self.boundary and node[0] not in self.boundary:
                        yield caller, moved
                    else:
                        following.append((caller, moved))
            frontier = following
