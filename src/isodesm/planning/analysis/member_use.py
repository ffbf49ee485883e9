"""What a class does with what it decides on: which members it asks for, and whether it needs the class itself."""

from __future__ import annotations

import re
from typing import Any

from isodesm.facts.languages import dialect_of
from isodesm.planning.analysis.signatures import INDEXER
from isodesm.planning.analysis.sources import Sources
from isodesm.planning.model.decision import Decision, Place
from isodesm.planning.text.syntax import Syntax

_NEAR = 120
"""Characters around a name that are looked at for what is done with it."""
_OWN = re.compile(r"(?:\$this\s*->|\b(?:this|self)\s*\.)\s*\Z")
_PART_OF_MORE = frozenset("_.$>\"'")
"""What stands in front of a name that is part of another one, or of a text."""
_MEMBER_ASKED = re.compile(r"\s*+(?:[?!]\s*+)?(?:\.|->)\s*+(\w++)")
_INDEXED = re.compile(r"\s*+(?:[?!]\s*+)?\[")
_SET_OR_ENDED = re.compile(r"\s*+(?::\s*+[\w.<>\[\] |]++\s*+)?(?:=(?!=)|;|$)")
_PASSED_ON = re.compile(r"(?:return|[=(,])\s*(?:this\.|self\.|\$this->)?\$?$")
RECEIVERS = frozenset(
    (
        "method_invocation",
        "field_access",
        "member_access_expression",
        "member_expression",
        "member_call_expression",
        "attribute",
        "nullsafe_member_call_expression",
        "non_null_expression",
    )
)


def asked_members(sources: Sources, decision: Decision) -> frozenset[str] | None:
    """Names of the members that the source asks for; None where it passes the object on, so that it needs its very class."""
    found: set[str] = set()
    for place in decision.places:
        names = _of_place(sources, decision, place)
        if names is None:
            return None
        found |= names
    return frozenset(found)


def _of_place(sources: Sources, decision: Decision, place: Place) -> set[str] | None:
    syntax = sources.syntax(place.file)
    node = syntax.at(*place.span)
    if place.field:
        known = sources.symbols.members(decision.source).get(place.field, ())
        field = next((each for _, each in known if each.kind == "field"), None)
        if field is None or (not field.is_private and sources.language(decision.source).declares_visibility):
            return None
        found: set[str] = set()
        for part in sources.symbols.parts.get(decision.source, (decision.source,)):
            around = sources.syntax(sources.symbols.file_of[part])
            asked = _asked_of(around, place.field, sources.symbols.types[part].body, decision, own_member=True)
            if asked is None:
                return None
            found |= asked
        return found
    if (member := received(syntax, node)) is not None:
        return {member}
    declarator = syntax.declarator(node) or _assigned(node)
    name = declarator.child_by_field_name("name") or declarator.child_by_field_name("left") if declarator is not None else None
    if name is None or place.member is None or name.type not in ("identifier", "variable_name"):
        return None
    return _asked_of(syntax, syntax.of(name).lstrip("$"), place.member.body, decision, own_member=False)


def _assigned(node: Any) -> Any:
    parent = node.parent
    return parent if parent is not None and parent.type in ("assignment", "assignment_expression") else None


def received(syntax: Syntax, node: Any) -> str | None:
    """The member that is asked of an expression; None where it is used otherwise."""
    parent = node.parent
    while parent is not None and parent.type in ("parenthesized_expression", "non_null_expression", "await_expression"):
        node, parent = parent, parent.parent
    if parent is None or parent.type not in RECEIVERS or parent.children[0] != node:
        return None
    name = (
        parent.child_by_field_name("name") or parent.child_by_field_name("property") or parent.child_by_field_name("attribute")
    )
    return syntax.of(name).partition("<")[0] if name is not None else None


def _asked_of(syntax: Syntax, name: str, span: tuple[int, int], decision: Decision, *, own_member: bool) -> set[str] | None:
    """What is asked of a variable within a span of the source, read off its text; None where it is used otherwise."""
    bare = own_member and dialect_of(syntax.language).implicit_self
    sign = "" if own_member else syntax.traits.sign
    found: set[str] = set()
    for start, end in syntax.uses_of(f"{sign}{name}"):
        if not span[0] <= start < span[1]:
            continue
        before = syntax.text[max(span[0], start - _NEAR) : start].decode("utf-8", "replace")
        owner = _OWN.search(before) if own_member else None
        lead = before[: owner.start()] if owner else before
        if lead[-1:] in _PART_OF_MORE or lead[-1:].isalnum() or (own_member and not owner and not bare):
            continue
        rest = syntax.text[end : min(span[1], end + _NEAR)].decode("utf-8", "replace")
        if asked := _MEMBER_ASKED.match(rest):
            found.add(asked[1])
        elif syntax.traits.indexers and _INDEXED.match(rest):
            found.add(INDEXER)
        elif not _SET_OR_ENDED.match(rest) or _PASSED_ON.search(before):
            return None
    return found
