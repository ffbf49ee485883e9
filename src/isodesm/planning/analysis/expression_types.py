"""The types of expressions, as the language spells them: of what a call passes, and of what is made of what it gives."""

from __future__ import annotations

import re
from typing import Any

from isodesm.facts import typetext
from isodesm.planning.analysis.sources import Sources
from isodesm.planning.model.decision import Spot
from isodesm.planning.text.syntax import Syntax

_STRINGS = frozenset(
    "string string_literal interpolated_string_expression template_string encapsed_string verbatim_string_literal "
    "raw_string_literal concatenated_string heredoc".split()
)
_WHOLE = frozenset("integer integer_literal decimal_integer_literal hex_integer_literal".split())
_TRUTH = frozenset("true false boolean_literal boolean".split())
_CREATIONS = frozenset(("object_creation_expression", "new_expression"))
_NAMES = frozenset(("identifier", "variable_name"))
_BRACKETS = frozenset(("argument", "parenthesized_expression"))
_INFERRED = frozenset(("var", "let", "const", "auto", ""))


def is_variable(sources: Sources, spot: Spot, name: str) -> bool:
    """Whether a name is that of a variable or parameter where an expression stands."""
    return sources.values(spot.file).variable(name, spot.span[0]) is not None


def type_of(sources: Sources, number: int, spot: Spot, syntax: Syntax, node: Any) -> str:
    """The type of an expression beside a spot in a class; '' where it can't be told."""
    text, whole, truth = syntax.traits.values
    while node.type in _BRACKETS and len(node.named_children) == 1:
        node = node.named_children[0]
    if node.type in _STRINGS:
        return text
    if node.type in _WHOLE or (node.type == "number" and b"." not in syntax.text[node.start_byte : node.end_byte]):
        return whole
    if node.type in _TRUTH:
        return truth
    if node.type in _CREATIONS:
        made = node.child_by_field_name("type") or node.child_by_field_name("constructor")
        return syntax.of(made) if made is not None and "<>" not in syntax.of(made) else ""
    if node.type == "binary_expression" and any(
        type_of(sources, number, spot, syntax, each) == text for each in (node.named_children[0], node.named_children[-1])
    ):
        return text if syntax.of(node.children[1]) in ("+", ".") else ""
    if node.type in _NAMES:
        return _of_name(sources, number, spot, syntax.of(node).lstrip("$"))
    own = re.fullmatch(r"(?:this\.|self\.|\$this->)(\w+)", syntax.of(node))
    return _of_field(sources, number, own[1]) if own is not None else _of_site(sources, spot, node)


def _of_name(sources: Sources, number: int, spot: Spot, name: str) -> str:
    values = sources.values(spot.file)
    local = values.variable(name, spot.span[0]) or values.variable(f"${name}", spot.span[0])
    if local is not None:
        plain = local.type not in _INFERRED and local.kind == ""
        return local.type if plain else values.of_local(local, values.scope(spot.site)).text
    given = next((each for each in spot.member.parameters if each.name.lstrip("$") == name), None) if spot.member else None
    if given is not None:
        return given.type
    return _of_field(sources, number, name) if sources.symbols.dialect(number).implicit_self else ""


def _of_field(sources: Sources, number: int, name: str) -> str:
    members = [m for each in sources.codebase.roles.ancestors(number) for m in sources.symbols.types[each].members]
    return next((m.type for m in members if m.kind in ("field", "property", "component") and m.name.lstrip("$#") == name), "")


def _of_site(sources: Sources, spot: Spot, node: Any) -> str:
    values = sources.values(spot.file)
    for index, site in enumerate(values.sites):
        if (site.place.start, site.place.end) == (node.start_byte, node.end_byte):
            return values.of_site(index).text
    return ""


def result_of(sources: Sources, number: int, spot: Spot, syntax: Syntax, node: Any) -> str | None:
    """The type that is made of what an expression gives: `void` for a statement, what a variable or member is declared with;
    None where that can't be told."""
    parent = node.parent
    while parent is not None and parent.type in ("parenthesized_expression", "equals_value_clause"):
        node, parent = parent, parent.parent
    if parent is None:
        return None
    if parent.type == "expression_statement":
        return "void"
    if parent.type == "return_statement" and spot.member is not None and _is_of_member(parent, spot, syntax):
        return spot.member.type or None
    if parent.type == "variable_declarator":
        declared = syntax.declared_type(parent)
        return syntax.of(declared) if declared is not None and syntax.of(declared) not in _INFERRED else None
    if parent.type == "assignment_expression":
        left = parent.child_by_field_name("left")
        return type_of(sources, number, spot, syntax, left) or None if left is not None and left != node else None
    return None


def _is_of_member(statement: Any, spot: Spot, syntax: Syntax) -> bool:
    """Whether a statement stands in its member itself, and in no function inside that."""
    assert spot.member is not None
    within, node = syntax.member_node(spot.member), statement.parent
    while node is not None and node != within:
        if (
            "lambda" in node.type
            or "arrow" in node.type
            or "function" in node.type
            or node.type.endswith("_body")
            and node.parent != within
        ):
            return False
        node = node.parent
    return True


def errors_at(spot: Spot, syntax: Syntax, node: Any) -> tuple[str, ...]:
    """The types of errors that may be thrown at an expression: those which are caught around it, and what its member
    declares."""
    assert spot.member is not None
    within, found = syntax.member_node(spot.member), []
    inner, around = node, node.parent
    while around is not None and inner != within:
        if (
            around.type.startswith("try")
            and around.child_by_field_name("body") in (inner, None)
            or around.type == "resource_specification"
        ):
            tried = around if around.type.startswith("try") else around.parent
            for clause in tried.children:
                if clause.type == "catch_clause":
                    kinds = next((each for each in clause.named_children[0].named_children if each.type == "catch_type"), None)
                    found += [syntax.of(each) for each in kinds.named_children] if kinds is not None else []
        if "lambda" in around.type:
            return tuple(dict.fromkeys(found))
        if around.type == "method_declaration":  # of a class without a name: what is caught around that, it never reaches
            declared = next((each for each in around.children if each.type == "throws"), None)
            own = [syntax.of(each) for each in declared.named_children] if declared is not None else []
            return tuple(dict.fromkeys((*found, *own)))
        inner, around = around, around.parent
    return tuple(dict.fromkeys((*found, *spot.member.throws)))


def is_value_type(text: str) -> bool:
    """Whether a text spells a type that a signature can have."""
    return bool(text) and text not in _INFERRED and bool(typetext.head(text) or text.endswith("]"))
