"""Whether objects of a class differ by what they keep."""

from __future__ import annotations

import re

from isodesm.facts.records import Member
from isodesm.planning.analysis.sources import Sources
from isodesm.planning.model.refusal import Reason, Refusal


def of_state(sources: Sources, target: int) -> Refusal | None:
    """Why objects of a class differ, so that several can't be one; None where they don't."""
    line = sources.codebase.roles.ancestors(target)
    if any(sources.codebase.roles.external_bases.get(each) for each in line if sources.symbols.types[each].kind == "class"):
        return Refusal(Reason.FOREIGN_BASE)
    fixed = ("final", "readonly", "const")
    changing = [
        m
        for m in all_members(sources, target)
        if m.kind == "field" and not m.is_static and not set(fixed) & set(m.modifiers.words)
    ]
    if not sources.language(target).marks_final_fields:
        changing = [m for m in changing if m.whole == (0, 0) or not is_set_once(sources, target, m)]
    return Refusal(Reason.STATE_OF_ITS_OWN) if changing else None


def all_members(sources: Sources, target: int) -> list[Member]:
    """The members of a class, inherited ones behind its own."""
    return [m for each in sources.codebase.roles.ancestors(target) for m in sources.symbols.types[each].members]


def is_set_once(sources: Sources, number: int, member: Member) -> bool:
    """Whether a field is assigned in the constructor only, read off the text of the class."""
    text = sources.codebase.text(sources.symbols.file_of[number])
    constructor = sources.constructor(number)
    body = sources.symbols.types[number].body
    pattern = re.compile(
        rb"(?:self\.|this\.|\$this->)"
        + re.escape(member.name).encode()
        + rb"\s*(?:[-+*/|&.?]{0,3}=(?!=)|\[|\+\+|--|\.(?:append|add|push|set|update|pop|clear)\()"
    )
    span = constructor.whole if constructor is not None else (0, 0)
    return all(span[0] <= found.start() < span[1] for found in pattern.finditer(text, *body))
