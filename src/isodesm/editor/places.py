"""What stands at a place of a file: a declaration, or something of the tree that is named there."""

from __future__ import annotations

import re
from typing import NamedTuple

from isodesm.editor.seen import Seen
from isodesm.editor.text import Range


class Named(NamedTuple):
    """A class of the tree, or one of its members (-1: the class itself), and the bytes that name it."""

    number: int
    member: int
    start: int
    end: int


def named_at(seen: Seen, file: int, offset: int) -> Named | None:
    """The class or member that the text at a byte names: where it is declared, or where it is used."""
    return _declared_at(seen, file, offset) or _used_at(seen, file, offset)


def around(seen: Seen, file: int, offset: int) -> Named | None:
    """The innermost named class around a byte, with the member; None outside all classes."""
    symbols = seen.codebase.symbols
    best: Named | None = None
    first = symbols.first[file]
    for index, declared in enumerate(symbols.files[file].types):
        start, end = declared.place.start, max(declared.body[1], declared.place.end)
        if declared.kind in ("anonymous", "module") or not start <= offset < end:
            continue
        if best is None or end - start < best.end - best.start:
            at = next((i for i, m in enumerate(declared.members) if m.whole[0] <= offset < m.whole[1]), -1)
            number = symbols.named(first + index)
            best = Named(number, symbols.member_of_whole(first + index, at), start, end)
    return best


def name_span(seen: Seen, number: int, member: int = -1) -> tuple[int, int, int]:
    """File and bytes of the name of a class, or of one of its members."""
    symbols = seen.codebase.symbols
    part, local = symbols.origin(number, member) if member >= 0 else (number, -1)
    file = symbols.file_of[part]
    declared = symbols.own_part(part)
    one = declared.members[local] if local >= 0 else declared
    start, text = one.place.start, seen.codebase.text(file)
    name = one.name.lstrip("$")
    words = [name, declared.name, "__construct", "__init__", "constructor"] if local >= 0 else [name]
    limit = max(one.place.end, one.body[0] or 0)
    for word in words:
        found = re.compile(rb"(?<![\w$])" + re.escape(word.encode())).search(text, start, limit) if word else None
        if found is not None:
            return file, found.start(), found.end()
    return file, start, min(start + 1, len(text))


def range_of(seen: Seen, number: int, member: int = -1) -> tuple[str, Range]:
    """Path and range of the name of a class or member."""
    file, start, end = name_span(seen, number, member)
    return seen.codebase.symbols.files[file].path, seen.lines(file).range(start, end)


def _declared_at(seen: Seen, file: int, offset: int) -> Named | None:
    symbols, first = seen.codebase.symbols, seen.codebase.symbols.first[file]
    for index, declared in enumerate(symbols.files[file].types):
        whole = max(declared.body[1], declared.place.end)
        if declared.kind in ("anonymous", "module") or not declared.place.start <= offset <= whole:
            continue
        number = symbols.whole.get(first + index, first + index)
        for local in (-1, *range(len(declared.members))):
            member = symbols.member_of_whole(first + index, local)
            _, start, end = name_span(seen, number, member) if number == first + index or local >= 0 else (0, 0, 0)
            if start <= offset <= end:
                return Named(number, member, start, end)
    return None


def _used_at(seen: Seen, file: int, offset: int) -> Named | None:
    table, symbols = seen.codebase.bonds, seen.codebase.symbols
    sites = seen.codebase.content(file).sites
    best: Named | None = None
    for row in table.rows_of_file(file):
        if table.site[row] < 0 or table.target[row] < 0:
            continue
        place = sites[table.site[row]].place
        if place.start <= offset < place.end and (best is None or place.end - place.start < best.end - best.start):
            target = symbols.named(table.target[row])
            name = table.target_member(row)
            member = next((node[1] for node in seen.codebase.effects.declared(target, name)), -1) if name else -1
            owner = next((node[0] for node in seen.codebase.effects.declared(target, name)), target) if name else target
            best = Named(owner if member >= 0 else target, member, place.start, place.end)
    return best
