"""wrap-static for a state that somebody may set at any time: a function is handed in that reads it whenever it is asked."""

from __future__ import annotations

from typing import Any

from isodesm.facts import typetext
from isodesm.facts.records import Member
from isodesm.linking.bonds import KIND_NUMBER
from isodesm.planning.decisions import MOST_FUNCTIONS, TABLE, Decision, Place, holds_object, key_in_table
from isodesm.planning.drafting.handed import Supply
from isodesm.planning.drafting.handing import Wanted
from isodesm.planning.drafting.names_in_code import EVERYTHING, needs_of_text
from isodesm.planning.gateways import SET_HERE, STATES, WITH_PROPERTIES
from isodesm.planning.interface_names import variable_name
from isodesm.planning.techniques.proposal import Proposal, bound_names, expression
from isodesm.planning.techniques.wrap_static import NAME, as_object, common
from isodesm.planning.workshop import Workshop
from isodesm.planning.writing import Need, Typed

_CHANGING = frozenset(
    "assignment assignment_expression augmented_assignment augmented_assignment_expression update_expression "
    "postfix_unary_expression prefix_unary_expression delete_statement unset_statement reference_assignment_expression "
    "by_ref argument".split()
)
"""What may give a state another value, or hand out the place where it is kept."""
VARIABLE_ONLY = "stands where only a variable will do, in a text or as a whole: put it into one of its own first"
_PART_OF = frozenset("subscript_expression element_access_expression subscript parenthesized_expression".split())
_JAVA = {
    "boolean": ("BooleanSupplier", "getAsBoolean"),
    "int": ("IntSupplier", "getAsInt"),
    "long": ("LongSupplier", "getAsLong"),
}
_UNBOXED = frozenset(("char", "byte", "short", "float", "double"))


def propose(shop: Workshop, decision: Decision) -> Proposal | str:
    """A function that reads the state; an object in the place of its class where several of its states are used."""
    if decision.target < 0:
        return _of_host(shop, decision)
    names = {shop.codebase.bonds.text_of("callee", place.row) for place in decision.places}
    if reason := common(shop, decision):
        return reason
    if len(names) > 1:
        return "" if shop.symbols.is_module(decision.target) else as_object(shop, decision)
    member = next((m for m in shop.symbols.types[decision.target].members if m.name == next(iter(names))), None)
    if member is None or member.kind not in STATES or not _is_named_plainly(shop, decision, member):
        return ""
    if any(not _only_reads(shop, place) for place in decision.places):
        kept = any(holds_object(shop.codebase, place) for place in decision.places)
        offered = shop.language(decision.source) in WITH_PROPERTIES and not kept and not shop.symbols.is_module(decision.target)
        return as_object(shop, decision) if offered else SET_HERE
    return _reader(shop, decision, member)


def _of_host(shop: Workshop, decision: Decision) -> Proposal | str:
    """A function that gives what the host fills in for everybody, as the catalogue names it, or one of all global variables; by
    reference where it is set."""
    found = shop.symbols.catalogues.of(shop.language(decision.source)).stand_ins.get(decision.name)
    keys = {key_in_table(shop.codebase, place) for place in decision.places} if decision.name == TABLE else {""}
    key = keys.pop() if len(keys) == 1 else ""
    if found is None and (not key or len(_of_table(shop, decision.source)) > MOST_FUNCTIONS):
        return ""
    if any(place.member is None or place.member.kind == "field" for place in decision.places):
        return ""
    nodes = [_variable(shop, place, decision.name, whole=bool(key)) for place in decision.places]
    placed = list(zip(decision.places, nodes, strict=True))
    if any(node is None or _stands_in(shop, place, node) in _NEEDS_VARIABLE for place, node in placed):
        return VARIABLE_ONLY
    written = f"{decision.name}['{key}']" if key else decision.name
    plain = found.supply if found is not None else f"fn () => {written} ?? null"
    sets = any(not _reads_only(shop, place, node) for place, node in placed)
    text = f"function &() {{ return {written}; }}" if sets else plain
    name = found.name if found is not None else variable_name(key, set())
    heads = {place.span: node.end_byte - place.span[0] for place, node in placed}
    wanted = Wanted(Typed("\\Closure"), name, Supply(text, -1), use="({field})()", heads=heads)
    hidden = f"whatever `{written}` is at the time is what it gives, as before"
    return Proposal(NAME, decision, wanted, name, hazards=(hidden,))


_NEEDS_VARIABLE = frozenset(
    "isset unset unset_statement encapsed_string heredoc_body compact global_declaration reference_assignment_expression "
    "update_expression static_modifier by_ref".split()
)
"""What can't do with the result of a function."""


def _of_table(shop: Workshop, number: int) -> set[str]:
    """The global variables that a class takes out of the table of all."""
    own = (place for each in shop.outside.get(number, ()) if each.name == TABLE for place in each.places)
    return {key_in_table(shop.codebase, place) for place in own}


