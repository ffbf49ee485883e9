"""In which order packages know each other, and in which order layers do."""

from __future__ import annotations

import heapq
from collections import Counter, defaultdict
from collections.abc import Iterable

from isodesm.inference.layers.model import FLOATING, Layer
from isodesm.linking.bonds import KIND_NUMBER, KINDS, BondTable
from isodesm.linking.symbols import Symbols

PORT_WEIGHT = 10
"""What implementing an inner layer's abstraction counts for when the order is found, beside 1 for any other pair of classes."""


def positions(nodes: Iterable[int], arcs: dict[tuple[int, int], int]) -> dict[int, float]:
    """Node to its place between 1 (knows others, nobody knows it) and 0 (is known by others, knows nobody); 0.5 without arcs.

    The order leaves arcs of little weight pointing back: sources are taken first, sinks last, and of the rest, which lies on
    cycles, always the node that has most weight going out for what comes in (Eades, Lin and Smyth 1993, with weights).
    """
    left = set(nodes).intersection(node for arc in arcs for node in arc)
    alone = dict.fromkeys(set(nodes) - left, 0.5)
    out: dict[int, Counter[int]] = defaultdict(Counter)
    into: dict[int, Counter[int]] = defaultdict(Counter)
    for (source, target), weight in arcs.items():
        if source in left and target in left:
            out[source][target] += weight
            into[target][source] += weight
    going = {node: out[node].total() for node in left}
    coming = {node: into[node].total() for node in left}
    first: list[int] = []
    last: list[int] = []

    def rank(node: int) -> tuple[int, float, int]:
        side = 0 if not going[node] else 1 if not coming[node] else 2
        return side, -(going[node] - coming[node]) / (going[node] + coming[node] or 1), node

    waiting = [rank(node) for node in left]
    heapq.heapify(waiting)
    while waiting:
        entry = heapq.heappop(waiting)
        node = entry[2]
        if node not in left or entry != rank(node):
            continue
        left.discard(node)
        (last if entry[0] == 0 else first).append(node)
        for target, weight in out[node].items():
            coming[target] -= weight
        for source, weight in into[node].items():
            going[source] -= weight
        for each in {*out[node], *into[node]} & left:
            heapq.heappush(waiting, rank(each))
    order = [*first, *reversed(last)]
    return alone | {node: 1 - index / max(1, len(order) - 1) for index, node in enumerate(order)}


def ordered(
    layers: tuple[Layer, ...], of_type: list[int], bonds: BondTable, symbols: Symbols
) -> tuple[tuple[Layer, ...], str, float]:
    """The layers with infrastructure in the place that leaves the fewest pairs of classes pointing outwards, why, and the share
    of those."""
    weights = _weights(layers, of_type, bonds, symbols)
    rest = [layer.name for layer in layers if layer.name != FLOATING]
    best: tuple[int, int, list[str]] | None = None
    for position in range(1, len(rest)):  # never outside presentation, never inside what is shared
        order = [*rest[:position], FLOATING, *rest[position:]]
        rank = {name: index for index, name in enumerate(order)}
        wrong = sum(count for (one, other), count in weights.items() if rank[other] < rank[one])
        if best is None or wrong < best[0]:
            best = (wrong, position, order)
    assert best is not None
    names = best[2]
    rings = {name: len(names) - 2 - index for index, name in enumerate(names)}
    found = {layer.name: Layer(layer.name, rings[layer.name]) for layer in layers}
    ports = sum(1 for (one, other), count in weights.items() if one == FLOATING and count >= PORT_WEIGHT)
    reason = (
        "the inner layers' interfaces are implemented there" if best[1] == 1 and ports else "that is the way most bonds point"
    )
    present = {layers[index].name for index in of_type if index >= 0}
    shown = " → ".join(name for name in names if name in present)
    pairs = sum(weights.values())
    return tuple(found[layer.name] for layer in layers), f"{shown}: {reason}", round(best[0] / pairs, 3) if pairs else 0.0


def _weights(layers: tuple[Layer, ...], of_type: list[int], bonds: BondTable, symbols: Symbols) -> dict[tuple[str, str], int]:
    """(layer, layer) to the weight of the pairs of classes of which the one knows the other."""
    bases = (KIND_NUMBER["extends"], KIND_NUMBER["implements"])
    pairs: dict[tuple[int, int], int] = {}
    for kind, source, target in zip(bonds.kind, bonds.source, bonds.target, strict=True):
        if (
            kind < len(KINDS)
            and target >= 0
            and of_type[source] != of_type[target]
            and of_type[source] >= 0
            and of_type[target] >= 0
        ):
            weight = PORT_WEIGHT if kind in bases and symbols.types[target].is_abstract else 1
            pairs[source, target] = max(pairs.get((source, target), 0), weight)
    found: Counter[tuple[str, str]] = Counter()
    for (source, target), weight in pairs.items():
        found[layers[of_type[source]].name, layers[of_type[target]].name] += weight
    return dict(found)
