"""What a class is in a narrower word than its role: a record, an event, a handler, a worker, an adapter, a test double …

Nothing is judged by it: findings and plans go by the role. A narrower word is said only where the declaration, a mark, a base
or a call shows it; a name alone is never enough.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator

import msgspec

from isodesm.catalogue import shared_catalogue
from isodesm.codebase.model import Codebase
from isodesm.facts.records import DeclaredType, Member
from isodesm.inference.evidence import DATA, SERVICE_LIKE, is_accessor, is_field, is_method
from isodesm.linking.bonds import KIND_NUMBER, UNKNOWN
from isodesm.linking.symbols import simple_name
from isodesm.queries.run_later import task_of

FIXED = frozenset(("final", "readonly", "const"))
FILLED = re.compile(r"(?i)map|dict|list|set\b|array|collection|queue|table|\[\]")
"""Types of what can be filled though the field that keeps it does not change."""
PASSED_ON = 2 / 3
"""Share of its methods from which a class that passes calls on does nothing else."""


class Narrower(msgspec.Struct, frozen=True):
    """A narrower word for a class, and why it fits."""

    name: str
    reason: str


def narrower_role(codebase: Codebase, number: int) -> Narrower | None:
    """The narrower word for a class, or None where none is shown to fit."""
    role = codebase.roles.name(number)
    return next((found for each in _CHECKS.get(role, ()) if (found := each(codebase, number)) is not None), None)


# --- data -----------------------------------------------------------------------------------


def _event(codebase: Codebase, number: int) -> Narrower | None:
    return _carried(codebase, number, "event")


def _message(codebase: Codebase, number: int) -> Narrower | None:
    return _carried(codebase, number, "message")


def _carried(codebase: Codebase, number: int, word: str) -> Narrower | None:
    """What is named as an event or a message, and is one by its base or by who takes it as the only thing."""
    if base := _outer_base(codebase, number, word):
        return Narrower(word, f"extends {base}")
    own = codebase.symbols.types[number].name
    suffixes = tuple(shared_catalogue().narrower[word].split())
    if not own.endswith(suffixes):
        return None
    for taker, member in _takers(codebase, number):
        handled = codebase.symbols.types[taker]
        if handled.name.endswith(tuple(shared_catalogue().narrower["handler"].split())) or HANDLING.match(member.name):
            return Narrower(word, f"{handled.name}.{member.name} takes it")
    return None


def _record(codebase: Codebase, number: int) -> Narrower | None:
    """Data that never changes: declared so, or with fields that nobody can set."""
    declared = codebase.symbols.types[number]
    if declared.kind == "record":
        return Narrower("record", "is declared as one")
    fields = [each for each in declared.members if is_field(each) and not each.is_static]
    plain = all(is_accessor(each) for each in _own_methods(codebase, number))
    if declared.kind in ("class", "struct") and plain and fields and all(map(_is_fixed, fields)):
        return Narrower("record", f"none of its {len(fields)} fields changes" if len(fields) > 1 else "its field never changes")
    return None


def _is_fixed(field: Member) -> bool:
    """Whether a field keeps its value, and that is nothing which is filled later."""
    return bool(FIXED.intersection(field.modifiers.words)) and not FILLED.search(field.type)


# --- work -----------------------------------------------------------------------------------

HANDLING = re.compile(r"_*(?:(?:[Hh]andle|[Cc]onsume|[Rr]eceive)(?=[A-Z_]|$)|[Oo]n(?=[A-Z])|__invoke$)")
"""Beginnings of the names of members that are called when something has happened."""


def _worker(codebase: Codebase, number: int) -> Narrower | None:
    """What runs by itself, on a thread, in a pool, or at times that a timer sets."""
    if base := _outer_base(codebase, number, "worker"):
        return Narrower("worker", f"extends {base}")
    if run := task_of(codebase, number):
        return Narrower("worker", f"a thread, a pool or a timer calls its {run}")
    for member in codebase.symbols.types[number].members:
        if mark := _mark(codebase, number, member, "worker"):
            return Narrower("worker", f"{member.name} is marked with {mark}")
    return None


def _handler(codebase: Codebase, number: int) -> Narrower | None:
    """What is called when something has happened, and with that."""
    if base := _outer_base(codebase, number, "handler"):
        return Narrower("handler", f"extends {base}")
    shown = [each for each in _own_methods(codebase, number) if not each.is_private and not is_accessor(each)]
    for member in shown:
        if mark := _mark(codebase, number, member, "handler"):
            return Narrower("handler", f"{member.name} is marked with {mark}")
    named = codebase.symbols.types[number].name.endswith(tuple(shared_catalogue().narrower["handler"].split()))
    handling = [each for each in shown if HANDLING.match(each.name) and each.parameters]
    if handling and (len(handling) == len(shown) if not named else 2 * len(handling) >= len(shown)):
        return Narrower("handler", f"{handling[0].name} is called with what has happened")
    return None


def _adapter(codebase: Codebase, number: int) -> Narrower | None:
    """What gives one interface of the tree to an object of another kind: most of its methods pass calls on to that."""
    roles, table = codebase.roles, codebase.bonds
    line = roles.ancestors(number)[1:]
    inner = next((each for each in line if roles.name(each) == "abstraction"), -1)
    methods = [each for each in _own_methods(codebase, number) if not each.is_private]
    if inner < 0 or not methods:
        return None
    members = codebase.symbols.types[number].members
    rows = table.rows_of_source(number)
    held = {table.target[row]: table.text_of("text", row) for row in rows if table.kind[row] == KIND_NUMBER["field"]}
    for target, text in held.items():
        if target == UNKNOWN or (target >= 0 and (target == inner or target in line or roles.name(target) in DATA)):
            continue
        calling = {
            table.source_member[row]
            for row in rows
            if table.target[row] == target and table.kind[row] == KIND_NUMBER["call"] and table.source_member[row] >= 0
        }
        passing = [each for each in calling if members[each] in methods and members[each].branches == 0]
        if len(passing) >= PASSED_ON * len(methods):
            name = simple_name(text) or codebase.symbols.types[target].name
            return Narrower("adapter", f"gives a {name} as {codebase.symbols.types[inner].name}")
    return None


# --- the rim --------------------------------------------------------------------------------


def _view(codebase: Codebase, number: int) -> Narrower | None:
    return _shown_by(codebase, number, "view", ("visual", "draws"))


def _controller(codebase: Codebase, number: int) -> Narrower | None:
    return _shown_by(codebase, number, "controller", ("request",))


def _shown_by(codebase: Codebase, number: int, word: str, words: tuple[str, ...]) -> Narrower | None:
    """What stands at the rim, by a mark or by what made it one."""
    declared = codebase.symbols.types[number]
    parts: tuple[DeclaredType | Member, ...] = (declared, *declared.members)
    marked = next((mark for each in parts if (mark := _mark(codebase, number, each, word))), "")
    if marked:
        return Narrower(word, f"is marked with {marked}")
    reasons = (each.reason for each in codebase.roles[number].evidence if each.role == "presentation")
    found = next((reason for reason in reasons if any(each in reason for each in words)), "")
    return Narrower(word, found) if found else None


def _test_double(codebase: Codebase, number: int) -> Narrower | None:
    """What stands in for production code in tests: it implements or extends that."""
    roles, symbols = codebase.roles, codebase.symbols
    if _has_tests(codebase, number):
        return None
    replaced = next((each for each in roles.ancestors(number)[1:] if roles.name(each) != "test"), -1)
    return Narrower("test double", f"stands in for {symbols.types[replaced].name}") if replaced >= 0 else None


def _test_helper(codebase: Codebase, number: int) -> Narrower | None:
    """What tests use, and holds none itself."""
    if _has_tests(codebase, number):
        return None
    table = codebase.bonds
    users = {
        source
        for source, target in zip(table.source, table.target, strict=True)
        if target == number and source != number and codebase.roles.name(source) == "test"
    }
    name = next((codebase.symbols.types[each].name for each in sorted(users)), "")
    return Narrower("test helper", f"holds no test, and {name} uses it") if name else None


def _has_tests(codebase: Codebase, number: int) -> bool:
    """Whether a class of the tests is one: by its base, its marks, or the names of its members."""
    evidence = codebase.roles[number].evidence
    if any(each.role == "test" and each.reason.startswith(("extends", "annotated")) for each in evidence):
        return True
    known = codebase.symbols.catalogues.of(codebase.symbols.dialect(number).name).roles.annotations.get("test", ())
    members = codebase.symbols.types[number].members
    marks = {simple_name(mark.name) for member in members for mark in member.modifiers.annotations}
    marked = any(mark in known or mark.endswith(("Test", "Fact", "Theory", "TestCase")) for mark in marks)
    return marked or any(each.kind == "method" and each.name.lower().startswith("test") for each in members)


# --- shared ---------------------------------------------------------------------------------


def _own_methods(codebase: Codebase, number: int) -> list[Member]:
    members = codebase.symbols.types[number].members
    return [each for each in members if is_method(each) and not each.is_static and each.body != (0, 0)]


def _outer_base(codebase: Codebase, number: int, word: str) -> str:
    """A base outside the tree that makes a class such a thing, by its simple name; '' where there is none."""
    rules = codebase.symbols.catalogues.of(codebase.symbols.dialect(number).name).narrower
    known = frozenset(rules.bases.get(word, ()))
    bases = (base for each in codebase.roles.ancestors(number) for base in codebase.roles.external_bases.get(each, ()))
    return next((simple_name(base) for base in bases if base in known), "")


def _mark(codebase: Codebase, number: int, member: Member | DeclaredType, word: str) -> str:
    """A mark of a class or member that makes the class such a thing; '' where there is none."""
    rules = codebase.symbols.catalogues.of(codebase.symbols.dialect(number).name).narrower
    known = frozenset(rules.annotations.get(word, ()))
    return next((name for mark in member.modifiers.annotations if (name := simple_name(mark.name)) in known), "")


def _takers(codebase: Codebase, number: int) -> Iterator[tuple[int, Member]]:
    """Members that take an object of a type and nothing else, with their class."""
    table = codebase.bonds
    for row in table.rows_of_kind("parameter"):
        if table.target[row] == number and table.source_member[row] >= 0:
            member = codebase.symbols.types[table.source[row]].members[table.source_member[row]]
            if member.kind == "method" and len(member.parameters) == 1:
                yield table.source[row], member


Check = Callable[[Codebase, int], Narrower | None]
_WORK: tuple[Check, ...] = (_worker, _handler, _adapter)
_CHECKS: dict[str, tuple[Check, ...]] = {
    **dict.fromkeys(SERVICE_LIKE | {"algorithm", "utility"}, _WORK),
    **dict.fromkeys(DATA, (_event, _message, _record)),
    "presentation": (_view, _controller, *_WORK),
    "test": (_test_double, _test_helper),
}
"""Role to what may be said more narrowly of it, what says most in front."""