def _variable(shop: Workshop, place: Place, name: str, *, whole: bool) -> Any:
    """The node of a variable of the host, or of its entry where that is asked for as a `whole`; None where it is another."""
    node = shop.draft.syntax(place.file).at(*place.span)
    if shop.draft.syntax(place.file).of(node) != name:
        return None
    return node.parent if whole else node


def _stands_in(shop: Workshop, place: Place, node: Any) -> str:
    """What a variable stands in, as far as that must have a variable: the type of the node, or the function that is called;
    '' where anything will do."""
    syntax, above = shop.draft.syntax(place.file), node.parent
    if above.type.endswith("assignment_expression") and above.child_by_field_name("left") == node:
        return "unset"  # as a whole
    if above.type == "argument":
        function = above.parent.parent.child_by_field_name("function")
        return syntax.of(function).lower() if function is not None else ""
    inner = above
    while inner is not None and not inner.type.endswith("statement"):
        if inner.type in ("encapsed_string", "heredoc_body"):
            return inner.type
        inner = inner.parent
    return above.type


def _is_named_plainly(shop: Workshop, decision: Decision, member: Member) -> bool:
    """Whether all places name the state in the same words, in members that can reach what the class is handed."""
    if any(place.member is None or place.member.kind == "field" for place in decision.places):
        return False
    if any(bound_names(shop, decision, place)[0] for place in decision.places):
        return False
    return (
        len({"".join(expression(shop, place).split()) for place in decision.places}) == 1
        and "event" not in member.modifiers.words
    )


def _only_reads(shop: Workshop, place: Place) -> bool:
    if shop.codebase.bonds.kind[place.row] != KIND_NUMBER["static-field"]:
        return False
    node = shop.draft.syntax(place.file).at(*place.span)
    return (node.start_byte, node.end_byte) == place.span and _reads_only(shop, place, node)


def _reads_only(shop: Workshop, place: Place, node: Any) -> bool:
    """Whether a state, or a part of it, is not given another value where it stands."""
    while node.parent is not None and node.parent.type in _PART_OF:
        node = node.parent
    if node.parent is None:
        return True
    if shop.symbols.files[place.file].language == "php" and _may_be_a_reference(shop, place, node.parent.type):
        return False
    return not _changes(node.parent, node)


def _may_be_a_reference(shop: Workshop, place: Place, around: str) -> bool:
    """Whether the very variable may be asked for, in a language whose calls say nothing of what they take by reference."""
    return around in ("foreach_statement", "array_element_initializer") or (
        around == "argument" and not holds_object(shop.codebase, place)
    )


def _changes(parent: Any, value: Any) -> bool:
    """Whether a value is what its parent changes, and not what it only reads."""
    if parent.type not in _CHANGING:
        return False
    left = parent.child_by_field_name("left")
    if parent.type == "argument":
        return len(parent.children) > 1 and parent.children[0].type in ("ref", "out", "in")
    return left is None or left == value


def _reader(shop: Workshop, decision: Decision, member: Member) -> Proposal | str:
    first, language = decision.places[0], shop.language(decision.source)
    file = shop.symbols.file_of[decision.target]
    needs = needs_of_text(shop.codebase, file, decision.target - shop.symbols.first[file], member.type)
    if language == "java" and any(each.name == EVERYTHING for each in needs):
        return "its type comes from one of several packages that are imported whole: import it by its name first"
    written, name = expression(shop, first), member.name.lstrip("$")
    function = reading_function(language, member.type, written, needs)
    if function is None:
        return SET_HERE
    typed, text, use = function
    hidden = f"whatever `{written}` is at the time is what it gives, as before"
    supply = Supply(text, first.file)
    wanted = Wanted(typed, name, supply, use=use)
    return Proposal(NAME, decision, wanted, f"reader of {shop.name(decision.target)}.{name}", hazards=(hidden,))


def reading_function(language: str, type: str, written: str, needs: tuple[Need, ...]) -> tuple[Typed, str, str] | None:
    """The type of a function that reads a state, the function itself, and how it is called; None where it can't be told."""
    if language == "java":
        if not type or type in _UNBOXED:
            return None
        name, call = _JAVA.get(type, ("Supplier", "get"))
        text = name if type in _JAVA else f"Supplier<{type}>"
        return Typed(text, (Need(name, "java.util.function"), *needs)), f"() -> {written}", f"{{field}}.{call}()"
    if language == "csharp":
        return (Typed(f"System.Func<{type}>", needs), f"() => {written}", "{field}()") if type else None
    if language == "typescript":
        loose = not type or any(each in typetext.names(type) for each in ("undefined", "null"))
        return (Typed(f"() => {type}", needs), f"() => {written}", "{field}()") if not loose else None
    if language == "php":
        return Typed("\\Closure"), f"function () {{ return {written}; }}", "({field})()"
    given = type or "Any"
    extra = (Need("Callable", "collections.abc"), *needs, *(() if type else (Need("Any", "typing"),)))
    return Typed(f"Callable[[], {given}]", extra), f"lambda: {written}", "{field}()"
