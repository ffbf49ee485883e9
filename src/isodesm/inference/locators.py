"""Home-made locators and registries, known by their shape: what they hold, what hands it out, and what puts it in."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable, Iterator
from typing import NamedTuple

from isodesm.facts import typetext
from isodesm.facts.records import DeclaredType, Member
from isodesm.inference.evidence import SERVICE_LIKE
from isodesm.inference.object_maps import SitesOf, is_open_map, object_maps
from isodesm.inference.programs import scripts_of
from isodesm.inference.roles import Roles
from isodesm.linking.bonds import KIND_NUMBER, BondTable
from isodesm.linking.symbols import Symbols

MANY_COLLECTIONS = 10
"""Collections of a type from which a map of it is a table of things, and no registry of services."""
LEAST_USERS = 3
"""Classes that must use a home-made registry before it counts as a locator and not as somebody's private table."""

_MAP_TYPES = re.compile(r"\\??\w*(?:Map|Dictionary|[dD]ict|Record|Hashtable)\b")
_OPEN_TYPES = frozenset(
    "Object object Supplier Provider Callable Function Factory Func Any any unknown mixed callable Closure".split()
)
"""Types of what may be anything, or of what makes anything."""
_PLAIN_RESULTS = frozenset(
    (
        "",
        "void",
        "boolean",
        "bool",
        "int",
        "long",
        "double",
        "float",
        "string",
        "str",
        "number",
        "String",
        "Boolean",
        "Integer",
        "Long",
        "Double",
        "None",
        "array",
        "list",
        "self",
        "static",
        "this",
        "Class",
        "Type",
    )
)
"""Results that are no service: nothing, values, classes by name as a loader gives them, and the registry itself."""
_MADE_MAP = re.compile(r"new\s+((?:Map|WeakMap)<.*>)\s*\(", re.DOTALL)
_READ = r"(?:[.]|->|\?\.)(?:get|getOrDefault|computeIfAbsent|cast|GetOrAdd|TryGetValue|setdefault)\s*\("
_ONLY_ASKED = re.compile(r"[^()\n]*\)\s*[!=]==?\s*(?:null|undefined|nullptr)\b")
"""What follows the key of a read that only asks whether something is there."""
_WRITE = r"(?:[.]|->)(?:put|putIfAbsent|set|Add|TryAdd|AddOrUpdate|setdefault)\s*\("
_USES = {
    "read": rf"{_READ}|\s*\[(?!\s*\])",
    "made": r"\s*\[[^\]\n]{1,400}+\]\s*\)?\s*\(",
    "written": rf"{_WRITE}|\s*\[[^\]\n]{{0,400}}+\]\s*(?:\?\?)?=(?!=)",
}
"""What follows the name of a map where it is read, something that was read from it is called, and something is put into it."""
_USE = {use: re.compile(rf"(?<!\w)(\w++)(?=({follows}))") for use, follows in _USES.items()}
"""The same, of whatever map."""

TextOf = Callable[[int], bytes]
"""Gives the text of a file by its number."""


class Locator(NamedTuple):
    """A home-made registry: the methods that hand out what is asked for, and those that put it in, with the lifetime of it."""

    reading: frozenset[str]
    offering: dict[str, str]
    is_open: bool
    """Whether it holds anything, as a container does, and not only services of one type."""


def find_locators(symbols: Symbols, bonds: BondTable, roles: Roles, sites_of: SitesOf, text_of: TextOf) -> dict[int, Locator]:
    """Home-made locators by type number.

    A locator maps a key, name or type to an instance of something else: it holds a map to objects of an open or
    service-like type, has a method with a parameter that reads that map, and three or more classes use it so. Where the
    method returns just any object, only uses count that take the result for something service-like.
    """
    shaped = {}
    things = frozenset(each for each, count in roles.kept_together.items() if count >= MANY_COLLECTIONS)
    known = object_maps(symbols, bonds, roles, sites_of, lambda declared, number: _bodies(declared, number, symbols, text_of))
    for number, declared in enumerate(symbols.types):
        if (declared.kind in ("class", "enum", "interface") or number in known) and roles.name(number) != "test":
            maps = _registry_fields(declared, number, symbols, roles, things)
            maps.update(dict.fromkeys(sorted(known.get(number, ())), True))
            if maps and (found := _locator(declared, number, maps, symbols, text_of)):
                shaped[number] = found
    users = _users(shaped, symbols, bonds, roles, sites_of)
    filled = _filled_at_start(shaped, symbols, bonds, roles) if shaped else frozenset()
    return {
        number: found
        for number, found in shaped.items()
        if len(users[number]) >= LEAST_USERS or (users[number] and (number in filled or _is_global(symbols, number, found)))
    }


