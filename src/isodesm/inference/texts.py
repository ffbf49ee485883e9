"""Classes and modules that look texts up for people, whoever wrote them: a text or its key goes in, a text comes out, and
most of a program asks for one somewhere. Nobody hands those in one by one."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable
from typing import NamedTuple

from isodesm.catalogue import shared_catalogue
from isodesm.facts import typetext
from isodesm.facts.records import FileSites, Member
from isodesm.linking.bonds import KIND_NUMBER, BondTable
from isodesm.linking.symbols import Symbols

LEAST_USES, SAMPLED = 10, 24
"""Calls from which a function may be one that the whole program asks for texts, and how many of them are looked at."""
LITERAL, NATURAL = 0.7, 0.5
"""Share of calls that must be given a literal text, and of those texts the share that reads like language."""
_TEXT_RESULTS = frozenset(("", "String", "string", "str", "TextGetter", "StringGetter", "Supplier"))
_CALLS = frozenset((KIND_NUMBER["static-call"], KIND_NUMBER["call"]))
_QUOTED = re.compile(r"""\s*[rbuf@$]?(["'`])((?:(?!\1)[^\\\n]|\\.)*)\1""")
_LANGUAGE = re.compile(r"[A-Za-z][,.!?:]?+\s++\w|^[A-Z][a-z]++[.!?:]*+$|[.!?:]$")

TextOf = Callable[[int], bytes]


class Texts(NamedTuple):
    """Static members that look texts up, as (type, name), and the types most of whose users ask for nothing else."""

    members: frozenset[tuple[int, str]]
    types: frozenset[int]


def find_texts(symbols: Symbols, bonds: BondTable, content: Callable[[int], FileSites], text_of: TextOf) -> Texts:
    """What of a tree looks texts up; `content(file)` gives the sites of a file and `text_of(file)` its bytes."""
    uses: dict[tuple[int, int], list[int]] = defaultdict(list)
    for row, (kind, source, target, callee) in enumerate(
        zip(bonds.kind, bonds.source, bonds.target, bonds.callee, strict=True)
    ):
        if kind in _CALLS and target >= 0 and target != source:
            uses[target, callee].append(row)
    members: set[tuple[int, str]] = set()
    asked: dict[int, int] = defaultdict(int)
    every: dict[int, int] = defaultdict(int)
    for (number, callee), rows in uses.items():
        every[number] += len(rows)
        if len(rows) < LEAST_USES:
            continue
        found = symbols.members(number).get(bonds.names.strings[callee], ())
        if any(_is_static(symbols, number, member) and _may_give_text(member) for _, member in found):
            bodies = [_body(symbols, text_of, number, index) for index, _ in found]
            if _asks_for_text(bonds.names.strings[callee], rows, bodies, bonds, content):
                asked[number] += len(rows)
                members.add((number, bonds.names.strings[callee]))
    types = frozenset(number for number, count in asked.items() if 2 * count >= every[number])
    return Texts(frozenset(members), types)


def _is_static(symbols: Symbols, number: int, member: Member) -> bool:
    return member.kind == "method" and (member.is_static or symbols.is_module(number))


def _may_give_text(member: Member) -> bool:
    return bool(member.parameters) and typetext.head(member.type) in _TEXT_RESULTS


def _body(symbols: Symbols, text_of: TextOf, number: int, index: int) -> str:
    part, _ = symbols.origin(number, index)
    return text_of(symbols.file_of[part])[slice(*symbols.types[number].members[index].body)].decode("utf-8", "replace")


def _asks_for_text(
    name: str, rows: list[int], bodies: list[str], bonds: BondTable, content: Callable[[int], FileSites]
) -> bool:
    """Whether calls of a function look like questions for a text: literal, and by their language, its name, or its body."""
    sampled = rows[:: max(len(rows) // SAMPLED, 1)]
    given = [
        _QUOTED.match(content(bonds.file[row]).sites[bonds.site[row]].arguments) for row in sampled if bonds.site[row] >= 0
    ]
    literal = [found[2] for found in given if found]
    if not given or len(literal) < LITERAL * len(given):
        return False
    catalogue = shared_catalogue().texts
    natural = sum(1 for text in literal if _LANGUAGE.search(text))
    named = name.strip("_").lower() in catalogue.members.split()
    return natural >= NATURAL * len(literal) or named or any(re.search(catalogue.apis, body) for body in bodies)
