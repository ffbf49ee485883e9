"""What one more class behind an abstraction touches: the places that know its siblings, and would have to know it, too."""

from __future__ import annotations

from collections import defaultdict

from isodesm.codebase.model import Codebase

Sibling = tuple[str, str, int, tuple[str, ...], str]
"""Who knows them, file, line of the first, their names, and how: `creates` or `registers`."""


def places_of_siblings(codebase: Codebase, number: int) -> list[Sibling]:
    """Members and files in which classes behind an abstraction are created or registered, in order; none for a class that
    stands for itself."""
    symbols, wiring, table = codebase.symbols, codebase.wiring, codebase.bonds
    if not symbols.types[number].is_abstract:
        return []
    below = {each for each in codebase.roles.implementers.get(number, ()) if symbols.is_shown(each)}
    known: dict[tuple[str, str, str], dict[str, int]] = defaultdict(dict)
    for row in table.rows_of_kind("creation"):
        source, heir = table.source[row], table.target[row]
        if heir not in below or source in below or codebase.roles.name(source) == "test":
            continue
        member = table.text_of("member", row)
        who = f"{symbols.names[source]}.{member}" if member else symbols.names[source]
        file = symbols.files[table.file[row]].path
        known[who, file, "creates"].setdefault(symbols.types[heir].name, table.line[row])
    for heir in sorted(below):
        for service in wiring.by_implementation.get(heir, ()):
            given = service.registration
            if given.how != "annotation" and not wiring.is_of_test(service):
                known[given.file, given.file, "registers"].setdefault(symbols.types[heir].name, given.line)
    return [
        (who, file, min(found.values()), tuple(sorted(found)), how)
        for (who, file, how), found in sorted(known.items(), key=lambda each: each[0])
    ]
