"""A codebase after edits is the one that a cold reading of the same files gives, whatever the edits were."""

from __future__ import annotations

import random
import re
import shutil
import unittest
from pathlib import Path
from typing import Any

import msgspec

import isodesm
from isodesm.codebase.edited import edited, renewed
from isodesm.codebase.model import Codebase
from isodesm.codebase.reading import read
from isodesm.codebase.size_limited_cache import bounded
from isodesm.linking import relink
from isodesm.reading.replay import Replay
from isodesm.settings import Acceptance, LayerRule, Limits, Settings
from tests.support import DEMO, TreeTest, share

SAMPLES = ("bulletin-desk", "sensor-hub", "slope-map", "warden-portal", "forecast-jobs")
EDITS = share("fuzz", 12, 60)
"""Edits of each sample, one after the other: three hundred of all."""
SETTINGS: tuple[dict[str, Any], ...] = (
    {"limits": Limits(most_dependencies=2, decisions=2)},
    {"accept": (Acceptance(kind="hard-wired-creation", reason="known"),)},
    {
        "layers": (
            LayerRule(name="outer", segments=("web", "ui", "views")),
            LayerRule(name="inner", segments=("domain", "core")),
        )
    },
    {"roles": {"*Service": "utility"}},
    {},
)


def mutated(text: str, chance: random.Random, others: list[str]) -> str:
    """A file with a line more, less, moved, from elsewhere, or with other words: bodies, names, bases and imports alike."""
    lines = text.split("\n")
    at, other = chance.randrange(len(lines)), chance.randrange(len(lines))
    kind = chance.randrange(7)
    if kind == 0:
        lines.insert(at, "")
    elif kind == 1:
        del lines[at]
    elif kind == 2:
        lines.insert(at, lines[at])
    elif kind == 3:
        lines[at], lines[other] = lines[other], lines[at]
    elif kind == 4:
        lines[at] = re.sub(r"\b\w+\b", lambda found: found[0] + chance.choice(["", "", "", "x"]), lines[at])
    elif kind == 5:
        lines.insert(at, chance.choice(others))
    else:
        lines[at] = re.sub(r"\d+|\"[^\"]*\"|'[^']*'", lambda found: found[0][:1] + found[0], lines[at])
    return "\n".join(lines)


class BoundedTest(unittest.TestCase):
    def test_what_was_not_asked_for_longest_goes_first(self) -> None:
        read: list[int] = []
        ask = bounded(lambda key: read.append(key) or bytes(key), len, 10)  # type: ignore[func-returns-value]
        for key in (4, 5, 4, 6, 4, 5, 20, 20, 4):
            self.assertEqual(len(ask(key)), key)
        self.assertEqual(read, [4, 5, 6, 5, 20, 4])


class EditedTest(TreeTest):
    def compare(self, warm: Codebase, cold: Codebase, what: str) -> None:
        self.assertEqual(
            [warm.bond(row) for row in warm.rows_in_order()], [cold.bond(row) for row in cold.rows_in_order()], what
        )
        said = [msgspec.json.encode(isodesm.diagnose(each)) for each in (warm, cold)]
        self.assertEqual(*said, what)

    def test_random_edits(self) -> None:
        only_changed = edits = went_on = 0
        for name in SAMPLES:
            chance, tree = random.Random(name), self.root / name
            shutil.copytree(DEMO / name, tree, ignore=shutil.ignore_patterns("__pycache__"))
            settings = Settings(cache_folder=str(self.root / "cache"), workers=1)
            codebase = read(tree, settings)
            for number in range(EDITS):
                edits += 1
                before = relink.shown(codebase.symbols.files)
                if number % 12 == 11:
                    settings = Settings(cache_folder=settings.cache_folder, workers=1, **SETTINGS[number // 12])
                    codebase = read(tree, settings, replay=Replay(tree, settings))
                elif number % 3 == 2:  # as the next run of the program reads it, or one that goes on
                    then = Replay(tree, settings)
                    self.edit(tree, chance, codebase)
                    now = Replay(tree, settings)
                    again = renewed(codebase, then, now)
                    went_on += again is not None
                    codebase = again or read(tree, settings, replay=now)
                else:
                    path = self.edit(tree, chance, codebase)
                    codebase = edited(codebase, {path: (tree / path).read_bytes() if (tree / path).exists() else None})
                same = len(before) == len(codebase.symbols.files)
                only_changed += same and [each.surface for each in before] == [f.surface for f in codebase.symbols.files]
                self.compare(codebase, read(tree, settings), f"{name}, edit {number}")
        self.assertEqual(edits, EDITS * len(SAMPLES))
        self.assertGreater(went_on, EDITS // 3)
        self.assertGreater(only_changed, edits // 4)  # else the short way was hardly tried

    def edit(self, tree: Path, chance: random.Random, codebase: Codebase) -> str:
        """Change, add, or take away one file; its path."""
        paths = [facts.path for facts in codebase.symbols.files]
        path = chance.choice(paths)
        text = (tree / path).read_text()
        if len(paths) > 4 and chance.random() < 0.06:
            (tree / path).unlink()
        elif chance.random() < 0.06:
            folder, _, name = path.rpartition("/")
            path = f"{folder}/more_{len(paths)}_{name}".lstrip("/")
            (tree / path).write_text(text)
        else:
            lines = (tree / chance.choice(paths)).read_text().split("\n")
            (tree / path).write_text(mutated(text, chance, lines))
        return path

    def test_the_cache_links_only_what_changed(self) -> None:
        """Over runs of the program: the next reading finds the bonds of the files that are as they were."""
        tree = self.root / "hut"
        shutil.copytree(DEMO / "bulletin-desk", tree)
        settings = Settings(cache_folder=str(self.root / "cache"), workers=1)
        read(tree, settings, replay=Replay(tree, settings))
        path = next(tree.rglob("*Service.java"))
        path.write_text(path.read_text().replace("{", "{ // changed", 1) + "\n")
        linked: list[list[int]] = []
        real = relink._assemble

        def counted(table: object, old: object, parts: dict[int, object], moved: object) -> None:
            linked.append(sorted(parts))
            real(table, old, parts, moved)

        relink._assemble = counted
        self.addCleanup(setattr, relink, "_assemble", real)
        warm = read(tree, settings, replay=Replay(tree, settings))
        self.assertEqual([len(each) for each in linked], [1])
        self.compare(warm, read(tree, Settings(workers=1)), "from the cache")


if __name__ == "__main__":
    unittest.main()
