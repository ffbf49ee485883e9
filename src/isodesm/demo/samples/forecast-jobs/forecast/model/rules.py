from __future__ import annotations

from forecast.model.profile import SnowProfile
from forecast.model.verdict import Stability


class StabilityRules:
    """Reads the stability off a profile; needs nothing but the profile."""

    def __init__(self, weak_hardness: int = 1, least_depth: float = 20.0) -> None:
        self.weak_hardness = weak_hardness
        self.least_depth = least_depth

    def assess(self, profile: SnowProfile) -> Stability:
        weak = [layer for layer in profile.layers if layer.hardness <= self.weak_hardness]
        above = 0.0
        for layer in profile.layers:
            if layer in weak and above >= self.least_depth:
                return Stability.POOR
            above += layer.depth
        if weak or any(layer.wet for layer in profile.layers):
            return Stability.FAIR
        return Stability.GOOD
