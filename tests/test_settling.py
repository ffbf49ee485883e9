"""A tree as steps would leave it, in memory and on disk: the same is found in both."""

from __future__ import annotations

import shutil
from unittest import mock

import msgspec

import isodesm
from isodesm.codebase.edited import edited
from isodesm.codebase.model import Codebase
from isodesm.codebase.reading import read
from isodesm.planning.planner import plan as planner
from isodesm.planning.planner.options import Options
from isodesm.planning.planner.plan import plan
from isodesm.planning.planner.reconcile import contents_after, expected_of, settled
from tests.carrying import carry_out
from tests.support import DEMO, TreeTest, read_sample


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

    def test_what_was_let_go_is_worked_out_once_more(self) -> None:
        codebase = read_sample("bulletin-desk")
        before, rows = judged(codebase), len(codebase.bonds)
        first = plan(codebase, isodesm.diagnose(codebase))
        with mock.patch.object(planner, "LARGE", 0):
            self.assertEqual(plan(codebase, isodesm.diagnose(codebase)), first)
        self.assertIsNone(codebase._inferred)
        self.assertEqual((judged(codebase), len(codebase.bonds)), (before, rows))

    def test_plan_says_what_did_not_hold(self) -> None:
        done = self.run_program("plan", str(DEMO / "bulletin-desk"), "--verbose", "--brief")
        self.assertIn("decisions left for what would be written did not hold, by check: none", done.stderr)
        self.assertNotIn("by check", self.run_program("plan", str(DEMO / "bulletin-desk"), "--brief").stderr)


class FiguresTest(TreeTest):
    def test_what_nobody_expected_counts_from_its_step_and_where_no_scan_tells_is_estimated(self) -> None:
        codebase = read_sample("forecast-jobs")
        steps = plan(codebase, isodesm.diagnose(codebase), Options(settle=False)).steps
        found = [isodesm.diagnose(edited(codebase, contents_after(codebase, steps[:n]))).hard for n in range(len(steps) + 1)]
        kept = msgspec.structs.replace(next(each for each in found[0] if each.level == "error"), target="kept.by.Mistake")
        expected = expected_of(codebase, lambda count: [*found[count], *([kept] if count >= 4 else [])])
        for scans, estimated in ((len(steps), []), (0, list(range(1, len(steps) + 1)))):
            with self.subTest(scans=scans):
                now = settled(codebase, steps, expected, scans)
                self.assertEqual([each.number for each in now if each.estimated], estimated)
                more = [new.after.hard_bonds - old.after.hard_bonds for new, old in zip(now, steps, strict=True)]
                self.assertEqual(more, [0] * 3 + [-1] * (len(steps) - 3))  # the step that is wrong about it is the likeliest
                said = [[one for one in each.hazards if "scan" in one] for each in now]
                self.assertEqual([n for n, each in enumerate(said, 1) if each], [4])
                self.assertIn("then" if scans else f"by step {len(steps)}", said[3][0])


class AnewTest(TreeTest):
    def test_a_plan_made_anew_after_some_steps_goes_on(self) -> None:
        for name in sorted(each.name for each in DEMO.iterdir() if each.is_dir()):
            with self.subTest(sample=name):
                tree = self.root / name
                shutil.copytree(DEMO / name, tree)
                codebase = read(tree)
                first = plan(codebase, isodesm.diagnose(codebase))
                for at, step in enumerate(first.steps[: 2 * len(first.steps) // 3], 1):
                    carry_out(tree, step)
                    if at in (2, len(first.steps) // 3, 2 * len(first.steps) // 3):
                        now = read(tree)
                        mistakes: list[Exception] = []
                        anew = plan(now, isodesm.diagnose(now), mistakes=mistakes)
                        self.assertEqual((mistakes, anew.unproven), ([], {}), at)
                        self.assertEqual(anew.hard_bonds[1], first.hard_bonds[1], at)
                        self.assertNotRegex(" ".join(each.title for each in anew.steps), r"(Port|Adapter)2\b")

    def test_an_object_that_stands_for_a_static_class_already_is_used(self) -> None:
        calls = {"Siren": "Siren.wail(at);", "Log": "new Log().wail(at);"}
        for called, body in calls.items():
            with self.subTest(called=called):
                codebase = self.read(
                    {
                        "desk/Siren.java": """package desk;
public class Siren {
    private Siren() {}
    public static void wail(String at) { new java.io.File(at).delete(); }
    public static void rest(String at) { new java.io.File(at).mkdir(); }
}
""",
                        "desk/SirenPort.java": "package desk;\npublic interface SirenPort {\n    void wail(String at);\n}\n",
                        "desk/SirenAdapter.java": "package desk;\npublic class SirenAdapter implements SirenPort {\n"
                        f"    @Override\n    public void wail(String at) {{\n        {body}\n    }}\n}}\n",
                        "desk/Log.java": "package desk;\nclass Log {\n    void wail(String at) {\n    }\n}\n",
                        "desk/Round.java": "package desk;\npublic class Round {\n    void go() {\n"
                        '        Siren.wail("a");\n    }\n}\n',
                        "desk/Rest.java": "package desk;\npublic class Rest {\n    void go() {\n"
                        '        Siren.rest("a");\n    }\n}\n',
                    }
                )
                steps = plan(codebase, isodesm.diagnose(codebase)).steps
                text = {
                    step.title: "".join(edit.text for edit in step.edits) for step in steps if step.classes[0] == "desk.Round"
                }
                self.assertEqual({"new SirenAdapter()" in each for each in text.values()}, {called == "Siren"}, text)
