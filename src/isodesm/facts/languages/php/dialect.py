"""What a query can't say about PHP: use statements, arrows and colons in chains, attributes before modifiers."""

from __future__ import annotations

import re
from functools import lru_cache

from isodesm.facts.languages.dialect import Dialect, plain_chain
from isodesm.facts.languages.shared import count_statements
from isodesm.facts.records import Annotation, Import, Modifiers
from isodesm.facts.typetext import split_top, squeeze

_REMARK = re.compile(r"(?:#(?!\[)|//)[^\n]*|/\*(?:.*?\*/|.*)", re.DOTALL)
_JOINT = re.compile(r"(?<!\s)\s*+(?:\?->|->|::\$?)\s*+")
_ATTRIBUTES = re.compile(r"#\[(?:(.*?)\](?=\s|$)|.*)", re.DOTALL)
_WORDS = frozenset("abstract final public private protected static readonly var const".split())


@lru_cache(maxsize=4096)
def read_import(text: str) -> tuple[Import, ...]:
    """The names that a `use` statement gives an alias; functions and constants are marked as static."""
    text = " ".join(_REMARK.sub(" ", text).removeprefix("use").strip().rstrip(";").split())
    kind = re.match(r"(function|const)\s", text)
    text = text[kind.end() :] if kind else text
    prefix, brace, group = text.partition("{")
    parts = split_top(group.rstrip("} ,")) if brace else split_top(text)
    return tuple(_aliased(prefix.strip() if brace else "", part, bool(kind)) for part in parts)


def _aliased(prefix: str, part: str, static: bool) -> Import:
    if found := re.match(r"(function|const)\s+", part):
        part, static = part[found.end() :], True
    name, _, alias = re.sub(r"\s+as\s+", " as ", part, flags=re.IGNORECASE).partition(" as ")
    name = (prefix + name.strip()).lstrip("\\")
    return Import(name=name, alias=alias.strip() or name.rpartition("\\")[2], static=static)


def read_chain(text: str) -> str:
    """`$this->a->b`, `Name\\Type::$f` and their like as a chain joined by dots."""
    if text.endswith("::class"):
        return ""
    if "->" in text or "::" in text:
        text = _JOINT.sub(".", text)
    return plain_chain(text)


def read_name(text: str) -> str:
    """A member's or parameter's name without the sign of a variable."""
    return text.removeprefix("$")


@lru_cache(maxsize=16384)
def read_modifiers(text: str) -> Modifiers:
    """Keywords and attributes in front of a name."""
    annotations = []
    for group in _ATTRIBUTES.findall(text):
        for part in split_top(squeeze(group)) if group else ():
            name, bracket, rest = part.partition("(")
            annotations.append(Annotation(name=name.strip(), arguments=rest.removesuffix(")").strip() if bracket else ""))
    plain = _ATTRIBUTES.sub(" ", text) if "#[" in text else text
    words = tuple(word for word in _REMARK.sub(" ", plain).lower().split() if word in _WORDS)
    return Modifiers(words=words, annotations=tuple(annotations))


@lru_cache(maxsize=16384)
def read_bases(text: str, kind: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The types behind `extends`, `implements` or a trait's `use`."""
    text = squeeze(_REMARK.sub(" ", text))
    return split_top(
        re.sub(r"^(?:extends|implements|use)\s+", "", text, flags=re.IGNORECASE).partition("{")[0].rstrip(" ;")
    ), ()


def refine_member(kind: str, name: str, modifiers: Modifiers, owner: str) -> tuple[str, Modifiers]:
    """Constructors by name; constants are static fields, functions outside classes static methods."""
    if kind == "constfield":
        return "field", Modifiers(words=("static", "final", *modifiers.words), annotations=modifiers.annotations)
    if kind == "method" and name.lower() == "__construct":
        return "constructor", modifiers
    if kind == "method" and owner == "module":
        return kind, Modifiers(words=("static",), annotations=modifiers.annotations)
    return kind, modifiers


def grammar(suffix: str) -> object:
    """The compiled grammar, for tree-sitter; with the markup around the code."""
    import tree_sitter_php

    return tree_sitter_php.language_php()


DIALECT = Dialect(
    name="php",
    title="PHP",
    suffixes=(".php", ".phtml", ".inc"),
    fences={"php": "php"},
    class_words=("self", "static"),
    registers_in_arrays=True,
    scans_leave_code=True,
    not_source=(".blade.php",),
    grammar=grammar,
    read_import=read_import,
    read_modifiers=read_modifiers,
    read_bases=read_bases,
    read_chain=read_chain,
    read_name=read_name,
    refine_member=refine_member,
    count_statements=count_statements,
    simple_statements=frozenset("expression_statement".split()),
    primitives=frozenset("int float string bool array callable iterable object mixed void never null false true".split()),
    self_word="$this",
    self_types=frozenset(("self", "static")),
    parent_type="parent",
    separator="\\",
    style="namespaces",
    ignores_case=True,
    implicit_self=False,
    has_module=True,
    assigned_fields=True,
    leading_modifiers=True,
    global_state=re.compile(rb"\$(?:_(?:GET|POST|SESSION|SERVER|COOKIE|FILES|REQUEST|ENV)|GLOBALS)\b|\bglobal\s+\$\w+"),
)
