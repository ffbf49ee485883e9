"""What classes are handed later than they could be: by a container that fills members in, by setters, by open members."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator

from isodesm.codebase.hosts import host_base
from isodesm.diagnosis.shared.findings import Finding
from isodesm.diagnosis.shared.reporting import Report, Words
from isodesm.diagnosis.shared.views import is_view
from isodesm.facts import typetext
from isodesm.facts.records import Member
from isodesm.inference.evidence import DATA, is_field
from isodesm.inference.injection import Injection
from isodesm.linking.symbols import simple_name

FIXED = frozenset(("final", "readonly", "const", "required", "abstract", "override", "virtual"))
NAMED = 3
MANY = 6
"""Classes that are filled in later from which that may be the habit of a tree."""
OBSERVERS = ("Listener", "Observer", "Callback", "Handler", "Delegate")
"""Ends of the names of what is told of events, and need not be there."""
SETTERS = ("set", "inject", "Set", "Inject")
"""Beginnings of the names of members that hand something in after construction."""


def late_dependencies(report: Report) -> Iterator[Finding]:
    """`late-dependency`: one finding for each class that is handed services through members though a constructor could take
    them; one for all marked members of the tree where that is how nearly all classes are handed theirs."""
    late = {
        number: found
        for number, declared in enumerate(report.symbols.types)
        if declared.kind in ("class", "record", "struct") and report.is_production(number) and (found := _late(report, number))
    }
    habit = _habit(report, late)
    for number, found in late.items():
        if number not in habit:
            yield _late_in_class(report, number, found)
    if habit:
        yield _late_everywhere(report, {number: late[number] for number in habit})


def _habit(report: Report, late: dict[int, list[Injection]]) -> list[int]:
    """Classes that are filled in later because all are: then it is one decision, about how the container is used."""
    injections = report.codebase.wiring.injections
    marked = [number for number, found in late.items() if any(each.parameter < 0 for each in found)]
    early = sum(
        1
        for number in report.codebase.wiring.managed
        if any(injections.is_service(each.target) for each in injections.of_constructor(number))
    )
    return marked if len(marked) >= MANY and len(marked) >= 2 * early else []


def _late_in_class(report: Report, number: int, late: list[Injection]) -> Finding:
    name = report.name(number)
    more = f" and {len(late) - NAMED} more" if len(late) > NAMED else ""
    shown = ", ".join(f"`{each.name}`" for each in late[:NAMED]) + more
    return report.finding(
        "late-dependency",
        "note",
        number,
        report.at_injection(late[0]),
        Words(
            f"`{name}` gets {shown} only after it is made.",
            f"Whoever makes one without filling {'it' if len(late) == 1 else 'them'} in finds out at the first use; the "
            f"{'field' if len(late) == 1 else 'fields'} can't be final, and no signature says what `{name}` needs.",
            _remedy(report, number, shown),
        ),
        member=report.symbols.types[number].members[late[0].member].name,
        target=late[0].target,
        why=[f"{len(late)}-late"],
        related=[report.at_injection(each).related("is filled in later, too") for each in late[1:]],
    )


def _remedy(report: Report, number: int, shown: str) -> str:
    """What to do about what arrives late; where a host makes the class, no constructor can take it."""
    if base := host_base(report.codebase, number):
        return (
            f"A host makes what extends `{simple_name(base)}`, without arguments: move the work into a class that takes "
            f"{shown} through its constructor, and let this one ask for that alone."
        )
    return f"Take {shown} through the constructor."


def _late_everywhere(report: Report, late: dict[int, list[Injection]]) -> Finding:
    first = next(iter(late))
    names = ", ".join(f"`{report.name(number)}`" for number in list(late)[:NAMED])
    return report.finding(
        "late-dependency",
        "note",
        first,
        report.at_injection(late[first][0]),
        Words(
            f"{len(late)} classes get what they need only after they are made: {names} and {len(late) - NAMED} more.",
            "Whoever makes one without filling the members in finds out at the first use; the fields can't be final, and no "
            "signature says what the classes need.",
            "Take new needs through the constructor, and move the old ones class by class as they are touched.",
        ),
        member=report.symbols.types[first].members[late[first][0].member].name,
        target=late[first][0].target,
        why=[f"{len(late)}-classes", f"{sum(map(len, late.values()))}-late"],
        related=[
            report.at_injection(found[0]).related(f"`{report.name(number)}` is filled in later, too")
            for number, found in list(late.items())[1:]
        ],
    )


def _late(report: Report, number: int) -> list[Injection]:
    """Needs that arrive through marked members, or through setters of services that nothing else fills."""
    injections = report.codebase.wiring.injections
    members = report.symbols.types[number].members
    marked = [
        each
        for each in injections.of_members(number)
        if not each.default and not each.early and not _may_be_missing(members[each.member])
    ]
    told = _told_later(report).get(number, frozenset())
    found = [each for each in _set_later(report, number) if injections.is_service(each.target) or _named(report, each) in told]
    return marked or [*found, *_left_open(report, number)]


def _named(report: Report, each: Injection) -> str:
    """What a definition file calls a setter: by its own name, or by that of what it sets."""
    return _bare_setter(report.symbols.types[each.owner].members[each.member].name)


def _told_later(report: Report) -> dict[int, frozenset[str]]:
    """Class to what definition files hand it after construction."""
    numbers = {name: number for number, name in enumerate(report.symbols.names)}
    found: dict[int, set[str]] = defaultdict(set)
    for each in report.codebase.definitions:
        number = numbers.get((each.type or each.id).lstrip("\\"), -1)
        if number >= 0:
            found[number] |= {_bare_setter(call.name) for call in each.calls if call.service}
    return {number: frozenset(names) for number, names in found.items() if names}


def _left_open(report: Report, number: int) -> Iterator[Injection]:
    """Services in members that everybody may set, that nothing in the class does, and that it works with."""
    declared, injections = report.symbols.types[number], report.codebase.wiring.injections
    if report.codebase.roles.name(number) in DATA or declared.kind != "class" or is_view(report, number):
        return
    text = report.codebase.text(report.symbols.file_of[number])
    for index, member in enumerate(declared.members):
        if not is_field(member) or not _is_open(member, text):
            continue
        name = re.escape(member.name.lstrip("$#"))
        body = text[slice(*declared.body)].decode("utf-8", "replace")
        own = body.replace(text[slice(*member.whole)].decode("utf-8", "replace"), " ", 1)
        if re.search(rf"(?<![\w$.])(?<!->){name}\s*=(?![=>])|(?:this|self)(?:\.|->){name}\s*=(?![=>])", own):
            continue
        if re.search(rf"(?<![\w]){name}\s*[!?]?(?:\.|->)\s*\w+\s*\(", own):
            found = injections.of_field(number, index)
            if injections.is_service(found.target) and not simple_name(found.text).endswith(OBSERVERS):
                yield found


def _is_open(member: Member, text: bytes) -> bool:
    """Whether everybody may give a member its value at any time, and it has none from the start."""
    words = member.modifiers.words
    if member.is_static or member.modifiers.annotations or "public" not in words or FIXED.intersection(words):
        return False
    if member.value.strip() not in ("", "null", "null!"):
        return False
    head = text[slice(*member.whole)].decode("utf-8", "replace")
    return "{" not in head or re.search(r"(?<!private )(?<!protected )(?<!internal )\bset\b", head) is not None


def _may_be_missing(member: Member) -> bool:
    """Whether the mark itself says that nothing need be filled in."""
    return any("false" in mark.arguments or "optional" in mark.arguments.lower() for mark in member.modifiers.annotations)


def _set_later(report: Report, number: int) -> Iterator[Injection]:
    """What one-line setters put into fields that no constructor and no initialiser fills."""
    declared, injections = report.symbols.types[number], report.codebase.wiring.injections
    taken = {_kind(p.type) for m in declared.members if m.kind == "constructor" for p in m.parameters}
    built = " ".join(_bodies(report, number))
    fields = {_bare(m.name): m for m in declared.members if m.kind == "field" and not m.is_static}
    for index, member in enumerate(declared.members):
        if not _is_setter(member) or member.is_static or "override" in member.modifiers.words:
            continue
        field = fields.get(_bare_setter(member.name))
        given = member.parameters[0]
        if field is None or field.value.strip() not in ("", "null") or not given.type or _kind(given.type) != _kind(field.type):
            continue
        told = _kind(given.type).endswith(OBSERVERS)  # who wants to be told may come at any time
        if _kind(given.type) not in taken and not told and member.name not in built and field.name not in built:
            yield next(iter(injections.of_method(number, index)))


def _bodies(report: Report, number: int) -> Iterator[str]:
    """The texts of a class's constructors."""
    for index, member in enumerate(report.symbols.types[number].members):
        if member.kind == "constructor":
            part, _ = report.symbols.origin(number, index)
            yield report.codebase.text(report.symbols.file_of[part])[slice(*member.body)].decode("utf-8", "replace")


def _is_setter(member: Member) -> bool:
    named = member.kind == "method" and member.name.startswith(SETTERS) and len(member.parameters) == 1
    return named and member.body != (0, 0) and member.statements <= 1 and not member.branches


def _kind(text: str) -> str:
    """The simple name of a type, whether or not it may be missing."""
    return simple_name(typetext.head(text.strip().removeprefix("?")))


def _bare_setter(name: str) -> str:
    """What a setter sets, by its name."""
    return _bare(name[3:] if name[:3].lower() == "set" else name[6:] if name[:6].lower() == "inject" else name)


def _bare(name: str) -> str:
    return name.lstrip("_$#").removeprefix("m_").lower()
