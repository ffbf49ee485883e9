"""Which layer each class belongs to, and which way between two layers points outwards."""

from __future__ import annotations

from collections import Counter

import msgspec

from isodesm.catalogue import shared_catalogue
from isodesm.codebase.symbols import Symbols
from isodesm.settings import Settings

LEAST_CLASSES = 2
"""Classes that a layer needs before it counts as one: a single class in a folder `data` is no layer."""
LEAST_SHARE = 0.4
"""Share of all classes that layers must hold together; below it the codebase is said to have none."""


class Layer(msgspec.Struct, frozen=True):
    """A ring of the codebase; `ring` is its distance from the core."""

    name: str
    ring: int


class Layers(msgspec.Struct, frozen=True):
    """Layers in order, outermost first, the layer of each type (-1: none), and what spoke for it."""

    layers: tuple[Layer, ...]
    of_type: tuple[int, ...]
    evidence: tuple[str, ...]

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


def find_layers(symbols: Symbols, settings: Settings) -> Layers:
    """Layers from the settings; otherwise from package and folder names, if enough classes agree."""
    if settings.layers:
        count = len(settings.layers)
        layers = tuple(Layer(rule.name, count - 1 - index) for index, rule in enumerate(settings.layers))
        tables = [frozenset(rule.segments) for rule in settings.layers]
    else:
        entries = shared_catalogue().layers
        layers = tuple(Layer(entry.name, entry.ring) for entry in entries)
        tables = [frozenset(entry.segments.split()) for entry in entries]
    by_segment = {segment: index for index, table in enumerate(tables) for segment in table}
    found = [_layer_of_folder(symbols, file, by_segment) for file in range(len(symbols.files))]
    of_type = [found[file][0] for file in symbols.file_of]
    if not settings.layers and not _convincing(of_type):
        return Layers((), (-1,) * len(of_type), ("",) * len(of_type))
    evidence = tuple(found[file][1] for file in symbols.file_of)
    return Layers(layers, tuple(of_type), evidence)


def _layer_of_folder(symbols: Symbols, file: int, by_segment: dict[str, int]) -> tuple[int, str]:
    facts = symbols.files[file]
    segments = facts.package.split(".") if facts.package else facts.path.split("/")[:-1]
    for segment in reversed(segments):
        if (index := by_segment.get(segment.lower(), -1)) >= 0:
            return index, f"segment `{segment}` of {facts.package or facts.path}"
    return -1, ""


def _convincing(of_type: list[int]) -> bool:
    counts = Counter(index for index in of_type if index >= 0)
    strong = [count for count in counts.values() if count >= LEAST_CLASSES]
    return len(strong) >= 2 and sum(counts.values()) >= LEAST_SHARE * len(of_type)
