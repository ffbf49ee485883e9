"""Whether a state is given another value where it stands."""

from __future__ import annotations

from typing import Any

from isodesm.planning.analysis.decisions import holds_object
from isodesm.planning.model.decision import Place
from isodesm.planning.state.context import PlanContext

_CHANGING = frozenset(
    "assignment assignment_expression augmented_assignment augmented_assignment_expression update_expression "
    "postfix_unary_expression prefix_unary_expression delete_statement unset_statement reference_assignment_expression "
    "by_ref argument".split()
)
"""What may give a state another value, or hand out the place where it is kept."""
_PART_OF = frozenset("subscript_expression element_access_expression subscript parenthesized_expression".split())


def reads_only(context: PlanContext, place: Place, node: Any) -> bool:
    """Whether a state, or a part of it, is not given another value where it stands."""
    while node.parent is not None and node.parent.type in _PART_OF:
        node = node.parent
    if node.parent is None:
        return True
    if context.sources.syntax(place.file).traits.calls_hide_references and _may_be_a_reference(
        context, place, node.parent.type
    ):
        return False
    return not _changes(node.parent, node)


def _may_be_a_reference(context: PlanContext, place: Place, around: str) -> bool:
    """Whether the very variable may be asked for, in a language whose calls say nothing of what they take by reference."""
    return around in ("foreach_statement", "array_element_initializer") or (
        around == "argument" and not holds_object(context.codebase, place)
    )


def _changes(parent: Any, value: Any) -> bool:
    """Whether a value is what its parent changes, and not what it only reads."""
    if parent.type not in _CHANGING:
        return False
    left = parent.child_by_field_name("left")
    if parent.type == "argument":
        return len(parent.children) > 1 and parent.children[0].type in ("ref", "out", "in")
    return left is None or left == value
