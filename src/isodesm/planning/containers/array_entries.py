"""How containers are told that go by arrays of definitions: a further entry beside the one of the class that asks, and the
arguments of an entry that names its own one by one."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Any, NamedTuple

from isodesm.inference.registrations.registration import Registration
from isodesm.inference.resolution import Service
from isodesm.planning.analysis.names_in_code import need_of_type, with_names
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import Need
from isodesm.planning.text.insertions import FIELDS

if TYPE_CHECKING:
    from isodesm.planning.model.abstraction import Abstraction
    from isodesm.planning.state.context import PlanContext

ELEMENT = "array_element_initializer"


class ArrayEdit(NamedTuple):
    """What comes into the file of an array, and what that names."""

    file: int
    amendment: Amendment
    needs: tuple[Need, ...] = ()


class ArrayEntry(NamedTuple):
    """The entry of an array by which a container makes a class: its registration, and file and node of it."""

    service: Service
    file: int
    node: Any


def _entry_of(context: PlanContext, number: int) -> ArrayEntry | None:
    """The one such entry that makes a class with its constructor; None where there is none, or several."""
    found = [
        each
        for each in context.codebase.wiring.by_implementation.get(number, ())
        if each.registration.how == "entry" and not each.registration.factory and not each.registration.alias
    ]
    place = (
        _element(context, found[0].registration)
        if len(found) == 1 and context.sources.language(number).container_arrays
        else None
    )
    return ArrayEntry(found[0], *place) if place is not None else None


def in_array(context: PlanContext, abstraction: Abstraction, target: int, source: int) -> ArrayEdit | None:
    """What serves an abstraction, written behind the entry of the class that asks for it as others of the array are."""
    own = _entry_of(context, source)
    if own is None:
        return None
    file, element = own.file, own.node
    syntax = context.sources.syntax(file)
    text = _like_another(context, own.service, abstraction, target) or _like_its_own(context, own, abstraction, target)
    if not text:
        return None
    said = f"`{abstraction.name}` is served by `{context.name(target)}`"
    lead = f",{syntax.line_end}{syntax.indent_at(element.start_byte)}"
    needs = (Need(abstraction.name, abstraction.home), need_of_type(context.codebase, target))
    return ArrayEdit(file, Amendment(element.end_byte, element.end_byte, FIELDS, lead + text, said), needs)


def entry_files(context: PlanContext, number: int) -> set[int]:
    """The file that such an entry stands in."""
    own = _entry_of(context, number)
    return {own.file} if own is not None else set()


def names_arguments(context: PlanContext, number: int) -> bool:
    """Whether the entry of a class says itself what its constructor is passed."""
    own = _entry_of(context, number)
    if own is None:
        return False
    explicit = {each.rpartition("\\")[2] for each in context.codebase.wiring.rules_of(own.service).explicit}
    return _word(context, own.file, own.node.named_children[-1]).rpartition("\\")[2] in explicit


def further_argument(context: PlanContext, number: int, abstraction: Abstraction) -> ArrayEdit | None:
    """A further argument of such an entry, last; None where it could not be added there."""
    own = _entry_of(context, number)
    if own is None:
        return None
    file, element = own.file, own.node
    constructor, syntax = context.sources.constructor(number), context.sources.syntax(file)
    rules, count = context.codebase.wiring.rules_of(own.service), len(constructor.parameters) if constructor is not None else 0
    function, _, rest = rules.reference.partition("(")
    used = re.search(rb"(?<![\w>:$\\])((?:\\?\w+\\)*" + function.encode() + rb")\(", syntax.text)
    if used is None or (count == 0 and any(each == number for each, _ in context.state.injected)):
        return None
    reference = f"{used[1].decode()}({rest.format(abstraction.name)}"
    call = element.named_children[-1]
    said = f"`{context.name(number)}` is handed `{abstraction.name}`"
    needs = (Need(abstraction.name, abstraction.home),)
    if count == 0 and call.type == "function_call_expression":
        text = f"->{rules.passes}({reference})"
        return ArrayEdit(file, Amendment(call.end_byte, call.end_byte, FIELDS, text, said), needs)
    while call.type == "member_call_expression" and syntax.of(call.child_by_field_name("name")) != rules.passes:
        call = call.child_by_field_name("object")
    if call.type != "member_call_expression" or context.draft.arguments.place_among(number, constructor) != count:
        return None
    given = call.child_by_field_name("arguments").named_children
    if len(given) != count or not given:
        return None
    lead = syntax.separator(given[-1], call.child_by_field_name("arguments"))
    return ArrayEdit(file, Amendment(given[-1].end_byte, given[-1].end_byte, FIELDS, lead + reference, said), needs)


def _element(context: PlanContext, given: Registration) -> tuple[int, Any] | None:
    """File and node of the entry behind a registration."""
    file = context.codebase.wiring.file_numbers.get(given.file, -1)
    if file < 0:
        return None
    node = context.sources.syntax(file).around(given.line, given.column, (ELEMENT,))
    return (file, node) if node is not None and len(node.named_children) == 2 else None


def _word(context: PlanContext, file: int, value: Any) -> str:
    """The function that an entry begins with, as written; '' where it begins with none."""
    while value.type == "member_call_expression":
        value = value.child_by_field_name("object")
    named = value.child_by_field_name("function") if value.type == "function_call_expression" else None
    return context.sources.syntax(file).of(named) if named is not None else ""


def _like_another(context: PlanContext, own: Service, abstraction: Abstraction, target: int) -> str:
    """The entry of another class of the same file that serves an abstraction, with the names of this one; '' where there is
    none on one line that names both by their simple names."""
    for each in context.codebase.wiring.services:
        given = each.registration
        served = each.implementation >= 0 and -1 < each.abstraction != each.implementation
        if given.how != "entry" or given.file != own.registration.file or not served or given.factory or given.id:
            continue
        place = _element(context, given)
        names = {context.name(each.abstraction): abstraction.name, context.name(each.implementation): context.name(target)}
        text = context.sources.syntax(place[0]).of(place[1]) if place is not None else ""
        plain = re.fullmatch(r"\w+::class\s*=>\s*[\w\\]*\(?\w+::class\)?", text)
        if plain and (renamed := with_names(text, names)):
            return renamed
    return ""


def _like_its_own(context: PlanContext, own: ArrayEntry, abstraction: Abstraction, target: int) -> str:
    """The same by the function that makes the class which asks; '' where that is made otherwise."""
    word = _word(context, own.file, own.node.named_children[-1])
    return f"{abstraction.name}::class => {word}({context.name(target)}::class)" if word else ""
