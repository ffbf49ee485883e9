"""Makes of a decision something that its class is handed: what becomes of each place, and how it is called."""

from __future__ import annotations

import re
from typing import Any

from isodesm.facts import typetext
from isodesm.linking.symbols import simple_name
from isodesm.planning.analysis.interface_names import PORT, variable_name
from isodesm.planning.analysis.sources import Sources
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.decision import Decision, Place
from isodesm.planning.model.dependency import VALUE, Dependency
from isodesm.planning.model.proposal import PASSING, WantedDependency
from isodesm.planning.state.plan_state import PlanState
from isodesm.planning.text.insertions import PLACES, in_head
from isodesm.planning.text.syntax import Syntax


def dependency_of(sources: Sources, state: PlanState, decision: Decision, wanted: WantedDependency) -> Dependency:
    """The dependency that a decision becomes."""
    first = next((place for place in decision.places if place.field and wanted.use == "{field}"), None)
    declared = first is not None and _field(sources, decision, first.field) is not None
    name = first.field if first is not None and declared else free_name(sources, state, decision.source, wanted.name)
    taking = sources.constructors(decision.source)  # and not those that hand over to one of them
    in_constructor = [place for place in decision.places if place.member in taking]
    assigned = any(place.field == name for place in in_constructor) and declared
    kept = declared or len(in_constructor) < len(decision.places)
    amendments: list[Amendment] = [*wanted.gone]
    elsewhere: list[tuple[int, Amendment]] = []
    for place in decision.places:
        found = _amendments(sources, decision, place, wanted, name, kept)
        if place.file == sources.symbols.file_of[decision.source]:
            amendments += found
        else:
            elsewhere += [(place.file, each) for each in found]
    return Dependency(
        owner=decision.source,
        name=name,
        typed=wanted.typed,
        default=wanted.default,
        places=tuple(dict.fromkeys(amendments)),
        elsewhere=tuple(dict.fromkeys(elsewhere)),
        place_needs=wanted.value.needs if any(wanted.value.text in each.text for each in amendments) else (),
        value_needs=wanted.value.needs if any(wanted.value.text in each.text for _, each in elsewhere) else (),
        kept=kept,
        declared=declared,
        assigned=assigned,
    )


def _field(sources: Sources, decision: Decision, name: str) -> Any:
    return next(
        (m for m in sources.symbols.types[decision.source].members if m.kind == "field" and m.name == name and not m.is_static),
        None,
    )


def free_name(sources: Sources, state: PlanState, number: int, wanted: str) -> str:
    """A name that neither a class nor a variable in it has."""
    taken = (
        _names_seen(sources, number)
        | {each.name for each in state.dependencies_of(number)}
        | _names_in_line(sources, state, number)
    )
    taken |= sources.language(number).reserved
    file, body = sources.symbols.file_of[number], sources.symbols.types[number].body
    taken |= {local.name for local in sources.codebase.content(file).locals if body[0] <= local.start < body[1]}
    for part in sources.symbols.parts.get(number, ())[1:]:
        body = sources.symbols.types[part].body
        others = sources.codebase.content(sources.symbols.file_of[part]).locals
        taken |= {local.name for local in others if body[0] <= local.start < body[1]}
    taken |= {parameter.name for member in sources.symbols.types[number].members for parameter in member.parameters}
    if (own := sources.constructor(number)) is not None:  # where parameter and variable have the same sign in every language
        inner = [each for each in sources.codebase.content(file).locals if own.body[0] <= each.start < own.body[1]]
        taken |= {each.name.lstrip("$") for each in inner}
    if (inherited := sources.inherited(number)) is not None:
        taken |= {parameter.name for parameter in inherited[1].parameters}
    if not sources.language(number).sign:  # there, variables have a sign of their own
        taken |= {each.alias for each in sources.symbols.files[file].imports} | {
            declared.name for declared in sources.symbols.files[file].types
        }
        table = sources.codebase.bonds
        named = {table.target[row] for row in table.rows_of_source(number)}
        taken |= {sources.symbols.types[each].name for each in named if each >= 0}  # a class may be written small
    for candidate in _candidates(wanted):
        name = variable_name(candidate, set(), snake=sources.language(number).snake_case)
        if name not in taken:
            return name
    return variable_name(wanted, taken, snake=sources.language(number).snake_case)


def _names_seen(sources: Sources, number: int) -> set[str]:
    """Names of members that code of a class may mean by their bare names: its own, inherited ones, those of the classes around
    it and inside it."""
    symbols, around = sources.symbols, [number]
    while (outer := symbols.outer(around[-1])) >= 0 and not symbols.is_module(outer):
        around.append(outer)
    file = symbols.file_of[number]
    first = symbols.first[file]
    inside = [
        first + at for at, each in enumerate(symbols.files[file].types) if each.outer >= 0 and first + each.outer in around
    ]
    line = [base for each in (*around, *inside) for base in sources.codebase.roles.ancestors(each)]
    return {member.name.lstrip("$") for each in line for member in symbols.types[each].members}


def _names_in_line(sources: Sources, state: PlanState, number: int) -> set[str]:
    """Names that classes above and below have by then, or are handed, where a class can't keep what has one of those by itself:
    in one language it is refused, in the other both would share it."""
    if not sources.language(number).names_shared_with_heirs:
        return set()
    roles, found = sources.codebase.roles, set[str]()
    above, below = roles.ancestors(number)[1:], roles.implementers.get(number, ())
    for each in (*above, *below):
        found |= {given.name for given in state.dependencies_of(each)}
    return found | {member.name for each in below for member in sources.symbols.types[each].members}


