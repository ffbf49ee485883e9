"""What classes are handed later than they could be, and what a container can't decide on."""

from __future__ import annotations

from collections.abc import Iterator

from isodesm.codebase.hosts import host_base
from isodesm.diagnosis.shared.findings import Finding
from isodesm.diagnosis.shared.reporting import Report, Words
from isodesm.facts.records import Member
from isodesm.inference.injection import Injection
from isodesm.inference.resolution import How
from isodesm.linking.symbols import simple_name

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
    return marked or [each for each in _set_later(report, number) if injections.is_service(each.target)]


def _may_be_missing(member: Member) -> bool:
    """Whether the mark itself says that nothing need be filled in."""
    return any("false" in mark.arguments or "optional" in mark.arguments.lower() for mark in member.modifiers.annotations)


def _set_later(report: Report, number: int) -> Iterator[Injection]:
    """What one-line setters put into fields that no constructor and no initialiser fills."""
    declared, injections = report.symbols.types[number], report.codebase.wiring.injections
    taken = {simple_name(p.type) for m in declared.members if m.kind == "constructor" for p in m.parameters}
    built = " ".join(_bodies(report, number))
    fields = {_bare(m.name): m for m in declared.members if m.kind == "field" and not m.is_static}
    for index, member in enumerate(declared.members):
        if not _is_setter(member) or member.is_static or "override" in member.modifiers.words:
            continue
        field = fields.get(_bare(member.name[3:] if member.name[:3].lower() == "set" else member.name[6:]))
        given = member.parameters[0]
        if field is None or field.value or not given.type or simple_name(given.type) != simple_name(field.type):
            continue
        told = simple_name(given.type).endswith(OBSERVERS)  # who wants to be told may come at any time
        if simple_name(given.type) not in taken and not told and member.name not in built and field.name not in built:
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


def _bare(name: str) -> str:
    return name.lstrip("_$#").removeprefix("m_").lower()


def ambiguous_implementations(report: Report) -> Iterator[Finding]:
    """`ambiguous-implementation`: an abstraction that a managed class is handed, several managed classes serve, and nothing
    decides."""
    wiring = report.codebase.wiring
    for number in sorted(wiring.managed | wiring.hosted):
        own = wiring.by_implementation.get(number, ())
        if not report.is_production(number) or (own and all(each.registration.factory for each in own)):
            continue
        for each in wiring.handed_to(number):
            answer = wiring.answer(each)
            if answer.how != How.AMBIGUOUS or each.default:
                continue
            wanted, name = report.name(each.target), report.name(number)
            names = ", ".join(f"`{report.name(rival)}`" for rival in answer.candidates[:NAMED])
            yield report.finding(
                "ambiguous-implementation",
                "error",
                number,
                report.at_injection(each),
                Words(
                    f"`{name}` asks for `{wanted}`, which {len(answer.candidates)} managed classes serve: {names}.",
                    f"Nothing says which one is meant, so the container refuses to make `{name}`, or takes one by chance.",
                    "Mark one of them as the usual one, or name the one that is meant where it is asked for.",
                ),
                member="<init>",
                target=each.target,
                key=each.name,
                why=[f"{len(answer.candidates)}-implementations"],
                related=[
                    report.at_registration(service.registration).related("serves it")
                    for rival in answer.candidates
                    for service in wiring.by_implementation[rival][:1]
                ],
            )
