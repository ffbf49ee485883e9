"""`isodesm export`."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import TYPE_CHECKING, Annotated

import typer

from isodesm.cli.options import Reading, reads_tree
from isodesm.cli.run import check_choice, end_strictly, hand_out_chunks, read_codebase

if TYPE_CHECKING:
    from isodesm.codebase.model import Codebase

FORMATS = {
    "bonds": ("jsonl", "csv"),
    "types": ("jsonl", "csv"),
    "registrations": ("jsonl", "csv"),
    "graph": ("graphml", "dot"),
    "schema": ("json",),
}
"""What can be exported, and the formats of each, the usual one first."""


@reads_tree
def export(
    reading: Reading,
    what: Annotated[str, typer.Argument(help="bonds, types, registrations, graph or schema.", metavar="WHAT")],
    format: Annotated[str, typer.Option("--format", help="jsonl or csv; for the graph graphml or dot.", metavar="FORMAT")] = "",
    kind: Annotated[
        list[str] | None, typer.Option("--kind", help="Only bonds of this kind; may be repeated.", metavar="KIND")
    ] = None,
) -> None:
    """Give me the data: bonds, declared types, registrations, the graph of classes, or the JSON Schema of all outputs."""
    from isodesm.linking.bonds import KINDS

    check_choice("What to export:", what, FORMATS)
    form = check_choice("--format", format or FORMATS[what][0], FORMATS[what])
    for each in kind or ():
        check_choice("--kind", each, KINDS)
    if what == "schema":
        from isodesm.output.schema import schema_document

        hand_out_chunks([schema_document()], reading.output)
        return
    codebase = read_codebase(reading)
    hand_out_chunks(_chunks(what, codebase, form, frozenset(kind or ())), reading.output)
    end_strictly(reading, bool(codebase.trouble))


def _chunks(what: str, codebase: Codebase, form: str, kinds: frozenset[str]) -> Iterable[bytes] | Iterator[bytes]:
    if what == "bonds":
        from isodesm.output.bonds import bond_chunks

        return bond_chunks(codebase, form, kinds)
    if what == "graph":
        from isodesm.output.graph import graph_chunks

        return graph_chunks(codebase, form, kinds)
    from isodesm.inference.registrations import Registration
    from isodesm.output.types import TypeRecord, record_chunks, type_records

    if what == "types":
        return record_chunks(type_records(codebase), TypeRecord, form)
    return record_chunks(codebase.registrations, Registration, form)