def _is_global(symbols: Symbols, number: int, found: Locator) -> bool:
    """Whether a registry is asked without an object of it, so that no caller can be given another: one is enough, then."""
    return any(m.is_static and m.name in found.reading for m in symbols.types[number].members)


def _filled_at_start(shaped: dict[int, Locator], symbols: Symbols, bonds: BondTable, roles: Roles) -> frozenset[int]:
    """Types that a place which puts the program together fills: then one user is enough."""
    calls, scripts = (KIND_NUMBER["call"], KIND_NUMBER["static-call"]), scripts_of(symbols, bonds)
    return frozenset(
        target
        for row, (kind, source, target) in enumerate(zip(bonds.kind, bonds.source, bonds.target, strict=True))
        if kind in calls
        and target in shaped
        and (roles.name(source) == "composition-root" or source in scripts)
        and bonds.text_of("callee", row) in shaped[target].offering
    )


def _users(
    shaped: dict[int, Locator], symbols: Symbols, bonds: BondTable, roles: Roles, sites_of: SitesOf
) -> dict[int, set[int]]:
    """Type to the classes that use it as a locator."""
    calls = (KIND_NUMBER["call"], KIND_NUMBER["static-call"])
    rows = [
        row
        for row, kind in enumerate(bonds.kind)
        if kind in calls and bonds.target[row] in shaped and bonds.text_of("callee", row) in shaped[bonds.target[row]].reading
    ]
    files = {bonds.file[row] for row in rows}
    named = targets_of_casts(bonds, files)
    by_argument = named_in_arguments(bonds, files, sites_of)
    users: dict[int, set[int]] = defaultdict(set)
    for row in rows:
        target, file, site = bonds.target[row], bonds.file[row], bonds.site[row]
        if target == bonds.source[row]:
            continue
        members = [m for _, m in symbols.members(target).get(bonds.text_of("callee", row), ())]
        if any(_is_open_result(m, symbols.types[target]) for m in members):
            sites = sites_of(file).sites
            taken_for = named.get((file, sites[site].inside), by_argument.get((file, site), -1))
            serves = taken_for >= 0 and (roles.name(taken_for) == "abstraction" or roles.name(taken_for) in SERVICE_LIKE)
            if not serves and not any(
                each.receiver == site and each.kind == "call" for each in sites[max(site - 3, 0) : site + 4]
            ):
                continue
        users[target].add(bonds.source[row])
    return users


def named_in_arguments(bonds: BondTable, files: set[int], sites_of: SitesOf) -> dict[tuple[int, int], int]:
    """(file, call site) to the target of the class among the call's type arguments or arguments."""
    targets = targets_of_casts(bonds, files)
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


def targets_of_casts(bonds: BondTable, files: set[int]) -> dict[tuple[int, int], int]:
    """(file, site) of each cast and class literal to the type it names."""
    cast = KIND_NUMBER["cast"]
    return {
        (bonds.file[row], bonds.site[row]): bonds.target[row]
        for row, kind in enumerate(bonds.kind)
        if kind == cast and bonds.file[row] in files
    }


def _registry_fields(
    declared: DeclaredType, number: int, symbols: Symbols, roles: Roles, things: frozenset[int]
) -> dict[str, bool]:
    """Fields that map keys to open or service-like types; False for those whose type says nothing of what they hold."""
    found = {}
    for member in declared.members:
        if member.kind != "field":
            continue
        made = _MADE_MAP.match(member.value) if not member.type else None
        text = made.group(1) if made else member.type
        if _MAP_TYPES.match(typetext.head(text)):
            arguments = typetext.arguments(text)
            if arguments and _is_open(arguments[-1], number, symbols, roles, things, member.is_static):
                found[member.name] = True
        elif is_open_map(member.type, member.value):
            found[member.name] = False
    return found


def _is_open(value: str, number: int, symbols: Symbols, roles: Roles, things: frozenset[int], is_static: bool) -> bool:
    """Whether a map's values may be anything, or are of a service-like type of the tree. What an object keeps many of, all of
    one class, are its parts by name, and no services to choose from."""
    names = typetext.names(value)
    if "=>" in value or not names or names[0] in _OPEN_TYPES:
        return True
    package = symbols.files[symbols.file_of[number]].package
    target, _ = symbols.find(f"{package}.{names[0]}" if package else names[0], symbols.file_of[number])
    if target < 0 or target in things or (not is_static and not roles.implementers.get(target)):
        return False
    return roles.name(target) in ("service", "gateway", "repository")


