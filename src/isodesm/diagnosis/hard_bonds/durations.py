"""Clocks that are asked only for how long something took: nothing depends on what they say."""

from __future__ import annotations

import re

from isodesm.diagnosis.hard_bonds.cases import Case

KEPT = rb"(?<![\w$.])(\$?\w++)\s*+(?::[^=;\n]{1,40}+)?=\s*+(?:new\s++)?+"
"""What keeps the value of the call behind it; group 1 is its name."""
_NAME = rb"(?<![\w$.])%s(?![\w$(])"
_COMPARED = re.compile(rb"[<>]=?(?<![-=]>)\s")
"""A comparison, which is no arrow and no list of types."""
_LESS = rb"\s*+-(?![-=>])"


def only_measures(case: Case) -> bool:
    """Whether the difference to another look at the same clock, in the same member, is all that becomes of the value, and
    is compared with nothing."""
    member = case.member
    if case.direct_effect != "clock" or member is None or not member.body:
        return False
    text, place = case.codebase.text(case.file), case.site.place
    body = text[member.body[0] : member.body[1]]
    call = re.escape(text[place.start : place.end])
    names = set(re.findall(KEPT + call, body))
    lines = [line for line in body.splitlines() if re.search(call, line) or _names_one(line, names)]
    return bool(names) and _is_measured(lines, names, call) and not _is_judged(body, lines, names)


def _names_one(line: bytes, names: set[bytes]) -> bool:
    return any(re.search(_NAME % re.escape(name), line) for name in names)


def _is_measured(lines: list[bytes], names: set[bytes], call: bytes) -> bool:
    """Whether every line keeps the time or takes the difference, and one does take it."""
    later = b"|".join([call, *(_NAME % re.escape(name) for name in sorted(names))])
    earlier = b"|".join(_NAME % re.escape(name) for name in sorted(names))
    takes = re.compile(rb"(?:%s)[\w.()]{0,30}%s\s*+(?:%s)" % (later, _LESS, earlier))
    differences = [line for line in lines if takes.search(line)]
    reckoned = rb"(?!=)(?![^\n]*(?:%s)[\w.()]{0,30}\s*+[-+*/%%<>])" % later
    kept = re.compile(rb"(?:%s)\s*+(?::[^=;\n]{1,40}+)?=%s" % (earlier, reckoned))
    return bool(differences) and all(takes.search(line) or kept.search(line) for line in lines)


def _is_judged(body: bytes, lines: list[bytes], names: set[bytes]) -> bool:
    """Whether a difference is compared, at once or under the name that it is kept by."""
    if any(_COMPARED.search(line) for line in lines):
        return True
    results = {found[1] for line in lines if (found := re.search(KEPT, line))} - names
    told = [line for line in body.splitlines() if _names_one(line, results)]
    return any(_COMPARED.search(line) for line in told)
