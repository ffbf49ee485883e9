"""A parameter that nobody needs any more, and the field that kept it: how a constructor and those who call it lose them."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from isodesm.facts.records import Member
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.text.insertions import PARAMETERS, PLACES, in_head
from isodesm.planning.text.syntax import Syntax

if TYPE_CHECKING:
    from isodesm.planning.state.constructors import Draft

_NAMED = re.compile(r"\w++\s*+(?::(?!:)|=(?!=))")
_REMARK = re.compile(r"/[/*]|#(?!\[)")


def spare(draft: Draft, number: int, field: Member, parameter: str) -> bool:
    """Leave out a parameter and its field where all other uses of them are gone; whether that could be done.

    The class has one constructor, and all that make it pass what it takes.
    """
    constructor, file = draft.constructor(number), draft.symbols.file_of[number]
    if constructor is None or number in draft.spared or len(draft.symbols.parts.get(number, (number,))) > 1:
        return False
    syntax = draft.syntax(file)
    node, own = draft.parameters(number, constructor)
    index = next((at for at, each in enumerate(own) if _declares(syntax.of(each), parameter)), -1)
    passed = [draft.arguments_at(*each) for each in draft.known_sites(number)]
    plain = all(each is not None and len(each) > index and not any(map(_NAMED.match, each)) for each in passed)
    if index < 0 or not plain or _REMARK.search(syntax.of(node)) or any(each.default for each in constructor.parameters):
        return False
    found = _removals(draft, number, syntax, field, constructor)
    if found is None or _is_used(
        draft, number, syntax, {field.name, parameter}, [(own[index].start_byte, own[index].end_byte)], found
    ):
        return False
    draft.extras[file] += found
    draft.spared[number] = index
    return True


def _declares(text: str, name: str) -> bool:
    return re.search(rf"(?<!\w)\$?{re.escape(name)}\s*(?::.*)?$", text, re.DOTALL) is not None


def _removals(draft: Draft, number: int, syntax: Syntax, field: Member, constructor: Member) -> list[Amendment] | None:
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


def _is_used(
    draft: Draft, number: int, syntax: Syntax, names: set[str], known: list[tuple[int, int]], gone: Sequence[Amendment]
) -> bool:
    """Whether code of a class goes on naming one of some names."""
    spans = [*known, *((each.start, each.end) for each in gone)]
    spans += [(each.start, each.end) for given in draft.handed.get(number, ()) for each in given.places]
    pattern = rb"(?<!\w)\$?(?:" + b"|".join(re.escape(each.encode()) for each in sorted(names)) + rb")\b"
    declared = draft.symbols.types[number]
    whole = syntax.type_node(declared)
    return any(
        not any(start <= each.start() and each.end() <= end for start, end in spans)
        for each in re.finditer(pattern, syntax.text)
        if whole.start_byte <= each.start() < whole.end_byte
    )


def without(own: Sequence[str], index: int, where: int, added: Sequence[str]) -> list[str]:
    """Arguments or parameters with further ones in their place, and one left out."""
    told = list(enumerate(own))
    return [*(each for at, each in told[:where] if at != index), *added, *(each for at, each in told[where:] if at != index)]


def listed(own: Sequence[Any], texts: Sequence[str], said: str) -> Amendment:
    """A bracketed list with other entries."""
    return Amendment(own[0].start_byte, own[-1].end_byte, PARAMETERS, ", ".join(texts), said)
