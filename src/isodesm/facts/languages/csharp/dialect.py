"""What a query can't say about C#: usings, attributes before modifiers, bases of two sorts, names of operators."""

from __future__ import annotations

import re
from functools import lru_cache

from isodesm.facts.languages.csharp.conditional import readings
from isodesm.facts.languages.dialect import Dialect, plain_chain
from isodesm.facts.languages.shared import count_statements
from isodesm.facts.records import Annotation, Import, Modifiers
from isodesm.facts.typetext import split_top, squeeze

_USING = re.compile(r"(global )?using (static )?(?:unsafe )?(?:([@\w]++) ?= ?)?([^;]+?) ?;? ?$")
"""A directive on one line, runs of white space as one space."""
_WORDS = frozenset(
    "public private protected internal static readonly const abstract sealed virtual override partial async extern new "
    "volatile unsafe required event ref out in params this file fixed".split()
)
_ARGUMENTS = re.compile(r"<[^<>()]*>")
_MARKS = re.compile(r"\s+|(?<=[\w)\]])!(?=[.\s]|$)|@(?=\w)")
_OPERATORS = {
    "+": "op_Addition",
    "-": "op_Subtraction",
    "*": "op_Multiply",
    "/": "op_Division",
    "%": "op_Modulus",
    "==": "op_Equality",
    "!=": "op_Inequality",
    "<": "op_LessThan",
    ">": "op_GreaterThan",
    "<=": "op_LessThanOrEqual",
    ">=": "op_GreaterThanOrEqual",
    "&": "op_BitwiseAnd",
    "|": "op_BitwiseOr",
    "^": "op_ExclusiveOr",
    "!": "op_LogicalNot",
    "~": "op_OnesComplement",
    "<<": "op_LeftShift",
    ">>": "op_RightShift",
    "++": "op_Increment",
    "--": "op_Decrement",
    "true": "op_True",
    "false": "op_False",
}
_KEYWORD_TYPES = {
    "string": "String",
    "object": "Object",
    "bool": "Boolean",
    "byte": "Byte",
    "sbyte": "SByte",
    "char": "Char",
    "decimal": "Decimal",
    "double": "Double",
    "float": "Single",
    "int": "Int32",
    "uint": "UInt32",
    "long": "Int64",
    "ulong": "UInt64",
    "short": "Int16",
    "ushort": "UInt16",
    "nint": "IntPtr",
    "nuint": "UIntPtr",
}


@lru_cache(maxsize=4096)
def read_import(text: str) -> tuple[Import, ...]:
    """A namespace in use, a type whose static members are, or an alias."""
    found = _USING.match(squeeze(text))
    if not found or text.lstrip().startswith("using ("):
        return ()
    everywhere, static, alias, name = found.groups()
    name = read_chain(name.partition("<")[0]) or name
    if alias:
        return (Import(name=name, alias=alias.lstrip("@"), everywhere=bool(everywhere)),)
    return (Import(name=name, static=bool(static), wildcard=True, everywhere=bool(everywhere)),)


def read_chain(text: str) -> str:
    """A chain of names: type arguments, marks and the sign of an alias left off."""
    if "<" in text:
        while (shorter := _ARGUMENTS.sub("", text)) != text:
            text = shorter
    if "::" in text or "?." in text:
        text = text.replace("::", ".").replace("?.", ".")
    return plain_chain(_MARKS.sub("", text) if not text.isidentifier() else text)


def read_name(text: str) -> str:
    """A name without the sign that lets it be a keyword."""
    return text.lstrip("@")


@lru_cache(maxsize=16384)
def read_modifiers(text: str) -> Modifiers:
    """Attributes and keywords in front of a name; the type between them and the name is passed over."""
    text = squeeze(text)
    annotations: list[Annotation] = []
    while text.startswith("["):
        end = _closing(text)
        for part in split_top(re.sub(r"^\w+\s*:(?!:)", "", text[1:end])):
            name, bracket, rest = part.partition("(")
            annotations.append(Annotation(name=name.strip(), arguments=rest.removesuffix(")").strip() if bracket else ""))
        text = text[end + 1 :].lstrip()
    words = []
    for word in text.split():
        if word not in _WORDS:
            break
        words.append(word)
    return Modifiers(words=tuple(words), annotations=tuple(annotations))


def _closing(text: str) -> int:
    """Index of the bracket that closes the first one."""
    depth, quote = 0, ""
    for index, char in enumerate(text):
        if quote:
            quote = "" if char == quote and text[index - 1] != "\\" else quote
        elif char == '"':
            quote = char
        elif char in "[(":
            depth += 1
        elif char in "])":
            depth -= 1
            if depth == 0:
                return index
    return len(text)


@lru_cache(maxsize=16384)
def read_bases(text: str, kind: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """A base class and interfaces stand in one list; by custom an interface's name begins with a capital I."""
    parts = tuple(_without_call(part) for part in split_top(squeeze(text).removeprefix(":")))
    if kind in ("interface", "enum"):
        return parts, ()
    first_is_class = bool(parts) and kind != "struct" and not re.match(r"(?:[\w.:]+\.)?I[A-Z]\w", parts[0])
    return (parts[:1], parts[1:]) if first_is_class else ((), parts)


def _without_call(part: str) -> str:
    return re.sub(r"\s*\(.*\)$", "", part)


def name_member(kind: str, name: str) -> tuple[str, str]:
    """Kind and name of members that have no plain name."""
    if kind == "operator":
        return "method", _OPERATORS.get(name, name)
    if kind == "conversion":
        return "method", "op_Implicit"
    if kind == "destructor":
        return "method", f"~{name}"
    return ("property", "this") if kind == "indexer" else (kind, name)


def refine_member(kind: str, name: str, modifiers: Modifiers, owner: str) -> tuple[str, Modifiers]:
    """Static constructors initialise the class; constants are static."""
    if kind == "constructor" and "static" in modifiers.words:
        return "static", modifiers
    if kind == "field" and "const" in modifiers.words:
        return kind, Modifiers(words=("static", *modifiers.words), annotations=modifiers.annotations)
    if kind == "method" and owner == "module":
        return kind, Modifiers(words=(*modifiers.words, "static"), annotations=modifiers.annotations)
    return kind, modifiers


def grammar(suffix: str) -> object:
    """The compiled grammar, for tree-sitter."""
    import tree_sitter_c_sharp

    return tree_sitter_c_sharp.language()


DIALECT = Dialect(
    name="csharp",
    title="C#",
    suffixes=(".cs",),
    fences={"cs": "csharp"},
    project_usings=True,
    generated=(".g.cs", ".g.i.cs", ".Designer.cs", ".designer.cs"),
    readings=readings,
    grammar=grammar,
    read_import=read_import,
    read_modifiers=read_modifiers,
    read_bases=read_bases,
    read_chain=read_chain,
    read_name=read_name,
    name_member=name_member,
    refine_member=refine_member,
    count_statements=count_statements,
    simple_statements=frozenset("expression_statement local_declaration_statement".split()),
    primitives=frozenset((*_KEYWORD_TYPES, "void", "var", "dynamic")),
    inferred=frozenset(("var",)),
    keyword_types={word: f"System.{name}" for word, name in _KEYWORD_TYPES.items()},
    parent_word="base",
    style="namespaces",
    leading_modifiers=True,
    name_operators=frozenset(("nameof",)),
    partial_types=True,
)
