"""Finds calls that pull a dependency out of a container or locator, and notes them as bonds of kind `lookup`."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable

from isodesm.catalogue import catalogue_of
from isodesm.codebase.bonds import KIND_NUMBER, BondTable
from isodesm.codebase.evidence import DATA, SERVICE_LIKE
from isodesm.codebase.roles import Roles
from isodesm.codebase.symbols import Symbols
from isodesm.facts import typetext
from isodesm.facts.records import DeclaredType, FileSites, Member

LEAST_USERS = 3
"""Classes that must use a home-made registry before it counts as a locator and not as somebody's private table."""

_OPEN_TYPES = frozenset(("Object", "Supplier", "Provider", "Callable", "Function", "Factory"))
_READS = frozenset(("get", "getOrDefault", "computeIfAbsent", "cast"))
_PLAIN_RESULTS = frozenset(("", "void", "boolean", "int", "long", "double", "String", "Boolean", "Integer", "Long", "Double"))

SitesOf = Callable[[int], FileSites]
"""Gives the sites of a file by its number."""


def find_locators(symbols: Symbols, bonds: BondTable, roles: Roles, sites_of: SitesOf) -> dict[int, frozenset[str]]:
    """Home-made locators: type number to the names of its locating methods.

    A locator maps a key, name or type to an instance of something else: it holds a map to objects of an open or
    service-like type, has a method with a parameter that reads that map, and three or more classes use it so. Where the
    method returns just any object, only uses count that take the result for something service-like.
    """
    shaped = {}
    for number, declared in enumerate(symbols.types):
        if declared.kind in ("class", "enum", "interface") and roles.name(number) != "test":
            maps = _registry_fields(declared, number, symbols, roles)
            if maps and (methods := _locating_methods(declared, number, maps, symbols, sites_of)):
                shaped[number] = methods
    users = _users(shaped, symbols, bonds, roles, sites_of)
    return {number: methods for number, methods in shaped.items() if len(users[number]) >= LEAST_USERS}


def _users(
    shaped: dict[int, frozenset[str]], symbols: Symbols, bonds: BondTable, roles: Roles, sites_of: SitesOf
) -> dict[int, set[int]]:
    """Type to the classes that use it as a locator."""
    calls = (KIND_NUMBER["call"], KIND_NUMBER["static-call"])
    rows = [
        row for row, kind in enumerate(bonds.kind)
        if kind in calls and bonds.target[row] in shaped and bonds.text_of("callee", row) in shaped[bonds.target[row]]
    ]  # fmt: skip
    named = _targets_of_casts(bonds, {bonds.file[row] for row in rows})
    users: dict[int, set[int]] = defaultdict(set)
    for row in rows:
        target, file = bonds.target[row], bonds.file[row]
        open_result = any(m.type == "Object" for _, m in symbols.members(target).get(bonds.text_of("callee", row), ()))
        taken_for = named.get((file, sites_of(file).sites[bonds.site[row]].inside), -1)
        serves = taken_for >= 0 and (roles.name(taken_for) == "abstraction" or roles.name(taken_for) in SERVICE_LIKE)
        if not open_result or serves:
            users[target].add(bonds.source[row])
    return users


def _targets_of_casts(bonds: BondTable, files: set[int]) -> dict[tuple[int, int], int]:
    """(file, site) of each cast and class literal to the type it names."""
    cast = KIND_NUMBER["cast"]
    return {
        (bonds.file[row], bonds.site[row]): bonds.target[row]
        for row, kind in enumerate(bonds.kind)
        if kind == cast and bonds.file[row] in files
    }


def _registry_fields(declared: DeclaredType, number: int, symbols: Symbols, roles: Roles) -> list[str]:
    """Fields that map keys to open or service-like types."""
    found = []
    for member in declared.members:
        if member.kind != "field" or "Map" not in typetext.head(member.type):
            continue
        arguments = typetext.arguments(member.type)
        if arguments and _is_open(typetext.names(arguments[-1]), number, symbols, roles):
            found.append(member.name)
    return found


def _is_open(names: tuple[str, ...], number: int, symbols: Symbols, roles: Roles) -> bool:
    """Whether a map's values may be anything, or are of a service-like type of the tree."""
    if not names or names[0] in _OPEN_TYPES:
        return True
    package = symbols.files[symbols.file_of[number]].package
    target, _ = symbols.find(f"{package}.{names[0]}" if package else names[0], symbols.file_of[number])
    return target >= 0 and roles.name(target) not in DATA and roles.name(target) in ("service", "gateway", "repository")


def _locating_methods(declared: DeclaredType, number: int, maps: list[str], symbols: Symbols, sites_of: SitesOf) -> frozenset[str]:
    file = symbols.file_of[number]
    local = number - symbols.first[file]
    content: FileSites = sites_of(file)
    reading = {
        site.member for site in content.sites
        if site.kind == "call" and site.type == local and site.name in _READS
        and site.text.removeprefix("this.").rpartition(".")[2] in maps
    }  # fmt: skip
    return frozenset(
        member.name for index, member in enumerate(declared.members)
        if index in reading and _hands_out(member) and not member.is_private
    )  # fmt: skip


def _hands_out(member: Member) -> bool:
    return member.kind == "method" and bool(member.parameters) and member.type not in _PLAIN_RESULTS


def add_lookups(symbols: Symbols, bonds: BondTable, locators: dict[int, frozenset[str]], sites_of: SitesOf) -> None:
    """Append a `lookup` row for each call of a catalogued or home-made locator; its target is what is looked up, if named."""
    catalogues = {facts.language: catalogue_of(facts.language).lookups for facts in symbols.files}
    calls = (KIND_NUMBER["call"], KIND_NUMBER["static-call"])
    lookup = KIND_NUMBER["lookup"]
    externals, strings = bonds.externals.strings, bonds.names.strings
    found = []
    for row, kind in enumerate(bonds.kind):
        if kind not in calls:
            continue
        target, callee = bonds.target[row], strings[bonds.callee[row]]
        if target >= 0:
            if callee not in locators.get(target, ()):
                continue
        elif callee not in catalogues[symbols.files[bonds.file[row]].language].get(externals[-1 - target], ()):
            continue
        found.append(row)
    if not found:
        return
    named = _named_in_arguments(bonds, {bonds.file[row] for row in found}, sites_of)
    for row in found:
        values = [column[row] for column in bonds.columns.values()]
        values[3] = lookup
        wanted = named.get((bonds.file[row], bonds.site[row]))
        if wanted is not None:
            values[2] = wanted
        bonds.add(tuple(values))


def _named_in_arguments(bonds: BondTable, files: set[int], sites_of: SitesOf) -> dict[tuple[int, int], int]:
    """(file, call site) to the target of the class among the call's type arguments or arguments."""
    targets = _targets_of_casts(bonds, files)
    generic = KIND_NUMBER["generic"]
    found = {
        (bonds.file[row], bonds.site[row]): bonds.target[row]
        for row, kind in enumerate(bonds.kind)
        if kind == generic and bonds.site[row] >= 0 and bonds.file[row] in files
    }
    for file in sorted(files):
        for index, site in enumerate(sites_of(file).sites):
            if site.kind == "literal" and site.inside >= 0 and (file, index) in targets:
                found.setdefault((file, site.inside), targets[file, index])
    return found
