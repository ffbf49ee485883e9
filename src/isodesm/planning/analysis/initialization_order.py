"""Whether what a class fetches while it works is there already when the class is made."""

from __future__ import annotations

import re

from isodesm.codebase.model import Codebase
from isodesm.inference.use_graph import INSTANCE, Node
from isodesm.linking.bonds import KIND_NUMBER, WRITE
from isodesm.linking.remembering import remembered
from isodesm.planning.analysis.sources import Sources
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.refusal import Reason, Refusal

_CALLS = frozenset(KIND_NUMBER[each] for each in ("call", "static-call", "lookup"))
_ITSELF = r"\s*=\s*(?:\$?this|self)\b"
"""What stands behind a static field that is given the object under construction."""


def too_early(sources: Sources, decision: Decision) -> Refusal | None:
    """Why a shared object can't be fetched when the source is made; None where nothing speaks against it.

    A class that is made while the shared object itself is made would ask for it before it is there, or go round in a circle.
    """
    finding = decision.places[0].finding
    holder, target = finding.target_number, decision.target
    callee = sources.codebase.bonds.text_of("callee", finding.row)
    name = sources.name(target)
    if is_written(sources, holder, callee):
        return Refusal(Reason.SET_IN_SEVERAL_PLACES, name=callee)
    if _is_looked_up(sources, holder, target, callee) and not _asks_in_constructor(sources, decision):
        return Refusal(Reason.REGISTERED_BY_THEN, name=name)
    if (decision.source, INSTANCE) in _closure(sources, _before(sources, holder, target, callee), target):
        return Refusal(Reason.FETCHED_TOO_EARLY, name=name)
    return None


def _is_looked_up(sources: Sources, holder: int, target: int, callee: str) -> bool:
    """Whether what hands out a shared object asks others for it, and nothing of its class makes one: then it is there only once
    the program has registered it."""
    table, members = sources.codebase.bonds, sources.symbols.types[holder].members
    accessor = {at for at, each in enumerate(members) if each.name == callee and each.kind in ("method", "property")}
    fitting = {target, *sources.codebase.roles.implementers.get(target, ())}
    asks = False
    for row in table.rows_of_source(holder):
        kind, below = table.kind[row], table.target[row]
        if kind == KIND_NUMBER["creation"] and below in fitting:
            return False
        asks = asks or (kind in _CALLS and table.source_member[row] in accessor and below not in (holder, *fitting))
    return asks and bool(accessor) and not sources.codebase.roles.ancestors(holder)[1:]


def _asks_in_constructor(sources: Sources, decision: Decision) -> bool:
    taking = sources.constructors(decision.source)
    return all(place.member in taking for place in decision.places)


def is_written(sources: Sources, holder: int, name: str) -> bool:
    """Whether anybody gives a static field another value once it has its first."""
    return (holder, name) in _written(sources.codebase) or _is_set_again(sources, holder, name)


@remembered
def _written(codebase: Codebase) -> frozenset[tuple[int, str]]:
    """Static fields, by (type, name), that other classes give a value."""
    table = codebase.bonds
    rows = (row for row, kind in enumerate(table.kind) if kind == WRITE and table.source[row] != table.target[row])
    return frozenset((table.target[row], table.text_of("callee", row)) for row in rows)


def _is_set_again(sources: Sources, holder: int, name: str) -> bool:
    """Whether methods of a class, or of one below it, give another value to one of its static fields, or to one that its
    accessor hands out; filling it where it is empty does not count."""
    members, touches = sources.symbols.types[holder].members, sources.codebase.shared.touches(holder)
    kept = {name}
    for index, touch in touches.items():
        if members[index].name == name:
            kept |= touch.hands_out or touch.reads
    below = sources.codebase.roles.implementers.get(holder, ())
    return any(
        kept & (touch.changes - touch.hands_out)
        and sources.symbols.types[each].members[index].kind not in ("constructor", "static")
        for each in (holder, *below)
        for index, touch in sources.codebase.shared.touches(each).items()
    )


def _before(sources: Sources, holder: int, target: int, callee: str) -> list[Node]:
    """What runs before the shared object can be fetched: all of its construction, or what comes before its constructor says
    that it is there."""
    constructor = sources.constructor(target)
    table, symbols = sources.codebase.bonds, sources.symbols
    if holder != target or constructor is None or constructor.body == (0, 0):
        return [(target, INSTANCE)]
    text = sources.codebase.text(symbols.file_of[target])
    said = re.search(
        rb"(?<![\w.])(?:[\w]+(?:\.|::))?\$?" + re.escape(callee).encode() + _ITSELF.encode(), text[slice(*constructor.body)]
    )
    if said is None:
        return [(target, INSTANCE)]
    at = constructor.body[0] + said.start()
    members = symbols.types[target].members
    nodes: list[Node] = [
        (target, index) for index, member in enumerate(members) if member.kind == "field" and not member.is_static
    ]
    own = next(index for index, member in enumerate(members) if member is constructor)
    for row in table.rows_of_source(target):
        below = table.target[row]
        if table.source_member[row] != own or table.site[row] < 0 or below < 0:
            continue
        if sources.codebase.content(table.file[row]).sites[table.site[row]].place.start < at:
            called = symbols.members(below).get(table.text_of("callee", row), ())
            nodes += (
                [(below, INSTANCE)] if table.kind[row] == KIND_NUMBER["creation"] else [(below, index) for index, _ in called]
            )
    return [each for each in nodes if each != (target, INSTANCE)]


def _closure(sources: Sources, nodes: list[Node], target: int) -> set[Node]:
    """What runs with some nodes, over hard bonds; a second object of the target is another matter."""
    seen, waiting = {*nodes, (target, INSTANCE)}, list(nodes)
    while waiting:
        for each in sources.codebase.effects.used_by(waiting.pop()):
            if each not in seen:
                seen.add(each)
                waiting.append(each)
    return seen


def made_too_soon(sources: Sources, number: int, text: str) -> bool:
    """Whether code outside all functions makes a class above the place where something is declared that stands for what it is
    handed, in languages that run their modules from top to bottom."""
    if not sources.language(number).modules_run_top_down:
        return False
    file = sources.symbols.file_of[number]
    symbols, content = sources.symbols, sources.codebase.content(file)
    named = set(re.findall(r"[A-Za-z_$][\w$]*", text))
    declared = [each.place.start for each in symbols.files[file].types if each.name in named]
    declared += [
        member.place.start
        for each in symbols.files[file].types
        if each.kind == "module"
        for member in each.members
        if member.name in named
    ]
    made = [
        content.sites[each.site].place.start
        for each in sources.creators.get(number, ())
        if each.file == file and each.site >= 0 and symbols.is_module(each.source) and content.sites[each.site].member < 0
    ]
    return bool(made and declared) and max(declared) > min(made)
