"""Who creates a class, and where."""

from __future__ import annotations

from collections import defaultdict

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.inference.programs import scripts_of


class Creator(msgspec.Struct, frozen=True):
    """A place that creates a class; `root` says that this is its job."""

    source: int
    file: int
    line: int
    site: int
    root: bool
    test: bool
    row: int = -1
    """Row of its bond."""


def creators_of(codebase: Codebase) -> dict[int, list[Creator]]:
    """Class to the places that create it."""
    table, roles, symbols = codebase.bonds, codebase.roles, codebase.symbols
    scripts, found = scripts_of(symbols, table), defaultdict(list)
    for row in table.rows_of_kind("creation"):
        source, target, member = table.source[row], table.target[row], table.source_member[row]
        if target < 0:
            continue
        declared = symbols.types[source]
        starts = member >= 0 and declared.members[member].name in ("main", "Main") and declared.members[member].is_static
        role = roles.name(source)
        starts = starts or (member < 0 and source in scripts)
        root = role == "composition-root" or (starts and role != "test")
        place = {"file": table.file[row], "line": table.line[row], "site": table.site[row], "row": row}
        found[target].append(Creator(source=source, root=root, test=role == "test", **place))
    return found
