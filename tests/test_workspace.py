"""What is kept of a tree answers the next question without reading, and says the same as working it out anew."""

from __future__ import annotations

import shutil

import msgspec

from isodesm.cli.phases import Phases
from isodesm.cli.workspace import Workspace
from isodesm.codebase.model import Codebase
from isodesm.codebase.reading import read
from isodesm.planning.planner.options import Options
from isodesm.reading.replay import Replay
from isodesm.settings import Settings
from tests.support import DEMO, TreeTest

PARTS = {
    "overview": lambda work: work.overview,
    "diagnosis": lambda work: work.diagnosis,
    "in full": lambda work: work.diagnosis_in_full,
    "ranking": lambda work: work.ranking(),
    "by fan-in": lambda work: work.ranking("fan-in"),
    "plan": lambda work: work.plan(Options(steps=3, techniques=frozenset(("extract-interface", "hand-in"))), []),
}
COMMANDS = (
    ("scan",),
    ("scan", "--top", "2", "--format", "json"),
    ("scan", "--class", "ClosureService", "--excused"),
    ("rank", "--by", "fan-out", "--top", "3"),
    ("rank", "--format", "csv"),
    ("plan", "--steps", "2"),
    ("plan", "--steps", "2", "--format", "json"),
    ("about", "ClosureService"),
)


class WorkspaceTest(TreeTest):
    def setUp(self) -> None:
        super().setUp()
        self.tree = self.root / "slope-map"
        shutil.copytree(DEMO / "slope-map", self.tree)
        self.kept = Settings(cache_folder=str(self.root / "cache"))

    def work(self, settings: Settings | None = None) -> Workspace:
        def ask(phases: Phases, replay: Replay | None) -> Codebase:
            self.asked += 1
            return read(self.tree, settings or self.kept, replay=replay)

        self.asked = 0
        return Workspace(self.tree, settings or self.kept, ask)

    def bytes_of(self, work: Workspace) -> dict[str, bytes]:
        return {name: msgspec.json.encode(give(work)) for name, give in PARTS.items()}

    def test_what_is_kept_is_what_is_worked_out(self) -> None:
        wanted = self.bytes_of(self.work(Settings()))
        for attempt in ("cold", "warm"):
            with self.subTest(attempt=attempt):
                work = self.work()
                for name, content in self.bytes_of(work).items():
                    with self.subTest(attempt=attempt, part=name):
                        self.assertEqual(content, wanted[name])
                self.assertEqual(self.asked, int(attempt == "cold"), "times that the tree was read")
        self.assertEqual(msgspec.json.encode(self.work().codebase.overview), wanted["overview"])

    def test_linking_is_kept_as_it_was(self) -> None:
        rows = [[each.bond(row) for row in each.rows_in_order()] for each in (self.work().codebase, self.work().codebase)]
        self.assertEqual(rows[0], rows[1])
        self.assertTrue(rows[0])

    def test_who_edits_does_not_wait_for_what_is_excused_and_gets_it_when_it_is_asked_for(self) -> None:
        path = next(self.tree.rglob("*.ts"))
        for asked, edit in ((0, ""), (1, "// a remark\n")):
            path.write_text(path.read_text() + edit)
            _ = self.work().diagnosis
            found = self.work()
            full = msgspec.json.encode(found.diagnosis_in_full)
            with self.subTest(edit=edit):
                self.assertEqual(self.asked, asked, "times that the tree was read once more for the excused places")
                self.assertEqual(full, msgspec.json.encode(self.work(Settings()).diagnosis_in_full))

    def test_a_changed_tree_is_read_again(self) -> None:
        before = self.bytes_of(self.work())
        path = next(self.tree.rglob("*.ts"))
        path.write_text(
            path.read_text() + "\nexport class Extra { go() { fetch('x'); } }\nexport class More { e = new Extra(); }\n"
        )
        after = self.bytes_of(self.work())
        self.assertEqual(self.asked, 1)
        self.assertNotEqual(after["diagnosis"], before["diagnosis"])
        self.assertEqual(after, self.bytes_of(self.work(Settings())))

    def test_nothing_is_kept_of_a_tree_that_changed_while_it_was_read(self) -> None:
        work = self.work()
        path = next(self.tree.rglob("*.ts"))
        path.write_text(path.read_text() + "\nexport class Extra {}\n")
        self.assertIn("Extra", {each.simple for each in work.overview.shown})
        path.write_text(path.read_text().replace("\nexport class Extra {}\n", ""))
        again = self.work()
        self.assertNotIn("Extra", {each.simple for each in again.overview.shown})
        self.assertEqual(self.asked, 1)

    def test_commands_say_the_same_whatever_was_asked_before(self) -> None:
        for each in reversed(COMMANDS):
            with self.subTest(command=each):
                found = self.run_program(*each, str(self.tree), "--cache-dir", str(self.root / "c"))
                self.assertEqual(found.stdout, self.run_program(*each, str(self.tree), "--no-cache").stdout)
