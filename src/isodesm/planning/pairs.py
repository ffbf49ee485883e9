"""Which hard bonds a plan can loosen: pairs of a class and what it creates, with how the creation stands in the class."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import msgspec

from isodesm.codebase.bonds import RUNTIME
from isodesm.codebase.model import Codebase
from isodesm.diagnosis.findings import Finding
from isodesm.facts.records import Member, Site
from isodesm.planning.steps import LeftOver

NEEDED = {
    "static-singleton": "needs `replace-singleton`: the accessor has to go together with its last user",
    "static-effect": "needs `wrap-static`: an object of your own around the static function",
    "service-lookup": "needs `replace-lookup`: the composition root looks it up and hands it in",
}
"""What the other kinds of hard bond wait for."""


class Place(msgspec.Struct, frozen=True):
    """One creation of a pair: its finding, site and the member it stands in; `field` is what it is assigned to ('' for none)."""

    finding: Finding
    site: Site
    member: Member
    field: str


class Pair(msgspec.Struct, frozen=True):
    """A class (`source`) that creates another (`target`), both by number, and every place where it does."""

    source: int
    target: int
    places: tuple[Place, ...]


def find_pairs(codebase: Codebase, findings: Sequence[Finding]) -> tuple[list[Pair], list[LeftOver]]:
    """Pairs that constructor injection can loosen, and what has to be left, both in order of place."""
    grouped: dict[tuple[int, str, str], list[Finding]] = defaultdict(list)
    for finding in findings:
        if finding.level != "note":
            grouped[finding.source_number, finding.target, finding.kind].append(finding)
    pairs, left = [], []
    for group in grouped.values():
        places = [place for finding in group if (place := _place(codebase, finding))]
        reason = _obstacle(codebase, group, places)
        if reason:
            first = group[0]
            left.append(LeftOver(
                source=first.source, target=first.target, kind=first.kind, count=len(group), file=first.file,
                line=first.line, reason=reason,
            ))  # fmt: skip
        else:
            pairs.append(Pair(group[0].source_number, group[0].target_number, tuple(places)))
    return pairs, left


def _place(codebase: Codebase, finding: Finding) -> Place | None:
    """The creation behind a finding; None in the head of a class."""
    row = finding.row
    index = codebase.bonds.source_member[row]
    if index < 0:
        return None
    file = codebase.bonds.file[row]
    sites = codebase.content(file).sites
    site = sites[codebase.bonds.site[row]]
    member = codebase.symbols.types[finding.source_number].members[index]
    field = member.name if member.kind == "field" else ""
    if site.inside >= 0 and sites[site.inside].kind == "assignment" and sites[site.inside].receiver == codebase.bonds.site[row]:
        field = sites[site.inside].text.removeprefix("this.")
    return Place(finding, site, member, field)


def _obstacle(codebase: Codebase, group: list[Finding], places: list[Place]) -> str:
    """Why constructor injection can't loosen these bonds; '' where it can."""
    first = group[0]
    if first.kind != "hard-wired-creation":
        return NEEDED.get(first.kind, "has no technique yet")
    if first.target_number < 0:
        return "needs `wrap-static`: a class of your own around the library's"
    source, target = codebase.symbols.types[first.source_number], codebase.symbols.types[first.target_number]
    if len(places) < len(group) or any(place.member.is_static or place.member.kind in ("static", "constant") for place in places):
        return "is created in static code, which no constructor reaches"
    if source.kind != "class":
        return f"the source is an {source.kind}, which takes no dependencies"
    if codebase.symbols.types[first.source_number].outer_member >= 0:
        return "the source is a class local to a method"
    if any("this" in _words(place.site.arguments) for place in places):
        return "needs `break-cycle`: the two hold each other"
    if reason := _bound_to_owner(codebase, first.source_number, first.target_number):
        return reason
    if any(place.member.kind == "method" and codebase.bonds.flags[place.finding.row] & RUNTIME for place in places):
        return "needs `introduce-factory`: its arguments are known only where it is created"
    if not all(_can_move_out(codebase, first.source_number, place) for place in places):
        return "needs `introduce-factory`: what it is made from, or whether, is worked out inside the class"
    if any(place.member.kind == "method" for place in places) and _has_changing_state(target.members):
        return "needs `introduce-factory`: it has state of its own, so that sharing one object would change behaviour"
    if any(m.kind == "constructor" and m.throws for m in target.members):
        return "needs `introduce-factory`: making it can fail, and that is handled where it is made"
    own = [m for m in source.members if m.kind == "constructor"]
    if len([m for m in own if not delegates(codebase, first.source_number, m)]) > 1:
        return "several constructors set the fields, each in its own way: let them call one first"
    return ""


def _bound_to_owner(codebase: Codebase, source: int, target: int) -> str:
    """Why nobody but its owner can make a target; '' where others can."""
    declared = codebase.symbols.types[target]
    if declared.outer < 0:
        return ""
    if "private" in declared.modifiers.words:
        return "is private to the class around it: move it out first"
    bound = declared.kind == "class" and "static" not in declared.modifiers.words
    outer = codebase.symbols.types[codebase.symbols.outer(target)]
    return "is an inner class, bound to the object around it: make it static first" if bound and outer.kind == "class" else ""


def _can_move_out(codebase: Codebase, source: int, place: Place) -> bool:
    """Whether callers can make the same object: from constants, or from what they pass to the constructor anyway.

    In a constructor it must also be kept in a field, and not depend on a decision.
    """
    members = codebase.symbols.types[source].members
    if any(mark in place.site.arguments for mark in ("->", "::", "{")):
        return False
    file, at = codebase.bonds.file[place.finding.row], place.site.place.start
    hidden = {m.name for m in members if m.kind in ("field", "component", "method")}
    hidden |= {local.name for local in codebase.content(file).locals if local.start <= at < local.end}
    if place.member.kind == "constructor":
        hidden -= {each.name for each in place.member.parameters}
        fields = {m.name for m in members if m.kind == "field" and not m.is_static}
        if place.field not in fields or place.member.branches:
            return False
    return not hidden.intersection(_words(place.site.arguments))


def _words(text: str) -> list[str]:
    return text.replace(",", " ").replace("(", " ").replace(")", " ").replace(".", " ").split()


def _has_changing_state(members: tuple[Member, ...]) -> bool:
    return any(m.kind == "field" and not m.is_static and "final" not in m.modifiers.words for m in members)


def delegates(codebase: Codebase, number: int, constructor: Member) -> bool:
    """Whether a constructor hands over to another one of its class."""
    symbols = codebase.symbols
    file = symbols.file_of[number]
    index = symbols.types[number].members.index(constructor)
    local = number - symbols.first[file]
    self_word = symbols.dialect(number).self_word
    return any(
        site.kind == "delegation" and site.text == self_word and site.type == local and site.member == index
        for site in codebase.content(file).sites
    )
