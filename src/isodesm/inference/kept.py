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
    for row, (kind, target) in enumerate(zip(bonds.kind, bonds.target, strict=True)):
        if target >= 0 and (kind == generic or (kind in _DECLARED and _is_array(symbols, bonds, row))):
            found[target] += 1
    return found


def _is_array(symbols: Symbols, bonds: BondTable, row: int) -> bool:
    """Whether the declaration that a bond comes from speaks of an array of the type."""
    index = bonds.source_member[row]
    if index < 0:
        return False
    member = symbols.types[bonds.source[row]].members[index]
    texts = [text for text in (member.type, *(each.type for each in member.parameters)) if "[" in text]
    name = re.escape(bonds.text_of("text", row))
    return any(re.search(rf"\b{name}\b[^,]*\[", text) for text in texts)