def _candidates(wanted: str) -> list[str]:
    """A name, and what is left of it when its first words go: a parameter must not hide what it is called after."""
    words = re.findall(r"[A-Z]+(?![a-z])|[A-Z]?[a-z0-9]+", wanted.removesuffix(PORT))
    words = words[1:] if len(words) > 1 and words[0] == "I" else words
    return [
        wanted,
        *("".join(words[at:]) for at in range(1, len(words)) if words[at:] != ["Call"]),  # which says nothing by itself
        "given" + "".join(words)[:1].upper() + "".join(words)[1:],
    ]


def _amendments(
    sources: Sources, decision: Decision, place: Place, wanted: WantedDependency, name: str, kept: bool
) -> list[Amendment]:
    syntax = sources.syntax(place.file)
    node = syntax.at(*place.span)
    start, end = place.span
    shown = syntax.text[start:end].decode("utf-8", "replace").split("\n")[0][:60]
    if place.field == name and place.member is not None and place.member.kind == "field":
        if in_head(sources.constructor(decision.source)):
            said = f"field `{name}` begins with what is handed in"
            return [
                Amendment(start, end, PLACES, name, said),
                *_retyped(syntax, syntax.declared_type(syntax.declarator(node)), wanted),
            ]
        return _whole_field(syntax, node, place, wanted, name)
    if place.field == name and place.member is not None and place.member.kind == "constructor":
        kept_value = Amendment(start, end, PLACES, VALUE, f"`{shown}` becomes what is handed in")
        return [kept_value, *_told_apart(syntax, node, name), *_declared_with(sources, syntax, decision, place, wanted)]
    field = sources.written_as(decision.source, place, name, kept=kept)
    called = _passed(syntax, node)
    brackets = syntax.arguments(node)
    use = wanted.uses.get(place.span, wanted.use)
    if place.span in wanted.heads:
        end, text = start + wanted.heads[place.span], use.format(field=field)
        shown = syntax.text[start:end].decode("utf-8", "replace")
    elif use.endswith(PASSING) and brackets is not None:  # what is passed stays as it stands
        end = brackets[0].start_byte
        text = use.removesuffix(PASSING).format(field=field)
    else:
        text = use.format(field=field, arguments=called)
    found = [Amendment(start, end, PLACES, text, f"`{shown}` becomes `{text}`")]
    if place.field:
        found += _declared_with(sources, syntax, decision, place, wanted)
    declarator = syntax.declarator(node) or (_declared_before(syntax, node, place) if wanted.concrete else None)
    if declarator is not None and wanted.concrete:
        found += _retyped(syntax, syntax.declared_type(declarator), wanted)
    return found


def _declared_before(syntax: Syntax, node: Any, place: Place) -> Any:
    """What declares the local variable that a value is assigned to; None for any other value."""
    assignment = node.parent
    left = assignment.child_by_field_name("left") if assignment is not None else None
    if left is None or left.type != "identifier" or place.member is None or assignment.child_by_field_name("right") != node:
        return None
    name, waiting, found = syntax.of(left), [syntax.body(place.member)], None
    while waiting:
        each = waiting.pop(0)
        named = each.child_by_field_name("name") if each.type == "variable_declarator" else None
        if named is not None and syntax.of(named) == name and each.start_byte < node.start_byte:
            found = each if found is None or each.start_byte > found.start_byte else found
        waiting += each.named_children
    return found


def _told_apart(syntax: Syntax, node: Any, name: str) -> list[Amendment]:
    """`this.` in front of a field that a constructor fills by its bare name, which is now that of a parameter, too."""
    left = node.parent.child_by_field_name("left") if node.parent is not None else None
    if left is None or left.type != "identifier" or syntax.of(left) != name:
        return []
    return [Amendment(left.start_byte, left.start_byte, PLACES, "this.", f"the field is written `this.{name}`")]


def _whole_field(syntax: Syntax, node: Any, place: Place, wanted: WantedDependency, name: str) -> list[Amendment]:
    """A field that began with the value: without it, and typed."""
    declarator = syntax.declarator(node)
    typed = syntax.declared_type(declarator)
    named = declarator.child_by_field_name("dimensions") or declarator.child_by_field_name("name")
    name_end = named.end_byte if named is not None else declarator.start_byte
    head = max(name_end, typed.end_byte if typed is not None else 0)
    after = f": {wanted.typed.text}" if typed is None and syntax.traits.types_behind_names and wanted.typed.text else ""
    said = f"field `{name}` begins without a value"
    return [Amendment(head, place.span[1], PLACES, after, said), *_retyped(syntax, typed, wanted)]


def _declared_with(
    sources: Sources, syntax: Syntax, decision: Decision, place: Place, wanted: WantedDependency
) -> list[Amendment]:
    """The field that a constructor fills, typed by what is handed in."""
    field = _field(sources, decision, place.field)
    if field is None or field.whole == (0, 0) or not syntax.traits.declares_fields:
        return []
    node = syntax.at(field.place.start, field.place.end)
    return _retyped(syntax, syntax.declared_type(node), wanted)


def _retyped(syntax: Syntax, typed: Any, wanted: WantedDependency) -> list[Amendment]:
    if typed is None or not wanted.concrete or simple_name(typetext.head(syntax.of(typed))) != wanted.concrete:
        return []
    if syntax.of(typed) == wanted.value.text:
        return []
    return [Amendment(typed.start_byte, typed.end_byte, PLACES, wanted.value.text, f"declared as `{wanted.value.text}`")]


def _passed(syntax: Syntax, node: Any) -> str:
    """What a call or creation passes, as written."""
    brackets = syntax.arguments(node)
    if brackets is None:
        return ""
    text = syntax.of(brackets[0])
    return re.sub(r"^\(\s*|\s*\)$", "", text)
