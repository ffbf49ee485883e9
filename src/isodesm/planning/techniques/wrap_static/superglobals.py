"""Variables that the host fills in for everybody: a class is handed a function that gives them."""

from __future__ import annotations

from typing import Any

from isodesm.planning.analysis.decisions import MOST_FUNCTIONS, TABLE, key_in_table
from isodesm.planning.analysis.interface_names import variable_name
from isodesm.planning.model.code import Typed
from isodesm.planning.model.decision import Decision, Place
from isodesm.planning.model.dependency import DefaultExpression
from isodesm.planning.model.proposal import Proposal, WantedDependency
from isodesm.planning.model.refusal import Hazard, Reason, Refusal, Risk
from isodesm.planning.state.context import PlanContext
from isodesm.planning.techniques.wrap_static.assignments import reads_only
from isodesm.planning.techniques.wrap_static.wrap import NAME


def of_host(context: PlanContext, decision: Decision) -> Proposal | Refusal | None:
    """A function that gives what the host fills in for everybody, as the catalogue names it, or one of all global variables; by
    reference where it is set."""
    found = context.symbols.catalogues.of(context.sources.language(decision.source).name).stand_ins.get(decision.name)
    keys = {key_in_table(context.codebase, place) for place in decision.places} if decision.name == TABLE else {""}
    key = keys.pop() if len(keys) == 1 else ""
    if found is None and (not key or len(_of_table(context, decision.source)) > MOST_FUNCTIONS):
        return None
    if any(place.member is None or place.member.kind == "field" for place in decision.places):
        return None
    nodes = [_variable(context, place, decision.name, whole=bool(key)) for place in decision.places]
    placed = list(zip(decision.places, nodes, strict=True))
    if any(node is None or _stands_in(context, place, node) in _NEEDS_VARIABLE for place, node in placed):
        return Refusal(Reason.VARIABLE_ONLY)
    written = f"{decision.name}['{key}']" if key else decision.name
    plain = found.supply if found is not None else f"fn () => {written} ?? null"
    sets = any(not reads_only(context, place, node) for place, node in placed)
    text = f"function &() {{ return {written}; }}" if sets else plain
    name = found.name if found is not None else variable_name(key, set())
    heads = {place.span: node.end_byte - place.span[0] for place, node in placed}
    wanted = WantedDependency(Typed("\\Closure"), name, DefaultExpression(text, -1), use="({field})()", heads=heads)
    hidden = Hazard(Risk.READ_WHEN_ASKED, written=written)
    return Proposal(NAME, decision, wanted, name, hazards=(hidden,))


_NEEDS_VARIABLE = frozenset(
    "isset unset unset_statement encapsed_string heredoc_body compact global_declaration reference_assignment_expression "
    "update_expression static_modifier by_ref".split()
)
"""What can't do with the result of a function."""


def _of_table(context: PlanContext, number: int) -> set[str]:
    """The global variables that a class takes out of the table of all."""
    own = (place for each in context.considered.outside.get(number, ()) if each.name == TABLE for place in each.places)
    return {key_in_table(context.codebase, place) for place in own}


def _variable(context: PlanContext, place: Place, name: str, *, whole: bool) -> Any:
    """The node of a variable of the host, or of its entry where that is asked for as a `whole`; None where it is another."""
    node = context.sources.syntax(place.file).at(*place.span)
    if context.sources.syntax(place.file).of(node) != name:
        return None
    return node.parent if whole else node


def _stands_in(context: PlanContext, place: Place, node: Any) -> str:
    """What a variable stands in, as far as that must have a variable: the type of the node, or the function that is called;
    '' where anything will do."""
    syntax, above = context.sources.syntax(place.file), node.parent
    if above.type.endswith("assignment_expression") and above.child_by_field_name("left") == node:
        return "unset"  # as a whole
    if above.type == "argument":
        function = above.parent.parent.child_by_field_name("function")
        return syntax.of(function).lower() if function is not None else ""
    inner, kind = above, str(above.type)
    while inner is not None and not inner.type.endswith("statement"):
        if inner.type in ("encapsed_string", "heredoc_body"):
            return str(inner.type)
        inner = inner.parent
    return kind
