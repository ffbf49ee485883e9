"""A tree as steps would leave it, in memory and on disk: the same is found in both."""

from __future__ import annotations

import shutil

import isodesm
from isodesm.codebase.edited import edited
from isodesm.codebase.model import Codebase, read
from isodesm.planning.planner import plan
from isodesm.planning.settling import contents_after
from tests.carrying import carry_out
from tests.support import DEMO, TreeTest


def judged(codebase: Codebase) -> list[tuple[object, ...]]:
    found = isodesm.diagnose(codebase)
    return [(each.id, each.level, each.effects, each.source, each.target, each.line) for each in found.places]


class EditedTest(TreeTest):
    def test_the_same_is_found_in_memory_and_on_disk(self) -> None:
        for name in ("bulletin-desk", "forecast-jobs", "warden-portal"):
            with self.subTest(sample=name):
                tree = self.root / name
                shutil.copytree(DEMO / name, tree)
                codebase = read(tree)
                steps = plan(codebase, isodesm.diagnose(codebase)).steps
                after = edited(codebase, contents_after(codebase, steps))
                for step in steps:
                    carry_out(tree, step)
                self.assertNotEqual(judged(after), judged(codebase))
                self.assertEqual(judged(after), judged(read(tree)))

    def test_plan_says_what_did_not_hold(self) -> None:
        done = self.run_program("plan", str(DEMO / "bulletin-desk"), "--verbose", "--brief")
        self.assertIn("decisions left for what would be written did not hold, by check: none", done.stderr)
        self.assertNotIn("by check", self.run_program("plan", str(DEMO / "bulletin-desk"), "--brief").stderr)
