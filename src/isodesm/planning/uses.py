"""What a class does with what it decides on: which members it asks for, and whether it needs the class itself."""

from __future__ import annotations

import re
from typing import Any

from isodesm.planning.decisions import Decision, Place
from isodesm.planning.drafting.draft import Draft
from isodesm.planning.drafting.syntax import Syntax

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


def asked_members(draft: Draft, decision: Decision) -> frozenset[str] | None:
    """Names of the members that the source asks for; None where it passes the object on, so that it needs its very class."""
    found: set[str] = set()
    for place in decision.places:
        names = _of_place(draft, decision, place)
        if names is None:
            return None
        found |= names
    return frozenset(found)


def _of_place(draft: Draft, decision: Decision, place: Place) -> set[str] | None:
    syntax = draft.syntax(place.file)
    node = syntax.at(*place.span)
    own = draft.symbols.types[decision.source]
    if place.field:
        field = next((m for m in own.members if m.kind == "field" and m.name == place.field), None)
        if field is None or (
            not field.is_private and draft.symbols.dialect(decision.source).name in ("java", "csharp", "php", "typescript")
        ):
            return None
        found: set[str] = set()
        for part in draft.symbols.parts.get(decision.source, (decision.source,)):
            around = draft.syntax(draft.symbols.file_of[part])
            asked = _asked_of(around, place.field, draft.symbols.types[part].body, decision, own_member=True)
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
    """What is asked of a variable within a span of the source, read off its text."""
    text = syntax.text[span[0] : span[1]].decode("utf-8", "replace")
    own = r"(?:this\s*\.\s*|self\s*\.\s*|\$this\s*->\s*)" if own_member else ""
    lead = {"java": f"{own}?" if own else "", "csharp": f"{own}?" if own else ""}.get(syntax.language, own)
    sign = r"\$" if syntax.language == "php" and not own_member else ""
    found: set[str] = set()
    for use in re.finditer(rf"(?<![\w.$>\"'])(?:(?P<own>{lead or '(?!)'}))?{sign}{re.escape(name)}\b", text):
        if own_member and not use["own"] and syntax.language not in ("java", "csharp"):
            continue
        rest = text[use.end() : use.end() + 120]
        asked = re.match(r"\s*[?!]?\s*(?:\.|->)\s*(\w+)", rest)
        if asked:
            found.add(asked[1])
        elif not re.match(r"\s*(?::\s*[\w.<>\[\] |]+\s*)?(?:=(?!=)|;|$)", rest) or re.search(
            r"(?:return|[=(,])\s*(?:this\.|self\.|\$this->)?\$?$", text[: use.end() - len(name)]
        ):
            return None
    return found
