"""Members of a class as an abstraction of it declares them: complete signatures, with their comments and imports."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from isodesm.codebase.model import Codebase
from isodesm.facts.records import Member
from isodesm.facts.typetext import split_top
from isodesm.planning.analysis.names_in_code import needs_of_text
from isodesm.planning.analysis.sources import Sources
from isodesm.planning.language.base import Language
from isodesm.planning.model.code import Need, Signature
from isodesm.planning.text.syntax import Syntax

_KINDS = {
    "number": re.compile(r"-?[\d.]+"),
    "boolean": re.compile(r"true|false"),
    "string": re.compile(r"([\"'`])[^\"'`$]*\1"),
}
"""Types of plain values in modules, by what those look like."""
_CALLED = re.compile(r"^[*.]*+\w++\s*+\??\s*+(?=[:=]|$)")
"""What a parameter is called, where its type stands behind that."""
INDEXER = "this"
"""What an indexer is called among the members of a class."""
LITERAL = re.compile(r"None|True|False|-?[\d.]+|([\"'])[^\"'\\]*\1|\(\)")
"""Defaults that a declaration repeats; of others it says only that there is one, for what they name is the class's affair."""


def signature_of(sources: Sources, number: int, member: Member) -> Signature:
    """The signature of a method or property of a class, as its interface declares it."""
    syntax = sources.syntax(sources.symbols.file_of[sources.symbols.part_of_member(number, member)])
    language, docs = syntax.traits, _docs(syntax, member)
    if "event" in member.modifiers.words:
        return Signature(member.name, "", f"event {member.type}", docs=docs, kind="event")
    if member.kind in ("property", "field"):
        return Signature(
            _indexer(syntax, member) if member.name == INDEXER and language.indexers else member.name,
            _accessors(syntax, member) if language.accessors else "",
            member.type or _inferred(sources, number, member),
            docs=docs,
            kind="property",
        )
    if syntax.member_node(member).child_by_field_name("parameters") is None:  # a function kept in a field
        return Signature(member.name, "", _inferred(sources, number, member), docs=docs, kind="property")
    result = f"ReturnType<{_member_type(sources, number, member)}>" if language.takes_types_of_calls else language.no_result
    return Signature(
        member.name,
        ", ".join(_parameters(sources, number, member, syntax)),
        member.type or result,
        member.generics,
        f" throws {', '.join(member.throws)}" if member.throws and language.checked_errors else "",
        _constraints(syntax, syntax.parameters(member)[0], member) if language.constrained_generics else "",
        docs,
        "property" if _is_getter(member) else "method",
        not language.takes_types_of_calls and syntax.of(syntax.member_node(member)).startswith("async "),
    )


def _parameters(sources: Sources, number: int, member: Member, syntax: Syntax) -> Iterator[str]:
    """The parameters of a method, as its interface declares them."""
    if syntax.traits.written_types:
        yield from (f"{each.type}{'...' if each.variadic else ''} {each.name}" for each in member.parameters)
        return
    _, own = syntax.parameters(member)
    for index, each in enumerate(own[1:] if sources.symbols.dialect(number).self_parameter else own):
        text = " ".join(syntax.of(each).split())
        if syntax.traits.takes_types_of_calls:
            yield _typed_parameter(text, index, _member_type(sources, number, member))
        else:
            yield _parameter(syntax.traits, text)


def _indexer(syntax: Syntax, member: Member) -> str:
    """What an indexer is declared as: its word with the parameters in their brackets."""
    brackets = syntax.member_node(member).child_by_field_name("parameters")
    return f"{INDEXER}{' '.join(syntax.of(brackets).split())}" if brackets is not None else INDEXER


def _inferred(sources: Sources, number: int, member: Member) -> str:
    """The type of a property that declares none: as the class has it, or left open."""
    return _member_type(sources, number, member) if sources.language(number).takes_types_of_calls else ""


def _member_type(sources: Sources, number: int, member: Member) -> str:
    name = sources.symbols.types[number].name
    return f"typeof {name}.{member.name}" if member.is_static else f"{name}['{member.name}']"


def _is_getter(member: Member) -> bool:
    return (
        any(each.name in ("property", "cached_property") for each in member.modifiers.annotations)
        or "get" in member.modifiers.words
    )


