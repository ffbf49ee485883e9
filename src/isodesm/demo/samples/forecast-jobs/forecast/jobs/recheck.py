from __future__ import annotations

import random

from forecast.jobs.nightly import NightlyForecast
from forecast.jobs.registry import JobRegistry
from forecast.model import Verdict
from forecast.storage.verdict_store import verdicts


class RecheckJob:
    """Makes the forecast of one valley, picked by chance, a second time."""

    def run(self, valleys: list[str]) -> Verdict:
        valley = random.choice(valleys)
        verdict = NightlyForecast().forecast(valley)
        verdicts.keep(verdict)
        JobRegistry.part("journal").note(f"rechecked {valley}")
        return verdict


class WeeklyDigest:
    """Sums the week up for the board."""

    def lines(self, found: list[Verdict]) -> list[str]:
        JobRegistry.part("journal").note("digest made")
        return [f"{verdict.valley}: {verdict.stability.name.lower()}" for verdict in found]
