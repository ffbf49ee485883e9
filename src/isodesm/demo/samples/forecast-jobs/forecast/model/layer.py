from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class SnowLayer:
    """One layer of the snow pack: depth in centimetres, hardness from 1 (fist) to 5 (knife)."""

    depth: float
    hardness: int
    wet: bool = False
