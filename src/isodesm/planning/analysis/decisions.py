"""What a plan can take out of a class: each thing that it decides on the spot, with all the places where it does.

A *decision* is what a class makes, fetches or calls for itself; a *place* is one expression that does so.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Iterator

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.hard_bonds.states import States
from isodesm.diagnosis.shared.findings import Finding
from isodesm.facts.records import Member, Site
from isodesm.planning.analysis.api_substitutes import SHARED, shared_key, substitute_of
from isodesm.planning.model.decision import Decision, Place, Spot

MOST_FUNCTIONS = 3
"""Functions of one module, or global variables, that a class is handed one by one; of more it had better be handed one
object."""


def find_decisions(codebase: Codebase, findings: Iterable[Finding], states: States | None = None) -> list[Decision]:
    """The decisions behind hard findings, in order of place; seams (`note`) are none.

    What is decided inside a larger expression that is a decision itself goes with that. `states` knows all the places that
    use a state; without, only those that findings name are there.
    """
    grave = [finding for finding in findings if finding.level != "note"]
    places = [place for finding in grave if (place := place_of(codebase, finding, finding.row))]
    places += _further_uses(codebase, grave, states) if states is not None else ()
    grouped: dict[tuple[int, str, str | int, str], list[Place]] = defaultdict(list)
    outermost = _outermost(places)
    asked = {(each.finding.source_number, each.finding.target_number) for each in outermost if _asks_static(codebase, each)}
    for place in outermost:
        finding = place.finding
        if shared := shared_key(substitute_of(codebase, finding, place.site)):
            grouped[finding.source_number, SHARED, "", shared].append(place)
        elif (asking := _asks_for_host(codebase, place)) >= 0:
            grouped[finding.source_number, SHARED, asking, ""].append(place)
        elif (finding.source_number, finding.target_number) in asked and _is_asked_for(codebase, place):
            grouped[finding.source_number, "static-effect", finding.target_number, ""].append(place)
        else:
            grouped[finding.source_number, finding.kind, finding.target, _part(codebase, place)].append(place)
    found = []
    for (_, kind, asked_for, _), group in grouped.items():
        finding = group[0].finding
        target = asked_for if isinstance(asked_for, int) else _object_behind(codebase, finding)
        name = codebase.symbols.names[target] if target >= 0 else finding.target
        found.append(Decision(finding.source_number, target, kind, name, tuple(group)))
    return found


def _further_uses(codebase: Codebase, findings: Iterable[Finding], states: States) -> Iterator[Place]:
    """Places of states, of the tree or of the host, beside the one that a finding names: it speaks of all uses by its class."""
    said: dict[tuple[int, int, str], dict[int, Finding]] = defaultdict(dict)
    for each in findings:
        if each.kind == "ambient-state" and each.row >= 0:
            said[each.source_number, each.target_number, each.target if each.target_number < 0 else ""][each.row] = each
    for key in states.open if said else ():
        kept = (key[0], "") if key[0] >= 0 else (-1, key[1])
        named = {use.source: own[use.row] for use in states.uses[key] if use.row in (own := said.get((use.source, *kept), {}))}
        for use in states.uses[key]:
            own = said.get((use.source, *kept), {})
            if own and use.row not in own:
                finding = named.get(use.source) or next(iter(own.values()))
                own[use.row] = finding
                if place := place_of(codebase, finding, use.row):
                    yield place


def _asks_for_host(codebase: Codebase, place: Place) -> int:
    """The class of the tree whose static function a place calls for what a host fills in for everybody; -1 for any other."""
    if place.finding.kind != "ambient-state" or place.finding.target_number >= 0 or place.site.kind != "call":
        return -1
    return codebase.bonds.target[place.row]


def _asks_static(codebase: Codebase, place: Place) -> bool:
    """Whether a state of the tree is used through a function of its class."""
    return place.finding.kind == "ambient-state" and place.finding.target_number >= 0 and place.site.kind == "call"


def _is_asked_for(codebase: Codebase, place: Place) -> bool:
    """Whether a use goes with the calls of static functions: a plain state does, an object that is kept there stands alone."""
    return place.finding.kind == "static-effect" or (
        place.finding.kind == "ambient-state" and not holds_object(codebase, place)
    )


def holds_object(codebase: Codebase, place: Place) -> bool:
    """Whether the state that a place reads keeps an object of a class of the tree."""
    target = place.finding.target_number
    return (
        place.site.kind != "call" and codebase.effects.type_of_static(target, codebase.bonds.text_of("callee", place.row)) >= 0
    )


def parts_of(codebase: Codebase, decision: Decision) -> list[Decision]:
    """A decision parted where what can't be one dependency may be several: by the fields that its objects are kept in, by the
    functions of a module; [] where nothing parts it."""
    places: dict[str, list[Place]] = defaultdict(list)
    if decision.kind == "hard-wired-creation":
        for each in decision.places:
            places[each.field].append(each)
    elif decision.kind == SHARED and decision.target >= 0 and codebase.symbols.is_module(decision.target):
        for each in decision.places:
            places[codebase.bonds.text_of("callee", each.row)].append(each)
        if len(places) > MOST_FUNCTIONS:
            return []
    return [msgspec.structs.replace(decision, places=tuple(group)) for group in places.values()]


def _object_behind(codebase: Codebase, finding: Finding) -> int:
    """The type that is decided on: of a shared object its own, which may not be that of the class that hands it out; of what
    is looked up by a name the one that is known under it."""
    if finding.kind == "service-lookup" and (finding.target_number < 0 or finding.target_number in codebase.locators):
        named = _serving(codebase, key_of(codebase, finding.row))
        return named if named >= 0 else finding.target_number
    if finding.kind != "static-singleton" or finding.target_number < 0:
        return finding.target_number
    callee = codebase.bonds.text_of("callee", finding.row)
    held = codebase.effects.type_of_static(finding.target_number, callee)
    if held < 0 and not codebase.shared.is_accessor(finding.target_number, callee):
        held = codebase.effects.type_handed_out(finding.target_number, callee)
    return held if held >= 0 else finding.target_number


_KEY = re.compile(r"""\(?\s*(["'])([\w.\-:/\\\\ ]+)\1\s*(?:,|\)?\s*$)""")
"""A first argument that is one plain string."""


def key_of(codebase: Codebase, row: int) -> str:
    """The name by which something is looked up, where it is written out; '' where it is worked out."""
    index = codebase.bonds.site[row]
    found = _KEY.match(codebase.content(codebase.bonds.file[row]).sites[index].arguments) if index >= 0 else None
    return found[2] if found else ""


def _serving(codebase: Codebase, key: str) -> int:
    """The one class that production code has registered under a name; -1 where it is none, or one of several."""
    wiring = codebase.wiring
    services = [each for each in wiring.by_token.get(key, ()) if not wiring.is_of_test(each)] if key else []
    classes = {each.implementation for each in services}
    return classes.pop() if len(classes) == 1 else -1


TABLE = "$GLOBALS"
"""The table of all global variables."""
_ENTRY = re.compile(rb"""\$GLOBALS\s*\[\s*(["'])(\w+)\1\s*\]""")


def key_in_table(codebase: Codebase, place: Place) -> str:
    """The name of the global variable that a place takes out of the table of all; '' where it is worked out."""
    found = _ENTRY.match(codebase.text(place.file), place.span[0])
    return found[2].decode() if found else ""


def _part(codebase: Codebase, place: Place) -> str:
    """What tells decisions on one target apart: each member outside the tree, each state, each shared object, each name."""
    finding, callee = place.finding, codebase.bonds.text_of("callee", place.row)
    if finding.kind == "service-lookup":
        return key_of(codebase, place.row)
    if finding.kind == "static-effect" and finding.target_number < 0:
        return callee
    if finding.kind == "ambient-state" and finding.target == TABLE:
        return key_in_table(codebase, place)
    return callee if finding.kind in ("ambient-state", "static-singleton") else ""


def _outermost(places: list[Place]) -> list[Place]:
    """The places that stand in no other one, with the findings of those that do."""
    by_file: dict[int, list[Place]] = defaultdict(list)
    for place in places:
        by_file[place.file].append(place)
    found: dict[int, Place] = {}
    for group in by_file.values():
        kept: list[Place] = []
        for place in sorted(group, key=lambda each: (each.span[0], -each.span[1])):
            if kept and place.span[0] < kept[-1].span[1] and place.finding.source_number == kept[-1].finding.source_number:
                if _stays_around(kept[-1]) and place.row != kept[-1].row:
                    kept.append(place)
                elif place.row == place.finding.row and place.finding not in (kept[-1].finding, *kept[-1].nested):
                    kept[-1] = msgspec.structs.replace(kept[-1], nested=(*kept[-1].nested, place.finding))
            else:
                kept.append(place)
        found.update({place.row: place for place in kept})
    return [found.pop(place.row) for place in places if place.row in found]


def _stays_around(place: Place) -> bool:
    """Whether of a place only what is called goes, and its arguments stay."""
    return place.finding.kind == "static-effect" or (place.finding.kind == "ambient-state" and place.site.kind == "call")


def place_of(codebase: Codebase, finding: Finding, row: int) -> Place | None:
    """Where a use that a finding speaks of stands; None where it has no expression of its own."""
    bonds = codebase.bonds
    if row < 0 or bonds.site[row] < 0:
        return None
    file, index = bonds.file[row], bonds.source_member[row]
    sites = codebase.content(file).sites
    site = sites[bonds.site[row]]
    members = codebase.symbols.types[finding.source_number].members
    member = members[index] if index >= 0 else None
    field = member.name if member is not None and member.kind == "field" else ""
    if (
        not field
        and site.inside >= 0
        and sites[site.inside].kind == "assignment"
        and sites[site.inside].receiver == bonds.site[row]
    ):
        text = sites[site.inside].text
        hidden = member is not None and any(each.name == text for each in member.parameters)
        hidden = hidden or any(each.start <= site.place.start < each.end for each in codebase.locals_named(file).get(text, ()))
        field = (
            ""
            if hidden
            else text.removeprefix(f"{codebase.symbols.dialect(finding.source_number).self_word}.")
            .removeprefix("self.")
            .removeprefix("$this.")
        )
    own = _own_part(codebase, file, site, bonds.text_of("callee", row))
    kept = "" if own.place != site.place else field.removeprefix("this.")  # what a longer chain gives is another object
    return Place(finding=finding, site=own, file=file, member=member, field=kept, row=row)


def spot_of(codebase: Codebase, row: int) -> Spot | None:
    """Where a bond stands in code; None where it has no expression of its own."""
    bonds = codebase.bonds
    if bonds.site[row] < 0:
        return None
    index, file = bonds.source_member[row], bonds.file[row]
    member = codebase.symbols.types[bonds.source[row]].members[index] if index >= 0 else None
    return Spot(site=codebase.content(file).sites[bonds.site[row]], file=file, member=member, row=row)


def _own_part(codebase: Codebase, file: int, site: Site, callee: str) -> Site:
    """A site that reads a longer chain, cut behind what is decided on: `Desk.main.lamp` decides on `Desk.main`, and the rest
    goes on as it was."""
    if site.kind not in ("access", "reference", "name") or not callee:
        return site
    text = codebase.text(file)[site.place.start : site.place.end]
    found = re.search(rb"(?:\.|->|::)\s*\$?" + re.escape(callee.lstrip("$").encode()) + rb"(?!\w)", text)
    if found is None or not text[found.end() :].strip():
        return site
    place = site.place
    return msgspec.structs.replace(site, place=type(place)(place.start, place.start + found.end(), place.line, place.column))


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
