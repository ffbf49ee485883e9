"""Rules that a boundary class keeps to itself: decisions and calculations that use nothing of the request, so that they could
stand anywhere."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import NamedTuple

from isodesm.diagnosis.shared.reporting import Report
from isodesm.facts import noise, typetext
from isodesm.facts.decisions import Part, parts_of
from isodesm.facts.records import Member
from isodesm.inference.effect_kinds import SEVERE
from isodesm.inference.evidence import SERVICE_LIKE
from isodesm.linking.bonds import KIND_NUMBER
from isodesm.linking.symbols import simple_name

ASKED = frozenset(("request", "req", "res", "resp", "response", "ctx", "context", "httpcontext"))
"""Names by which code calls what came from outside and what goes back, whatever their types."""
LEAST_DECISIONS, LEAST_CALCULATIONS, LEAST = 2, 2, 5
"""Decisions and calculations that could stand elsewhere, each and together, from which they are rules."""
_CALCULATES = re.compile(
    r"(?<![\w.$])(?:[1-9]\d+(?:\.\d+)?|\d\.\d+)(?![\w.])|[\w)\]] ?[*/%] ?[\w($]|[\w)\]] [-+] [\w($]|[-+*/]= ?[1-9]"
)
"""Numbers that mean something, and arithmetic; counting on by one is none."""
_COMPARES = re.compile(r"[<>]=?(?![>=])|[!=]==?(?!=)|(?<![\w$])(?:in|instanceof|is not)(?![\w$])|%")
_GUARDS = re.compile(r"""[!=]==? ?(?:null|undefined|None|false|true|''|""|0|-1)(?![\w.])|is (?:not )?None|->|=>""")
"""What is asked of any input before it is used: whether it is there."""
_NOISE = re.compile(
    noise.any_of(noise.QUOTED, noise.SINGLE, noise.BACKTICKED, noise.BLOCK, noise.SLASHES, noise.HASH), re.DOTALL
)
_WORD = re.compile(r"[$A-Za-z_][\w$]*")


class Rules(NamedTuple):
    """What of a member could stand elsewhere: how many decisions and calculations."""

    member: int
    decisions: int
    calculations: int


def rules_of(report: Report, number: int) -> Iterator[Rules]:
    """The members of a class that keep rules, in order."""
    file = report.symbols.file_of[number]
    facts, text = report.symbols.files[file], report.codebase.text(file)
    for index, member in enumerate(report.symbols.types[number].members):
        if member.kind != "method" or member.branches < LEAST_DECISIONS or member.body == (0, 0):
            continue
        bound = Bound(report, number, index, member)
        decisions = calculations = 0
        for part in parts_of(facts.language, facts.path, text, *member.body):
            said = plain(text[part.start : part.end])
            if not bound.holds(part, said):
                decisions += is_decision(part, said)
                calculations += is_calculation(part, said)
        if decisions >= LEAST_DECISIONS and calculations >= LEAST_CALCULATIONS and decisions + calculations >= LEAST:
            yield Rules(index, decisions, calculations)


def plain(text: bytes) -> str:
    """Code without comments and strings."""
    return _NOISE.sub(" ", text.decode("utf-8", "replace"))


def is_decision(part: Part, said: str) -> bool:
    """Whether a part compares something, beyond asking whether it is there."""
    return part.kind == "branch" and _COMPARES.search(_GUARDS.sub(" ", said)) is not None


def is_calculation(part: Part, said: str) -> bool:
    """Whether a part is a statement that reckons, or gives something a number that means something."""
    return part.kind == "statement" and _CALCULATES.search(said) is not None


class Bound:
    """What ties a part of a member to its place: what belongs to the transport, those who work for the class, effects (the
    grave ones, or any)."""

    def __init__(self, report: Report, number: int, index: int, member: Member, *, any_effect: bool = False) -> None:
        codebase, symbols = report.codebase, report.symbols
        language = symbols.files[symbols.file_of[number]].language
        table, externals = codebase.bonds, codebase.bonds.externals.strings
        self.words: set[str] = set()
        self.places: list[tuple[int, int]] = []
        rows = [row for row in table.rows_of_source(number) if table.source_member[row] == index]
        used = (use for use in codebase.effects.used.get(number, ()) if not use.sort)
        effects = {use.row for use in used if any_effect or use.effect in SEVERE}
        working = {KIND_NUMBER[kind] for kind in ("call", "creation", "static-call", "lookup")}
        for row in rows:
            target, kind = table.target[row], table.kind[row]
            if target >= 0:
                serves = codebase.roles.name(target) in SERVICE_LIKE | {"abstraction"}
                if kind in working and serves:
                    self._mark(codebase.content(table.file[row]).sites, table.site[row])
            elif 0 <= -1 - target < len(externals):
                name = externals[-1 - target]
                if symbols.catalogues.is_boundary(name, language) or symbols.catalogues.is_view_part(name, language):
                    self.words.add(simple_name(name))
            if row in effects:
                self._mark(codebase.content(table.file[row]).sites, table.site[row])
        self.words |= {
            each.name.lstrip("$")
            for each in member.parameters
            if simple_name(typetext.head(each.type)) in self.words or each.name.lstrip("$").lower() in ASKED
        }

    def _mark(self, sites: tuple, site: int) -> None:
        if 0 <= site < len(sites):
            self.places.append((sites[site].place.start, sites[site].place.end))

    def holds(self, part: Part, said: str) -> bool:
        """Whether a part uses any of these."""
        return self.names_it(said) or self.lies_in(part.start, part.end)

    def names_it(self, said: str) -> bool:
        """Whether a text, without comments and strings, has a name of what belongs to the transport."""
        words = {word.lstrip("$") for word in _WORD.findall(said)}
        return bool(words & self.words) or any(word.lower() in ASKED for word in words)

    def lies_in(self, start: int, end: int) -> bool:
        """Whether between two places somebody is asked who works for the class, or something has an effect."""
        return any(start <= at < end for at, _ in self.places)
