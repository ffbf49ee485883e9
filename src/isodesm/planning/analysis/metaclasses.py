"""What makes the classes of a line: bases from elsewhere may bring a metaclass that an interface has not."""

from __future__ import annotations

import re

from isodesm.planning.analysis.sources import Sources

PLAIN = frozenset(("object", "ABC", "Protocol", "Generic"))
"""Bases whose classes are made as those of interfaces are."""
_NAMED = re.compile(rb"\bmetaclass\s*+=\s*+(?!(?:abc\.)?ABCMeta\b)")


def has_metaclass(sources: Sources, number: int) -> bool:
    """Whether a class, or one below it, may be made by a metaclass that knows nothing of an interface's: as far as their bases
    stand in the tree, this can be told, and of others nothing is known."""
    codebase, symbols = sources.codebase, sources.symbols
    below = codebase.roles.implementers.get(number, ())
    for each in dict.fromkeys(one for line in (number, *below) for one in codebase.roles.ancestors(line)):
        if any(target < 0 and _last_name(text) not in PLAIN for target, text in codebase.hierarchy.bases(each)):
            return True
        place, body = symbols.types[each].place, symbols.types[each].body
        head = codebase.text(symbols.file_of[each])[place.start : body[0] or place.end]
        if _NAMED.search(head):
            return True
    return False


def _last_name(text: str) -> str:
    return text.partition("[")[0].rpartition(".")[2].strip()
