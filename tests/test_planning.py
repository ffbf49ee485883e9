"""Plans of the samples step by step, held against compilers and a new scan, and what narrows a plan."""

from __future__ import annotations

import shutil
import unittest
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

import isodesm
from isodesm.codebase.reading import read
from isodesm.planning.model.step import TECHNIQUES, Step
from tests.carrying import carry_out, has_compiler, outcome, suffix_of
from tests.support import DEMO, TreeTest, part_of, plan_of, read_sample

SAMPLES = ("bulletin-desk", "sensor-hub", "slope-map", "warden-portal", "forecast-jobs")


class SamplesTest(TreeTest):
    """All steps of each sample's plan carried out exactly as written: its tests pass, its program says what it did, and it
    measures as predicted, after every one."""

    @part_of("green")
    def test_it_builds_after_every_step(self) -> None:
        built: dict[tuple[str, str], Future[str]] = {}
        with ThreadPoolExecutor(2) as pool:
            for name, tree, step in self.carried_out():
                if has_compiler(suffix_of(tree)):
                    title = step.title if step else ""
                    copy = shutil.copytree(tree, self.root / "built" / f"{name}-{step.number if step else 0}")
                    built[name, title] = pool.submit(outcome, name, copy)
        for (name, title), said in built.items():
            with self.subTest(sample=name, step=title):
                self.assertEqual(said.result(), built[name, ""].result())
                self.assertNotIn("failed", said.result())

    def test_it_measures_as_predicted(self) -> None:
        for name, tree, step in self.carried_out():
            if step is not None:
                with self.subTest(sample=name, step=step.title):
                    self.check_measures(tree, step)

    def carried_out(self) -> Iterator[tuple[str, Path, Step | None]]:
        """Each sample as it is, and after each of its steps."""
        for name in SAMPLES:
            tree = self.root / name
            shutil.copytree(DEMO / name, tree, ignore=shutil.ignore_patterns("__pycache__"))
            made = plan_of(read(tree))
            self.assertGreaterEqual(len(made.steps), 5)
            self.assertEqual(made.kept, ())
            yield name, tree, None
            for step in made.steps:
                carry_out(tree, step)
                yield name, tree, step

    def check_measures(self, tree: Path, step: Step) -> None:
        codebase = read(tree)
        ranking = isodesm.rank(codebase, isodesm.diagnose(codebase))
        self.assertEqual((ranking.total_strain, ranking.total_hard_bonds), (step.after.strain, step.after.hard_bonds))
        for row in (row for row in ranking.classes if row.name == step.classes[0]):
            actual = (row.strain, row.hard_bonds, row.locked_effects)
            self.assertEqual(actual, (step.after.class_strain, step.after.class_hard_bonds, step.after.locked_effects))

    @part_of("green")
    def test_compilers_are_there(self) -> None:
        missing = [name for name in SAMPLES if not has_compiler(suffix_of(DEMO / name))]
        if missing:
            self.skipTest(f"no compiler for {', '.join(missing)}: that they build after each step is not shown")


class OrderTest(TreeTest):
    def test_what_a_step_needs_comes_before_it(self) -> None:
        for name in SAMPLES:
            seen: set[str] = set()
            for step in plan_of(read_sample(name)).steps:
                with self.subTest(sample=name, step=step.title):
                    self.assertLessEqual(set(step.needs), seen)
                    self.assertNotIn(step.id, seen)
                    self.assertIn(step.technique, TECHNIQUES)
                    self.assertTrue(step.edits and all(edit.line >= 1 and edit.action for edit in step.edits))
                seen.add(step.id)

    def test_a_plan_made_again_ticks_what_is_done_and_keeps_its_ids(self) -> None:
        for name in SAMPLES:
            tree = self.root / name
            shutil.copytree(DEMO / name, tree, ignore=shutil.ignore_patterns("__pycache__"))
            first = plan_of(read(tree))
            self.assertEqual(first.done, ())
            for step in first.steps[:6]:
                carry_out(tree, step)
            again = plan_of(read(tree), earlier=frozenset(step.id for step in first.steps))
            with self.subTest(sample=name):
                kinds = ("extract-interface", "hand-in")
                self.assertEqual(
                    {each.id for each in again.done}, {step.id for step in first.steps[:6] if step.id.startswith(kinds)}
                )
                self.assertLessEqual(
                    {step.id for step in again.steps if step.id.startswith(kinds)}, {step.id for step in first.steps[6:]}
                )


