"""Taking type expressions apart: `Map<String, List<Roster[]>>`, `Optional["Roster"]`, `?\\App\\Roster` and their like.

One syntax for all languages: what none of them could mean by the same signs needs no telling apart.
"""

from __future__ import annotations

import re
from functools import lru_cache

_OPENING, _CLOSING = "<([{", ">)]}"
_COMMENT = re.compile(r"""("(?:[^"\\\n]|\\.)*+"?+|'(?:[^'\\\n]|\\.)*+'?+)|//[^\n]*+|/\*.*?\*/""", re.DOTALL)
"""A comment, or (group 1) a quoted text, in which what looks like one is none."""
_NAME = re.compile(r"\\?(?:\$|[^\W\d])[\w$]*(?:\s*[.\\]\s*(?:\$|[^\W\d])[\w$]*)*")
_NOTHING = frozenset("null None undefined void false never nil".split())
"""Alternatives of a union that stand for no object."""
_WORDS = frozenset(
    "extends super final typeof keyof infer is readonly unique asserts new out in ref params scoped const this null None "
    "undefined void false true never where class struct notnull unmanaged".split()
)
"""Words in a type expression that name no type."""
_PARAMETER_WORDS = re.compile(r"^(?:(?:in|out|const)\s+)+")
_LEADING = re.compile(r"(?:(?:readonly|unique|ref|out|in|params|scoped|const|asserts|abstract)\s+)+(?=[^\s=,>])")
_GUARD = re.compile(r"(?<![$\w])[$\w]++\s++is\s++")
_LABEL = re.compile(r"(?<![$\w])[$\w]++\??\s*+:(?!:)")
"""The name of a property or parameter inside a type."""
_QUOTED = re.compile(r"([\"'])(.*?)\1")
_TRANSPARENT = frozenset(
    "Optional Union Final ClassVar Annotated Required NotRequired ReadOnly Unpack Awaitable Coroutine".split()
)
"""Names before square brackets that stand for what is in the brackets."""
_WRAPPERS = frozenset("Nullable Readonly NonNullable Required Partial".split())
"""The same before angle brackets."""
_ANNOTATION = re.compile(r"@\s*[\w.$]+(?:\s*\([^()]*\))?\s*")


def split_top(text: str, separator: str = ",") -> tuple[str, ...]:
    """Split `text` at each `separator` outside brackets and quotes; empty parts are left out."""
    if separator not in text:
        return (whole,) if (whole := text.strip()) else ()
    parts, depth, start, quote, skip = [], 0, 0, "", False
    for index, char in enumerate(text):
        if skip:
            skip = False
        elif quote:
            if char == "\\":
                skip = True
            elif char == quote:
                quote = ""
        elif char in "\"'`":
            quote = char
        elif char in _OPENING:
            depth += 1
        elif char in _CLOSING:
            depth -= not (char == ">" and text[index - 1 : index] in ("-", "="))
        elif char == separator and depth == 0:
            parts.append(text[start:index].strip())
            start = index + 1
    parts.append(text[start:].strip())
    return tuple(part for part in parts if part)


def closing_bracket(text: str, opening: int) -> int:
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


def squeeze(text: str) -> str:
    """`text` without comments and on one line, runs of white space as one space."""
    if "/" in text:
        text = _COMMENT.sub(lambda found: found[1] or " ", text)
    return " ".join(text.split())


def _unquoted(found: re.Match[str]) -> str:
    """A quoted name of a type without its quotes; a quoted value as nothing."""
    text = found.group(2).strip()
    return f" {text} " if text[:1].isupper() or "." in text or "[" in text else " "


@lru_cache(maxsize=65536)
def head(text: str) -> str:
    """The type that `text` names first, dotted, without arguments, arrays, annotations and what may be left out.

    >>> head("java.util.Map.Entry<K, V>[]")
    'java.util.Map.Entry'
    >>> head("Outer<String>.Inner")
    'Outer.Inner'
    >>> head("Optional['Roster'] | None")
    'Roster'
    """
    if text.isidentifier():
        return text
    text = _prepared(text)
    if "=>" in text and any("=>" in part for part in (_outside_brackets(text),)):
        return ""
    if "|" in text:
        parts = [part for part in split_top(text, "|") if part not in _NOTHING]
        text = parts[0] if parts else ""
    plain = _outside_brackets(text)
    if plain.lstrip().startswith(("typeof ", "keyof ", "new ")):
        return ""
    found = _NAME.search(plain)
    if not found:
        return ""
    name = "".join(found.group().split())
    if name in _TRANSPARENT or name in _WRAPPERS:
        bracket = text[text.find(name) + len(name) :].lstrip()[:1]
        if (bracket == "[" and name in _TRANSPARENT) or (bracket == "<" and name in _WRAPPERS):
            inside = [each for each in arguments(text) if each not in _NOTHING]
            return head(inside[-1 if name == "Coroutine" else 0]) if inside else ""
    return name


def _prepared(text: str) -> str:
    text = _ANNOTATION.sub("", squeeze(text)) if "@" in text or "/" in text else text
    if '"' in text or "'" in text:
        text = _QUOTED.sub(_unquoted, text).strip()
    if "::" in text:
        text = text.replace("global::", "").replace("::", ".")
    if " " in text:
        text = _LEADING.sub("", text)
        text = _GUARD.sub("", text) if " is " in text else text
    return text


def _outside_brackets(text: str) -> str:
    if "=>" in text:
        text = text.replace("=>", "\0")
    kept, depth = [], 0
    for char in text:
        if char in _OPENING:
            depth += 1
        elif char in _CLOSING:
            depth -= 1
        elif depth == 0:
            kept.append(char)
    return "".join(kept).replace("\0", "=>")


@lru_cache(maxsize=65536)
def names(text: str) -> tuple[str, ...]:
    """Every type named in `text`, outermost first, duplicates once.

    >>> names("Map<String, ? extends Roster[]>")
    ('Map', 'String', 'Roster')
    """
    if text.isidentifier():
        return (text,) if text not in _WORDS else ()
    text = _prepared(squeeze(text))
    text = _ANNOTATION.sub("", text)
    if ":" in text:
        text = _LABEL.sub(" ", text)
    found = ("".join(match.group().split()) for match in _NAME.finditer(text.replace("...", " ")))
    return tuple(dict.fromkeys(name for name in found if name not in _WORDS and not _is_transparent(name, text)))


def _is_transparent(name: str, text: str) -> bool:
    return name in _TRANSPARENT and f"{name}[" in text


@lru_cache(maxsize=65536)
def arguments(text: str) -> tuple[str, ...]:
    """The type arguments of `text`: `Map<K, List<V>>` gives `('K', 'List<V>')`, and `Dict[K, V]` `('K', 'V')`."""
    opening, closing = ("<", ">") if "<" in text else ("[", "]")
    start, end = text.find(opening), text.rfind(closing)
    return split_top(text[start + 1 : end]) if 0 <= start < end else ()


@lru_cache(maxsize=16384)
def type_parameters(text: str) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """Names and bounds of a type parameter list: `<T extends A & B, U>` gives `(('T', ('A', 'B')), ('U', ()))`."""
    found = []
    for part in split_top(squeeze(text)[1:-1]):
        part = _PARAMETER_WORDS.sub("", _ANNOTATION.sub("", part)).partition("=")[0].strip()
        name, _, bounds = part.partition(" extends ") if " extends " in part else part.partition(":")
        found.append((name.strip(), split_top(bounds, "&")))
    return tuple(found)
