"""`export types` and `export registrations`: one record a line, as JSON Lines or CSV, streamed."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.facts.records import Member
from isodesm.output.cells import csv_lines

ROWS_AT_ONCE = 1000
"""Records gathered before they are written."""


class MemberRecord(msgspec.Struct, frozen=True):
    """A member as `export types` shows it; `parameters` are name and type as written."""

    kind: str
    name: str
    type: str
    modifiers: tuple[str, ...]
    annotations: tuple[str, ...]
    parameters: tuple[tuple[str, str], ...]
    throws: tuple[str, ...]
    line: int
    statements: int
    branches: int


class TypeRecord(msgspec.Struct, frozen=True):
    """One declared type. Bases are qualified names where they are known; `parts` are further files of a type in parts."""

    name: str
    kind: str
    language: str
    file: str
    line: int
    role: str
    layer: str
    outer: str
    modifiers: tuple[str, ...]
    annotations: tuple[str, ...]
    bases: tuple[str, ...]
    generated: bool
    parts: tuple[str, ...]
    members: tuple[MemberRecord, ...]


def type_records(codebase: Codebase) -> Iterator[TypeRecord]:
    """The named types in order of file and place; modules only where they hold something."""
    symbols, bases = codebase.symbols, codebase.bases_by_type()
    for number, declared in enumerate(symbols.types):
        if not symbols.is_shown(number) or (declared.kind == "module" and not declared.members):
            continue
        facts = symbols.files[symbols.file_of[number]]
        outer = symbols.outer(number)
        yield TypeRecord(
            name=symbols.names[number],
            kind=declared.kind,
            language=facts.language,
            file=facts.path,
            line=declared.place.line,
            role=codebase.roles.name(number),
            layer=codebase.layers.name(number),
            outer=symbols.names[outer] if outer >= 0 else "",
            modifiers=declared.modifiers.words,
            annotations=tuple(each.name for each in declared.modifiers.annotations),
            bases=tuple(bases.get(number, ())),
            generated=facts.generated,
            parts=tuple(symbols.path(each) for each in symbols.parts.get(number, ())[1:]),
            members=tuple(map(_member, declared.members)),
        )


def _member(member: Member) -> MemberRecord:
    return MemberRecord(
        kind=member.kind,
        name=member.name,
        type=member.type,
        modifiers=member.modifiers.words,
        annotations=tuple(each.name for each in member.modifiers.annotations),
        parameters=tuple((each.name, each.type) for each in member.parameters),
        throws=member.throws,
        line=member.place.line,
        statements=member.statements,
        branches=member.branches,
    )


def record_chunks(records: Iterable[msgspec.Struct], kind: type[msgspec.Struct], form: str) -> Iterator[bytes]:
    """Records of one kind as `jsonl` or `csv`; in a table, a list is its length or its parts joined by spaces."""
    gathered: list[msgspec.Struct] = []
    if form == "csv":
        yield csv_lines([kind.__struct_fields__])
    for record in records:
        gathered.append(record)
        if len(gathered) == ROWS_AT_ONCE:
            yield _encoded(gathered, form)
            gathered = []
    if gathered:
        yield _encoded(gathered, form)


def _encoded(records: list[msgspec.Struct], form: str) -> bytes:
    if form == "jsonl":
        return msgspec.json.Encoder().encode_lines(records)
    return csv_lines([[_cell(value) for value in msgspec.structs.astuple(record)] for record in records])


def _cell(value: object) -> object:
    if not isinstance(value, tuple):
        return value
    return len(value) if value and isinstance(value[0], msgspec.Struct) else " ".join(map(str, value))
