from __future__ import annotations

import time


class NightJournal:
    """What happened during the night, with the time."""

    def __init__(self, path: str) -> None:
        self.path = path

    def note(self, text: str) -> None:
        with open(self.path, "a", encoding="utf-8") as target:
            target.write(f"{time.strftime('%H:%M', time.localtime())} {text}\n")
