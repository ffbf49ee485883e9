"""State that belongs to nobody: static and module-level variables that are set after start-up, superglobals."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from typing import NamedTuple

from isodesm.diagnosis.shared.findings import Finding
from isodesm.diagnosis.shared.reporting import Report
from isodesm.facts import typetext
from isodesm.facts.records import Member
from isodesm.linking.bonds import AT_SEAM, CONTEXT_NUMBER, KIND_NUMBER, STATE, WRITE

STATIC_FIELD, STATIC_CALL = KIND_NUMBER["static-field"], KIND_NUMBER["static-call"]
CALL = KIND_NUMBER["call"]
REQUEST = frozenset(("$_GET", "$_POST", "$_REQUEST", "$_COOKIE", "$_FILES", "$_SERVER", "$_SESSION"))
"""What a boundary class is there to read."""
OF_HOST = frozenset(("location", "name", "document", "status", "opener", "title", "scrollX", "scrollY", "event"))
"""Members of the host's global object that setting makes no state of one's own."""

PLAIN_TYPES = frozenset(("boolean", "bool", "int", "integer", "long", "float", "double", "byte", "short", "char", "number"))
SETTER_STATEMENTS = 3
"""Statements up to which a static method with a parameter is there to set something."""

Key = tuple[int, str]
"""(target, name of the variable)."""


class _Use(NamedTuple):
    row: int
    source: int
    writes: bool


def ambient_state(report: Report) -> Iterator[Finding]:
    """`ambient-state`: one finding for each class that reads or writes such a state, at the first place."""
    states = _States(report)
    for key in sorted(states.uses):
        target, name = key
        uses = states.uses[key]
        if target in report.codebase.locators:
            continue  # each lookup through it is reported as such
        if target < 0 and not states.is_shared(key):
            continue
        if target >= 0 and not states.is_open(key):
            if states.is_kept_by_own_class(key):
                yield _finding(report, states, key, uses[0], uses, "own-state")
            continue
        by_source: dict[int, list[_Use]] = defaultdict(list)
        for use in uses:
            if use.source != target and report.is_production(use.source):
                by_source[use.source].append(use)
        for source in sorted(by_source):
            first = next((use for use in by_source[source] if use.writes), by_source[source][0])
            yield _finding(report, states, key, first, by_source[source], _excuse(report, source, name))


def _excuse(report: Report, source: int, name: str) -> str:
    role = report.codebase.roles.name(source)
    if role == "composition-root":
        return "composition-root"
    at_boundary = role == "presentation" or report.symbols.is_module(source)
    return "boundary" if name in REQUEST and at_boundary else ""


class _States:
    """Who reads and who writes each variable."""

    def __init__(self, report: Report) -> None:
        self.report, self.symbols = report, report.symbols
        self.uses: dict[Key, list[_Use]] = defaultdict(list)
        self._setters: dict[Key, list[tuple[int, int]]] = defaultdict(list)
        table = report.codebase.bonds
        names = table.names.strings
        written = {
            (self._home(target, names[callee]), names[callee])
            for kind, target, callee in zip(table.kind, table.target, table.callee, strict=True)
            if kind == WRITE
        }
        host = -1 - table.externals.number("globalThis")
        of_host = {-1 - number for number, name in enumerate(table.externals.strings) if name in ("window", "globalThis")}
        for row, (kind, source, target, callee) in enumerate(
            zip(table.kind, table.source, table.target, table.callee, strict=True)
        ):
            if kind not in (WRITE, STATE, STATIC_FIELD):
                continue
            name = names[callee]
            key = (self._home(target, name), name)
            if target in of_host:
                key = (host, name)
            elif kind != WRITE and key not in written and not (kind == STATE and target < 0):
                continue
            if kind == WRITE and self._is_initial(row, key):
                continue
            self.uses[key].append(_Use(row, source, kind == WRITE))
            if kind == WRITE and source == key[0] and self._sets(row):
                self._setters[key].append((source, table.source_member[row]))
        self._add_callers_of_setters()

    def _home(self, target: int, name: str) -> int:
        """The type that declares a static member which is reached through a subclass."""
        if target < 0:
            return target
        return next(
            (each for each in self.report.codebase.roles.ancestors(target) if name in self.symbols.members(each)), target
        )

    def _is_initial(self, row: int, key: Key) -> bool:
        """Whether a write only gives the state its first value: while its class or module is loaded."""
        table = self.report.codebase.bonds
        context = table.context[row]
        loading = context in (
            CONTEXT_NUMBER["module"],
            CONTEXT_NUMBER["static-initializer"],
            CONTEXT_NUMBER["field-initializer"],
        )
        return loading and table.source[row] == key[0]

    def _sets(self, row: int) -> bool:
        """Whether the write is in a member that others can call with a value."""
        table = self.report.codebase.bonds
        index = table.source_member[row]
        if index < 0:
            return False
        member = self.symbols.types[table.source[row]].members[index]
        short = member.statements <= SETTER_STATEMENTS  # longer ones do a job, and set something by the way
        return member.kind == "method" and member.is_static and bool(member.parameters) and not member.is_private and short

    def _add_callers_of_setters(self) -> None:
        """Who calls a setter writes what it sets."""
        table = self.report.codebase.bonds
        keys: dict[tuple[int, str], list[Key]] = defaultdict(list)
        for key, setters in self._setters.items():
            for number, index in setters:
                keys[number, self.symbols.types[number].members[index].name].append(key)
        if not keys:
            return
        for row, kind in enumerate(table.kind):
            if kind in (STATIC_CALL, CALL) and table.target[row] >= 0 and table.source[row] != table.target[row]:
                for key in keys.get((table.target[row], table.names.strings[table.callee[row]]), ()):
                    self.uses[key].append(_Use(row, table.source[row], True))

    def _member(self, key: Key) -> Member | None:
        found = self.symbols.members(key[0]).get(key[1], ()) if key[0] >= 0 else ()
        return found[0][1] if found else None

    def is_open(self, key: Key) -> bool:
        """Whether production code outside its class sets the state after start-up, itself or through a setter."""
        member = self._member(key)
        if (
            member is None
            or member.kind not in ("field", "property")
            or (not member.is_static and not self.symbols.is_module(key[0]))
        ):
            return False
        if self._is_lent(key):
            return False
        return any(use.writes and use.source != key[0] and self.report.is_production(use.source) for use in self.uses[key])

    def is_flag(self, key: Key) -> bool:
        """Whether the state is a plain number, word or switch: reading it is a nuisance, and no more."""
        member = self._member(key)
        return member is not None and typetext.head(member.type).lower() in PLAIN_TYPES

    def _is_lent(self, key: Key) -> bool:
        """Whether the class is nested in, or around, everybody who writes it: then it is their own."""
        outermost = self._outermost(key[0])
        return all(self._outermost(use.source) == outermost for use in self.uses[key] if use.writes)

    def _outermost(self, number: int) -> int:
        while (
            not self.symbols.is_module(number)
            and (outer := self.symbols.outer(number)) >= 0
            and not self.symbols.is_module(outer)
        ):
            number = outer
        return number

    def is_kept_by_own_class(self, key: Key) -> bool:
        """Whether the state changes, but only at the hands of its own class."""
        return any(use.writes for use in self.uses[key]) and self.report.is_production(key[0])

    def is_shared(self, key: Key) -> bool:
        """Whether a global variable is one that code of this tree shares."""
        name = self.report.codebase.bonds.external(key[0])
        if name.startswith("$"):
            return True
        sources = {use.source for use in self.uses[key]}
        return (
            any(use.writes for use in self.uses[key])
            and len(sources) > 1
            and key[1] not in OF_HOST
            and not key[1].startswith("on")
        )


def _finding(report: Report, states: _States, key: Key, first: _Use, uses: list[_Use], excuse: str) -> Finding:
    target, variable = key
    symbols = report.symbols
    source = report.name(first.source)
    shown = variable if target < 0 else f"{report.name(target)}.{variable}"
    writes = any(use.writes for use in uses)
    writers = sorted({report.name(use.source) for use in states.uses[key] if use.writes and use.source != first.source})
    others = sorted({use.source for use in states.uses[key] if use.source != first.source})
    tags = ["written" if writes else "read", f"{len(others) + 1}-users"]
    elsewhere = (
        f"It is set from {', '.join(f'`{each}`' for each in writers[:3])} as well"
        if writers and writes
        else (f"It is set from {', '.join(f'`{each}`' for each in writers[:3])}" if writers else "Anything may set it")
    )
    member = report.codebase.bonds.text_of("member", first.row)
    at_seam = all(report.codebase.bonds.flags[use.row] & AT_SEAM for use in uses)  # only the default of a parameter
    return report.finding(
        "ambient-state",
        "warning" if (writes or not states.is_flag(key)) and not at_seam else "note",
        first.source,
        report.at_row(first.row),
        f"`{source}` {'sets' if writes else 'reads'} `{shown}`, which belongs to the whole program.",
        f"{elsewhere}; what `{source}` does depends on who ran before, and tests can't run side by side.",
        f"Hand the value of `{shown}` to `{source}` where it is made, and keep the state with the composition root.",
        member=member,
        target=max(target, -1),
        target_name=shown if target < 0 else symbols.names[target],
        why=tags,
        key=variable,
        related=[report.at_row(use.row).related("sets it, too") for use in _first_writes(states, key, first)],
        excuse=excuse,
        row=first.row,
    )


def _first_writes(states: _States, key: Key, first: _Use) -> list[_Use]:
    """One write for each other class, three at most."""
    found: dict[int, _Use] = {}
    for use in states.uses[key]:
        if use.writes and use.source != first.source:
            found.setdefault(use.source, use)
    return list(found.values())[:3]
