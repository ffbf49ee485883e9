"""Under which condition a place in a file is reached: the branches around it, inside its function."""

from __future__ import annotations

import re
from typing import Any

from isodesm.facts.trees import Tree

_FUNCTIONS = re.compile(r"function|method_decl|method_def|lambda|constructor|class_|declaration_list|program|module$")
_SHORT = 60
_CASES = frozenset(
    (
        "switch_case",
        "switch_default",
        "case_statement",
        "default_statement",
        "switch_section",
        "switch_block_statement_group",
        "switch_rule",
        "switch_expression_arm",
        "match_conditional_expression",
        "match_default_expression",
        "case_clause",
    )
)


def condition_at(tree: Tree, node: Any) -> str:
    """The conditions around a node, outermost first, joined by `and`; '' where there are none.

    Whether something is registered yet is no condition but an order, which the words of the call say as well.
    """
    found: list[str] = []
    while (above := node.parent) is not None and not _FUNCTIONS.search(above.type):
        if text := _of_branch(tree, above, node):
            found.append(text)
        node = above
    return " and ".join(reversed(found))


def _of_branch(tree: Tree, above: Any, node: Any) -> str:
    """What must hold for a node to be reached in the node above it."""
    if above.type in _CASES:
        head = tree.of(above).partition("\n")[0].partition("=>")[0].partition("->")[0].strip().rstrip(":")
        return shortened(head if node.start_byte > above.start_byte else "", _SHORT)
    if above.type in ("preproc_if", "preproc_elif"):
        condition = above.child_by_field_name("condition")
        return (
            f"#if {shortened(tree.of(condition), _SHORT)}"
            if condition is not None and node.start_byte > condition.end_byte
            else ""
        )
    if above.type in ("preproc_else",):
        return "#else"
    condition = above.child_by_field_name("condition")
    if condition is None or not re.search(r"^if|elif|else_if|ternary|conditional", above.type):
        return ""
    if condition.start_byte <= node.start_byte < condition.end_byte:
        return ""
    inner = condition.named_children[0] if condition.type == "parenthesized_expression" else condition
    text = shortened(tree.of(inner), _SHORT)
    other = above.child_by_field_name("alternative")
    is_other = other is not None and other.start_byte <= node.start_byte and node.type not in ("else_if_clause", "elif_clause")
    if node.type in ("else_clause", "else_if_clause", "elif_clause"):
        is_other = True
    return f"not ({text})" if is_other else text


def shortened(text: str, most: int) -> str:
    """`text` on one line, cut to so many characters."""
    text = " ".join(text.split())
    return text if len(text) <= most else f"{text[: most - 1]}…"
