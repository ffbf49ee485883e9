"""What a query can't say about Java: how its lists and imports are spelt, and its own names."""

from __future__ import annotations

import re

from isodesm.facts.languages.dialect import Dialect
from isodesm.facts.languages.shared import count_statements, read_modifiers
from isodesm.facts.records import Import
from isodesm.facts.typetext import split_top, squeeze

_IMPORT = re.compile(r"import (static )?([\w.$ ]+?)( ?\. ?\*)? ?;? ?$")
"""A declaration on one line, runs of white space as one space."""


def read_import(text: str) -> tuple[Import, ...]:
    """The import that one declaration makes; empty when it can't be made out."""
    found = _IMPORT.match(squeeze(text))
    if not found:
        return ()
    static, name, wildcard = found.groups()
    name = "".join(name.split())
    alias = "" if wildcard else name.rpartition(".")[2]
    return (Import(name=name, alias=alias, static=bool(static), wildcard=bool(wildcard)),)


def read_bases(text: str, kind: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The types of an `extends` or `implements` list, keyword left off."""
    return split_top(squeeze(text)), ()


def read_throws(text: str) -> tuple[str, ...]:
    """The errors a `throws` clause declares."""
    return split_top(squeeze(text).removeprefix("throws"))


def grammar(suffix: str) -> object:
    """The compiled grammar, for tree-sitter."""
    import tree_sitter_java

    return tree_sitter_java.language()


DIALECT = Dialect(
    name="java",
    title="Java",
    suffixes=(".java",),
    fences={"java": "java"},
    not_source=("module-info.java", "package-info.java"),
    grammar=grammar,
    read_import=read_import,
    read_modifiers=read_modifiers,
    read_bases=read_bases,
    read_throws=read_throws,
    count_statements=count_statements,
    simple_statements=frozenset("expression_statement local_variable_declaration".split()),
    primitives=frozenset("boolean byte char short int long float double void var".split()),
    inferred=frozenset(("var",)),
)
