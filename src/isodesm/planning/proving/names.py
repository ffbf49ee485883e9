"""Names that a step writes into a file and that the file does not know."""

from __future__ import annotations

import builtins
import re
from collections.abc import Iterator

from isodesm.facts.records import FileFacts
from isodesm.planning.proving.conservation import GRAMMAR

_TYPES = {
    "python": re.compile(r"(?<![\w.\"'])([A-Z]\w*)(?![\w\"'])"),
    "typescript": re.compile(r"(?<![\w.$\"'`])([A-Z]\w*)(?![\w\"'`]|\s*=>)"),
}
"""Names of types where they stand for themselves, in languages in which each file has to import what it names."""
_STRINGS = re.compile(
    r"/\*.*?\*/|\"\"\".*?\"\"\"|'''.*?'''|\"(?:\\.|[^\"\\\n])*\"|'(?:\\.|[^'\\\n])*'|`(?:\\.|[^`\\])*`|#[^\n]*|//[^\n]*",
    re.DOTALL,
)


def unknown_names(
    language: str, old: bytes, new: bytes, before: FileFacts | None, after: FileFacts, known: frozenset[str]
) -> Iterator[str]:
    """Types that are named after a step and not before it, that the tree declares elsewhere, and that the file neither
    declares nor imports."""
    pattern = _TYPES.get(language)
    if pattern is None:
        return
    bound = {each.alias or each.member or each.name for each in after.imports} | {each.member for each in after.imports}
    bound |= {part for each in after.types for part in (each.name, *re.findall(r"\w+", each.generics))}
    bound |= {
        name for each in after.types for member in each.members for name in (member.name, *re.findall(r"\w+", member.generics))
    }
    bound |= set(dir(builtins)) if language == "python" else set()
    wild = any(each.wildcard for each in after.imports)
    earlier = set(pattern.findall(_plain(old)))
    for name in dict.fromkeys(pattern.findall(_plain(new))):
        if name not in earlier and name not in bound and name not in GRAMMAR and name in known and not wild:
            yield name


def _plain(text: bytes) -> str:
    return _STRINGS.sub(" ", text.decode("utf-8", "replace"))
