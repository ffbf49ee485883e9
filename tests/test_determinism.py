"""The same tree gives the same bytes: whatever the workers, the cache, the order on the disk, or the hash seed."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from collections.abc import Callable

import msgspec

from isodesm.codebase import background_inference
from isodesm.codebase.model import Codebase
from isodesm.codebase.reading import read
from isodesm.diagnosis import diagnose as diagnosing
from isodesm.diagnosis.diagnose import diagnose
from isodesm.diagnosis.hard_bonds import judging
from isodesm.linking import link
from isodesm.measures.ranking import rank
from isodesm.planning.planner.plan import plan
from isodesm.reading import files
from isodesm.settings import Settings
from tests.support import DEMO, TreeTest

THRESHOLDS = (
    (files, "SERIAL_BYTES", 0),
    (files, "BATCH_BYTES", 4_000),
    (link, "SERIAL_BYTES", 0),
    (link, "FILES_PER_TASK", 3),
    (background_inference, "PARALLEL_BONDS", 0),
    (diagnosing, "PARALLEL_BONDS", 0),
    (judging, "PARALLEL_ROWS", 0),
    (judging, "ROWS_PER_TASK", 7),
)
"""Limits below which work is not handed to workers, with values that hand over everything in small portions."""


class SameBytesTest(TreeTest):
    def setUp(self) -> None:
        super().setUp()
        shutil.copytree(DEMO, self.root / "all")

    def everything(self, **settings: object) -> dict[str, bytes]:
        """All results on all samples as bytes."""
        codebase = read(self.root / "all", Settings(**settings))
        diagnosis = diagnose(codebase, excused=True)
        parts: dict[str, Callable[[Codebase], object]] = {
            "bonds": lambda codebase: [codebase.bond(row) for row in codebase.rows_in_order()],
            "diagnosis": lambda codebase: diagnosis,
            "rank": lambda codebase: rank(codebase, diagnosis),
            "plan": lambda codebase: plan(codebase, diagnosis),
            "registrations": lambda codebase: codebase.registrations,
            "roles": lambda codebase: [codebase.roles[number] for number in range(len(codebase.symbols))],
            "trouble": lambda codebase: (codebase.trouble, codebase.left_out),
        }
        return {name: msgspec.json.encode(make(codebase)) for name, make in parts.items()}

    def lower_thresholds(self) -> None:
        for module, name, value in THRESHOLDS:
            self.addCleanup(setattr, module, name, getattr(module, name))
            setattr(module, name, value)

    def test_workers(self) -> None:
        wanted = self.everything(workers=1)
        self.lower_thresholds()
        for workers in (2, 5):
            found = self.everything(workers=workers)
            for name, content in wanted.items():
                with self.subTest(workers=workers, name=name):
                    self.assertEqual(found[name].replace(f'"workers":{workers}'.encode(), b'"workers":1'), content)

    def test_cache(self) -> None:
        wanted = self.everything(workers=1)
        self.lower_thresholds()
        folder = str(self.root.parent / "cache")
        for attempt in ("cold", "warm"):
            with self.subTest(attempt=attempt):
                self.assertEqual(self.everything(workers=3, cache_folder=folder), wanted)

    def test_order_on_the_disk_and_hash_seed(self) -> None:
        """A copy made backwards, read with other seeds, says the same on standard output."""
        backwards = self.root / "copy/all"
        for path in sorted((self.root / "all").rglob("*"), reverse=True):
            if path.is_file():
                target = backwards / path.relative_to(self.root / "all")
                target.parent.mkdir(parents=True, exist_ok=True)
                shutil.copyfile(path, target)
        commands = (
            ("scan", "--format", "json"),
            ("rank", "--top", "0"),
            ("plan", "--format", "markdown"),
            ("export", "types"),
            ("export", "graph"),
            ("layers", "--format", "json"),
            ("wiring", "--format", "json"),
            ("trace", "--format", "json"),
            ("scan", "--format", "sarif"),
        )
        outputs = [self.answers(commands, folder, seed) for folder, seed in (("all", "1"), ("copy/all", "2"))]
        for command, *answers in zip(commands, *outputs, strict=True):
            with self.subTest(command=command):
                self.assertEqual(answers[0], answers[1])
                self.assertGreater(len(answers[0]), 300)

    def answers(self, commands: tuple[tuple[str, ...], ...], folder: str, seed: str) -> list[str]:
        """What several commands say of a folder, run in one process with a hash seed."""
        calls = [
            [
                command[0],
                *command[1:2] * (command[0] == "export"),
                ".",
                *command[1 + (command[0] == "export") :],
                "--no-cache",
            ]
            for command in commands
        ]
        code = (
            f"from isodesm.cli.app import app\nfor call in {calls!r}:\n    try: app(call)\n    except SystemExit: pass\n    "
            f"print('\\0', end='', flush=True)"
        )
        environment = {**os.environ, "COLUMNS": "100", "PYTHONHASHSEED": seed}
        result = subprocess.run([sys.executable, "-c", code], capture_output=True, cwd=self.root / folder, env=environment)
        return result.stdout.decode().split("\0")[:-1]

    def test_ids_do_not_depend_on_what_is_listed(self) -> None:
        codebase = read(self.root / "all", Settings())
        listed, unlisted = (diagnose(codebase, excused=excused) for excused in (True, False))
        self.assertEqual(listed.findings, unlisted.findings)
        ids = [finding.id for finding in (*listed.findings, *listed.excused)]
        self.assertEqual(len(ids), len(set(ids)))
        self.assertEqual(sum(listed.by_excuse.values()), len(listed.excused))
