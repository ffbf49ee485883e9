"""Notes the calls that pull a dependency out of a container or locator as bonds of kind `lookup`."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterable, Mapping

from isodesm.facts import typetext
from isodesm.facts.definitions import Definition
from isodesm.facts.records import Site
from isodesm.inference.bases import Bases
from isodesm.inference.locators import Locator, named_in_arguments
from isodesm.inference.object_maps import SitesOf
from isodesm.linking.bonds import CONTEXTS, DEFAULTS, KIND_NUMBER, BondTable
from isodesm.linking.hierarchy import Hierarchy
from isodesm.linking.symbols import Symbols


def add_lookups(
    symbols: Symbols,
    bonds: BondTable,
    bases: Bases,
    locators: dict[int, Locator],
    sites_of: SitesOf,
    hierarchy: Callable[[], Hierarchy],
    definitions: Iterable[Definition],
) -> None:
    """Append a `lookup` row for each call of a catalogued or home-made locator; its target is what is looked up, if named: by
    a class, or by an id of the `definitions`."""
    found = _rows(symbols, bonds, bases, locators)
    while passing := _passing_on(symbols, bonds, found, sites_of, locators):
        locators.update(passing)
        found = _rows(symbols, bonds, bases, locators)
    if not found:
        return
    creation = KIND_NUMBER["creation"]
    ids = {each.id: (each.type or each.id).lstrip("\\") for each in definitions if not each.alias}
    named = named_in_arguments(bonds, {bonds.file[row] for row in found}, sites_of)
    for row in found:
        values = [column[row] for column in bonds.columns.values()]
        values[3] = KIND_NUMBER["lookup"]
        if bonds.kind[row] != creation:
            wanted = named.get((bonds.file[row], bonds.site[row]))
            if wanted is None:
                wanted = _asked_for(symbols, bonds, row, sites_of, hierarchy, named)
            if wanted is None and ids:
                wanted = _of_id(symbols, bonds, row, sites_of, ids)
            if wanted is not None:
                values[2] = wanted
        bonds.add(tuple(values))


def _passing_on(
    symbols: Symbols, bonds: BondTable, rows: list[int], sites_of: SitesOf, locators: dict[int, Locator]
) -> dict[int, Locator]:
    """Classes with members that look up what they are asked for themselves, by a type argument or a parameter of their own:
    whoever calls those looks it up, too. None that is known as such already."""
    found: dict[int, Locator] = {}
    for row in rows:
        source, at, index = bonds.source[row], bonds.source_member[row], bonds.site[row]
        if at < 0 or index < 0 or symbols.is_module(source):
            continue
        member, site = symbols.types[source].members[at], sites_of(bonds.file[row]).sites[index]
        own = {name for name, _ in typetext.type_parameters(member.generics)} if member.generics else set()
        asked = {each.strip() for each in (site.generics.strip("<>").split(",") if site.generics else ())}
        taken = {each.name for each in member.parameters}
        passed = {_literal(each) for each in typetext.split_top(site.arguments)}
        known = found.get(source) or locators.get(source) or Locator(frozenset(), {}, True)
        if (own & (asked | passed) or taken & passed) and member.kind == "method" and member.name not in known.reading:
            found[source] = known._replace(reading=known.reading | {member.name}, is_open=True)
    return found


def _literal(argument: str) -> str:
    """The class, or variable, that an argument is."""
    return re.sub(r"^typeof\s*\(|\)$|\.class$|::class$", "", argument.strip()).strip()


def _rows(symbols: Symbols, bonds: BondTable, bases: Bases, locators: dict[int, Locator]) -> list[int]:
    """Rows of calls, and of properties that hand out a locator, by which something is looked up."""
    catalogues = {facts.language: symbols.catalogues.of(facts.language).lookups for facts in symbols.files}
    calls = (KIND_NUMBER["call"], KIND_NUMBER["static-call"])
    field, creation = KIND_NUMBER["static-field"], KIND_NUMBER["creation"]
    externals, strings = bonds.externals.strings, bonds.names.strings
    adapted = _adapted(symbols, bases)
    needs = [symbols.catalogues.registering(facts.language).needs for facts in symbols.files]
    found = []
    for row, kind in enumerate(bonds.kind):
        target, callee = bonds.target[row], strings[bonds.callee[row]]
        if kind == creation:
            if target in adapted:
                found.append(row)
        elif target >= 0:
            if kind in calls and target in locators and callee in locators[target].reading:
                found.append(row)
        elif kind in calls or kind == field:
            if callee in needs[bonds.file[row]] and bonds.context[row] in _AT_CONSTRUCTION:
                continue  # a declared need, like a parameter
            if callee in catalogues[symbols.files[bonds.file[row]].language].get(externals[-1 - target], ()):
                found.append(row)
    return found


def _asked_for(
    symbols: Symbols,
    bonds: BondTable,
    row: int,
    sites_of: SitesOf,
    hierarchy: Callable[[], Hierarchy],
    named: dict[tuple[int, int], int],
) -> int | None:
    """The type that a look-up names by a bare class name, itself or in the call that is made on what it gives."""
    file, index = bonds.file[row], bonds.site[row]
    if index < 0:
        return None
    sites = sites_of(file).sites
    near = range(max(index - 4, 0), min(index + 5, len(sites)))
    around = [each for each in near if _continues(sites[each], sites[index], index)]
    for each in (index, *around):
        if (file, each) in named:
            return named[file, each]
        found = _CLASS.match(sites[each].arguments) or _CLASS.match(sites[each].generics.strip("<>"))
        if found and sites[each].kind == "call":
            target = hierarchy().file(file).resolve(found.group(1), sites[each].type, sites[each].member)
            if target >= 0 and not symbols.is_module(target):
                return target
    return None


def _of_id(symbols: Symbols, bonds: BondTable, row: int, sites_of: SitesOf, ids: Mapping[str, str]) -> int | None:
    """The type that a text in the arguments of a look-up stands for."""
    file, index = bonds.file[row], bonds.site[row]
    found = _TEXT.match(sites_of(file).sites[index].arguments) if index >= 0 else None
    name = ids.get(found[1], "") if found else ""
    target = symbols.find(name, file)[0] if name else -1
    return target if target >= 0 else None


def _continues(site: Site, start: Site, index: int) -> bool:
    """Whether a call is made on what another site gives."""
    longer = site.place.start == start.place.start and site.place.end > start.place.end
    return site.kind == "call" and (site.receiver == index or longer)


_AT_CONSTRUCTION = frozenset(CONTEXTS.index(each) for each in ("field-initializer", "constructor", *DEFAULTS, "module"))
"""Where a container that is asked hands in what is asked for, as to a constructor."""
_CLASS = re.compile(r"\s*([A-Z][\w.\\\\]*)\s*(?:,|$)")
"""A first argument that is written like the name of a class."""
_TEXT = re.compile(r"\s*[\"']([^\"'\n]++)[\"']\s*+(?:,|$)")
"""A first argument that is a text."""
_WORD = re.compile(r"\w+")
MOST_SERVING = 3
"""Classes marked as serving an interface beyond which calling it turns one kind of value into another."""


def _adapted(symbols: Symbols, bases: Bases) -> frozenset[int]:
    """Interfaces that are called to have what serves them looked up."""
    names = {facts.language: frozenset(symbols.catalogues.of(facts.language).adapted.types.split()) for facts in symbols.files}
    if not any(names.values()):
        return frozenset()
    marked = Counter(
        word for declared in symbols.types for mark in declared.modifiers.annotations for word in _WORD.findall(mark.arguments)
    )
    return frozenset(
        number
        for number in range(len(symbols))
        if marked[symbols.types[number].name] <= MOST_SERVING
        and (wanted := names[symbols.files[symbols.file_of[number]].language])
        and any(base in wanted for each in bases.ancestors(number) for base in bases.external.get(each, ()))
    )
