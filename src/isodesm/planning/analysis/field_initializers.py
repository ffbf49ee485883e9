"""What a class does with a field before its constructor begins: what other fields begin with, and blocks beside them."""

from __future__ import annotations

import re

from isodesm.codebase.model import Codebase
from isodesm.facts.languages import dialect_of
from isodesm.facts.records import Member
from isodesm.linking.remembering import remembered
from isodesm.planning.analysis.sources import Sources
from isodesm.planning.language.base import Language
from isodesm.planning.model.refusal import Reason, Refusal

_LATER = re.compile(rb"->|=>|\bfunction\b")
"""What stands in front of code that only runs when it is called."""


def early_use(sources: Sources, number: int, field: str) -> Refusal | None:
    """Why something that runs before the body of the constructor needs the value of a field, be it in a method that it calls;
    None where nothing does."""
    language = sources.language(number)
    if not field or not (language.initializers_see_fields or language.initializers_run_before_base):
        return None
    text = sources.codebase.text(sources.symbols.file_of[number])
    members = sources.symbols.own_members(number)
    bodies = {m.name: text[slice(*m.body)] for m in members if m.kind in ("method", "property") and m.body != (0, 0)}
    needing = _needing(field, bodies, language)
    if language.initializers_run_before_base:  # where fields begin before the constructor of the parent runs
        overriding = {m.name for m in members if "override" in m.modifiers.words} & needing
        return Refusal(Reason.PARENT_NEEDS_EARLY) if overriding and _may_be_called_above(sources, number, overriding) else None
    for member in members:
        if member.is_static or member.name == field or member.whole == (0, 0):
            continue
        if member.kind == "instance" and _names(text[slice(*member.whole)], needing, language):
            return Refusal(Reason.FIELD_NEEDED_EARLY)
        value = text[slice(*member.whole)].partition(b"=")[2] if member.kind == "field" else b""
        if value and _names(_at_once(value, field, language), needing, language):
            return Refusal(Reason.FIELD_NEEDED_EARLY)
    return None


def _may_be_called_above(sources: Sources, number: int, names: set[str]) -> bool:
    """Whether the constructor of a parent calls one of some members, or one that lies outside the tree may."""
    codebase, symbols = sources.codebase, sources.symbols
    for each in codebase.roles.ancestors(number):
        if symbols.types[each].kind == "class" and codebase.roles.external_bases.get(each):
            return True
        if each != number and (constructor := sources.constructor(each)) is not None:
            body = codebase.text(symbols.file_of[symbols.part_of_member(each, constructor)])[slice(*constructor.body)]
            if any(re.search(rb"\b" + re.escape(name).encode() + rb"\b", body) for name in names):
                return True
    return False


def _needing(field: str, bodies: dict[str, bytes], language: Language) -> set[str]:
    """A field, and the methods of its class that name it, over any number of calls."""
    found, before = {field}, 0
    while len(found) > before:
        before = len(found)
        found |= {name for name, body in bodies.items() if name not in found and _names(body, found, language)}
    return found


def _at_once(value: bytes, field: str, language: Language) -> bytes:
    """The part of what a field begins with that is worked out at once; a plain name of a field counts in functions, too, for
    there it must have its value in one of the languages."""
    later = _LATER.search(value)
    if later is None:
        return value
    rest = re.sub(rb"\bthis\s*\.\s*\w+", b"", value[later.start() :])
    plain = re.search(rb"(?<![\w.$])" + re.escape(field).encode() + rb"\b", rest)
    return value if language.lambdas_need_values and plain else value[: later.start()]


def _names(text: bytes, names: set[str], language: Language) -> bool:
    """Whether code names a member of its own class: behind `this.`, or bare where the language allows that."""
    own = rb"this\s*\.\s*" if not dialect_of(language.name).implicit_self else rb"(?:(?<![\w.$])|\bthis\s*\.\s*)"
    return any(re.search(own + re.escape(each).encode() + rb"\b", text) for each in sorted(names))


@remembered
def asked_by_parents(codebase: Codebase, number: int) -> frozenset[str]:
    """The methods of a class that the constructor of a parent in the tree runs, be it by way of others: what a class is handed
    has to be there by then."""
    dialect, symbols = codebase.symbols.dialect(number), codebase.symbols
    line = codebase.roles.ancestors(number)
    word = re.escape(dialect.self_word.lstrip("$").encode())
    bare = rb"(?<![\w.$>:])|" if dialect.implicit_self else b""
    called = re.compile(rb"(?:" + bare + rb"\$?\b" + word + rb"\s*(?:\.|->)\s*)(\w+)\s*\(")

    def body(owner: int, member: Member) -> bytes:
        return codebase.text(symbols.file_of[symbols.part_of_member(owner, member)])[slice(*member.body)]

    members = [(each, m) for each in line for m in symbols.types[each].members]
    waiting = [body(each, m) for each, m in members if each != number and m.kind == "constructor" and m.body != (0, 0)]
    found: set[str] = set()
    while waiting:
        for name in {each.decode("utf-8", "replace") for each in called.findall(waiting.pop())} - found:
            own = [(each, m) for each, m in members if m.name == name and m.kind == "method" and m.body != (0, 0)]
            if own:
                found.add(name)
                waiting += [body(*each) for each in own]
    return frozenset(found)
