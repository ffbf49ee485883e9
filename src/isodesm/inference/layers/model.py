"""Which layer each class belongs to, and which way between two layers points outwards."""

from __future__ import annotations

from functools import lru_cache

import msgspec

FLOATING = "infrastructure"
"""The usual layer that some codebases put outside their services, behind interfaces, and others beneath them."""
SURE, LIKELY, OPEN = "sure", "likely", "open"
"""How far the evidence for a package's layer lies ahead of that for the next one; of open ones nothing is taken."""


class Layer(msgspec.Struct, frozen=True):
    """A ring of the codebase; `ring` is its distance from the core."""

    name: str
    ring: int


class PackageLayer(msgspec.Struct, frozen=True):
    """A package or folder, the layer proposed for it, how sure that is, its classes, and the three strongest reasons."""

    name: str
    layer: str
    certainty: str
    classes: int
    reasons: tuple[str, ...]


class Layers(msgspec.Struct, frozen=True):
    """Layers in order, outermost first, the layer of each type (-1: none), and what spoke for it and for the order.

    `told` are layers that the settings name; others are a proposal, which `packages` explains: `sure_types` are the types whose
    layer nothing else came near.
    """

    layers: tuple[Layer, ...]
    of_type: tuple[int, ...]
    evidence: tuple[str, ...]
    order: str = ""
    wrong: float = 0.0
    """Share of the pairs of classes in different layers that point outwards, whatever the order."""
    told: bool = False
    packages: tuple[PackageLayer, ...] = ()
    sure_types: frozenset[int] = frozenset()

    def name(self, number: int) -> str:
        """The layer of a type, '' where none is known."""
        index = self.of_type[number]
        return self.layers[index].name if index >= 0 else ""

    def crossing(self, source: int, target: int) -> str:
        """`inner→outer` where a bond between two types points outwards and the settings say so, else '': nothing is held
        against anybody by a guess."""
        return self.outward(source, target) if self.told else ""

    def outward(self, source: int, target: int) -> str:
        """The same, by a proposal too."""
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
