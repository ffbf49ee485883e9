"""Puts steps in order: an abstraction before its injections, a dependency before its consumer, the data side first."""

from __future__ import annotations

from collections import defaultdict

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.codebase.symbols import simple_name
from isodesm.diagnosis.findings import Diagnosis
from isodesm.facts import typetext
from isodesm.facts.languages import dialect_of
from isodesm.measures.strain import weigh
from isodesm.planning.pairs import Pair, find_pairs
from isodesm.planning.projection import Projection
from isodesm.planning.steps import LeftOver, Plan, Step
from isodesm.planning.techniques.extract_interface import plan_interface
from isodesm.planning.techniques.inject_through_constructor import plan_injection
from isodesm.planning.techniques.register import plan_registration
from isodesm.planning.workshop import NEW, Workshop

WRITTEN_LANGUAGES = frozenset(("java",))
"""Languages that the techniques can write code in."""
DATA_SIDE_FIRST = {"infrastructure": 0, "shared": 0, "domain": 1, "": 1, "application": 2, "presentation": 3}
"""Rank of a layer on the way from the data side to the presentation side; layers of the settings go by their ring."""


def plan(codebase: Codebase, diagnosis: Diagnosis, *, steps: int = 0, focus: frozenset[int] = frozenset()) -> Plan:
    """The plan for a codebase: at most `steps` steps (0: all), for the classes in `focus` only where it names any."""
    pairs, left = find_pairs(codebase, diagnosis.findings)
    if focus:
        pairs = [pair for pair in pairs if pair.source in focus or pair.target in focus]
    unwritten = [pair for pair in pairs if _language(codebase, pair) not in WRITTEN_LANGUAGES]
    left += [_left(pair, f"steps can't be written in {dialect_of(_language(codebase, pair)).title} yet") for pair in unwritten]
    pairs = [pair for pair in pairs if pair not in unwritten]
    shop = Workshop(codebase)
    state = start = Projection(codebase, diagnosis.findings)
    made: list[Step] = []
    idle = [pair for pair in pairs if nothing_to_offer(shop, pair)]
    left += [_left(pair, "nobody calls it directly: an interface would be empty; look at what it is passed to") for pair in idle]
    waiting = order_pairs(codebase, [pair for pair in pairs if pair not in idle])
    while waiting and not (steps and len(made) >= steps):
        pair = waiting.pop(0)
        step_list, state = _steps_of(shop, state, pair, made)
        made += step_list
        if not any(each.source == pair.source for each in waiting):
            made += _wirings(shop, state, pair.source)
    cut = made[:steps] if steps else made
    end = _totals(cut[-1].after) if cut else _totals(start.measures(0) if len(codebase.symbols) else None)
    begin = _totals(start.measures(0)) if len(codebase.symbols) else (0.0, 0)
    return Plan(
        steps=tuple(msgspec.structs.replace(step, number=number) for number, step in enumerate(cut, 1)),
        left=tuple(left), strain=(begin[0], end[0]), hard_bonds=(begin[1], end[1]),
        not_shown=len(made) - len(cut) + len(waiting),
    )  # fmt: skip


def _totals(measures) -> tuple[float, int]:  # noqa: ANN001
    return (measures.strain, measures.hard_bonds) if measures is not None else (0.0, 0)


def _steps_of(shop: Workshop, state: Projection, pair: Pair, made: list[Step]) -> tuple[list[Step], Projection]:
    """The steps for one pair: its abstraction where none fits, then the injection."""
    found: list[Step] = []
    abstraction = shop.abstraction(pair.target, pair.source, held_as(shop, pair))
    needs = []
    if abstraction.number == NEW and pair.target not in shop.extracted:
        extraction = plan_interface(shop, state, pair.target, pair.source, abstraction)
        shop.extracted[pair.target] = abstraction
        found.append(extraction)
    if abstraction.number == NEW:
        needs = [step.id for step in [*made, *found] if step.technique == "extract-interface" and step.classes[0] == shop.symbols.names[pair.target]]
    injection, state = plan_injection(shop, state, pair, abstraction)
    found.append(msgspec.structs.replace(injection, needs=tuple(needs)))
    return found, state


def nothing_to_offer(shop: Workshop, pair: Pair) -> bool:
    """Whether a new interface would be empty, since nobody calls the target: then it is only passed on."""
    abstraction = shop.abstraction(pair.target, pair.source, held_as(shop, pair))
    return abstraction.number == NEW and not abstraction.members


def _language(codebase: Codebase, pair: Pair) -> str:
    return codebase.symbols.files[codebase.symbols.file_of[pair.source]].language


def _left(pair: Pair, reason: str) -> LeftOver:
    first = pair.places[0].finding
    return LeftOver(
        source=first.source, target=first.target, kind=first.kind, count=len(pair.places), file=first.file, line=first.line, reason=reason
    )


def held_as(shop: Workshop, pair: Pair) -> str:
    """The one type that the fields declare in which a class keeps its target; '' where it keeps it in none, or in several."""
    fields = {m.name: simple_name(typetext.head(m.type)) for m in shop.symbols.types[pair.source].members if m.kind == "field"}
    kinds = {fields.get(place.field, "") for place in pair.places}
    return kinds.pop() if len(kinds) == 1 else ""


def _wirings(shop: Workshop, state: Projection, number: int) -> list[Step]:
    """Where a class has all its dependencies and a composition root makes it: the step that wires it."""
    step = plan_registration(shop, state, number)
    return [step] if step is not None and shop.injected[number] else []


def order_pairs(codebase: Codebase, pairs: list[Pair]) -> list[Pair]:
    """Pairs in the order of their steps.

    A class comes after those of its targets that change themselves (members of a ring in order of name), then the data
    side before the presentation side, then by strain removed per place touched. Pairs of one class stay together.
    """
    sources = {pair.source for pair in pairs}
    needs: dict[int, set[int]] = defaultdict(set)
    for pair in pairs:
        if pair.target in sources and pair.target != pair.source:
            needs[pair.source].add(pair.target)
    depth = _depths(sorted(sources, key=codebase.symbols.names.__getitem__), needs)
    weights = codebase.settings.strain

    def payoff(pair: Pair) -> float:
        return sum(weigh(place.finding, weights) for place in pair.places) / len(pair.places)

    total: dict[int, float] = defaultdict(float)
    for pair in pairs:
        total[pair.source] += payoff(pair)

    def key(pair: Pair) -> tuple[object, ...]:
        names = codebase.symbols.names
        rank = DATA_SIDE_FIRST.get(codebase.layers.name(pair.source), 1)
        return (depth[pair.source], rank, -total[pair.source], names[pair.source], -payoff(pair), names[pair.target])

    return sorted(pairs, key=key)


def _depths(nodes: list[int], needs: dict[int, set[int]]) -> dict[int, int]:
    """Longest chain of needs beneath each node; an edge that closes a ring is passed over.

        a ─► b ─► c   gives  c: 0, b: 1, a: 2
    """
    depth: dict[int, int] = {}
    for start in nodes:
        stack: list[tuple[int, list[int]]] = [(start, sorted(needs.get(start, ())))]
        busy = {start}
        while stack:
            node, below = stack[-1]
            following = next((each for each in below if each not in depth and each not in busy), None)
            if node in depth or following is None:
                depth.setdefault(node, max((depth[each] + 1 for each in below if each in depth), default=0))
                busy.discard(node)
                stack.pop()
            else:
                busy.add(following)
                stack.append((following, sorted(needs.get(following, ()))))
    return depth
