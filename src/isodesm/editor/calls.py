"""Who calls a member, and whom it calls, through what stands behind interfaces as well."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from typing import Any

from isodesm.editor.places import range_of
from isodesm.editor.seen import Seen, once
from isodesm.linking.bonds import KIND_NUMBER, OWN_CALL

CALLS = frozenset((KIND_NUMBER["call"], KIND_NUMBER["static-call"], KIND_NUMBER["creation"], OWN_CALL))
Node = tuple[int, int]
_KINDS = {"constructor": 9, "field": 8, "property": 7}


def item(seen: Seen, node: Node) -> dict[str, Any]:
    """A class (member -1: its construction) or member as the protocol has it."""
    number, member = node
    declared = seen.codebase.symbols.types[number]
    path, where = range_of(seen, number, member)
    one = declared.members[member] if member >= 0 else None
    return {
        "name": f"{declared.name}.{one.name}" if one is not None else declared.name,
        "kind": _KINDS.get(one.kind, 6) if one is not None else 5,
        "detail": seen.codebase.roles.name(number),
        "path": path,
        "range": where,
        "selectionRange": where,
        "data": {"number": number, "member": member},
    }


def incoming(seen: Seen, node: Node) -> list[dict[str, Any]]:
    """The members that call one, be it on an interface behind which it stands."""
    places: dict[Node, list[int]] = defaultdict(list)
    table = seen.codebase.bonds
    for key in dict.fromkeys(_known_as(seen, node)):
        for row in _rows(seen).get(key, ()):
            if (table.source[row], table.source_member[row]) != node:
                places[table.source[row], table.source_member[row]].append(row)
    return [
        {"from": item(seen, caller), "fromRanges": _ranges(seen, rows, seen.codebase.symbols.file_of[caller[0]])}
        for caller, rows in sorted(places.items(), key=lambda each: (seen.codebase.symbols.names[each[0][0]], each[0][1]))
    ]


def outgoing(seen: Seen, node: Node) -> list[dict[str, Any]]:
    """The members that one calls; of an interface those of the classes behind it, too."""
    table = seen.codebase.bonds
    places: dict[Node, list[int]] = defaultdict(list)
    for row in table.rows_of_source(node[0]):
        if table.source_member[row] == node[1] and table.kind[row] in CALLS and table.target[row] >= 0:
            for called in _called(seen, row):
                places[called].append(row)
    file = seen.codebase.symbols.file_of[node[0]]
    return [
        {"to": item(seen, called), "fromRanges": _ranges(seen, rows, file)}
        for called, rows in sorted(places.items(), key=lambda each: (seen.codebase.symbols.names[each[0][0]], each[0][1]))
    ]


@once
def _rows(seen: Seen) -> dict[tuple[int, str], list[int]]:
    """Target and name of the member (`<init>`: made) to the rows of calls."""
    table, found = seen.codebase.bonds, defaultdict(list)
    for row, (kind, target) in enumerate(zip(table.kind, table.target, strict=True)):
        if target >= 0 and kind in CALLS:
            name = "<init>" if kind == KIND_NUMBER["creation"] else table.text_of("callee", row)
            found[target, name].append(row)
    return found


def _known_as(seen: Seen, node: Node) -> Iterator[tuple[int, str]]:
    """The types and names by which a member is called: its own class, its bases, and those that inherit it."""
    number, member = node
    roles, symbols = seen.codebase.roles, seen.codebase.symbols
    one = symbols.types[number].members[member] if member >= 0 else None
    if one is None or one.kind == "constructor":
        yield number, "<init>"
        return
    for base in roles.ancestors(number):
        if base == number or symbols.members(base).get(one.name):
            yield base, one.name
    for heir in roles.implementers.get(number, ()):
        if not symbols.members(heir).get(one.name):
            yield heir, one.name


def _called(seen: Seen, row: int) -> Iterable[Node]:
    table, codebase = seen.codebase.bonds, seen.codebase
    target = table.target[row]
    if table.kind[row] == KIND_NUMBER["creation"]:
        return [(target, -1)]
    name = table.text_of("callee", row)
    found = codebase.effects.declared(target, name)
    if codebase.symbols.types[target].is_abstract:
        serving = {each.implementation for each in codebase.wiring.by_abstraction.get(target, ()) if each.implementation >= 0}
        behind = serving or set(codebase.roles.implementers.get(target, ()))
        found = [*found, *(node for each in sorted(behind) for node in codebase.effects.declared(each, name))]
    return dict.fromkeys(found)


def _ranges(seen: Seen, rows: list[int], file: int) -> list[dict[str, Any]]:
    table, found = seen.codebase.bonds, []
    for row in rows:
        if table.site[row] >= 0 and table.file[row] == file:
            place = seen.codebase.content(file).sites[table.site[row]].place
            found.append(seen.lines(file).range(place.start, place.end))
    return found
