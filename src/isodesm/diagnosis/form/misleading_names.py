"""Names that promise another role than the class has."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator

from isodesm.diagnosis.shared.findings import Finding
from isodesm.diagnosis.shared.reporting import Report, Words
from isodesm.inference.evidence import NAME, SHAPE

PROMISES = {
    "Controller": "presentation",
    "Servlet": "presentation",
    "Repository": "repository",
    "Dao": "repository",
    "DAO": "repository",
    "Service": "service",
    "Exception": "exception",
    "Dto": "value",
    "DTO": "value",
    "Utils": "utility",
    "Util": "utility",
}
"""Suffixes that mean one role everywhere, and which."""
KEPT_BY = {
    "presentation": frozenset(("presentation", "composition-root", "factory", "test")),
    "repository": frozenset(("repository", "gateway", "service", "abstraction", "factory", "test", "composition-root")),
    "service": frozenset(
        ("service", "gateway", "repository", "presentation", "factory", "utility", "algorithm", "composition-root", "test")
    ),
    "exception": frozenset(("exception", "test")),
    "value": frozenset(("value", "entity", "test", "presentation")),
    "utility": frozenset(("utility", "algorithm", "factory", "value", "test", "composition-root")),
}
"""What a class may be that makes a promise: the role itself and those that only refine it."""
ASKED = frozenset(("request", "req", "res", "response", "frame", "ctx", "context", "event", "input", "args", "argv"))
"""Names of parameters of members that answer requests."""
LEAST_ALIKE = 3
"""Classes of a folder with the same suffix from which that suffix is the folder's own habit."""


def misleading_names(report: Report) -> Iterator[Finding]:
    """`misleading-name`: a suffix that means one role everywhere, on a class that plainly has another."""
    habits = _habits(report)
    for number, declared in enumerate(report.symbols.types):
        suffix = next((each for each in PROMISES if declared.name.endswith(each) and declared.name != each), "")
        if (
            not suffix
            or declared.kind not in ("class", "record", "struct")
            or declared.is_abstract
            or not report.is_production(number)
        ):
            continue
        role, promised = report.codebase.roles[number], PROMISES[suffix]
        actual, reason = _actual(report, number, promised)
        if not actual or actual in KEPT_BY[promised] or habits[_folder(report, number), suffix] >= LEAST_ALIKE:
            continue
        name = declared.name
        yield report.finding(
            "misleading-name",
            "note",
            number,
            report.at_type(number),
            Words(
                f"`{name}` is named as a {promised}, but is a {actual}: {reason}.",
                f"Whoever looks for a {promised} opens this first, and whoever looks for a {actual} does not find it.",
                f"Rename it after what it does, or move what makes it a {actual} elsewhere.",
            ),
            why=[f"named-{promised}", f"is-{role.name or actual}"],
        )


def _actual(report: Report, number: int, promised: str) -> tuple[str, str]:
    """The role that evidence stronger than a name gives, and that evidence; for a boundary name, also that nothing supports
    it."""
    role = report.codebase.roles[number]
    if promised == "presentation" and any(each.role == "presentation" and each.strength > NAME for each in role.evidence):
        return "presentation", ""
    strong = [each for each in role.evidence if each.strength > SHAPE or (each.role == "utility" and each.strength == SHAPE)]
    if strong and role.name != promised and strong[0].role not in ("presentation", "exception"):
        return strong[0].role, strong[0].reason
    layer = report.codebase.layers.name(number)
    asked = any(
        parameter.name.lower().lstrip("$_") in ASKED
        for member in report.symbols.types[number].members
        for parameter in member.parameters
    )
    if (
        report.symbols.types[number].name.endswith("Controller")
        and not asked
        and layer in ("application", "domain", "infrastructure")
    ):
        weak = next((each for each in role.evidence if each.strength > NAME), None)
        found = weak.role if weak else "service"
        return found, f"{report.codebase.layers.evidence[number]}, and nothing in it answers requests"
    return "", ""


def _folder(report: Report, number: int) -> str:
    return report.symbols.path(number).rpartition("/")[0]


def _habits(report: Report) -> Counter[tuple[str, str]]:
    """(folder, suffix) to how many classes there have it."""
    found: dict[tuple[str, str], set[int]] = defaultdict(set)
    for number, declared in enumerate(report.symbols.types):
        for suffix in PROMISES:
            if declared.name.endswith(suffix):
                found[_folder(report, number), suffix].add(number)
    return Counter({key: len(numbers) for key, numbers in found.items()})
