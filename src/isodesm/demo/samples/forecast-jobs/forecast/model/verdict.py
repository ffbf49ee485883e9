from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from enum import Enum


class Stability(Enum):
    GOOD = 1
    FAIR = 2
    POOR = 3


class ForecastError(Exception):
    """A forecast that could not be made."""


@dataclass(frozen=True)
class Verdict:
    """What the night's run says of a valley."""

    valley: str
    stability: Stability
    day: date
