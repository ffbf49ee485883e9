"""Who makes the objects of a class: a host, a container, the code, tests."""

from __future__ import annotations

import re
from collections.abc import Iterator

import msgspec

from isodesm.codebase.hosts import host_base
from isodesm.codebase.model import Codebase
from isodesm.facts.records import Annotation
from isodesm.linking.symbols import simple_name
from isodesm.queries.entries import entry_points

BY = ("host", "container", "code", "test")
"""Who makes objects, in the order in which they are told."""
_ELEMENT = re.compile(r"\b(?:selector|tag|name|path|value)\s*[:=]\s*[\"']([^\"']+)[\"']|^\s*[\"']([^\"']+)[\"']")
"""A name, route or element in the arguments of a mark."""
_ROUTED = re.compile(
    r"(?<![\w$])((?:\$?\w+(?:::|->|\.))?"
    r"(?:get|post|put|patch|delete|map|match|any|route|resource|command|serve|serveRegex|filter|filterRegex))"
    r"\s*\(\s*([\"'][^\"']*[\"'])|\b(component|controller|handler)\s*:",
    re.IGNORECASE,
)
"""A call that sends requests or commands somewhere, with a text first, or an entry of a table of routes."""


class Maker(msgspec.Struct, frozen=True):
    """Who makes objects of a class: `by` is one of BY, `what` how that is known, `file` and `line` where it stands."""

    by: str
    what: str
    file: str
    line: int


def makers_of(codebase: Codebase, number: int) -> tuple[Maker, ...]:
    """Everybody who makes objects of a class, hosts first."""
    found = (*_hosts(codebase, number), *_containers(codebase, number), *_code(codebase, number))
    return tuple(sorted(dict.fromkeys(found), key=lambda each: (BY.index(each.by), each.file, each.line)))


def _hosts(codebase: Codebase, number: int) -> Iterator[Maker]:
    """A host that makes the class itself: known by a mark, a base, or a place of the program where it is named for one."""
    symbols, declared = codebase.symbols, codebase.symbols.types[number]
    at = (symbols.path(number), declared.place.line)
    catalogue, rules = symbols.catalogues.of(symbols.dialect(number).name), codebase.wiring.injections.words(number)
    listed = {name for names in catalogue.roles.annotations.values() for name in names}
    for mark in declared.modifiers.annotations:
        name = simple_name(mark.name)
        known = name in listed and name not in rules.annotations and name not in rules.lifetimes
        known = known and codebase.roles.name(number) != "entity"
        if known or name in rules.metadata or name in catalogue.roles.annotations.get("presentation", ()):
            yield Maker("host", f"by its mark {name}{_shown(mark)}", *at)
    if codebase.roles.name(number) in ("presentation", "composition-root"):
        for base in codebase.roles.external_bases.get(number, ()):
            yield Maker("host", f"by its base {simple_name(base)}", *at)
    elif base := host_base(codebase, number):
        yield Maker("host", f"by its base {simple_name(base)}", *at)
    yield from _named_for_a_host(codebase, number)
    if declared.kind == "class" and not any(True for _ in _creations(codebase, number)):
        for entry in entry_points(codebase):
            if entry.number == number and "host" in entry.why:
                yield Maker("host", f"as an entry: {entry.why}", entry.file, entry.line)


def _shown(mark: Annotation) -> str:
    found = _ELEMENT.search(mark.arguments)
    return f" for `{found.group(1) or found.group(2)}`" if found else ""


def _named_for_a_host(codebase: Codebase, number: int) -> Iterator[Maker]:
    """Lines on which a class is named to what routes requests or commands to it, in files that import it or lie beside it."""
    symbols, name = codebase.symbols, codebase.symbols.types[number].name
    if codebase.roles.name(number) not in ("presentation", "service", "composition-root", "unknown") or not name:
        return
    folder = symbols.path(number).rpartition("/")[0]
    named = re.compile(rf"(?<!\w){re.escape(name)}(?:::class|\.class)?(?![\w(])")
    for file, facts in enumerate(symbols.files):
        near = facts.path.rpartition("/")[0] == folder
        if file == symbols.file_of[number] or not (near or any(name in (each.alias, each.member) for each in facts.imports)):
            continue
        for line, text in enumerate(codebase.text(file).decode("utf-8", "replace").splitlines(), 1):
            if named.search(text) and (found := _ROUTED.search(text)):
                said = f"{found.group(1)}({found.group(2)}, …)" if found.group(1) else f"{found.group(3)}: {name}"
                yield Maker("host", f"named in `{said}`", facts.path, line)


def _containers(codebase: Codebase, number: int) -> Iterator[Maker]:
    """Registrations that name the class."""
    for service in codebase.wiring.by_implementation.get(number, ()):
        each = service.registration
        if each.alias or codebase.wiring.is_of_test(service):
            continue
        own = service.abstraction in (-1, number)
        under = f" as {simple_name(each.abstraction)}" if not own else f" under {each.id}" if each.id else ""
        held = f" if {each.condition}" if each.condition else ""
        rule = f", by a rule: {each.rule}" if each.rule else ""
        yield Maker("container", f"{each.lifetime or 'lifetime not said'}{under}{held}{rule}", each.file, each.line)


def _creations(codebase: Codebase, number: int) -> Iterator[int]:
    table = codebase.bonds
    return (row for row in table.rows_of_kind("creation") if table.target[row] == number)


def _code(codebase: Codebase, number: int) -> Iterator[Maker]:
    """Places that create it."""
    table, symbols = codebase.bonds, codebase.symbols
    told = {(each.registration.file, each.registration.line) for each in codebase.wiring.by_implementation.get(number, ())}
    for row in _creations(codebase, number):
        source = table.source[row]
        if (symbols.files[table.file[row]].path, table.line[row]) in told:
            continue  # what a container calls stands in its registration
        member = table.text_of("member", row)
        where = simple_name(symbols.names[source]) + (f".{member}" if member and not member.startswith("<") else "")
        by = "test" if codebase.roles.name(source) == "test" else "code"
        yield Maker(by, where, symbols.files[table.file[row]].path, table.line[row])
