"""Classes as people name them: by simple name, qualified name, or a unique tail of it."""

from __future__ import annotations

import difflib

from isodesm.codebase.model import Codebase
from isodesm.errors import UsageError
from isodesm.linking.symbols import simple_name

CANDIDATES_SHOWN = 8


def find_class(codebase: Codebase, name: str) -> int:
    """The number of the class that `name` means.

    Raises UsageError with the candidates where several are meant, and with the nearest names where none is.
    """
    symbols = codebase.symbols
    named = [number for number in range(len(symbols)) if symbols.is_shown(number)]
    exact = [number for number in named if symbols.names[number] == name]
    found = exact or [number for number in named if symbols.names[number].endswith(tuple(f"{sign}{name}" for sign in ".\\#"))]
    if len(found) == 1:
        return found[0]
    if found:
        shown = "\n".join(f"  {symbols.names[each]}  ({symbols.path(each)})" for each in found[:CANDIDATES_SHOWN])
        more = f"\n  … and {len(found) - CANDIDATES_SHOWN} more" if len(found) > CANDIDATES_SHOWN else ""
        raise UsageError(f"`{name}` may be any of these; give a longer tail of the name:\n{shown}{more}")
    simple = {symbols.types[number].name: number for number in named}
    near = difflib.get_close_matches(simple_name(name), sorted(simple), n=3, cutoff=0.5)
    hint = f" The nearest: {', '.join(f'`{each}`' for each in near)}." if near else ""
    raise UsageError(f"There is no class `{name}` in what was read.{hint}")


def find_class_and_member(codebase: Codebase, name: str) -> tuple[int, str]:
    """The class that `name` means, or a class and the name of a member behind the last dot. UsageError as for a class."""
    try:
        return find_class(codebase, name), ""
    except UsageError as error:
        owner, _, member = name.replace("::", ".").rpartition(".")
        if not owner:
            raise
        try:
            return find_class(codebase, owner), member
        except UsageError:
            raise error from None


def check_layer(codebase: Codebase, name: str) -> None:
    """UsageError, with the layers that there are, for the name of one that there isn't."""
    names = [layer.name for layer in codebase.layers.layers]
    if name not in names:
        known = ", ".join(names) if names else "none was recognised; `isodesm setup` writes a settings file to name them in"
        raise UsageError(f"There is no layer `{name}` here. Layers: {known}.")


def classes_or_layer(codebase: Codebase, name: str) -> frozenset[int]:
    """The classes of the layer called `name`, or the one class that it means; empty for an empty name."""
    if not name:
        return frozenset()
    layers = codebase.layers
    if any(layer.name == name for layer in layers.layers):
        return frozenset(number for number in range(len(codebase.symbols)) if layers.name(number) == name)
    return frozenset((find_class(codebase, name),))
