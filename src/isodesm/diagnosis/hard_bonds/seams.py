"""Whether what a place decides on can be handed in by others already."""

from __future__ import annotations

import re

from isodesm.diagnosis.hard_bonds.cases import Case
from isodesm.facts import typetext
from isodesm.inference.injection import Injection
from isodesm.inference.use_graph import OWN_TYPES
from isodesm.linking.bonds import AT_SEAM, RUNTIME
from isodesm.linking.symbols import simple_name


def is_at_seam(case: Case) -> bool:
    """Whether what is made or looked up only stands in for what a caller may hand in."""
    return bool(case.flags & AT_SEAM) or accepts_target(case) or case.is_fallback


def accepts_target(case: Case) -> bool:
    """Whether a constructor of the class takes such an object already, so that this place only supplies a default."""
    if goes_into_own_object(case):
        return True
    if case.external or case.member is None or case.member.kind not in ("constructor", "field"):
        return False
    names = {case.symbols.types[each].name for each in case.roles.ancestors(case.target)}
    return any(
        simple_name(typetext.head(parameter.type)) in names
        for member in case.source_type.members
        if member.kind == "constructor"
        for parameter in member.parameters
        if member is not case.member or _is_asked_about(case, parameter.name)
    )


def handed_already(case: Case) -> Injection | None:
    """What the class is handed that is of the target's type, or of one above it, though a place makes or fetches one more; None
    where it is handed none, or what the place passes is known only there."""
    if case.external or case.flags & RUNTIME or is_at_seam(case):
        return None
    line = set(case.roles.ancestors(case.target))
    given = case.codebase.wiring.injections.of_constructor(case.source)
    return next((each for each in given if each.target in line and not each.collection and not each.deferred), None)


def _is_asked_about(case: Case, parameter: str) -> bool:
    """Whether the constructor that a place stands in asks before it what it was given for a parameter; else it makes one in any
    case, beside what it is given."""
    assert case.member is not None
    before = case.codebase.text(case.file)[case.member.body[0] : case.site.place.start].decode("utf-8", "replace")
    name = re.escape(parameter.lstrip("$"))
    return re.search(rf"\b(?:if|unless)\b[^;{{}}\n]*\b{name}\b|\b{name}\s*+(?:\?|[!=]=|is\b|or\b|\|\|)", before) is not None


def goes_into_own_object(case: Case) -> bool:
    """Whether static code of a class gets something only to hand it to the constructor of that class."""
    if case.member is None or not case.member.is_static:
        return False
    sites, site, own = case.codebase.content(case.file).sites, case.site, (*OWN_TYPES, case.source_type.name)
    while site.inside >= 0:
        site = sites[site.inside]
        if site.kind == "creation" and simple_name(typetext.head(site.text)) in own:
            return True
    return False
