"""What a change of one member touches: a new name, or another signature."""

from __future__ import annotations

from collections import Counter

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.errors import UsageError
from isodesm.inference.evidence import SERVICE_LIKE
from isodesm.linking.bonds import ASKED, KIND_NUMBER, OWN_CALL

_USES = frozenset((*(KIND_NUMBER[kind] for kind in ("call", "static-call", "static-field", "lookup")), OWN_CALL, ASKED))
_CREATION = KIND_NUMBER["creation"]


def caller_kind(role: str) -> str:
    """The kind of a caller by its role: `boundary`, `service`, `test` or `other`."""
    if role in ("presentation", "composition-root"):
        return "boundary"
    return "service" if role in SERVICE_LIKE else "test" if role == "test" else "other"


class Affected(msgspec.Struct, frozen=True):
    """A place that a change touches: `what` is `declared`, `overridden` or `used`, `by` the kind of caller (`boundary`,
    `service`, `test`, `other`), or '' for a declaration."""

    what: str
    name: str
    member: str
    file: str
    line: int
    by: str = ""


class MemberUse(msgspec.Struct, frozen=True):
    """What a change of a member touches.

    A new name touches its declarations in the whole line of types and all places that use it; another signature touches
    the same but for places that only name it. `places` and `files` count those of the name, tests included.
    """

    name: str
    signature: str
    touched: tuple[Affected, ...]
    places: int
    files: int
    in_tests: int
    callers: dict[str, int]


def member_use(codebase: Codebase, number: int, member: str) -> MemberUse:
    """What a change of a member touches. UsageError, with the members there are, for a name that is none."""
    line = _line(codebase, number, member)
    if not line:
        names = sorted({each.name for each in codebase.symbols.types[number].members if not each.name.startswith("<")})
        owner = codebase.symbols.names[number]
        raise UsageError(f"`{owner}` has no member `{member}`. It has: {', '.join(names[:12]) or 'none'}.")
    touched = [*_declarations(codebase, number, line, member), *_uses(codebase, line, member)]
    touched = list(dict.fromkeys(touched))
    signature = next(text for text in (_signature(codebase, each, member) for each in line) if text)
    return MemberUse(
        name=f"{codebase.symbols.names[number]}.{member}",
        signature=signature,
        touched=tuple(touched),
        places=len(touched),
        files=len({each.file for each in touched}),
        in_tests=sum(each.by == "test" for each in touched),
        callers=dict(sorted(Counter(each.by for each in touched if each.what == "used").items())),
    )


def _line(codebase: Codebase, number: int, member: str) -> list[int]:
    """The types that declare a member or inherit it from one that does: the class, its bases, and all heirs of those."""
    made = member in ("<init>", "new", "constructor")
    if made:
        return [number]
    tops = [each for each in codebase.roles.ancestors(number) if member in codebase.symbols.members(each)]
    below = {heir for top in tops for heir in (top, *codebase.roles.implementers.get(top, ()))}
    return sorted(below, key=lambda each: (each != number, each))


def _declarations(codebase: Codebase, number: int, line: list[int], member: str) -> list[Affected]:
    symbols = codebase.symbols
    found = []
    for each in line:
        for index, declared in symbols.members(each).get(member, ()):
            part, _ = symbols.origin(each, index)
            what = "declared" if each == number else "overridden"
            found.append(Affected(what, symbols.names[each], member, symbols.path(part), declared.place.line))
    return found


def _uses(codebase: Codebase, line: list[int], member: str) -> list[Affected]:
    table, symbols = codebase.bonds, codebase.symbols
    wanted, made = set(line), member in ("<init>", "new", "constructor")
    found = []
    for row, (target, kind) in enumerate(zip(table.target, table.kind, strict=True)):
        if target not in wanted or not (kind == _CREATION if made else kind in _USES):
            continue
        if made or table.text_of("callee", row) == member:
            source = table.source[row]
            file = symbols.files[table.file[row]].path
            by = caller_kind(codebase.roles.name(source))
            found.append(Affected("used", symbols.names[source], table.text_of("member", row), file, table.line[row], by))
    return sorted(found, key=lambda each: (each.by == "test", each.file, each.line))


def _signature(codebase: Codebase, number: int, member: str) -> str:
    """The head of a member as it is written, on one line."""
    symbols = codebase.symbols
    kinds = {"<init>": "constructor", "new": "constructor", "constructor": "constructor"}
    for index, declared in enumerate(symbols.types[number].members):
        if declared.name == member or declared.kind == kinds.get(member):
            part, _ = symbols.origin(number, index)
            text = codebase.text(symbols.file_of[part])
            end = declared.body[0] if declared.body[0] > declared.place.start else declared.place.end
            return " ".join(text[declared.place.start : end].decode("utf-8", "replace").split()).rstrip("{:= ")
    return ""
