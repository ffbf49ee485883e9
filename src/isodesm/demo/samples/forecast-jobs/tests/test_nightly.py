import os
import tempfile
import unittest

from forecast.jobs.journal import NightJournal
from forecast.jobs.nightly import NightlyForecast
from forecast.jobs.registry import JobRegistry
from forecast.model import Stability
from forecast.model.rules import StabilityRules
from forecast.storage import warden_board
from forecast.storage.gauge_files import GaugeFiles
from forecast.storage.verdict_store import verdicts


class NightlyForecastTest(unittest.TestCase):
    """Slow and clumsy: the board is not there, so each verdict waits for it, and everything goes through files."""

    def test_a_night(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            with open(os.path.join(folder, "Hart.txt"), "w", encoding="utf-8") as target:
                target.write("40 3\n5 1\n")
            verdicts.folder = folder
            warden_board.PAUSE_SECONDS = 0.01
            JobRegistry.offer("journal", lambda: NightJournal(os.path.join(folder, "journal.txt")))
            night = NightlyForecast(StabilityRules(), GaugeFiles(folder))
            night.board.host = "localhost"
            night.board.port = 1
            self.assertEqual([each.stability for each in night.run()], [Stability.POOR])
