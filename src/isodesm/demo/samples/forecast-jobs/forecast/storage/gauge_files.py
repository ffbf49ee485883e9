from __future__ import annotations

import os

from forecast.model import SnowProfile
from forecast.model.verdict import ForecastError


class GaugeFiles:
    """Profiles as the gauges leave them: one text file a valley, a layer a line."""

    def __init__(self, folder: str) -> None:
        self.folder = folder

    def valleys(self) -> list[str]:
        return sorted(name[:-4] for name in os.listdir(self.folder) if name.endswith(".txt"))

    def profile(self, valley: str) -> SnowProfile:
        profile = SnowProfile(valley)
        with open(os.path.join(self.folder, f"{valley}.txt"), encoding="utf-8") as lines:
            for line in lines:
                parts = line.split()
                if len(parts) < 2:
                    raise ForecastError(f"{valley}: a layer needs depth and hardness, not {line!r}")
                profile.add(float(parts[0]), int(parts[1]), "wet" in parts)
        return profile
