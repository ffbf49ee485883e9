"""What a query can't say about TypeScript and JavaScript: imports of several forms, chains with marks, accessors."""

from __future__ import annotations

import re
from functools import lru_cache

from isodesm.facts import noise
from isodesm.facts.languages.dialect import Dialect, plain_chain
from isodesm.facts.languages.shared import read_modifiers
from isodesm.facts.records import Import, Modifiers, Parameter
from isodesm.facts.typetext import split_top, squeeze

_SOURCE = r"""\s*["'`]([^"'`]+)["'`]"""
_FROM = re.compile(rf"(import|export) (?:type )?(.*?) ?from{_SOURCE}", re.DOTALL)
_REQUIRED = re.compile(
    rf"(?:import\s+)?(\{{.*?\}}|[\w$]+)\s*(?::[^=]+)?=\s*require\s*\({_SOURCE}\s*\)(?:\.([\w$]+))?", re.DOTALL
)
_ALIAS = re.compile(r"(?:export\s+)?import\s+([\w$]+)\s*=\s*([\w$.]+)")
_LOCAL_LIST = re.compile(r"export\s+(?:type\s+)?\{(.*?)\}", re.DOTALL)
_DEFAULT = re.compile(r"export\s+(?:default\s+|=\s*)([\w$]+)\s*;?\s*$")
_ASSIGNED = re.compile(r"(?:module\.)?exports(?:\.([\w$]+))?\s*=\s*(\{.*\}|[\w$]+)\s*;?\s*$", re.DOTALL)


@lru_cache(maxsize=4096)
def read_import(text: str) -> tuple[Import, ...]:
    """The names that an import binds, or that an export hands on (`exported`)."""
    text = text.replace("'node:", "'").replace('"node:', '"')
    text = squeeze(text) if "/*" in text or "//" in text.partition("from")[0] else text
    text = re.sub(r"\s+", " ", text)
    if found := _FROM.match(text):
        word, names, source = found.groups()
        return tuple(_taken(names, source, exported=word == "export"))
    if found := _REQUIRED.match(text):
        names, source, member = found.groups()
        if names.startswith("{"):
            return tuple(Import(name=source, member=m, alias=a) for m, a in _pairs(names, ":"))
        return (Import(name=source, member=member or "", alias=names),)
    if found := _ASSIGNED.match(text):
        name, value = found.groups()
        if value.startswith("{"):
            return tuple(Import(name="", member=a, alias=m, exported=True) for m, a in _pairs(value, ":") if a.isidentifier())
        return (Import(name="", member=value, alias=name or "default", exported=True),)
    if found := _ALIAS.match(text):
        return (Import(name="", member=found.group(2), alias=found.group(1)),) if "." not in found.group(2) else ()
    if found := _LOCAL_LIST.match(text):
        return tuple(Import(name="", member=m, alias=a, exported=True) for m, a in _pairs(found.group(1)))
    if found := _DEFAULT.match(text):
        return (Import(name="", member=found.group(1), alias="default", exported=True),)
    return ()


def _pairs(names: str, joint: str = " as ") -> list[tuple[str, str]]:
    """(name, alias) of each entry of a bracketed list."""
    found = []
    for part in split_top(" ".join(names.strip().strip("{}").split())):
        name, _, alias = part.removeprefix("type ").partition(joint)
        name = name.strip().strip("\"'")
        if name and not name.startswith("..."):
            found.append((name, alias.partition("=")[0].strip().strip("\"'") or name))
    return found


def _taken(names: str, source: str, *, exported: bool) -> list[Import]:
    """The names before `from`: a default, a star with or without a name, a list."""
    found = []
    for part in split_top(" ".join(names.split())):
        if part.startswith("{"):
            found += [Import(name=source, member=m, alias=a, exported=exported) for m, a in _pairs(part)]
        elif part.startswith("*"):
            alias = part.partition(" as ")[2].strip()
            found.append(Import(name=source, alias=alias, wildcard=not alias, exported=exported))
        else:
            found.append(Import(name=source, member="default", alias=part, exported=exported))
    return found


