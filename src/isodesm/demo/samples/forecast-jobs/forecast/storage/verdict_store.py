from __future__ import annotations

import json
import os

from forecast.model import Verdict


class VerdictStore:
    """Keeps each night's verdicts in a folder."""

    def __init__(self, folder: str = "out") -> None:
        self.folder = folder

    def keep(self, verdict: Verdict) -> None:
        os.makedirs(self.folder, exist_ok=True)
        path = os.path.join(self.folder, f"{verdict.day}-{verdict.valley}.json")
        with open(path, "w", encoding="utf-8") as target:
            json.dump({"valley": verdict.valley, "stability": verdict.stability.name}, target)


verdicts = VerdictStore()
