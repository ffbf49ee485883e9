"""What is said of a class or member where it stands: in a hover, above its head, in a list of names."""

from __future__ import annotations

from collections import defaultdict
from typing import Any, NamedTuple

from isodesm.editor.places import Named, range_of
from isodesm.editor.seen import Seen, once
from isodesm.inference.use_graph import INSTANCE
from isodesm.linking.bonds import KIND_NUMBER
from isodesm.measures.dossier import counted
from isodesm.measures.makers import makers_of

MOST_SYMBOLS = 200
"""Names that one question for names is answered with."""
SHOWN = 5
_CREATION = KIND_NUMBER["creation"]


class Users(NamedTuple):
    """Who makes and who uses a class: places that make it, classes that use it, and tests that touch it."""

    made: int
    users: int
    tests: int


@once
def users(seen: Seen) -> dict[int, Users]:
    """Class to who makes and uses it."""
    codebase, table = seen.codebase, seen.codebase.bonds
    made: dict[int, int] = defaultdict(int)
    sources: dict[int, set[int]] = defaultdict(set)
    for kind, source, target in zip(table.kind, table.source, table.target, strict=True):
        if target < 0 or target == source or kind >= len(KIND_NUMBER):
            continue
        test = codebase.roles.name(source) == "test"
        made[target] += kind == _CREATION and not test
        sources[target].add(source)
    found = {}
    for target, using in sources.items():
        tests = sum(codebase.roles.name(each) == "test" for each in using)
        found[target] = Users(made[target], len(using) - tests, tests)
    return found


def hover(seen: Seen, named: Named) -> str:
    """What there is to know of a class or member, as Markdown."""
    codebase = seen.codebase
    symbols, number = codebase.symbols, named.number
    if named.member >= 0:
        return _of_member(seen, number, named.member)
    role, layer = codebase.roles[number], codebase.layers.name(number)
    why = f" ({role.evidence[0].reason})" if role.evidence else ""
    parts = [f"**{symbols.types[number].name}**: {role.name or 'class'}{why}" + (f", layer {layer}" if layer else "")]
    makers = makers_of(codebase, number)
    shown = "; ".join(f"{each.by} {each.what}" if each.by != "code" else each.what for each in makers[:SHOWN])
    more = f"; and {len(makers) - SHOWN} more" if len(makers) > SHOWN else ""
    parts.append(f"Made by: {shown}{more}" if makers else "Made by: nobody in this tree")
    using, effects = users(seen).get(number, Users(0, 0, 0)), codebase.effects
    parts.append(f"Used by {using.users} {'class' if using.users == 1 else 'classes'}, {counted(using.tests, 'test')}")
    parts += [_locked(each, effects.chain_of_type(number, each)) for each in effects.of_type(number)]
    if seen.is_judged and (strain := seen.strain.get(number)) is not None:
        bonds = f"hard bonds out {sum(strain.hard_out.values())}, in {strain.hard_in}"
        parts.append(f"Strain {strain.total:g}, of that {strain.own_total:g} its own; {bonds}")
    return "  \n".join(parts)


def _of_member(seen: Seen, number: int, member: int) -> str:
    codebase = seen.codebase
    declared = codebase.symbols.types[number]
    one = declared.members[member]
    node = (number, member if one.kind != "constructor" else INSTANCE)
    parts = [f"**{declared.name}.{one.name}**: {one.kind} of a {codebase.roles.name(number) or 'class'}"]
    found = codebase.effects.of_node(node)
    parts += [_locked(each, codebase.effects.chain(node, each)) for each in found]
    if not found:
        parts.append("Locked in: nothing that a test could not keep out is known")
    return "  \n".join(parts)


def _locked(effect: str, chain: tuple[str, ...]) -> str:
    return f"Locked in: {effect} ({' → '.join(chain)})"


def lenses(seen: Seen, file: int) -> list[dict[str, Any]]:
    """Above each class of a file: how often it is made, how many use it, how many tests touch it."""
    symbols, found = seen.codebase.symbols, []
    first = symbols.first[file]
    for number in range(first, first + len(symbols.files[file].types)):
        if not symbols.is_shown(number) or symbols.is_module(number):
            continue
        made, using, tests = users(seen).get(number, Users(0, 0, 0))
        _, where = range_of(seen, number)
        title = f"made in {counted(made, 'place')}, used by {using} {'class' if using == 1 else 'classes'}"
        found.append({"range": where, "command": {"title": f"{title}, {counted(tests, 'test')}", "command": ""}})
    return found


def symbols_by_strain(seen: Seen, asked: str) -> list[dict[str, Any]]:
    """The classes whose names hold a text, those with most strain first."""
    codebase, strain = seen.codebase, seen.strain
    wanted = asked.casefold()
    numbers = [
        number
        for number in range(len(codebase.symbols))
        if codebase.symbols.is_shown(number)
        and not codebase.symbols.is_module(number)
        and wanted in codebase.symbols.names[number].casefold()
    ]
    numbers.sort(key=lambda number: (-(strain[number].total if number in strain else 0), codebase.symbols.names[number]))
    found = []
    for number in numbers[:MOST_SYMBOLS]:
        path, where = range_of(seen, number)
        total = strain[number].total if number in strain else 0
        container = f"strain {total:g}" + (f", {codebase.layers.name(number)}" if codebase.layers.name(number) else "")
        kind = 11 if codebase.symbols.types[number].kind == "interface" else 5
        found.append(
            {
                "name": codebase.symbols.types[number].name,
                "kind": kind,
                "containerName": container,
                "location": {"path": path, "range": where},
            }
        )
    return found