_MARKS = re.compile(r"\?\.|!(?=[.\s)]|$)|\s+")


def read_chain(text: str) -> str:
    """A chain of names, with the marks for what may be missing left off."""
    if "?" in text or "!" in text or "\n" in text:
        text = _MARKS.sub(lambda found: "." if found.group() == "?." else "", text)
    return plain_chain(text)


@lru_cache(maxsize=16384)
def read_bases(text: str, kind: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The types behind `extends` or `implements`."""
    text = squeeze(text)
    return split_top(text.removeprefix("extends ").removeprefix("implements ")), ()


def refine_member(kind: str, name: str, modifiers: Modifiers, owner: str) -> tuple[str, Modifiers]:
    """Constructors and accessors by name and words; functions of modules are static."""
    words = modifiers.words
    if kind == "method" and name == "constructor" and "static" not in words:
        return "constructor", modifiers
    if kind == "method" and owner in ("module", "namespace"):
        return kind, Modifiers(words=(*words, "static"), annotations=modifiers.annotations)
    if kind == "method" and ("get" in words or "set" in words):
        return "property", modifiers
    return kind, modifiers


def promotes(parameter: Parameter) -> bool:
    """Whether a constructor's parameter is a field as well."""
    return any(word in ("public", "private", "protected", "readonly", "override") for word in parameter.modifiers.words)


def read_name(text: str) -> str:
    """A member's name without quotes."""
    return text.strip("\"'")


_NOISE = re.compile(
    noise.any_of(noise.SLASHES, noise.BLOCK, noise.BACKTICKED, noise.QUOTED, noise.SINGLE).encode(),
    re.DOTALL,
)
_ONLY_SIGNS = re.compile(rb"[\s{}()\[\];,]*$")


def count_statements(body: bytes) -> int:
    """Lines that hold more than brackets and open no block: semicolons may be left out, so they can't be counted."""
    body = _NOISE.sub(b"0", body)
    return sum(
        1 for line in body.splitlines() if not _ONLY_SIGNS.match(line) and not line.rstrip().endswith((b"{", b"(", b","))
    )


def grammar(suffix: str) -> object:
    """The compiled grammar: the one with markup for all files in which it can't be mistaken for a cast."""
    import tree_sitter_typescript

    typed = suffix in (".ts", ".mts", ".cts")
    return tree_sitter_typescript.language_typescript() if typed else tree_sitter_typescript.language_tsx()


DIALECT = Dialect(
    name="typescript",
    title="TypeScript/JavaScript",
    suffixes=(".ts", ".tsx", ".mts", ".cts", ".js", ".jsx", ".mjs", ".cjs"),
    fences={"ts": "typescript", "tsx": "tsx", "js": "javascript"},
    compiled_suffixes=(".js", ".mjs", ".cjs"),
    class_words=("this",),
    exports_by_word=True,
    replaceable_modules=True,
    not_source=(".d.ts", ".d.mts", ".d.cts", ".min.js"),
    grammar=grammar,
    read_import=read_import,
    read_modifiers=read_modifiers,
    read_bases=read_bases,
    read_chain=read_chain,
    read_name=read_name,
    refine_member=refine_member,
    promotes=promotes,
    count_statements=count_statements,
    simple_statements=frozenset("expression_statement lexical_declaration variable_declaration".split()),
    primitives=frozenset("string number boolean any unknown void null undefined never object bigint symbol this".split()),
    style="modules",
    module_separator="#",
    implicit_self=False,
    has_module=True,
    flat_paths=True,
    assigned_fields=True,
    global_objects=frozenset(("globalThis", "window", "global", "self")),
    leading_modifiers=True,
    unnamed_type="default",
    function_values=frozenset(("arrow_function", "function_expression", "generator_function")),
)
