"""Classes as people name them: by simple name, qualified name, or a unique tail of it."""

from __future__ import annotations

import difflib

from isodesm.codebase.overview import Overview
from isodesm.errors import UsageError
from isodesm.linking.symbols import simple_name

CANDIDATES_SHOWN = 8


def find_class(overview: Overview, name: str) -> int:
    """The number of the class that `name` means.

    Raises UsageError with the candidates where several are meant, and with the nearest names where none is.
    """
    found = [each for each in overview.shown if each.name == name]
    found = found or [each for each in overview.shown if each.name.endswith(tuple(f"{sign}{name}" for sign in ".\\#"))]
    if len(found) == 1:
        return found[0].number
    if found:
        shown = "\n".join(f"  {each.name}  ({each.path})" for each in found[:CANDIDATES_SHOWN])
        more = f"\n  … and {len(found) - CANDIDATES_SHOWN} more" if len(found) > CANDIDATES_SHOWN else ""
        raise UsageError(f"`{name}` may be any of these; give a longer tail of the name:\n{shown}{more}")
    near = difflib.get_close_matches(simple_name(name), sorted({each.simple for each in overview.shown}), n=3, cutoff=0.5)
    hint = f" The nearest: {', '.join(f'`{each}`' for each in near)}." if near else ""
    raise UsageError(f"There is no class `{name}` in what was read.{hint}")


def find_class_and_member(overview: Overview, name: str) -> tuple[int, str]:
    """The class that `name` means, or a class and the name of a member behind the last dot. UsageError as for a class."""
    try:
        return find_class(overview, name), ""
    except UsageError as error:
        owner, _, member = name.replace("::", ".").rpartition(".")
        if not owner:
            raise
        try:
            return find_class(overview, owner), member
        except UsageError:
            raise error from None


def check_layer(overview: Overview, name: str) -> None:
    """UsageError, with the layers that there are, for the name of one that there isn't."""
    if name not in overview.layers:
        known = (
            ", ".join(overview.layers)
            if overview.layers
            else "none, for all classes lie in one package; `isodesm setup` writes a settings file to name them in"
        )
        near = difflib.get_close_matches(name, overview.layers, n=1)
        hint = f" Did you mean `{near[0]}`?" if near else ""
        raise UsageError(f"There is no layer `{name}` here. Layers: {known}.{hint}")


def classes_meant(overview: Overview, name: str) -> frozenset[int]:
    """The classes of a layer or package of that name, or the one class that it means. UsageError where there is none."""
    if name in overview.layers:
        return classes_or_layer(overview, name)
    below, behind = tuple(f"{name}{sign}" for sign in ".\\#/"), tuple(f"{sign}{name}" for sign in ".\\#")
    inside = frozenset(each.number for each in overview.shown if each.name.startswith(below))
    known = any(each.name == name or each.name.endswith(behind) for each in overview.shown)
    return inside if inside and not known else frozenset((find_class(overview, name),))


def classes_or_layer(overview: Overview, name: str) -> frozenset[int]:
    """The classes of the layer called `name`, or the one class that it means; empty for an empty name."""
    if not name:
        return frozenset()
    if name in overview.layers:
        return frozenset(each.number for each in overview.shown if each.layer == name)
    return frozenset((find_class(overview, name),))
