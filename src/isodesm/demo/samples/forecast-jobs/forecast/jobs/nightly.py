from __future__ import annotations

import datetime

from forecast.jobs import settings
from forecast.jobs.registry import JobRegistry
from forecast.model import SnowProfile, Verdict
from forecast.model.rules import StabilityRules
from forecast.storage.gauge_files import GaugeFiles
from forecast.storage.verdict_store import verdicts
from forecast.storage.warden_board import WardenBoard


class NightlyForecast:
    """Makes the forecast of all valleys, once a night."""

    def __init__(self, rules: StabilityRules = StabilityRules(), gauges: GaugeFiles = GaugeFiles("data")) -> None:
        self.rules = rules
        self.gauges = gauges
        self.board = WardenBoard(settings.board_host, settings.board_port)

    def run(self) -> list[Verdict]:
        return [self.forecast(valley) for valley in self.gauges.valleys()]

    def forecast(self, valley: str) -> Verdict:
        profile: SnowProfile = self.gauges.profile(valley)
        verdict = Verdict(valley, self.rules.assess(profile), datetime.date.today())
        verdicts.keep(verdict)
        self.board.post(verdict)
        JobRegistry.part("journal").note(f"{valley}: {verdict.stability.name}")
        return verdict
