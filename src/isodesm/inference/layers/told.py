"""Layers as the settings name them: by segments, and by whole packages."""

from __future__ import annotations

import re

from isodesm.inference.layers.model import Layer, Layers
from isodesm.inference.layers.packages import dividing, package_of, segments_of
from isodesm.linking.symbols import Symbols
from isodesm.settings import LayerRule


def told_layers(symbols: Symbols, rules: tuple[LayerRule, ...]) -> Layers:
    """The layers of the settings, outermost first: the longest package that a rule lists decides, then the segment
    beside which lie most other layers, of several the innermost; `.` stands for all that is left."""
    count = len(rules)
    layers = tuple(Layer(rule.name, count - 1 - index) for index, rule in enumerate(rules))
    by_segment = {segment.lower(): index for index, rule in enumerate(rules) for segment in rule.segments}
    by_package = {tuple(_split(package)): index for index, rule in enumerate(rules) for package in rule.packages}
    paths = [segments_of(symbols, file) for file in range(len(symbols.files))]
    divided = dividing(paths, by_segment)
    found = [_layer_of(path, by_segment, by_package, divided) for path in paths]
    places = [package_of(symbols, file) for file in range(len(symbols.files))]
    evidence = [f"{said} of {place}" if said else "" for (_, said), place in zip(found, places, strict=True)]
    return Layers(
        layers,
        tuple(found[file][0] for file in symbols.file_of),
        tuple(evidence[file] for file in symbols.file_of),
        "the order in the settings",
        told=True,
    )


def _split(package: str) -> list[str]:
    return [each for each in re.split(r"[.\\/]", package) if each]


def _layer_of(
    path: list[str], by_segment: dict[str, int], by_package: dict[tuple[str, ...], int], divided: dict[tuple[str, ...], int]
) -> tuple[int, str]:
    for end in range(len(path), 0, -1):
        if (index := by_package.get(tuple(path[:end]))) is not None:
            return index, f"package `{'.'.join(path[:end])}`"
    found = [
        (-divided[tuple(path[:depth])], -depth, segment) for depth, segment in enumerate(path) if segment.lower() in by_segment
    ]
    if found:
        segment = min(found)[2]
        return by_segment[segment.lower()], f"segment `{segment}`"
    return (by_package[()], "the rest") if () in by_package else (-1, "")
