"""How grave the use of an effect on the spot is."""

from __future__ import annotations

import re

from isodesm.diagnosis.hard_bonds.cases import Case
from isodesm.diagnosis.hard_bonds.durations import only_measures
from isodesm.inference.effect_kinds import SEVERE, UNSURE

WRAPPING = 6
"""Statements up to which a function is there for the effect that it has."""
_RECKONED = re.compile(
    rb"\s*+(?:\([^()\n]{0,20}\))?+(?:\.\w{1,20}\(\))?+\s*+(?:[-<>%*/](?![-/*])|\+(?!\+|\s*[\"'`])|[!=]==?(?!>))"
)
"""What compares a value, or reckons with it, behind it: a text that it is put into does neither."""
_RECKONED_BEFORE = re.compile(rb"(?:(?<!=)[-+<>%*/]=?|[!=]==?)\s*+\(?+(?:new\s++)?+$")
_TEXT_BEFORE = re.compile(rb"[\"'`]\s*+\+\s*+\(?+(?:new\s++)?+$")
_KEPT_BEFORE = re.compile(rb"(?<![\w$])(?:this\.)?#?(\w++)\s*+(?::[^=;\n]{1,60}+)?=\s*+\(?+(?:new\s++)?+$")
"""What stands before a value that a variable or field is given; group 1 is the name of it."""
_USE = rb"(?<![\w$])#?%s(?![\w$(])"
_USES = (
    rb"(?m)^([^\n]*?)" + _USE + rb"[?!]?(?:\.\w+\(\))?\s*(?:[-*/%%](?![-=])|\+(?![+=]|\s*[\"'`])|[<>]=?)",
    rb"(?m)^([^\n]*?)(?<!=)(?:[-*/%%]|(?<![\"'`])\s\+|[<>]=?)\s*(?:[\w$]+\.)*" + _USE,
)
"""Lines in which a name is compared, or reckoned with; group 1 is what stands before."""
_SAID = re.compile(rb"(?i)log|console|debug|trace|metric|telemetry|performance")
"""What a line has that only tells how long something took."""


def effect_level(case: Case) -> str:
    """The level of using an API with an effect, or a function that ends in one, on the spot."""
    if case.sort in ("timer", "probe"):
        return "note"  # a test turns to the timers of its runner, and to a folder of its own
    if only_measures(case) or (case.direct_effect in case.catalogue.light.replaced.split() and not _decides(case)):
        return "note"
    if SEVERE.intersection(case.effects):
        return "error"
    if UNSURE.isdisjoint(case.effects) or _is_by_the_way(case):
        return "note"
    return "warning"


def _decides(case: Case) -> bool:
    """Whether what an API gives is compared or reckoned with, as for an expiry, an order or a retry, at once or under the name
    that it is kept by."""
    text, place = case.codebase.text(case.file), case.site.place
    before, behind = text[max(place.start - 90, 0) : place.start], text[place.end : place.end + 40]
    if (_RECKONED_BEFORE.search(before) and not _TEXT_BEFORE.search(before)) or _RECKONED.match(behind):
        return True
    kept = _KEPT_BEFORE.search(before)
    return kept is not None and any(
        not _SAID.search(line) for use in _USES for line in re.findall(use % re.escape(kept[1]), text)
    )


def _is_by_the_way(case: Case) -> bool:
    """Whether a function of the tree that asks for the time does so on the way, and not to hand it out."""
    members = [case.symbols.types[number].members[index] for number, index in case.nodes]
    return bool(members) and not case.direct_effect and all(each.statements > WRAPPING for each in members)
