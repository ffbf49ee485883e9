"""The same tree gives the same bytes: whatever the workers, the cache, the order on the disk, or the hash seed."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path

import msgspec

from isodesm.codebase import linking, reading
from isodesm.codebase.model import Codebase, read
from isodesm.diagnosis import hardbonds
from isodesm.measures.ranking import rank
from isodesm.planning.planner import plan
from isodesm.settings import Settings
from tests.support import DEMO, TreeTest

THRESHOLDS = ((reading, "SERIAL_BYTES", 0), (reading, "BATCH_BYTES", 4_000), (linking, "SERIAL_FILES", 0), (linking, "FILES_PER_TASK", 3),
              (hardbonds, "PARALLEL_ROWS", 0), (hardbonds, "ROWS_PER_TASK", 7))  # fmt: skip
"""Limits below which work is not handed to workers, with values that hand over everything in small portions."""


class SameBytesTest(TreeTest):
    def setUp(self) -> None:
        super().setUp()
        shutil.copytree(DEMO, self.root / "all")

    def everything(self, **settings: object) -> dict[str, bytes]:
        """All results on all samples as bytes."""
        codebase = read(self.root / "all", Settings(**settings))
        diagnosis = hardbonds.diagnose(codebase, excused=True)
        parts: dict[str, Callable[[Codebase], object]] = {
            "bonds": lambda codebase: [codebase.bond(row) for row in codebase.rows_in_order()],
            "diagnosis": lambda codebase: diagnosis, "rank": lambda codebase: rank(codebase, diagnosis),
            "plan": lambda codebase: plan(codebase, diagnosis), "registrations": lambda codebase: codebase.registrations,
            "roles": lambda codebase: [codebase.roles[number] for number in range(len(codebase.symbols))],
            "trouble": lambda codebase: (codebase.trouble, codebase.left_out),
        }  # fmt: skip
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
        commands = (("scan", "--format", "json"), ("rank", "--top", "0"), ("plan", "--format", "markdown"), ("export", "types"), ("export", "graph"))
        for command in commands:
            with self.subTest(command=command):
                outputs = {
                    self.run_program(command[0], *command[1:2] * (command[0] == "export"), str(folder), *command[1 + (command[0] == "export") :],
                                     "--no-cache", PYTHONHASHSEED=seed).stdout
                    for folder, seed in ((Path("all"), "1"), (Path("copy/all"), "2"))
                }  # fmt: skip
                self.assertEqual(len(outputs), 1)
                self.assertGreater(len(outputs.pop()), 300)

    def test_ids_do_not_depend_on_what_is_listed(self) -> None:
        codebase = read(self.root / "all", Settings())
        listed, unlisted = (hardbonds.diagnose(codebase, excused=excused) for excused in (True, False))
        self.assertEqual(listed.findings, unlisted.findings)
        ids = [finding.id for finding in (*listed.findings, *listed.excused)]
        self.assertEqual(len(ids), len(set(ids)))
        self.assertEqual(sum(listed.by_excuse.values()), len(listed.excused))
