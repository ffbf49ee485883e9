"""What a query can't say about Java: how its lists, modifiers and imports are spelt, and its own names."""

from __future__ import annotations

import re
from functools import lru_cache

from isodesm.facts.languages.dialect import Dialect
from isodesm.facts.records import Annotation, Import, Modifiers
from isodesm.facts.typetext import split_top, squeeze

_IMPORT = re.compile(r"import\s+(static\s+)?([\w.$\s]+?)\s*(\.\s*\*)?\s*;?\s*$")
_WORD = re.compile(r"[\w-]+")


def read_import(text: str) -> tuple[Import, ...]:
    """The import that one declaration makes; empty when it can't be made out."""
    found = _IMPORT.match(squeeze(text))
    if not found:
        return ()
    static, name, wildcard = found.groups()
    name = "".join(name.split())
    alias = "" if wildcard else name.rpartition(".")[2]
    return (Import(name=name, alias=alias, static=bool(static), wildcard=bool(wildcard)),)


@lru_cache(maxsize=16384)
def read_modifiers(text: str) -> Modifiers:
    """Keywords and annotations of a modifier list as written."""
    words: list[str] = []
    annotations: list[Annotation] = []
    text = squeeze(text)
    position = 0
    while position < len(text):
        if text[position] == "@":
            annotation, position = _annotation(text, position + 1)
            annotations.append(annotation)
        elif found := _WORD.match(text, position):
            words.append(found.group())
            position = found.end()
        else:
            position += 1
    return Modifiers(words=tuple(words), annotations=tuple(annotations))


def _annotation(text: str, start: int) -> tuple[Annotation, int]:
    """The annotation whose name begins at `start`, and the position behind it."""
    end = start
    while end < len(text) and (text[end].isalnum() or text[end] in "_.$ "):
        if text[end] == " " and text[end + 1 : end + 2] not in (".", "("):
            break
        end += 1
    name = text[start:end].replace(" ", "")
    if end >= len(text) or text[end] != "(":
        return Annotation(name=name), end
    closing = _closing_bracket(text, end)
    return Annotation(name=name, arguments=text[end + 1 : closing].strip()), closing + 1


def _closing_bracket(text: str, opening: int) -> int:
    """Index of the bracket that closes the one at `opening`; the end of the text where none does."""
    depth, quote, skip = 0, "", False
    for index in range(opening, len(text)):
        char = text[index]
        if skip:
            skip = False
        elif quote:
            skip = char == "\\"
            quote = "" if char == quote else quote
        elif char in "\"'":
            quote = char
        elif char == "(":
            depth += 1
        elif char == ")":
            depth -= 1
            if depth == 0:
                return index
    return len(text)


def read_bases(text: str, kind: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The types of an `extends` or `implements` list, keyword left off."""
    return split_top(squeeze(text)), ()


def read_throws(text: str) -> tuple[str, ...]:
    """The errors a `throws` clause declares."""
    return split_top(squeeze(text).removeprefix("throws"))


# --- statement counting ---------------------------------------------------------------------
_NOISE = re.compile(rb'//[^\n]*|/\*.*?\*/|"""(?:\\.|.)*?"""|"(?:\\.|[^"\\\n])*"|\'(?:\\.|[^\'\\\n])*\'', re.DOTALL)
_LOOP_HEADER = re.compile(rb"\bfor\s*\([^;{}]*;[^;{}]*;")


def count_statements(body: bytes) -> int:
    """Statements that end in a semicolon; compound ones are counted from captures."""
    if b"/" in body or b'"' in body or b"'" in body:
        body = _NOISE.sub(b" ", body)
    return body.count(b";") - 2 * len(_LOOP_HEADER.findall(body))


def grammar(suffix: str) -> object:
    """The compiled grammar, for tree-sitter."""
    import tree_sitter_java

    return tree_sitter_java.language()


DIALECT = Dialect(
    name="java", title="Java", suffixes=(".java",), not_source=("module-info.java", "package-info.java"), grammar=grammar,
    read_import=read_import, read_modifiers=read_modifiers, read_bases=read_bases, read_throws=read_throws,
    count_statements=count_statements,
    primitives=frozenset("boolean byte char short int long float double void var".split()), inferred=frozenset(("var",)),
)  # fmt: skip
