"""How grave the use of an effect on the spot is."""

from __future__ import annotations

import re

from isodesm.diagnosis.hard_bonds.cases import Case
from isodesm.inference.effect_kinds import SEVERE, UNSURE

WRAPPING = 6
"""Statements up to which a function is there for the effect that it has."""
_RECKONED = re.compile(rb"\s*+(?:\([^()\n]{0,20}\))?+(?:\.\w{1,20}\(\))?+\s*+(?:[-+<>%*/](?![-+/*])|[!=]==?(?!>))")
_RECKONED_BEFORE = re.compile(rb"(?:(?<!=)[-+<>%*/]=?|[!=]?==?)\s*+\(?+(?:new\s++)?+$")


def effect_level(case: Case) -> str:
    """The level of using an API with an effect, or a function that ends in one, on the spot."""
    if case.sort in ("timer", "probe"):
        return "note"  # a test turns to the timers of its runner, and to a folder of its own
    if case.direct_effect in case.catalogue.light.replaced.split() and not _decides(case):
        return "note"
    if SEVERE.intersection(case.effects):
        return "error"
    if UNSURE.isdisjoint(case.effects) or _is_by_the_way(case):
        return "note"
    return "warning"


def _decides(case: Case) -> bool:
    """Whether what an API gives is kept in a variable, compared or reckoned with, as for an expiry, an order or a retry."""
    text, place = case.codebase.text(case.file), case.site.place
    before, behind = text[max(place.start - 30, 0) : place.start], text[place.end : place.end + 40]
    return bool(_RECKONED_BEFORE.search(before) or _RECKONED.match(behind))


def _is_by_the_way(case: Case) -> bool:
    """Whether a function of the tree that asks for the time does so on the way, and not to hand it out."""
    members = [case.symbols.types[number].members[index] for number, index in case.nodes]
    return bool(members) and not case.direct_effect and all(each.statements > WRAPPING for each in members)
