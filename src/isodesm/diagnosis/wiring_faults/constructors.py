"""What constructors take: too much, nothing that says what it is, or what is never used."""

from __future__ import annotations

import re
from collections.abc import Iterator

from isodesm.diagnosis.shared.findings import Finding
from isodesm.diagnosis.shared.reporting import Report, Words
from isodesm.inference.evidence import SERVICE_LIKE
from isodesm.inference.injection import Injection


def _service_classes(report: Report) -> Iterator[int]:
    roles = report.codebase.roles
    return (
        number for number in range(len(report.symbols)) if roles.name(number) in SERVICE_LIKE and report.is_production(number)
    )


def too_many_dependencies(report: Report) -> Iterator[Finding]:
    """`too-many-dependencies`: services whose constructor takes more services than the limit."""
    injections, limit = report.codebase.wiring.injections, report.codebase.settings.limits.most_dependencies
    for number in _service_classes(report):
        wanted = [
            each for each in injections.of_constructor(number) if each.owner == number and injections.is_service(each.target)
        ]
        if len(wanted) <= limit:
            continue
        shown = ", ".join(f"`{each.name}`" for each in wanted[:4])
        yield report.finding(
            "too-many-dependencies",
            "warning",
            number,
            report.at_member(number, wanted[0].member),
            Words(
                f"The constructor of `{report.name(number)}` takes {len(wanted)} services, more than {limit}.",
                f"{shown} and {len(wanted) - 4} more: a class that needs so many does several jobs, and each test has to "
                f"set all of them up."
                if len(wanted) > 4
                else f"{shown}: more than the settings allow.",
                "Find the members that use the same few of them, and move each such group into a class of its own.",
            ),
            why=[f"{len(wanted)}-dependencies"],
        )


def untyped_injection_points(report: Report) -> Iterator[Finding]:
    """`untyped-injection-point`: classes that a container makes, with a parameter that has no type to inject by."""
    wiring = report.codebase.wiring
    given = {each.type for each in wiring.definitions if each.arguments}
    made_here = {
        service.implementation for service in wiring.services if service.registration.factory or service.registration.arguments
    }
    for number in sorted(wiring.managed | wiring.autowired.keys() | _handed_by_scope(report)):
        if not report.is_production(number) or number in made_here or report.symbols.names[number] in given:
            continue
        for each in wiring.injections.of_constructor(number):
            if each.owner != number or not each.is_untyped or each.default or _is_named(report, each):
                continue
            said = f"typed `{each.text}`" if each.text else "without a type"
            yield report.finding(
                "untyped-injection-point",
                "warning",
                number,
                report.at_injection(each),
                Words(
                    f"`{report.name(number)}` takes `{each.name}` {said}.",
                    "No container can tell what to hand in, and no reader what may be called on it; it fails at run time, "
                    "if at all.",
                    f"Give `{each.name}` the interface of what is called on it, or a key that a registration names.",
                ),
                member="<init>",
                target_name=each.name,
                key=each.name,
            )


def _handed_by_scope(report: Report) -> frozenset[int]:
    """Classes whose own annotation lists what they are handed."""
    return frozenset(
        number for scope in report.codebase.wiring.scopes if (number := report.codebase.wiring.type_named(scope)) >= 0
    )


def _is_named(report: Report, injection: Injection) -> bool:
    """Whether an annotation on the parameter says what is wanted, or a registration what is handed in for it."""
    if report.codebase.wiring.answer(injection).services:
        return True
    member = report.symbols.types[injection.owner].members[injection.member]
    return bool(member.parameters[injection.parameter].modifiers.annotations)


def unused_dependencies(report: Report) -> Iterator[Finding]:
    """`unused-dependency`: a service that a constructor takes and that no code of the class speaks of again."""
    injections = report.codebase.wiring.injections
    for number in _service_classes(report):
        declared = report.symbols.types[number]
        if number in report.symbols.parts or declared.kind not in ("class", "record"):
            continue
        for each in injections.of_constructor(number):
            if each.owner == number and injections.is_service(each.target) and not each.default and _is_unused(report, each):
                yield report.finding(
                    "unused-dependency",
                    "warning",
                    number,
                    report.at_injection(each),
                    Words(
                        f"`{report.name(number)}` takes `{each.name}` and never uses it.",
                        f"Whoever makes a `{report.name(number)}` has to provide a `{report.name(each.target)}` for "
                        f"nothing, in each test as well.",
                        f"Take `{each.name}` out of the constructor, and out of the places that pass it.",
                    ),
                    member="<init>",
                    target=each.target,
                    key=each.name,
                )


def _is_unused(report: Report, injection: Injection) -> bool:
    """Whether neither the parameter nor the private field that keeps it occurs again in the text of the class."""
    declared = report.symbols.types[injection.owner]
    member = declared.members[injection.member]
    text = report.codebase.text(report.symbols.file_of[injection.owner])
    start, end = declared.body if declared.body != (0, 0) else (declared.place.start, declared.place.end)
    name = injection.name.lstrip("$")
    if not name.isidentifier() or name.startswith("__") or member.body == (0, 0):
        return False
    words = len(re.findall(rb"(?<!\w)" + re.escape(name.encode()) + rb"(?!\w)", text[start:end]))
    promoted = _keeps_itself(report, injection)
    if promoted is not None:
        return promoted and words == 1
    body = text[slice(*member.body)].decode("utf-8", "replace")
    uses = re.findall(rf"(?<!\w)\$?{re.escape(name)}(?!\w)", body)
    kept = re.search(rf"(?:this\s*(?:\.|->)|self\.)?\s*([\w$]+)\s*=\s*\$?{re.escape(name)}\s*(?:;|\n|$|\?\?\s*throw)", body)
    if not uses:
        head = text[member.place.start : member.body[0]].decode("utf-8", "replace")
        return len(re.findall(rf"(?<!\w)\$?{re.escape(name)}(?!\w)", head)) == 1 and _is_final(report, injection.owner)
    if kept is None or not _is_hidden(report, injection.owner, kept.group(1)):
        return False
    field = kept.group(1)
    inside = len(re.findall(rf"(?<!\w){re.escape(field)}(?!\w)", text[start:end].decode("utf-8", "replace")))
    fields = [each for each in declared.members if each.name == field and each.kind == "field"]
    written = (
        1 if fields and not (member.body[0] <= fields[0].place.start < member.body[1]) else 0
    )  # its declaration, where it has one
    if field == name:
        return inside == written + 1 + len(uses)  # the parameter itself, and the assignment from it
    return len(uses) == 1 and inside == written + 1


def _keeps_itself(report: Report, injection: Injection) -> bool | None:
    """Whether the parameter declares a field, and nobody else can see that; None where it declares none."""
    declared = report.symbols.types[injection.owner]
    head = declared.members[injection.member].whole
    for member in declared.members:
        if member.kind in ("field", "component") and member.name == injection.name and head[0] <= member.whole[0] < head[1]:
            return member.is_private
    return None


def _is_hidden(report: Report, number: int, field: str) -> bool:
    """Whether a field is private, by a word or by the sign that the language has for it."""
    found = report.symbols.members(number).get(field, ())
    return field.startswith("_") or any(each.is_private or field.startswith("#") for _, each in found)


def _is_final(report: Report, number: int) -> bool:
    """Whether no class of the tree builds on this one, so that nobody demands the signature."""
    return not report.codebase.roles.implementers.get(number) and len(report.codebase.roles.ancestors(number)) == 1
