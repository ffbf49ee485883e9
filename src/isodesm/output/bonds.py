"""`export bonds`: one bond a line, as JSON Lines or CSV, streamed."""

from __future__ import annotations

from collections.abc import Iterator

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.linking.bonds import AMBIGUOUS, CONTEXTS, KINDS, Bond
from isodesm.output.cells import csv_lines

FLUSH_ROWS = 4000
"""Rows gathered before they are written: few system calls, little memory."""


def bond_chunks(codebase: Codebase, form: str, kinds: frozenset[str]) -> Iterator[bytes]:
    """The bonds of the given kinds (none: all) in order of file, line, column and kind, in `jsonl` or `csv`."""
    rows = codebase.rows_in_order()
    if kinds:
        wanted = {KINDS.index(kind) for kind in kinds}
        rows = [row for row in rows if codebase.bonds.kind[row] in wanted]
    yield from _json_lines(codebase, rows) if form == "jsonl" else _csv(codebase, rows)


def _json_lines(codebase: Codebase, rows: list[int]) -> Iterator[bytes]:
    table, names = codebase.bonds, codebase.symbols.names
    strings, paths = table.names.strings, [facts.path for facts in codebase.symbols.files]
    encoder = msgspec.json.Encoder()
    for start in range(0, len(rows), FLUSH_ROWS):
        chunk = [
            Bond(
                source=names[table.source[row]],
                member=strings[table.member[row]],
                kind=KINDS[table.kind[row]],
                target=codebase.target_name(table.target[row]),
                target_member=table.target_member(row),
                external=table.target[row] < 0,
                ambiguous=bool(table.flags[row] & AMBIGUOUS),
                text=strings[table.text[row]],
                context=CONTEXTS[table.context[row]],
                file=paths[table.file[row]],
                line=table.line[row],
                column=table.column[row],
            )
            for row in rows[start : start + FLUSH_ROWS]
        ]
        yield encoder.encode_lines(chunk)


def _csv(codebase: Codebase, rows: list[int]) -> Iterator[bytes]:
    yield csv_lines([Bond.__struct_fields__])
    for start in range(0, len(rows), FLUSH_ROWS):
        yield csv_lines(msgspec.structs.astuple(codebase.bond(row)) for row in rows[start : start + FLUSH_ROWS])
