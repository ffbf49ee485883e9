"""Where a further import belongs among those that a file has: in its group, and where that is sorted in its order."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from typing import Any, NamedTuple

from isodesm.planning.text.syntax import Syntax

FUTURE, STANDARD = "__future__", "standard"
_IMPORTS = frozenset(
    "import_declaration using_directive import_statement import_from_statement namespace_use_declaration".split()
)
_DECLARATIONS = frozenset("class_definition function_definition decorated_definition class_declaration".split())


class Placed(NamedTuple):
    """An import that a file has: the bytes of its statement, the kind it is of, what it is sorted by, and its group."""

    start: int
    end: int
    kind: str
    key: str
    group: str


class ImportPlace(NamedTuple):
    """Where an import goes: behind what stands there or in front of it, with an empty line between where it is `apart`."""

    at: int
    behind: bool
    apart: bool = False


def place_of(syntax: Syntax, line: str, of_tree: Callable[[str], bool]) -> ImportPlace | None:
    """Where an import line goes; None for behind all others. `of_tree` tells names of the tree from those of libraries."""
    pattern = syntax.traits.imported
    named = pattern.match(line) if pattern is not None else None
    if pattern is None or named is None:
        return None
    known = list(_known(syntax, pattern, of_tree))
    key, group = named[1], syntax.traits.import_group(named[1], of_tree)
    own = [each for each in known if each.group == group]
    if not own:
        first = group == STANDARD and known
        return ImportPlace(known[0].start, behind=False, apart=True) if first else None
    order = next((each for each in _ORDERS if _is_sorted([each(one.kind, one.key) for one in own])), None)
    if order is None:
        return ImportPlace(own[-1].end, behind=True)
    before = [each for each in own if order(each.kind, each.key) <= order(_kind(line), key)]
    return ImportPlace(before[-1].end, behind=True) if before else ImportPlace(own[0].start, behind=False)


def _known(syntax: Syntax, pattern: re.Pattern[str], of_tree: Callable[[str], bool]) -> Iterator[Placed]:
    """The imports at the head of a file, in order; those behind its first declaration are there for a reason of their own."""
    for node in syntax.root.children:
        if node.type in _DECLARATIONS:
            return
        for each in (node, *_inside(node)):
            found = pattern.match(syntax.of(each)) if each.type in _IMPORTS else None
            if found is not None and found[1] != FUTURE:
                yield Placed(
                    each.start_byte,
                    each.start_byte + len(syntax.text[each.start_byte : each.end_byte].rstrip()),
                    _kind(found[0]),
                    found[1],
                    syntax.traits.import_group(found[1], of_tree),
                )


def _inside(node: Any) -> list[Any]:
    """What stands in a namespace."""
    body = node.child_by_field_name("body") if node.type in ("namespace_declaration", "namespace_definition") else None
    return list(body.children) if body is not None else []


def _kind(line: str) -> str:
    """Whether what stands in a module is imported (behind modules, where these are told apart), or a whole one."""
    return "whole" if not line.startswith("from") else "within"


_ORDERS: tuple[Callable[[str, str], tuple[str, ...]], ...] = (
    lambda kind, key: ("0" if kind == "whole" else "1", key.lower()),
    lambda kind, key: (key.lower(),),
)
"""By what imports of a group are sorted: kind and name, or name alone."""


def _is_sorted(keys: Sequence[tuple[str, ...]]) -> bool:
    return list(keys) == sorted(keys)
