"""Types that several trees have to do with: who declares them, who uses them, where they are made by hand."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

import msgspec

from isodesm.fleet.answers import TreeAnswer, Use


class SharedType(msgspec.Struct, frozen=True):
    """A type by its qualified name, with the trees that declare it, use it, and make objects of it, and in how many places."""

    name: str
    declared_in: tuple[str, ...]
    used_in: tuple[str, ...]
    made_in: tuple[str, ...]
    places: int
    """Places that make one, in all trees."""


def shared_types(answers: Iterable[TreeAnswer]) -> tuple[SharedType, ...]:
    """Types that more than one tree declares or uses: those that some tree declares first, then by how many trees make one by
    hand."""
    found: dict[str, dict[str, Use]] = defaultdict(dict)
    for answer in answers:
        for name, use in answer.uses.items():
            found[name][answer.name] = use
    shared = [_shared(name, uses) for name, uses in found.items() if len(uses) > 1]
    return tuple(
        sorted(shared, key=lambda each: (not each.declared_in, -len(each.made_in), -each.places, -len(each.used_in), each.name))
    )


def _shared(name: str, uses: dict[str, Use]) -> SharedType:
    return SharedType(
        name,
        tuple(sorted(tree for tree, use in uses.items() if use.declares)),
        tuple(sorted(tree for tree, use in uses.items() if use.users)),
        tuple(sorted(tree for tree, use in uses.items() if use.created)),
        sum(use.created for use in uses.values()),
    )
