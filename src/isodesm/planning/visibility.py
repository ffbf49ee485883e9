"""Who can name a type of the tree."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import TYPE_CHECKING

from isodesm.planning.abstractions import unit_of
from isodesm.planning.drafting.names_in_code import typetext_free

if TYPE_CHECKING:
    from isodesm.planning.workshop import Workshop

_HEAD = re.compile(r"(?<![\w.>\"'])([A-Za-z_]\w*)\s*\.")
_HIDING = {"csharp": ("method", "field", "property", "event"), "java": ("field",)}
"""Kinds of members that hide a type of their name in code of their class."""


def is_hidden_from(shop: Workshop, makers: Iterable[int], target: int) -> bool:
    """Whether one of some classes can't name what stands for a target: it is known to its package or its assembly only."""
    if target < 0 or shop.language(target) not in ("java", "csharp"):
        return False
    around = [target]
    while (outer := shop.symbols.outer(around[-1])) >= 0:
        around.append(outer)
    if all({"public", "protected"} & set(shop.symbols.types[each].modifiers.words) for each in around):
        return False
    if shop.language(target) == "csharp":
        return any(unit_of(shop, each) != unit_of(shop, target) for each in makers)
    package = shop.symbols.files[shop.symbols.file_of[target]].package
    return any(shop.symbols.files[shop.symbols.file_of[each]].package != package for each in makers)


def hides(shop: Workshop, source: int, text: str) -> bool:
    """Whether members of a class hide a type that an expression begins with by the same name."""
    kinds = _HIDING.get(shop.language(source), ())
    own = {each.name for each in shop.symbols.types[source].members if each.kind in kinds}
    return not own.isdisjoint(_HEAD.findall(typetext_free(text)))
