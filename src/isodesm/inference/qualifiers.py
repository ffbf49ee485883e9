"""Marks of the tree's own that say which one of several is meant: annotations that bear a mark which a container knows."""

from __future__ import annotations

from isodesm.facts.records import Annotation
from isodesm.linking.remembering import remembered
from isodesm.linking.symbols import Symbols, simple_name


@remembered
def own_qualifiers(symbols: Symbols) -> frozenset[str]:
    """Names of such annotations, in all languages."""
    found = set()
    for number, declared in enumerate(symbols.types):
        if declared.kind == "annotation" and declared.modifiers.annotations:
            known = symbols.catalogues.registering(symbols.dialect(number).name).qualifiers
            if any(simple_name(each.name) in known for each in declared.modifiers.annotations):
                found.add(declared.name)
    return frozenset(found)


def qualifier_of(symbols: Symbols, marks: tuple[Annotation, ...]) -> str:
    """The name of the tree's own mark among some, which then is the key; '' where there is none."""
    own = own_qualifiers(symbols) if marks else frozenset()
    return next((name for each in marks if (name := simple_name(each.name)) in own), "")
