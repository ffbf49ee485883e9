"""Four flat tables of a tree for other tools: types, bonds, findings, measures; written as Parquet, a folder a tree."""

from __future__ import annotations

from pathlib import Path
from typing import Any
from urllib.parse import quote

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import Diagnosis
from isodesm.disk.told import make_folder, write_whole
from isodesm.linking.bonds import Bond
from isodesm.measures.ranking import ORDERS, Ranking

OF_TYPES = ("name", "kind", "language", "file", "line", "role", "layer", "generated", "members")
OF_FINDINGS = (
    "id",
    "kind",
    "level",
    "source",
    "member",
    "target",
    "file",
    "line",
    "column",
    "places",
    "message",
    "reason",
    "remedy",
)
OF_CLASSES = ("name", "file", "line", "role", "layer")
FILE_NAME = "part-0.parquet"


def tables_of(codebase: Codebase, diagnosis: Diagnosis, ranking: Ranking) -> dict[str, dict[str, list[Any]]]:
    """Table to column to values, in the order in which results have them."""
    symbols = codebase.symbols
    types = [
        (
            symbols.names[number],
            declared.kind,
            symbols.files[symbols.file_of[number]].language,
            symbols.path(number),
            declared.place.line,
            codebase.roles.name(number),
            codebase.layers.name(number),
            symbols.files[symbols.file_of[number]].generated,
            len(declared.members),
        )
        for number, declared in enumerate(symbols.types)
        if symbols.is_shown(number)
    ]
    bonds = [msgspec.structs.astuple(codebase.bond(row)) for row in codebase.rows_in_order()]
    findings = [tuple(getattr(each, name) for name in OF_FINDINGS) for each in diagnosis.findings]
    measures = [
        (*(getattr(row, name) for name in OF_CLASSES), *(float(measure(row)) for measure in ORDERS.values()))
        for row in ranking.classes
    ]
    return {
        "types": _columns(OF_TYPES, types),
        "bonds": _columns(Bond.__struct_fields__, bonds),
        "findings": _columns(OF_FINDINGS, findings),
        "measures": _columns((*OF_CLASSES, *(name.replace("-", "_") for name in ORDERS)), measures),
    }


def _columns(heads: tuple[str, ...], rows: list[tuple[Any, ...]]) -> dict[str, list[Any]]:
    return {head: [row[at] for row in rows] for at, head in enumerate(heads)}


def store(folder: Path, name: str, tables: dict[str, dict[str, list[Any]]]) -> None:
    """Write the tables of a tree below a folder: `TABLE/tree=NAME/part-0.parquet`, as tools for such folders expect it."""
    import pyarrow
    from pyarrow import parquet

    for table, columns in tables.items():
        path = folder / table / f"tree={quote(name, safe='')}" / FILE_NAME
        content = pyarrow.BufferOutputStream()
        parquet.write_table(pyarrow.table(columns), content, compression="zstd")
        make_folder(path.parent)
        write_whole(path, content.getvalue().to_pybytes())
