"""What speaks for a role and needs nothing but the declaration itself: annotations, names, folders, the shape of methods."""

from __future__ import annotations

import re
from collections import defaultdict
from functools import cache

import msgspec

from isodesm.catalogue import Catalogue, shared_catalogue
from isodesm.facts import typetext
from isodesm.facts.records import DeclaredType, Member
from isodesm.linking.symbols import simple_name

SETTING, ANNOTATION, BASE, SHAPE, WEAK_SHAPE, UNKNOWN, NAME = 100, 80, 70, 50, 30, 20, 10
"""Strength of evidence by where it comes from; `UNKNOWN` says that there is hardly any."""

SERVICE_LIKE = frozenset(("service", "gateway", "repository", "presentation", "factory"))
DATA = frozenset(("entity", "value"))
ROLES = (
    "abstraction algorithm composition-root controller entity exception factory gateway part presentation repository service "
    "test utility value".split()
)
"""All roles, as settings may name them."""

SMALL_BODY = 3
"""Statements up to which a method without decisions counts as plain: it hands data in, out or on."""

_OBJECT_METHODS = frozenset("equals hashCode toString compareTo clone finalize compare readObject writeObject".split())
_ACCESSOR = ("get", "set", "is", "has", "with", "add", "remove", "of", "from", "to", "as", "copy", "put", "clear", "size")


class Evidence(msgspec.Struct, frozen=True):
    """One thing that speaks for a role."""

    role: str
    strength: int
    reason: str


class Role(msgspec.Struct, frozen=True):
    """The role of a class and all evidence, strongest first; what names another role spoke against."""

    name: str
    evidence: tuple[Evidence, ...]


def decide(found: list[Evidence]) -> Role:
    """The role with the strongest evidence; names break ties only."""
    if not found:
        return Role("", ())
    totals: dict[str, int] = defaultdict(int)
    for evidence in found:
        if evidence.strength <= NAME:
            totals[evidence.role] += evidence.strength
    ordered = sorted(found, key=lambda each: (-each.strength, -totals[each.role], each.role, each.reason))
    if ordered[0].strength <= NAME and ordered[0].role not in SERVICE_LIKE:
        return Role("", tuple(ordered))
    role = ordered[0].role
    if role == "service" and ordered[0].strength < BASE:  # the general case: a name may say which sort of service
        named = [
            each.role for each in ordered if each.strength <= NAME and each.role in ("presentation", "gateway", "repository")
        ]
        role = named[0] if named else role
    return Role(role, tuple(ordered))


def from_annotations(declared: DeclaredType, catalogue: Catalogue) -> list[Evidence]:
    """What its annotations say of a type."""
    found = []
    names = {simple_name(annotation.name) for annotation in declared.modifiers.annotations}
    for role, known in catalogue.roles.annotations.items():
        for name in sorted(names.intersection(known)):
            found.append(Evidence(role, ANNOTATION, f"annotated with {name}"))
    return found


def from_name(name: str) -> list[Evidence]:
    """What the suffix of its name says of a type."""
    if not name.endswith(_all_suffixes()):
        return []
    return [
        Evidence(role, NAME, f"is named …{suffix}") for role, suffix in _suffixes() if name.endswith(suffix) and name != suffix
    ]


@cache
def _all_suffixes() -> tuple[str, ...]:
    return tuple(suffix for _, suffix in _suffixes())


@cache
def _suffixes() -> tuple[tuple[str, str], ...]:
    """(role, end of a name that speaks for it)."""
    return tuple((role, suffix) for role, suffixes in shared_catalogue().suffixes.items() for suffix in suffixes.split())


def is_test_path(path: str) -> bool:
    """Whether a file lies in a folder for tests, or is named like one."""
    tests = shared_catalogue().tests
    segments = frozenset(tests.segments.split())
    *folders, name = path.split("/")
    return any(segment in segments for segment in folders) or re.match(tests.files, name) is not None


def is_start(member: Member) -> bool:
    """A program's entry: a static `main` that takes nothing, or the words of the command line."""
    if member.name not in ("main", "Main", "__main__") or not member.is_static or len(member.parameters) > 1:
        return False
    words = ("", "String", "string", "str", "list", "List", "Sequence")
    return not member.parameters or typetext.head(member.parameters[0].type) in words


def is_method(member: Member) -> bool:
    """Whether a member is a method, or a property with a body, which runs when it is asked: a method by another spelling."""
    return member.kind == "method" or (member.kind == "property" and member.body != (0, 0))


def is_field(member: Member) -> bool:
    """Whether a member keeps a value: a field, a component of a record, or a property that nothing but keeps one."""
    return member.kind in ("field", "component") or (member.kind == "property" and member.body == (0, 0))


def is_open(declared: DeclaredType) -> bool:
    """Whether a class leaves methods to those who extend it: what it does nobody knows from it alone."""
    return declared.is_abstract and any(
        m.kind == "method" and m.body == (0, 0) and not m.is_static and not m.is_private for m in declared.members
    )


def is_plain(member: Member) -> bool:
    """Whether a method hands data in, out or on, without deciding much."""
    if member.name in _OBJECT_METHODS or member.body == (0, 0):
        return True
    if member.branches == 0 and member.statements <= SMALL_BODY:
        return True
    return member.name.startswith(_ACCESSOR) and member.statements <= 2 * SMALL_BODY and member.branches <= 1


def is_accessor(member: Member) -> bool:
    """Whether a method only hands a field in or out."""
    if member.name in _OBJECT_METHODS:
        return True
    setter = member.name.startswith(("set", "with")) and len(member.parameters) == 1
    getter = member.type not in ("", "void") and not member.parameters
    return member.statements <= 1 and member.branches == 0 and (setter or getter)
