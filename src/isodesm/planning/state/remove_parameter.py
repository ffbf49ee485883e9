"""A parameter that nobody needs any more, and the field that kept it: how a constructor and those who call it lose them."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from isodesm.facts.records import DeclaredType, Member
from isodesm.planning.analysis.sources import Sources
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.state.plan_state import PlanState
from isodesm.planning.text.insertions import PLACES, in_head
from isodesm.planning.text.syntax import Syntax

if TYPE_CHECKING:
    pass

_NAMED = re.compile(r"\w++\s*+(?::(?!:)|=(?!=))")
_REMARK = re.compile(r"/[/*]|#(?!\[)")


def without_parameter(sources: Sources, state: PlanState, number: int, field: Member, parameter: str) -> PlanState | None:
    """The state in which a parameter and its field are left out; None where other uses of them stay.

    The class has one constructor, and all that create it pass what it takes.
    """
    constructor, file = sources.constructor(number), sources.symbols.file_of[number]
    in_parts = len(sources.symbols.parts.get(number, (number,))) > 1
    if constructor is None or number in state.removed_parameters or in_parts:
        return None
    syntax = sources.syntax(file)
    node, own = sources.parameters(number, constructor)
    index = next((at for at, each in enumerate(own) if _declares(syntax.of(each), parameter)), -1)
    passed = [sources.arguments_at(*each) for each in sources.known_sites(number)]
    plain = all(each is not None and len(each) > index and not any(map(_NAMED.match, each)) for each in passed)
    if index < 0 or not plain or _REMARK.search(syntax.of(node)) or any(each.default for each in constructor.parameters):
        return None
    found = _removals(syntax, field, constructor)
    if found is None:
        return None
    spans = [(own[index].start_byte, own[index].end_byte), *((each.start, each.end) for each in found)]
    spans += [(each.start, each.end) for given in state.dependencies_of(number) for each in given.places]
    if _is_used(syntax, sources.symbols.types[number], {field.name, parameter}, spans):
        return None
    return state.with_edits(file, *found).without_parameter(number, index)


def _declares(text: str, name: str) -> bool:
    return re.search(rf"(?<!\w)\$?{re.escape(name)}\s*(?::.*)?$", text, re.DOTALL) is not None


def _removals(syntax: Syntax, field: Member, constructor: Member) -> list[Amendment] | None:
    """The declaration of the field and the line that fills it; [] where the parameter declares it, None where they can't be
    told."""
    if in_head(constructor) or any(
        {"private", "protected", "readonly", "public"} & set(each.modifiers.words)
        for each in constructor.parameters
        if each.name.lstrip("$") == field.name
    ):
        return []
    if not field.is_private or field.whole == (0, 0):
        return None
    said = f"`{field.name}` is needed no more"
    begun = rb"(?m)^[ \t]*(?:this\.|self\.|\$this->)?" + re.escape(field.name.encode()) + rb"\s*=\s*\$?\w+;?[ \t]*\r?\n"
    filled = [each for each in re.finditer(begun, syntax.text) if constructor.body[0] < each.end() <= constructor.body[1]]
    start = syntax.text.rfind(b"\n", 0, field.whole[0])
    end = syntax.text.find(b"\n", field.whole[1])
    end = start + len(syntax.text[start:end].rstrip())  # behind which a further field begins, line end and all
    declared = syntax.text[start:end].decode("utf-8", "replace").strip()
    if len(filled) != 1 or not re.fullmatch(rf"[\w\s<>\[\],.?:\\$#]*\b{re.escape(field.name)}(?:\s*:[^=;]*)?;?", declared):
        return None
    return [Amendment(start, end, PLACES, "", said), Amendment(*filled[0].span(), PLACES, "", said)]


def _is_used(syntax: Syntax, declared: DeclaredType, names: set[str], gone: list[tuple[int, int]]) -> bool:
    """Whether code of a class goes on naming one of some names outside spans that go."""
    pattern = rb"(?<!\w)\$?(?:" + b"|".join(re.escape(each.encode()) for each in sorted(names)) + rb")\b"
    whole = syntax.type_node(declared)
    return any(
        not any(start <= each.start() and each.end() <= end for start, end in gone)
        for each in re.finditer(pattern, syntax.text)
        if whole.start_byte <= each.start() < whole.end_byte
    )
