"""A first look at a file that was just changed: its hard bonds, judged by what was known of all other code before.

Worked out in a moment, for nothing is inferred anew. The numbers of rows stay: the old rows of the file are blanked, its new
ones stand at the end. What is said so is put right by the whole diagnosis, which follows.
"""

from __future__ import annotations

from copy import copy
from difflib import SequenceMatcher
from typing import Any

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.folding import folded
from isodesm.diagnosis.hard_bonds.behind import Behind
from isodesm.diagnosis.hard_bonds.judging import judge_rows
from isodesm.diagnosis.hard_bonds.sharing import behind_of
from isodesm.diagnosis.hard_bonds.usage import Usage
from isodesm.diagnosis.shared.acceptance import sort_out
from isodesm.diagnosis.shared.findings import HARD_KINDS, Finding
from isodesm.editor.seen import Seen
from isodesm.facts.languages import dialect_of
from isodesm.facts.packing import unpack_sites
from isodesm.facts.reader import as_utf8, read_packed
from isodesm.facts.records import FileFacts
from isodesm.inference.effect_kinds import SEVERE
from isodesm.inference.lookups import add_lookups
from isodesm.linking.bonds import KIND_NUMBER, KINDS, BondTable
from isodesm.linking.hierarchy import Hierarchy
from isodesm.linking.site_links import FileLinker
from isodesm.linking.symbols import Symbols

NO_BOND = len(KINDS) + 9
"""Kind of a row that stands for nothing any more."""
_JUDGED = frozenset(KIND_NUMBER[each] for each in ("creation", "static-call", "static-field", "lookup"))
_AMBIENT = "ambient-state"
MOST_LINES = 1_500
"""Changed lines up to which it is worked out which of them only moved."""


def first_look(seen: Seen, path: str, content: bytes) -> tuple[Codebase, list[Finding]] | None:
    """The findings of one file with another content, and a codebase that they can be shown with; None where others may see
    something else of it by now, so that a first look would be no help."""
    number, before = seen.numbers[path], seen.codebase
    old = before.symbols.files[number]
    facts, packed = read_packed(old.language, path, content)
    if facts.surface != old.surface or [each.kind for each in facts.types] != [each.kind for each in old.types]:
        return None
    now = _like(before, number, facts, packed, content)
    rows, looked_up, of_states = _linked(before, now, number, seen.usage)
    usage = _turned(seen.usage, before, now)
    usage.states.__dict__["rows"] = seen.usage.states.rows | of_states
    judged = judge_rows(
        sorted(rows, key=lambda row: (now.bonds.line[row], now.bonds.column[row])), now, usage, looked_up, False
    )
    others = [
        each for each in seen.diagnosis.places if each.file == path and (each.kind not in HARD_KINDS or each.kind == _AMBIENT)
    ]
    kept = [each for each in map(_Shift(path, before.text(number), now.text(number)), others) if each is not None]
    found, _, _ = sort_out(now, sorted([*judged.findings, *kept], key=lambda each: (each.line, each.column)))
    return now, list(folded(found))


def _turned(usage: Usage, before: Codebase, now: Codebase) -> Usage:
    """What judging knows of who uses what, about another codebase: with all that was worked out of the one before."""
    places = {id(before): now, id(before.bonds): now.bonds, id(before.symbols): now.symbols, id(before.effects): now.effects}

    def turned(one: Any) -> Any:
        found = copy(one)
        found.__dict__.update({name: places[id(value)] for name, value in vars(one).items() if id(value) in places})
        return found

    usage.prepare()
    found = turned(usage)
    inner = {name: turned(value) for name, value in vars(usage).items() if getattr(value, "codebase", None) is before}
    found.__dict__.update(inner)
    return found


def _like(before: Codebase, number: int, facts: FileFacts, packed: bytes, content: bytes) -> Codebase:
    """The codebase with one file read anew, and nothing inferred anew."""
    files = [*before.symbols.files]
    files[number] = facts
    own = unpack_sites(packed)
    text = as_utf8(facts.path, content)[0]
    inferred = copy(before.inferred)
    inferred.__dict__.pop("hierarchy", None)
    inferred.symbols = Symbols(files, before.symbols.projects, before.symbols.catalogues)
    inferred.packed_sites = [*before.packed_sites]
    inferred.packed_sites[number] = packed
    inferred.content = lambda file: own if file == number else before.content(file)
    inferred.text = lambda file: text if file == number else before.text(file)
    inferred.keep_locals(8)
    return before.with_inferred(inferred)


