from __future__ import annotations

import sys

from forecast.jobs import settings
from forecast.jobs.journal import NightJournal
from forecast.jobs.nightly import NightlyForecast
from forecast.jobs.recheck import RecheckJob, WeeklyDigest
from forecast.jobs.registry import JobRegistry
from forecast.model.rules import StabilityRules
from forecast.storage.gauge_files import GaugeFiles
from forecast.storage.verdict_store import verdicts


def main(arguments: list[str]) -> int:
    if len(arguments) not in (2, 3):
        print("usage: python -m forecast.main GAUGES OUT [VALLEY]", file=sys.stderr)
        return 2
    folder, out, *again = arguments
    settings.use(folder)
    verdicts.folder = out
    JobRegistry.offer("journal", lambda: NightJournal(f"{out}/journal.txt"))
    found = NightlyForecast(StabilityRules(), GaugeFiles(folder)).run()
    for line in WeeklyDigest().lines(found):
        print(line)
    if again:
        print("again:", RecheckJob().run(again).stability.name)
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
