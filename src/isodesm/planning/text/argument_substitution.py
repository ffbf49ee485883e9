"""What a class makes from its own parameters, in the words of a place that makes the class: its arguments in their place."""

from __future__ import annotations

import re
from collections.abc import Sequence

from isodesm.facts.records import Parameter
from isodesm.planning.language.base import Language

_PLAIN = re.compile(r"""(?:[\w.]|->|::|\$)+|-?\d[\w.]*|"[^"\\\n]*"|'[^'\\\n]*'""")
"""What can be written twice and is the same both times: names, and plain values."""


def in_words_of(text: str, parameters: Sequence[Parameter], arguments: Sequence[str], language: Language) -> str | None:
    """An expression that names parameters, with what a place passes for them; None where that can't be told, or could be
    another thing the second time."""
    given: dict[str, str] = {}
    for index, each in enumerate(arguments):
        named = language.passes_by_name.match(each) if language.passes_by_name is not None else None
        if named is None and (index >= len(parameters) or parameters[index].variadic or each.startswith(("*", "..."))):
            return None
        given[named[1] if named else parameters[index].name.lstrip("$")] = named[2] if named else each
    known = {each.name.lstrip("$"): each for each in parameters}
    pattern = re.compile(r"(?<![\w.>:'\"])\$?(" + "|".join(map(re.escape, known)) + r")\b(?!\s*[:=](?![:=]))")
    if not known:
        return text
    for name in {found[1] for found in pattern.finditer(text)}:
        value = given.get(name, known[name].default)
        if not value or not _PLAIN.fullmatch(value):
            return None
        given[name] = value
    return pattern.sub(lambda found: given[found[1]], text)
