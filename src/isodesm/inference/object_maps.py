"""Maps without declared types that are known to hold services, by what is put into them."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable, Iterator
from itertools import takewhile

from isodesm.facts.records import DeclaredType, FileSites
from isodesm.inference.evidence import SERVICE_LIKE
from isodesm.inference.roles import Roles
from isodesm.linking.bonds import BondTable
from isodesm.linking.symbols import Symbols, simple_name

EMPTY_MAP = re.compile(
    r"(?:\{\s*\}|\[\s*\]|array\(\s*\)|dict\(\s*\)|new\s+(?:Map|WeakMap)\b(?!\s*<).*|Object\.create\(null\))$"
)
"""A value that is a map with nothing in it yet."""
_MADE = re.compile(r"(?:new\s++)?+([\w.\\]++)\s*+\(")
_MADE_IN_ARGUMENTS = re.compile(r"(?:^|,)\s*+(?:new\s++)?+([\w.\\]++)\s*+\(")
_NAMED = r"\$?(\w+)\b(?!\s*[.(\[]|->)"
_PUT = re.compile(rf"(?<!\w)(\w++)(?:\s*\[[^\]\n]{{0,400}}+\]\s*=(?!=)\s*{_NAMED}|(?:\.|->)(?:set|put)\s*\((?=([^\n;]*)))")
"""What puts something into a map: the map, and the name of what is put there, or else the arguments to the end of the line."""
_GIVEN = re.compile(rf",\s*{_NAMED}")
"""A name among arguments, the first left out."""

BodiesOf = Callable[[DeclaredType, int], list[str]]
"""Gives the text of each member's body, '' for what has none."""
SitesOf = Callable[[int], FileSites]
"""Gives the sites of a file by its number."""


def object_maps(
    symbols: Symbols, bonds: BondTable, roles: Roles, sites_of: SitesOf, bodies_of: BodiesOf
) -> dict[int, set[str]]:
    """Type number to the maps that hold services: fields, and `variable.field` for a module that keeps such a registry.

    A map holds services if a method, or function of the module, puts a parameter into it, and is called with the calling
    object itself or with a new service.
    """
    putting: dict[int, dict[str, set[str]]] = {}
    for number, declared in enumerate(symbols.types):
        fields = [each.name for each in declared.members if is_open_map(each.type, each.value) and each.kind == "field"]
        if fields and (put := _putting(declared, fields, bodies_of(declared, number))):
            putting[number] = put
    if not putting:
        return {}
    found = _filled(putting, symbols, bonds, roles, sites_of)
    names = {symbols.types[number].name: number for number in sorted(found)}
    for number, declared in enumerate(symbols.types) if found else ():
        if symbols.is_module(number):
            for each in declared.members:
                made = _MADE.match(each.value) if each.kind == "field" else None
                kept = names.get(simple_name(made.group(1))) if made else None
                if kept is not None:
                    found.setdefault(number, set()).update(f"{each.name}.{field}" for field in sorted(found[kept]))
    return found


def is_open_map(declared: str, value: str) -> bool:
    """Whether a field is a map that nothing is said about: neither of its keys nor of its values."""
    return declared in ("", "array", "?array") and EMPTY_MAP.match(value) is not None


def _putting(declared: DeclaredType, fields: list[str], bodies: list[str]) -> dict[str, set[str]]:
    """Method to the maps that it puts one of its parameters into."""
    found: dict[str, set[str]] = defaultdict(set)
    maps = {field.lstrip("$#"): field for field in fields}
    for member, body in zip(declared.members, bodies, strict=True):
        given = {each.name.lstrip("$") for each in member.parameters if each.name}
        if not given or not any(name in body for name in maps):
            continue
        for put in _PUT.finditer(body):
            if put[1] in maps and not given.isdisjoint(_put_there(body, put)):
                found[member.name].add(maps[put[1]])
    return found


def _put_there(body: str, put: re.Match[str]) -> Iterator[str]:
    """The names that may be what is put into a map; arguments go to the end of the line, the last of them perhaps beyond it."""
    if put[2] is not None:
        yield put[2]
        return
    for each in takewhile(lambda each: each.start() < put.end(3), _GIVEN.finditer(body, put.end())):
        yield each[1]


def _filled(
    putting: dict[int, dict[str, set[str]]], symbols: Symbols, bonds: BondTable, roles: Roles, sites_of: SitesOf
) -> dict[int, set[str]]:
    """Type number to the maps that services are put into."""
    services = {declared.name for number, declared in enumerate(symbols.types) if roles.name(number) in SERVICE_LIKE}
    found: dict[int, set[str]] = defaultdict(set)
    for row in bonds.rows_of_kind("call", "static-call"):
        target = bonds.target[row]
        fields = putting[target].get(bonds.text_of("callee", row)) if target in putting else None
        if fields and not fields <= found.get(target, set()) and bonds.site[row] >= 0:
            arguments = sites_of(bonds.file[row]).sites[bonds.site[row]].arguments
            word = re.escape(symbols.dialect(bonds.source[row]).self_word or "this")
            made = {simple_name(each) for each in _MADE_IN_ARGUMENTS.findall(arguments)}
            if made & services or re.search(rf"(?:^|,)\s*{word}\s*(?:,|$)", arguments):
                found[target] |= fields
    return dict(found)