def _parameter(language: Language, text: str) -> str:
    """A parameter on one line; where a default is no literal, the declaration only says that it may be left out."""
    found = re.match(r"(\w+\s*(?::[^=]+)?=\s*)(.+)$", text) if language.default_left_out else None
    return text if found is None or LITERAL.fullmatch(found[2]) else f"{found[1]}{language.default_left_out}"


def _typed_parameter(text: str, index: int, member_type: str) -> str:
    """A parameter with its type; of one that has none but a default, the type of that, or as the member itself has it."""
    if bare := re.fullmatch(r"(\.\.\.)?\w+\??", text):
        return f"{text}: any{'[]' if bare[1] else ''}"
    found = re.match(r"(?P<name>\w+)\??\s*(?::\s*(?P<type>.+?))?\s*=(?![>=])\s*(?P<default>.+)$", text)
    if found is None:
        return text
    default = found["default"]
    kind = next((name for name, sign in _KINDS.items() if sign.fullmatch(default)), f"Parameters<{member_type}>[{index}]")
    return f"{found['name']}?: {found['type'] or kind}"


def _constraints(syntax: Syntax, parameters: Any, member: Member) -> str:
    """What stands between a method's parameters and its body."""
    end = member.body[0] or member.whole[1]
    begin = parameters.end_byte
    between = syntax.text[begin:end].decode("utf-8", "replace").replace("=>", "").strip(" \r\n\t;")
    return f" {between}" if between.startswith("where") else ""


def _accessors(syntax: Syntax, member: Member) -> str:
    """What others may do with a property: read it, and write it unless its setter is hidden."""
    text = syntax.text[member.whole[0] : member.whole[1]].decode("utf-8", "replace")
    writes = re.search(r"(?<!private )(?<!protected )(?<!internal )\b(set|init)\s*[;{=]", text)
    return "{ get; set; }" if writes and writes[1] == "set" else "{ get; }"


def _docs(syntax: Syntax, member: Member) -> str:
    """The comment that documents a member, its margin left off; '' where there is none."""
    if syntax.traits.docs_in_body:
        body = syntax.body(member)
        first = body.named_children[0] if body is not None and body.named_children else None
        inner = (
            first.named_children[0]
            if first is not None and first.type == "expression_statement" and first.named_children
            else None
        )
        return (
            syntax.of(inner).strip("\"' \n")
            if inner is not None and inner.type == "string" and "\n" not in syntax.of(inner)
            else ""
        )
    before = syntax.text[: member.whole[0]].decode("utf-8", "replace").rstrip()
    if sign := syntax.traits.docs_by_line:
        lines = before.split("\n")
        kept: list[str] = []
        while lines and lines[-1].strip().startswith(sign):
            kept.insert(0, lines.pop().strip())
        return "\n".join(kept)
    if not before.endswith("*/"):
        return ""
    start = before.rfind("/**")
    if start < 0 or "*/" in before[start:-2]:
        return ""
    lines = before[start:].splitlines()
    return "\n".join([lines[0].strip(), *(f" {line.strip()}" for line in lines[1:])])


def needs_of(codebase: Codebase, number: int, signatures: list[Signature]) -> tuple[Need, ...]:
    """What the file of an abstraction must import for its signatures, as the class's own file knows it."""
    file = codebase.symbols.file_of[number]
    local = number - codebase.symbols.first[file]
    indexed = " ".join(each.name.partition("[")[2] for each in signatures)
    texts = [
        f"{each.result} {_unnamed(each.parameters)} {each.generics} {each.throws} {each.constraints}" for each in signatures
    ]
    texts.append(indexed)
    return needs_of_text(codebase, file, local, " ".join(texts))


def _unnamed(parameters: str) -> str:
    """The types and defaults of parameters, without what these are called where that comes first."""
    return ", ".join(_CALLED.sub("", each.strip()) for each in split_top(parameters))


def visible(sources: Sources, number: int, member: Member) -> bool:
    """Whether a member can implement one of an interface as it is declared."""
    words = member.modifiers.words
    if sources.language(number).public_members:
        return "public" in words
    return not member.is_private and "protected" not in words


def takes_undeclared(sources: Sources, number: int, member: Member) -> bool:
    """Whether a member asks for arguments that its parameters do not tell of, so that no declaration promises what it takes."""
    sign = sources.language(number).undeclared_arguments
    if sign is None or member.body == (0, 0):
        return False
    file = sources.symbols.file_of[sources.symbols.part_of_member(number, member)]
    return sign.search(sources.codebase.text(file)[slice(*member.body)]) is not None
