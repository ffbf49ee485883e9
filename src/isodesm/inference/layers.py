"""Which layer each class belongs to, and which way between two layers points outwards."""

from __future__ import annotations

import re
from collections import Counter
from functools import lru_cache

import msgspec

from isodesm.catalogue import shared_catalogue
from isodesm.inference.evidence import BASE
from isodesm.inference.roles import Roles
from isodesm.linking.bonds import KIND_NUMBER, KINDS, BondTable
from isodesm.linking.symbols import Symbols
from isodesm.settings import Settings

LEAST_CLASSES = 2
"""Classes that a layer needs before it counts as one: a single class in a folder `data` is no layer."""
LEAST_SHARE = 0.4
"""Share of all classes that layers must hold together; below it the codebase is said to have none."""
FLOATING = "infrastructure"
"""The usual layer that some codebases put outside their services, behind interfaces, and others beneath them."""
PORT_WEIGHT = 10
"""What implementing an inner layer's abstraction counts for when the order is found, beside 1 for any other pair of classes."""
ROLE_LAYERS = {
    "presentation": "presentation",
    "repository": "infrastructure",
    "gateway": "infrastructure",
    "service": "application",
    "entity": "domain",
}
"""Where a class belongs by its role, if its folders say nothing."""


class Layer(msgspec.Struct, frozen=True):
    """A ring of the codebase; `ring` is its distance from the core."""

    name: str
    ring: int


class Layers(msgspec.Struct, frozen=True):
    """Layers in order, outermost first, the layer of each type (-1: none), and what spoke for it and for the order."""

    layers: tuple[Layer, ...]
    of_type: tuple[int, ...]
    evidence: tuple[str, ...]
    order: str = ""

    def name(self, number: int) -> str:
        """The layer of a type, '' where none is known."""
        index = self.of_type[number]
        return self.layers[index].name if index >= 0 else ""

    def crossing(self, source: int, target: int) -> str:
        """`inner→outer` where a bond between two types points outwards, else ''."""
        here, there = self.of_type[source], self.of_type[target]
        if here < 0 or there < 0 or self.layers[there].ring <= self.layers[here].ring:
            return ""
        return f"{self.layers[here].name}→{self.layers[there].name}"

    def skipped(self, source: int, target: int) -> str:
        """The layer that a bond between two types reaches past, '' for none: the nearest one between that has classes."""
        here, there = self.of_type[source], self.of_type[target]
        if here < 0 or there < 0:
            return ""
        one, other = self.layers[here], self.layers[there]
        if one.name == "presentation" and other.name == FLOATING:  # whichever way round the two inner ones lie
            return next(
                (each.name for index, each in enumerate(self.layers) if each.name == "application" and index in self._filled),
                "",
            )
        between = [
            each for index, each in enumerate(self.layers) if one.ring > each.ring > other.ring >= 0 and index in self._filled
        ]
        names = {each.name for each in self.layers}
        return between[0].name if between and not names.issuperset(("presentation", "domain")) else ""

    @property
    def _filled(self) -> frozenset[int]:
        return _filled(self.of_type)


@lru_cache(maxsize=8)
def _filled(of_type: tuple[int, ...]) -> frozenset[int]:
    return frozenset(of_type)


def find_layers(symbols: Symbols, bonds: BondTable, roles: Roles, settings: Settings) -> Layers:
    """Layers from the settings; otherwise from package and folder names, if enough classes agree, and from roles."""
    if settings.layers:
        count = len(settings.layers)
        layers = tuple(Layer(rule.name, count - 1 - index) for index, rule in enumerate(settings.layers))
        tables = [frozenset(rule.segments) for rule in settings.layers]
    else:
        entries = shared_catalogue().layers
        layers = tuple(Layer(entry.name, entry.ring) for entry in entries)
        tables = [frozenset(entry.segments.split()) for entry in entries]
    by_segment = {segment: index for index, table in enumerate(tables) for segment in table}
    found = [
        _layer_of_folder(symbols, file, by_segment, len(tables) - 1 if not settings.layers else -1)
        for file in range(len(symbols.files))
    ]
    of_type = [found[file][0] for file in symbols.file_of]
    counted = [index for number, index in enumerate(of_type) if symbols.is_shown(number) and not symbols.is_module(number)]
    if not settings.layers and not _convincing(counted or of_type):
        return Layers((), (-1,) * len(of_type), ("",) * len(of_type))
    evidence = [found[file][1] for file in symbols.file_of]
    if settings.layers:
        return Layers(layers, tuple(of_type), tuple(evidence), "the order in the settings")
    _add_by_role(layers, of_type, evidence, roles)
    layers, order = _ordered(layers, of_type, bonds, symbols)
    return Layers(layers, tuple(of_type), tuple(evidence), order)


def _add_by_role(layers: tuple[Layer, ...], of_type: list[int], evidence: list[str], roles: Roles) -> None:
    """Classes whose folders say nothing go where their role belongs, if an annotation or base gives it."""
    numbers = {layer.name: index for index, layer in enumerate(layers)}
    for number, index in enumerate(of_type):
        role = roles[number]
        if index < 0 and role.name in ROLE_LAYERS and role.evidence[0].strength >= BASE:
            of_type[number] = numbers[ROLE_LAYERS[role.name]]
            evidence[number] = f"role {role.name}: {role.evidence[0].reason}"


def _ordered(
    layers: tuple[Layer, ...], of_type: list[int], bonds: BondTable, symbols: Symbols
) -> tuple[tuple[Layer, ...], str]:
    """The layers with infrastructure in the place that leaves the fewest pairs of classes pointing outwards, and why."""
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
    return tuple(found[layer.name] for layer in layers), f"{' → '.join(name for name in names if name in present)}: {reason}"


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


def _layer_of_folder(symbols: Symbols, file: int, by_segment: dict[str, int], last: int) -> tuple[int, str]:
    facts = symbols.files[file]
    segments = re.split(r"[.\\]", facts.package) if facts.package else facts.path.split("/")[:-1]
    found = [(by_segment[segment.lower()], segment) for segment in reversed(segments) if segment.lower() in by_segment]
    found.sort(key=lambda each: each[0] == last)  # helpers inside a layer belong to that layer
    for index, segment in found[:1]:
        return index, f"segment `{segment}` of {facts.package or facts.path.rpartition('/')[0]}"
    return -1, ""


def _convincing(of_type: list[int]) -> bool:
    counts = Counter(index for index in of_type if index >= 0)
    strong = [count for count in counts.values() if count >= LEAST_CLASSES]
    return len(strong) >= 2 and sum(counts.values()) >= LEAST_SHARE * len(of_type)
