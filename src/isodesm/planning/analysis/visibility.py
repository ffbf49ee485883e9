"""Who can name a type of the tree."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any

from isodesm.planning.analysis.decisions import spot_of
from isodesm.planning.analysis.homes import unit_of
from isodesm.planning.analysis.names_in_code import typetext_free
from isodesm.planning.analysis.sources import Sources
from isodesm.planning.language import language_named
from isodesm.planning.model.code import Need

_HEAD = re.compile(r"(?<![\w.>\"'])([A-Za-z_]\w*)\s*\.")


def is_hidden_from(sources: Sources, makers: Iterable[int], target: int) -> bool:
    """Whether one of some classes can't name what stands for a target: it is known to its package or its assembly only."""
    within = sources.language(target).types_hidden_within if target >= 0 else ""
    if not within:
        return False
    around = [target]
    while (outer := sources.symbols.outer(around[-1])) >= 0:
        around.append(outer)
    if all({"public", "protected"} & set(sources.symbols.types[each].modifiers.words) for each in around):
        return False
    if within == "assembly":
        return any(unit_of(sources, each) != unit_of(sources, target) for each in makers)
    package = sources.symbols.files[sources.symbols.file_of[target]].package
    return any(sources.symbols.files[sources.symbols.file_of[each]].package != package for each in makers)


def is_local(sources: Sources, number: int) -> bool:
    """Whether a type, or one around it, is declared inside a function."""
    while number >= 0:
        if sources.symbols.types[number].outer_member >= 0:
            return True
        number = sources.symbols.outer(number)
    return False


def hidden_type(sources: Sources, owner: int, text: str, needs: Iterable[Need]) -> str:
    """A type of the tree that a text names, `needs` saying from where, and that a class can't name, for it is known to its
    package or assembly only; '' where there is none."""
    if not sources.language(owner).types_hidden_within:
        return ""
    symbols, file = sources.symbols, sources.symbols.file_of[owner]
    separator = symbols.dialect(owner).separator
    for need in needs:
        inner: list[str] = re.findall(rf"(?<![\w.]){re.escape(need.name)}(?:\.[A-Z]\w*)+", text)
        for path in dict.fromkeys([need.name, *inner]):
            number = symbols.find(f"{need.home}{separator}{path}" if need.home else path, file)[0]
            if number >= 0 and is_hidden_from(sources, [owner], number):
                return path
    return ""


def hidden_constructor(sources: Sources, makers: Iterable[int], target: int) -> bool:
    """Whether one of some classes can't call any constructor of a target, for it is known to its package or assembly only."""
    within = sources.language(target).types_hidden_within if target >= 0 else ""
    constructors = [each for each in sources.symbols.types[target].members if each.kind == "constructor"] if within else []
    if not constructors or any("public" in each.modifiers.words for each in constructors):
        return False
    if within == "assembly" and any("internal" in each.modifiers.words for each in constructors):
        return any(unit_of(sources, each) != unit_of(sources, target) for each in makers)
    if within == "assembly":
        return any(each != target for each in makers)
    package = sources.symbols.files[sources.symbols.file_of[target]].package
    return any(sources.symbols.files[sources.symbols.file_of[each]].package != package for each in makers)


def hides(sources: Sources, source: int, text: str) -> bool:
    """Whether members of a class hide a type that an expression begins with by the same name."""
    kinds = sources.language(source).hiding_members
    own = {each.name for each in sources.symbols.types[source].members if each.kind in kinds}
    return not own.isdisjoint(_HEAD.findall(typetext_free(text)))


def is_named_elsewhere(sources: Sources, number: int, *, all_pass: bool = False) -> bool:
    """Whether files that create no object of a class import it all the same, and may hand it on to be called anywhere.

    So are, unless they `all_pass` what it takes, files that create it and are no composition roots.
    """
    name, symbols = sources.name(number), sources.symbols
    roots = {each.file for each in sources.creators.get(number, ()) if each.root or all_pass}
    return any(
        name in (each.alias, each.member) or each.name.rpartition(".")[2] == name
        for file, facts in enumerate(symbols.files)
        if file not in roots and file != symbols.file_of[number] and facts.language == sources.language(number).name
        for each in facts.imports
        if each.alias not in ("", name) or _hands_on(sources, file, number)
    )


_IMPORTING = re.compile(rb"(?m)^[ \t]*(?:import|from|use)\b(?:[^;\n{(]|\{[^}]{0,4000}\}|\([^)]{0,4000}\))*")


def _hands_on(sources: Sources, file: int, number: int) -> bool:
    """Whether a file may hand a class on that it imports: it does more than ask for its static members and declare what is of
    it, or nothing at all but let others import it from there."""
    text, name = sources.codebase.text(file), sources.name(number)
    language = language_named(sources.symbols.files[file].language)
    spans = [each.span() for each in _IMPORTING.finditer(text)]
    named = re.finditer(rb"(?<![\w.$])" + re.escape(name.encode()) + rb"\b", text)
    left = [each.span() for each in named if not any(start <= each.start() < end for start, end in spans)]
    if language.class_value is not None:  # where a class is a value only by a word behind it
        left = [each for each in left if language.class_value.match(text, each[1])]
    elif language.class_member is None or not left:
        return True
    else:
        left = [each for each in left if not language.class_member.match(text, each[1])]
    told, syntax = _told_at(sources, number, file) if left else [], sources.syntax(file)
    nodes = [syntax.at(*each) for each in left]
    annotations = {each for _, rules in sources.codebase.wiring.families.of(file) for each in rules.metadata}
    return any(not _is_of_type(each) and not _is_told(each, told, annotations) for each in nodes)


def _told_at(sources: Sources, number: int, file: int) -> list[int]:
    """The lines of a file in which a container is told of a class, or asked for it."""
    wiring, bonds = sources.codebase.wiring, sources.codebase.bonds
    services = (
        *wiring.by_implementation.get(number, ()),
        *wiring.by_abstraction.get(number, ()),
        *wiring.told_for.get(number, ()),
    )
    asked = (spot_of(sources.codebase, row) for row in bonds.rows_of_kind("lookup") if bonds.target[row] == number)
    lines = [each.site.place.line for each in asked if each is not None and each.file == file]
    return [*(each.registration.line for each in services if wiring.file_of(each) == file), *lines]


def _is_told(node: Any, lines: list[int], annotations: set[str]) -> bool:
    """Whether a name stands in one of the marks that a container reads, or where it is told of the class or asked for it."""
    while node is not None and not node.type.endswith(("statement", "declaration", "class_body", "array_element_initializer")):
        annotation = re.match(rb"@\s*(?:\w+\.)*(\w+)", node.text) if node.type == "decorator" else None
        if annotation is not None and annotation[1].decode() in annotations:
            return True
        node = node.parent
    return node is not None and any(node.start_point[0] < each <= node.end_point[0] + 1 for each in lines)


def _is_of_type(node: Any) -> bool:
    """Whether a name stands where a type is declared, or an object is asked whether it is of that."""
    if node.type == "type_identifier":
        return True
    while node is not None and node.type not in ("argument_list", "module", "block"):
        if node.type == "type":
            return True
        node = node.parent
    call = node.parent if node is not None and node.type == "argument_list" else None
    asked = call.child_by_field_name("function") if call is not None else None
    return asked is not None and asked.text in (b"isinstance", b"issubclass")
