from __future__ import annotations

from dataclasses import dataclass, field

from forecast.model.layer import SnowLayer


@dataclass
class SnowProfile:
    """The layers of one place, topmost first."""

    valley: str
    layers: list[SnowLayer] = field(default_factory=list)

    def add(self, depth: float, hardness: int, wet: bool = False) -> SnowLayer:
        layer = SnowLayer(depth, hardness, wet)
        self.layers.append(layer)
        return layer

    @property
    def height(self) -> float:
        return sum(layer.depth for layer in self.layers)