class OptionsTest(TreeTest):
    def setUp(self) -> None:
        super().setUp()
        self.codebase = read_sample("bulletin-desk")
        self.whole = plan_of(self.codebase)

    def test_a_shorter_plan_is_the_beginning_of_the_longer(self) -> None:
        short = plan_of(self.codebase, steps=4)
        self.assertEqual(short.steps, self.whole.steps[:4])
        self.assertGreater(short.not_shown, 0)

    def test_what_waits_behind_old_constructors_is_told_apart(self) -> None:
        horn = 'package p; class Horn { void sound() throws Exception { new java.net.Socket("a", 1).close(); } }'
        fog = "package p; class Fog { private final Horn horn = new Horn(); void warn() throws Exception { horn.sound(); } }"
        sources = {"p/Horn.java": horn, "p/Fog.java": fog}
        sources["p/Start.java"] = (
            "package p; class Start { public static void main(String[] a) throws Exception { new Fog().warn(); } }"
        )
        made = plan_of(read(self.write(sources)))
        self.assertEqual((made.waiting.classes, made.waiting.hard_bonds, made.waiting.strain), (0, 0, 0))
        sources["p/Sky.java"] = "package p; class Sky { void fall() throws Exception { new Fog().warn(); } }"
        made = plan_of(read(self.write(sources)))
        kept = [step for step in made.steps if step.title.endswith("old constructor kept")]
        self.assertIn("Retire the old constructor of Fog", [step.title for step in made.steps])
        self.assertEqual(made.waiting.classes, 1)  # nobody here makes the sky
        self.assertEqual(made.waiting.hard_bonds, sum(step.before.hard_bonds - step.after.hard_bonds for step in kept))

    def test_until(self) -> None:
        made = plan_of(self.codebase, until=50.0)
        self.assertLessEqual(made.steps[-1].after.strain, 50.0)
        self.assertGreater(made.steps[-1].before.strain, 50.0)
        self.assertEqual(made.steps, self.whole.steps[: len(made.steps)])

    def test_technique_keeps_what_it_needs(self) -> None:
        made = plan_of(self.codebase, techniques=frozenset(("replace-singleton",)))
        ids = {step.id for step in made.steps}
        self.assertIn("replace-singleton", {step.technique for step in made.steps})
        self.assertTrue(all(set(step.needs) <= ids for step in made.steps))
        self.assertLess(len(made.steps), len(self.whole.steps))

    def test_focus(self) -> None:
        number = self.codebase.symbols.names.index("org.hollin.desk.app.DutyRoster")
        made = plan_of(self.codebase, focus=frozenset((number,)))
        self.assertTrue(made.steps)
        self.assertTrue(
            all(
                any(name.endswith(".DutyRoster") for name in step.classes) or step.technique == "register"
                for step in made.steps
            )
        )
        self.assertLess(len(made.steps), len(self.whole.steps))

    def test_members_and_abstractions(self) -> None:
        def code(**options: bool) -> str:
            steps = plan_of(self.codebase, **options).steps
            return "".join(each.after for step in steps for each in step.code if not each.before)

        used, everything = code(), code(all_members=True)
        self.assertGreater(everything.count("("), used.count("("))
        self.assertNotIn("interface", code(no_new_abstractions=True))


if __name__ == "__main__":
    unittest.main()