def _linked(
    before: Codebase, now: Codebase, number: int, usage: Usage
) -> tuple[list[int], set[tuple[int, int]], frozenset[int]]:
    """The rows to be judged, the places of look-ups, and the rows that use what rows of open states used, once the table of
    `now` has the new rows of the file."""
    states, behind = usage.states.rows, behind_of(usage)
    table = before.bonds.beginning(len(before.bonds))
    blank = table.rows_of_file(number)
    part = BondTable()
    part.names, part.externals = table.names, table.externals
    hierarchy = Hierarchy(now.symbols, table.externals)
    FileLinker(hierarchy, part, number, now.content(number)).link()
    locators, definitions = before.locators, before.definitions
    add_lookups(now.symbols, part, before.roles.bases, locators, now.content, lambda: hierarchy, definitions)
    as_state = {(table.target[row], table.callee[row]) for row in blank if row in states}
    for row in blank:
        table.kind[row] = NO_BOND
    first = len(table)
    for name, column in part.columns.items():
        table.columns[name].extend(column)
    now.bonds = now.inferred.bonds = table
    fresh = range(first, len(table))
    effects = now.inferred.effects = copy(before.effects)
    first_type = now.symbols.first[number]
    own = set(range(first_type, first_type + len(now.symbols.files[number].types)))
    effects.used = {key: uses for key, uses in before.effects.used.items() if key not in own} | before.effects.used_in(
        table, fresh, now.content
    )
    rows = [row for row in fresh if table.kind[row] in _JUDGED or _is_use_of_function(now, row, behind)]
    lookups = {(table.file[row], table.site[row]) for row in fresh if table.kind[row] == KIND_NUMBER["lookup"]}
    return rows, lookups, frozenset(row for row in fresh if (table.target[row], table.callee[row]) in as_state)


def _is_use_of_function(now: Codebase, row: int, behind: Behind) -> bool:
    """Whether a call is one of a function of a module, with an effect of its own or one that is near, or with something shared
    behind it."""
    table, target = now.bonds, now.bonds.target[row]
    language = now.symbols.files[table.file[row]].language
    if table.kind[row] != KIND_NUMBER["call"] or not dialect_of(language).has_module:
        return False
    if target < 0:
        return any(use.row == row for use in now.effects.used.get(table.source[row], ()))
    members = now.symbols.members(target).get(table.text_of("callee", row), ()) if now.symbols.is_module(target) else ()
    nodes = [(target, at) for at, _ in members]
    reaches = any(SEVERE.intersection(now.effects.near(node)) for node in nodes) or behind.of(nodes)
    return table.source[row] != target and bool(reaches)


class _Shift:
    """Moves findings of a file to where their lines stand now; None for those on lines that are others."""

    def __init__(self, path: str, before: bytes, after: bytes) -> None:
        self.path = path
        old, new = before.split(b"\n"), after.split(b"\n")
        least = min(len(old), len(new))
        front = next((at for at in range(least) if old[at] != new[at]), least)
        back = next((at for at in range(least - front) if old[-1 - at] != new[-1 - at]), least - front)
        self.now = {at: at for at in range(front)}
        self.now |= {len(old) - 1 - at: len(new) - 1 - at for at in range(back)}
        if max(len(old), len(new)) - front - back <= MOST_LINES:
            matcher = SequenceMatcher(None, old[front : len(old) - back], new[front : len(new) - back], autojunk=False)
            for block in matcher.get_matching_blocks():
                self.now |= {front + block.a + at: front + block.b + at for at in range(block.size)}

    def __call__(self, finding: Finding) -> Finding | None:
        line = self.now.get(finding.line - 1)
        if line is None:
            return None
        related = []
        for each in finding.related:
            moved = self.now.get(each.line - 1) if each.file == self.path else each.line - 1
            if moved is not None:
                related.append(msgspec.structs.replace(each, line=moved + 1))
        by = line + 1 - finding.line
        return msgspec.structs.replace(finding, line=line + 1, end_line=finding.end_line + by, related=tuple(related))