class _MapUses:
    """Where maps of some names are used. Plain names share their patterns: making those of each class takes longer than all
    else here."""

    def __init__(self, names: frozenset[str]) -> None:
        self.names, self.patterns = names, _USE
        if not all(each.isidentifier() for each in names):  # a field of a variable
            said = "|".join(map(re.escape, sorted(names)))
            self.patterns = {use: re.compile(rf"(?<!\w)({said})(?=({follows}))") for use, follows in _USES.items()}

    def of(self, use: str, body: str) -> Iterator[re.Match[str]]:
        """The uses of a kind in a body: group 1 is the map, group 2 what follows it."""
        if any(name in body for name in self.names):
            yield from (found for found in self.patterns[use].finditer(body) if found[1] in self.names)

    def has(self, use: str, body: str) -> bool:
        """Whether there is such a use."""
        return next(self.of(use, body), None) is not None


def _locator(declared: DeclaredType, number: int, maps: dict[str, bool], symbols: Symbols, text_of: TextOf) -> Locator | None:
    """What of a class reads and writes its maps; None where nothing hands anything out."""
    bodies = _bodies(declared, number, symbols, text_of)
    uses = _MapUses(frozenset(each.lstrip("$#") for each in maps))
    members = [(member, bodies[index]) for index, member in enumerate(declared.members) if bodies[index]]
    typed = any(maps.values())
    reading = frozenset(member.name for member, body in members if _reads(member, body, declared, uses, typed=typed))
    if not reading:
        return None
    calls = any(member.name in reading and uses.has("made", body) for member, body in members)
    keeps = any(member.name in reading and uses.has("written", body) for member, body in members)
    offers = ((member, body) for member, body in members if _is_offer(member, body, uses) and member.name not in reading)
    offering = {}
    for member, body in offers:
        several = len({found[1] for found in uses.of("written", body)}) > 1
        shared = keeps or several or not (calls or _takes_maker(member, body))
        offering[member.name] = "singleton" if shared else "transient"
    return Locator(reading, offering, any(_is_open_result(m, declared) for m, _ in members if m.name in reading))


def _reads(member: Member, body: str, declared: DeclaredType, uses: _MapUses, *, typed: bool) -> bool:
    """Whether a member hands out what a map holds."""
    taken = any(not _ONLY_ASKED.match(body, found.end(2)) for found in uses.of("read", body))
    return taken and _hands_out(member, declared) and (typed or uses.has("made", body)) and not _is_offer(member, body, uses)


def _bodies(declared: DeclaredType, number: int, symbols: Symbols, text_of: TextOf) -> list[str]:
    """The text of each method's body, '' for other members."""
    found = []
    for index, member in enumerate(declared.members):
        part, _ = symbols.origin(number, index)
        text = text_of(symbols.file_of[part]) if member.kind == "method" and member.body != (0, 0) else b""
        found.append(text[slice(*member.body)].decode("utf-8", "replace"))
    return found


def _is_offer(member: Member, body: str, uses: _MapUses) -> bool:
    """Whether a method puts into a map what it is given, and hands nothing out."""
    keyed = len(member.parameters) + bool(member.generics) >= 2
    return keyed and not member.is_private and typetext.head(member.type) in _PLAIN_RESULTS and uses.has("written", body)


def _takes_maker(member: Member, body: str) -> bool:
    """Whether the last parameter is a function that makes the object, and not the object."""
    last = member.parameters[-1]
    name = re.escape(last.name.lstrip("$"))
    return typetext.head(last.type) in _OPEN_TYPES - {"Object", "object", "Any", "any", "unknown", "mixed"} or bool(
        re.search(rf"(?<!\w){name}\s*\(", body)
    )


def _hands_out(member: Member, declared: DeclaredType) -> bool:
    """Whether a method gives back an object, not of its own class, for a key: a parameter, or a type argument."""
    asked = bool(member.parameters) or bool(member.generics)
    result = typetext.head(member.type)
    return (
        member.kind == "method"
        and not member.is_private
        and asked
        and result not in _PLAIN_RESULTS - {""}
        and result != declared.name
    )


def _is_open_result(member: Member, declared: DeclaredType) -> bool:
    """Whether a method's result may be anything: no type, the root of all types, or a type variable."""
    result = typetext.head(member.type)
    variables = {name for text in (member.generics, declared.generics) if text for name, _ in typetext.type_parameters(text)}
    return result in _OPEN_TYPES or not result or result in variables


def offers_in(bonds: BondTable, locators: dict[int, Locator]) -> dict[int, dict[int, str]]:
    """File and call site of everything that is put into a home-made registry, with its lifetime."""
    found: dict[int, dict[int, str]] = defaultdict(dict)
    for row in bonds.rows_of_kind("call", "static-call") if locators else ():
        locator = locators.get(bonds.target[row])
        lifetime = locator.offering.get(bonds.text_of("callee", row)) if locator else None
        if lifetime and bonds.site[row] >= 0:
            found[bonds.file[row]][bonds.site[row]] = lifetime
    return found
