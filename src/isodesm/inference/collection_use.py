"""How often a type is kept in arrays and collections: things are, services hardly ever."""

from __future__ import annotations

import re
from collections import Counter

from isodesm.linking.bonds import KIND_NUMBER, BondTable
from isodesm.linking.symbols import Symbols

_DECLARED = frozenset(KIND_NUMBER[each] for each in ("field", "parameter", "return"))


def kept_together(symbols: Symbols, bonds: BondTable) -> Counter[int]:
    """Type to the number of type arguments and arrays of it that declarations and code speak of."""
    found: Counter[int] = Counter()
    generic = KIND_NUMBER["generic"]
    arrays: dict[tuple[int, int], tuple[str, ...]] = {}
    columns = zip(bonds.kind, bonds.target, bonds.source, bonds.source_member, bonds.text, strict=True)
    for kind, target, source, index, text in columns:
        if target < 0 or (kind != generic and kind not in _DECLARED):
            continue
        if kind != generic:
            if (source, index) not in arrays:
                arrays[source, index] = _arrays_of(symbols, source, index)
            spoken = arrays[source, index]
            if not spoken or not _speaks_of(bonds.names.strings[text], spoken):
                continue
        found[target] += 1
    return found


def _arrays_of(symbols: Symbols, source: int, index: int) -> tuple[str, ...]:
    """The types with dimensions that a declaration speaks of."""
    if index < 0:
        return ()
    member = symbols.types[source].members[index]
    return tuple(text for text in (member.type, *(each.type for each in member.parameters)) if "[" in text)


def _speaks_of(name: str, texts: tuple[str, ...]) -> bool:
    """Whether one of the types is an array of what is named."""
    return any(re.search(rf"\b{re.escape(name)}\b[^,]*\[", text) for text in texts)
