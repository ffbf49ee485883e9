"""Notes the calls that pull a dependency out of a container or locator as bonds of kind `lookup`."""

from __future__ import annotations

import re
from collections import Counter

from isodesm.inference.bases import Bases
from isodesm.inference.locators import Locator, SitesOf, named_in_arguments
from isodesm.linking.bonds import KIND_NUMBER, BondTable
from isodesm.linking.symbols import Symbols


def add_lookups(symbols: Symbols, bonds: BondTable, bases: Bases, locators: dict[int, Locator], sites_of: SitesOf) -> None:
    """Append a `lookup` row for each call of a catalogued or home-made locator; its target is what is looked up, if named."""
    catalogues = {facts.language: symbols.catalogues.of(facts.language).lookups for facts in symbols.files}
    calls = (KIND_NUMBER["call"], KIND_NUMBER["static-call"])
    lookup, creation = KIND_NUMBER["lookup"], KIND_NUMBER["creation"]
    adapted = _adapted(symbols, bases)
    externals, strings = bonds.externals.strings, bonds.names.strings
    found = []
    for row, kind in enumerate(bonds.kind):
        if kind == creation and bonds.target[row] in adapted:
            found.append(row)
        if kind not in calls:
            continue
        target, callee = bonds.target[row], strings[bonds.callee[row]]
        if target >= 0:
            if target not in locators or callee not in locators[target].reading:
                continue
        elif callee not in catalogues[symbols.files[bonds.file[row]].language].get(externals[-1 - target], ()):
            continue
        found.append(row)
    if not found:
        return
    named = named_in_arguments(bonds, {bonds.file[row] for row in found}, sites_of)
    for row in found:
        values = [column[row] for column in bonds.columns.values()]
        values[3] = lookup
        wanted = named.get((bonds.file[row], bonds.site[row]))
        if wanted is not None and bonds.kind[row] != creation:
            values[2] = wanted
        bonds.add(tuple(values))


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
