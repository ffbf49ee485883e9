"""Members and classes that do two jobs at once."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterator

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.form.boundary_rules import rules_of
from isodesm.diagnosis.shared.findings import Finding
from isodesm.diagnosis.shared.reporting import At, Report, Words
from isodesm.diagnosis.shared.views import is_view
from isodesm.facts import noise
from isodesm.inference.effect_kinds import EFFECT_WORDS, SEVERE
from isodesm.inference.evidence import SHAPE

DECIDERS = frozenset(("service", "presentation", "algorithm", "entity", "gateway", "repository", "utility", "factory"))
"""Roles whose members may decide, so that an effect among many decisions is a second job."""
HIDDEN = SEVERE - {"gui", "sleep"}
"""Effects that have no place among decisions, or in a view."""
LEAST_STATEMENTS = 12
"""Statements below which a member is too small to be taken apart."""
PAINTING = ("paint", "draw", "render", "layout")
"""Beginnings of the names of members that put something on the screen, which takes what it takes."""
FEW = 3
"""Uses of files or processes from which a presentation class does that job itself."""
SHOWS = 3
LITERALS = "-literals"
"""What the grounds of tables of data end with."""
RULES = "-rules"
"""What the grounds of rules that could stand elsewhere end with."""
_LITERAL = re.compile(
    noise.any_of(noise.QUOTED, noise.SINGLE, r"(?<![\w.])\d++(?:\.\d++)?+(?![\w.])").encode(),
    re.DOTALL,
)


def mixed_responsibilities(report: Report) -> Iterator[Finding]:
    """`mixed-responsibility`: one finding for each member that decides a lot around a grave effect of its own."""
    codebase, limits = report.codebase, report.codebase.settings.limits
    for number in sorted(codebase.effects.used):
        if codebase.roles.name(number) not in DECIDERS or not report.is_production(number):
            continue
        by_member: dict[int, list] = defaultdict(list)
        for use in codebase.effects.used[number]:
            if use.effect in HIDDEN and not use.sort:
                by_member[codebase.bonds.source_member[use.row]].append(use)
        for index, uses in sorted(by_member.items()):
            member = report.symbols.types[number].members[index] if index >= 0 else None
            if (
                member is None
                or member.kind != "method"
                or member.branches < limits.decisions
                or member.statements < LEAST_STATEMENTS
            ):
                continue
            effects = tuple(dict.fromkeys(use.effect for use in uses))
            words = " and ".join(EFFECT_WORDS[each] for each in effects[:2])
            yield report.finding(
                "mixed-responsibility",
                "warning",
                number,
                report.at_member(number, index),
                Words(
                    f"`{report.name(number)}.{member.name}` decides {member.branches} times and reaches {words} in between.",
                    f"None of the decisions can be tested without {words} (`{uses[0].api}`).",
                    f"Fetch with `{uses[0].api}` first, decide in a member that takes what was fetched, and act on its result.",
                ),
                member=member.name,
                why=[
                    *(f"reaches-{each}" for each in effects),
                    f"{member.branches}-branches",
                    f"{member.statements}-statements",
                ],
                related=[report.at_row(uses[0].row).related(f"`{uses[0].api}` is called here")],
                row=uses[0].row,
            )


def oversized_boundaries(report: Report) -> Iterator[Finding]:
    """`oversized-boundary`: one finding for each presentation class that carries what belongs in a service, with all
    grounds."""
    codebase = report.codebase
    for number in range(len(report.symbols)):
        role = codebase.roles[number]
        if role.name != "presentation" or not report.is_production(number) or report.symbols.is_module(number):
            continue
        if is_view(report, number, itself=True):
            continue  # a toolkit's own parts
        shown = any(each.role == "presentation" and each.strength >= SHAPE for each in role.evidence)
        if not shown and codebase.layers.name(number) != "presentation":
            continue
        grounds = [*_effects(report, number), *_long_members(report, number), *_rules(report, number), *_data(report, number)]
        if not grounds:
            continue
        at = grounds[0][1]
        tags = [tag for tag, _, _ in grounds]
        yield report.finding(
            "oversized-boundary",
            "warning",
            number,
            at,
            Words(
                f"`{report.name(number)}` {'; it '.join(text for _, _, text in grounds[:SHOWS])}.",
                "That can be reached only through the screen or the request, so it is tested late or never, and can't be "
                "used elsewhere.",
                f"Move it into a service that `{report.name(number)}` is handed, and keep here what shows or answers.",
            ),
            why=tags,
            related=[each.related(f"it {text}") for _, each, text in grounds[1:]],
        )


Ground = tuple[str, At, str]
"""A tag, the place, and what the class does there."""


def _effects(report: Report, number: int) -> Iterator[Ground]:
    """Grave effects of its own, one for each effect: a query or a connection at once, files and processes when there are a
    few."""
    uses = [use for use in report.codebase.effects.used.get(number, ()) if use.effect in HIDDEN and not use.sort]
    counts = Counter(use.effect for use in uses)
    for effect, count in counts.items():
        if count >= FEW or effect in ("database", "network"):
            use = next(each for each in uses if each.effect == effect)
            yield f"reaches-{use.effect}", report.at_row(use.row), f"reaches {EFFECT_WORDS[use.effect]} itself (`{use.api}`)"


def _long_members(report: Report, number: int) -> Iterator[Ground]:
    """Members that are long and decide a lot; long ones that only put a view together are left alone."""
    limits = report.codebase.settings.limits
    for index, member in enumerate(report.symbols.types[number].members):
        painting = member.name.lower().startswith(PAINTING)
        if (
            member.kind == "method"
            and not painting
            and member.statements > limits.most_statements
            and member.branches >= 2 * limits.decisions
        ):
            yield (
                f"long-member-{member.statements}",
                report.at_member(number, index),
                (f"decides {member.branches} times in the {member.statements} statements of `{member.name}`"),
            )


def _rules(report: Report, number: int) -> Iterator[Ground]:
    """Members with decisions and calculations that use nothing of the request, but for those that are long anyway; views
    reckon with what they show."""
    if is_view(report, number):
        return
    limits = report.codebase.settings.limits
    for each in rules_of(report, number):
        member = report.symbols.types[number].members[each.member]
        if member.statements <= limits.most_statements or member.branches < 2 * limits.decisions:
            text = (
                f"decides {each.decisions} times and calculates in {each.calculations} statements of `{member.name}`, "
                "with nothing of the request"
            )
            yield f"{each.decisions + each.calculations}{RULES}", report.at_member(number, each.member), text


def _data(report: Report, number: int) -> Iterator[Ground]:
    """Fields whose initialisers are tables of data."""
    for index, count in literal_tables(report.codebase, number):
        name = report.symbols.types[number].members[index].name
        yield f"{count}{LITERALS}", report.at_member(number, index), f"keeps {count} literals in `{name}`"


def literal_tables(codebase: Codebase, number: int) -> Iterator[tuple[int, int]]:
    """The fields of a class that begin with a table of data: place among its members, and how many literals."""
    limit = codebase.settings.limits.most_literals
    text = codebase.text(codebase.symbols.file_of[number])
    for index, member in enumerate(codebase.symbols.types[number].members):
        if (
            member.kind != "field"
            or len(member.value) < 4 * limit
            or not member.value.lstrip().startswith(("[", "{", "new", "array", "(", "List", "Map"))
        ):
            continue
        count = (
            len(_LITERAL.findall(text, *member.whole))
            if member.whole != (0, 0)
            else len(_LITERAL.findall(member.value.encode()))
        )
        if count > limit:
            yield index, count
