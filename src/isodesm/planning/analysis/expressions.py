"""Expressions as they stand in code: what they name, and what ties them to their class."""

from __future__ import annotations

import re

from isodesm.facts import typetext
from isodesm.linking.symbols import simple_name
from isodesm.planning.analysis.names_in_code import typetext_free
from isodesm.planning.analysis.sources import Sources
from isodesm.planning.model.decision import Decision, Place

INFERRED = frozenset(("var", "val", "auto", "let", "const"))
"""Words in the place of a type that leave it to the value."""
SELF_WORDS = frozenset(("this", "self", "$this"))
_NAMES = re.compile(r"(?<![\w.>\"'])(\$?[A-Za-z_]\w*)")


def free_names(text: str) -> set[str]:
    """Names in an expression that stand for themselves, `this` and the like included; not what is behind a dot."""
    return set(_NAMES.findall(typetext_free(text)))


def expression(sources: Sources, place: Place) -> str:
    """The expression of a place as written, on one line and without comments."""
    text = sources.codebase.text(place.file)[place.span[0] : place.span[1]].decode("utf-8", "replace")
    return typetext.squeeze(text) if "\n" in text else text


def passed(sources: Sources, place: Place) -> str:
    """What the expression of a place passes, as written."""
    syntax = sources.syntax(place.file)
    brackets = syntax.arguments(syntax.at(*place.span))
    return syntax.of(brackets[0]).strip("()") if brackets is not None else ""


def bound_names(sources: Sources, decision: Decision, place: Place) -> tuple[set[str], bool]:
    """Names in a place that only its object or its method knows, and whether others tie it to its class: constants,
    parameters."""
    number = decision.source
    line = [sources.symbols.members(each) for each in sources.codebase.roles.ancestors(number)]
    names = {name.lstrip("$") if name not in SELF_WORDS else name for name in free_names(expression(sources, place))}
    at, named = place.span[0], sources.codebase.locals_named(place.file)
    local = {
        each.name
        for name in names
        for each in named.get(name, ())
        if each.start <= at < each.end and each.kind not in ("self", "class")
    }
    local |= {parameter.name for parameter in place.member.parameters} if place.member is not None else set()
    given: set[str] = set()
    if place.member is not None and place.member.kind == "constructor":
        given = {each.name for each in place.member.parameters}
    bare = sources.symbols.dialect(number).implicit_self
    known = [member for name in names for members in line for _, member in members.get(name, ())] if bare else []
    fixed = {member.name for member in known if member.is_static}
    own = {each.name for each in known if not each.is_static and each.kind in ("field", "method", "component", "property")}
    hidden = (names & ((local | own) - given)) | (names & SELF_WORDS)
    return hidden, bool(names & (given | fixed))


def held_as(sources: Sources, decision: Decision) -> str:
    """The one type that the fields declare in which a class keeps what it decides on, or its variables, where that is not the
    class itself; '' where it keeps it in none, or in several fields."""
    fields = {
        m.name: simple_name(typetext.head(m.type)) for m in sources.symbols.types[decision.source].members if m.kind == "field"
    }
    kinds = {fields.get(place.field, "") for place in decision.places}
    if len(kinds) == 1 and kinds != {""}:
        return kinds.pop()
    wider = {each for place in decision.places if not place.field and (each := _variable_type(sources, place))}
    wider -= {sources.symbols.types[decision.target].name if decision.target >= 0 else ""}
    return min(wider) if wider else ""


def _variable_type(sources: Sources, place: Place) -> str:
    """The type that a variable is declared with which holds what a place gives; '' where none does, or none is written."""
    syntax = sources.syntax(place.file)
    declarator = syntax.declarator(syntax.at(*place.span))
    declared = syntax.declared_type(declarator) if declarator is not None else None
    text = simple_name(typetext.head(syntax.of(declared))) if declared is not None else ""
    return "" if text in INFERRED else text
