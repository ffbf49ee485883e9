"""The sample codebases: they compile and pass their own tests, and what was planted in them is found."""

from __future__ import annotations

import shutil
import subprocess
import sys
import unittest

from isodesm.diagnosis.diagnose import diagnose
from isodesm.diagnosis.shared.findings import KINDS
from tests.support import DEMO, TreeTest, read_sample

PLANTED = {
    "bulletin-desk": {
        ("BulletinService", "ReviewService", "dependency-cycle"), ("StatusPage", "BulletinArchive", "layer-skip"),
        ("DutyRoster", "RosterStore", "outward-dependency"), ("MorningRound", "MailBell", "hard-wired-creation"),
        ("DigestService", "", "mixed-responsibility"), ("SirenDrill", "SirenRelay", "late-dependency"),
    },
    "sensor-hub": {
        ("DriftAlarm", "SirenBell", "hard-wired-creation"), ("DriftAlarm", "DateTime", "static-effect"),
        ("Calibration", "DateTime", "static-effect"), ("Calibration", "IStationBook", "service-lookup"),
        ("PollFunction", "RadioLink", "hard-wired-creation"), ("PollFunction", "FileReadingStore", "hard-wired-creation"),
        ("PollFunction", "CollectionRound", "hard-wired-creation"), ("PollFunction", "HubSettings", "ambient-state"),
        ("StationReport", "Registry", "injected-container"), ("FunctionHost", "PollFunction", "service-lookup"),
        ("FileReadingStore", "RoundSession", "captive-dependency"),
    },
    "slope-map": {
        ("SlopeDetailComponent", "ClosureService", "hard-wired-creation"),
        ("ClosureService", "ClosureClient", "hard-wired-creation"),
        ("ClosureService", "Date", "hard-wired-creation"),
        ("MapViewComponent", "SlopeStore", "static-singleton"), ("SlopeListComponent", "VisitLog", "static-singleton"),
        ("MapViewComponent", "", "oversized-boundary"), ("SlopeStore", "SlopeStore", "split-instance"),
        ("SlopeDetailComponent", "labels", "untyped-injection-point"),
        ("SlopeDetailComponent", "UnknownSlopeError", "unguarded-error"),
    },
    "warden-portal": {
        ("ClosureController", "ClosureService", "hard-wired-creation"),
        ("ClosureController", "FileClosureBook", "hard-wired-creation"),
        ("ClosureController", "Audit", "static-effect"), ("ClosureService", "SmsGateway", "hard-wired-creation"),
        ("ClosureService", "DateTimeImmutable", "hard-wired-creation"), ("ClosureService", "Audit", "static-effect"),
        ("ClosureController", "Parts", "service-lookup"), ("SignController", "ClosureException", "unguarded-error"),
        ("ClosureService", "ClosureService", "mismatched-argument"), ("WardenRepository", "audit", "unregistered-dependency"),
        ("RoadController", "", "misleading-name"), ("RoadSigns", "SignMast", "hard-wired-creation"),
    },
    "forecast-jobs": {
        ("NightlyForecast", "GaugeFiles", "hard-wired-creation"), ("NightlyForecast", "WardenBoard", "hard-wired-creation"),
        ("NightlyForecast", "VerdictStore", "static-singleton"), ("NightlyForecast", "date", "static-effect"),
        ("NightlyForecast", "settings", "ambient-state"), ("NightlyForecast", "JobRegistry", "service-lookup"),
        ("RecheckJob", "NightlyForecast", "hard-wired-creation"), ("RecheckJob", "random", "static-effect"),
        ("RecheckJob", "VerdictStore", "static-singleton"),
    },
}  # fmt: skip
HARMLESS = {
    "bulletin-desk": ("Bulletin", "Valley", "DangerScale", "AdviceBook", "SnowReading", "BulletinException", "LineBreaker"),
    "sensor-hub": ("Reading", "HubException", "Station", "DepthRule"), "slope-map": ("Closure", "Slope", "SlopeRating"),
    "warden-portal": ("Closure", "Road"), "forecast-jobs": ("SnowLayer", "Verdict", "StabilityRules", "ForecastError"),
}  # fmt: skip
NOT_PLANTED = frozenset(("bypassed-injection", "duplicate-registration", "ambiguous-implementation", "leaked-boundary-type",
                         "too-many-dependencies", "unused-dependency"))  # fmt: skip
"""Kinds that no sample holds; `tests/cases/findings` has them."""


def short(name: str) -> str:
    return name.replace("\\", ".").replace("#", ".").rpartition(".")[2]


class PlantedTest(unittest.TestCase):
    def test_planted_faults_are_found_and_harmless_things_are_not(self) -> None:
        kinds = set()
        for sample, planted in PLANTED.items():
            found = {(short(f.source), short(f.target), f.kind) for f in diagnose(read_sample(sample)).findings}
            kinds.update(kind for _, _, kind in planted)
            with self.subTest(sample=sample):
                self.assertEqual(planted - found, set())
                self.assertEqual([each for each in found if each[1] in HARMLESS[sample]], [])
        self.assertEqual(kinds | NOT_PLANTED, set(KINDS))


class CompilesTest(TreeTest):
    def run_all(self, sample: str, *commands: list[str]) -> str:
        shutil.copytree(DEMO / sample, self.root / sample)
        output = ""
        for command in commands:
            result = subprocess.run(command, cwd=self.root / sample, capture_output=True, text=True, timeout=300)
            self.assertEqual(result.returncode, 0, result.stdout + result.stderr)
            output += result.stdout + result.stderr
        return output

    def test_python(self) -> None:
        self.assertIn("OK", self.run_all("forecast-jobs", [sys.executable, "-m", "unittest"]))

    @unittest.skipUnless(shutil.which("php"), "php is not installed")
    def test_php(self) -> None:
        files = [str(path.relative_to(DEMO / "warden-portal")) for path in sorted((DEMO / "warden-portal").rglob("*.php"))]
        self.assertIn(
            "4 checks passed", self.run_all("warden-portal", *(["php", "-l", each] for each in files), ["php", "tests/run.php"])
        )

    @unittest.skipUnless(shutil.which("mcs") and shutil.which("mono"), "mcs and mono are not installed")
    def test_csharp(self) -> None:
        compile_hub = ["mcs", "-out:hub.exe", "-main:Hollin.Hub.Host.Program", "-recurse:src/*.cs"]
        compile_tests = [
            "mcs",
            "-out:tests.exe",
            "-main:Hollin.Hub.Tests.RoundTests",
            "-recurse:src/*.cs",
            "-recurse:test/*.cs",
        ]
        self.assertIn("1 check passed", self.run_all("sensor-hub", compile_hub, compile_tests, ["mono", "tests.exe"]))

    @unittest.skipUnless(shutil.which("tsc") and shutil.which("node"), "tsc and node are not installed")
    def test_typescript(self) -> None:
        commands = (["tsc", "--project", "tsconfig.json"], ["node", "out/test/slope-rating.test.js"])
        self.assertIn("3 checks passed", self.run_all("slope-map", *commands))
