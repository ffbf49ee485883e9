"""The names of types that a codebase declares, for checks of what files may name."""

from __future__ import annotations

from collections import defaultdict

from isodesm.codebase.model import Codebase
from isodesm.planning.language import language_named
from isodesm.planning.text.type_aliases import aliases_in


def known_types(codebase: Codebase) -> dict[str, frozenset[str]]:
    """Simple names of the types to the packages and namespaces that declare one; none for types inside others."""
    found: dict[str, set[str]] = defaultdict(set)
    symbols = codebase.symbols
    for number, each in enumerate(symbols.types):
        if each.name and each.kind != "module":
            space = each.space or symbols.files[symbols.file_of[number]].package
            found[each.name].update({space} if each.outer < 0 else ())
    for number in (at for at, facts in enumerate(symbols.files) if language_named(facts.language).type_aliases):
        for name in aliases_in(codebase.text(number)):
            found[name].add("")
    everybodys = {
        name
        for language in sorted({facts.language for facts in symbols.files})
        for name in symbols.catalogues.of(language).implicit.names.split()
    }
    return {name: frozenset(spaces) for name, spaces in found.items() if name not in everybodys}
