"""Makes findings that are no hard bonds: where they stand, and their ids' text."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable
from typing import NamedTuple, TypedDict, Unpack

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import Finding, Related
from isodesm.diagnosis.shared.spans import Span, span_of, span_of_line
from isodesm.inference.injection import Injection
from isodesm.inference.registrations import Registration
from isodesm.linking.bonds import KINDS
from isodesm.linking.remembering import remembered


class At(NamedTuple):
    """A place: the file and the span in it."""

    file: str
    span: Span

    def related(self, message: str) -> Related:
        """This place as the other one of a finding."""
        return Related(self.file, self.span.line, message)


class Words(NamedTuple):
    """What a finding says: what is there, why that hurts, and what helps."""

    message: str
    reason: str
    remedy: str


class Details(TypedDict, total=False):
    """What a finding has beside its words and its place; `key` tells it from others with the same class and target."""

    member: str
    target: int
    target_name: str
    why: Iterable[str]
    related: Iterable[Related]
    crossing: str
    effects: tuple[str, ...]
    excuse: str
    key: str
    row: int
    places: int


class Report:
    """Knows where things stand in the sources of a codebase."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase, self.symbols = codebase, codebase.symbols
        self._others: dict[str, bytes] = {}

    @remembered
    def between_layers(self) -> dict[tuple[int, int], list[int]]:
        """(source, target) in different layers, in order of numbers, to the rows of their bonds."""
        table, of_type = self.codebase.bonds, self.codebase.layers.of_type
        found: dict[tuple[int, int], list[int]] = defaultdict(list)
        for row, (kind, source, target) in enumerate(zip(table.kind, table.source, table.target, strict=True)):
            if kind < len(KINDS) and target >= 0 and of_type[source] != of_type[target]:
                found[source, target].append(row)
        return dict(sorted(found.items()))

    # --- places ---------------------------------------------------------------------------

    def at_type(self, number: int) -> At:
        """The name in the head of a type."""
        declared, file = self.symbols.types[number], self.symbols.file_of[number]
        return self._named(file, declared.place.start, declared.place.end, declared.name)

    def at_member(self, number: int, index: int) -> At:
        """The name of a member."""
        part, local = self.symbols.origin(number, index)
        member, file = self.symbols.types[number].members[index], self.symbols.file_of[part]
        return self._named(file, member.place.start, member.place.end, member.name)

    def at_injection(self, injection: Injection) -> At:
        """The parameter or field through which something is handed in."""
        if injection.parameter < 0:
            return self.at_member(injection.owner, injection.member)
        owner = injection.owner
        part, _ = self.symbols.origin(owner, injection.member)
        member = self.symbols.types[owner].members[injection.member]
        start = member.place.start
        end = member.body[0] if member.body[0] > start else member.place.end
        return self._named(self.symbols.file_of[part], start, end, injection.name.lstrip("$"))

    def at_row(self, row: int) -> At:
        """The place of a bond."""
        table = self.codebase.bonds
        file = table.file[row]
        if table.site[row] >= 0:
            place = self.codebase.content(file).sites[table.site[row]].place
            return At(self.symbols.files[file].path, span_of(self.codebase.text(file), place.start, place.end, table.line[row]))
        return At(self.symbols.files[file].path, span_of_line(self.codebase.text(file), table.line[row], table.column[row]))

    def at_registration(self, registration: Registration) -> At:
        """The place of a registration, in source or in a definition file."""
        number = self.codebase.wiring.file_numbers.get(registration.file, -1)
        text = self.codebase.text(number) if number >= 0 else self._text(registration.file)
        return At(registration.file, span_of_line(text, registration.line, registration.column))

    def at_line(self, file: str, line: int) -> At:
        """A line of a file that is no source."""
        return At(file, span_of_line(self._text(file), line))

    def _text(self, path: str) -> bytes:
        if path not in self._others:
            try:
                self._others[path] = self.codebase.read_file(path)
            except OSError:
                self._others[path] = b""
        return self._others[path]

    def _named(self, file: int, start: int, end: int, name: str) -> At:
        text = self.codebase.text(file)
        found = re.compile(rb"(?<![\w$])" + re.escape(name.encode()) + rb"(?!\w)").search(text, start, end) if name else None
        first, last = found.span() if found else (start, min(end, start + 1))
        return At(self.symbols.files[file].path, span_of(text, first, last))

    # --- findings -------------------------------------------------------------------------

    def finding(self, kind: str, level: str, source: int, at: At, words: Words, **details: Unpack[Details]) -> Finding:
        """A finding about the class `source`."""
        target, member = details.get("target", -1), details.get("member", "")
        name = details.get("target_name", "") or (self.symbols.names[target] if target >= 0 else "")
        return Finding(
            id="\x1f".join((kind, self.symbols.names[source], member, name, details.get("key", ""))),
            kind=kind,
            level=level,
            message=words.message,
            source=self.symbols.names[source],
            member=member,
            target=name,
            file=at.file,
            line=at.span.line,
            column=at.span.column,
            end_line=at.span.line,
            end_column=at.span.end_column,
            snippet=at.span.snippet,
            why=tuple(details.get("why", ())),
            remedy=words.remedy,
            reason=words.reason,
            layer=self.codebase.layers.name(source),
            crossing=details.get("crossing", ""),
            effects=details.get("effects", ()),
            external=target < 0,
            related=tuple(details.get("related", ())),
            excuse=details.get("excuse", ""),
            source_number=source,
            target_number=target,
            row=details.get("row", -1),
            places=details.get("places", 1),
        )

    def name(self, number: int) -> str:
        """The simple name of a type."""
        return self.symbols.types[number].name or self.symbols.names[number]

    @remembered
    def is_production(self, number: int) -> bool:
        """Whether a type is neither test nor generated code, and has a name of its own."""
        return (
            self.symbols.is_shown(number)
            and self.codebase.roles.name(number) != "test"
            and not self.symbols.is_generated(number)
        )
