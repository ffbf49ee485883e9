"""History: renames, windows, bulk commits, what there is where there is none; churn, partners, chances, the evaluation."""

from __future__ import annotations

import os
import shutil
import subprocess
import unittest
from pathlib import Path

from isodesm.codebase.reading import read
from isodesm.demo.history import give_history
from isodesm.diagnosis.diagnose import diagnose
from isodesm.measures.churn import Churn, weight_of
from isodesm.measures.evaluation import evaluate, rank_correlation
from isodesm.measures.graph import ClassGraph
from isodesm.measures.ripple import LEAST_CHANGES, USUAL, estimate_chances, score_interval
from isodesm.reading.history import History, head_of, read_history
from tests.support import DEMO, TreeTest

WITHOUT_GIT = unittest.skipUnless(shutil.which("git"), "git is not installed")


class GitTest(TreeTest):
    """A repository made of commits: each a dict of path to content (None: deleted), by an author, on a day."""

    def git(self, *arguments: str, **environment: str) -> str:
        done = subprocess.run(
            ["git", "-c", "user.name=x", "-c", "user.email=x@hollin.example", *arguments],
            cwd=self.root,
            env=os.environ | environment,
            capture_output=True,
            text=True,
            check=True,
        )
        return done.stdout

    def commit(self, files: dict[str, str | None], author: str = "ilva", day: int = 1) -> None:
        if not (self.root / ".git").exists():
            self.git("init", "--quiet")
        for name, content in files.items():
            if content is None:
                (self.root / name).unlink()
            else:
                self.write({name: content})
        self.git("add", "--all")
        when = f"2026-01-{day:02} 12:00:00 +0000"
        self.git(
            "commit",
            "--quiet",
            "--allow-empty",
            f"--author={author} <{author}@hollin.example>",
            "-m",
            "x",
            GIT_AUTHOR_DATE=when,
            GIT_COMMITTER_DATE=when,
        )

    def commit_many(self, commits: list[dict[str, str]]) -> None:
        """Many commits at once, by a stream; the folder then holds what the last ones left."""
        self.git("init", "--quiet")
        stream = []
        for day, files in enumerate(commits):
            stream.append(
                f"commit refs/heads/main\ncommitter x <x@hollin.example> {1_790_000_000 + 60 * day} +0000\ndata 1\nx\n"
            )
            stream += [f"M 100644 inline {name}\ndata {len(content.encode())}\n{content}\n" for name, content in files.items()]
        subprocess.run(
            ["git", "fast-import", "--quiet"], cwd=self.root, input="".join(stream).encode(), capture_output=True, check=True
        )
        self.git("symbolic-ref", "HEAD", "refs/heads/main")
        self.git("reset", "--quiet", "--hard")


def told(history: History) -> list[list[str]]:
    return [sorted(history.paths[change.path] for change in commit.changes) for commit in history.commits]


CLASS = "package a;\npublic class {0} {{\n{1}}}\n"


def lines(count: int) -> str:
    return "".join(f"  int m{n}() {{ return {n}; }}\n" for n in range(count))


@WITHOUT_GIT
class ReadingTest(GitTest):
    def test_renames_are_followed_to_todays_name(self) -> None:
        self.commit({"Old.java": CLASS.format("Old", lines(9)), "Other.java": "class Other { }\n"})
        self.commit({"Old.java": CLASS.format("Old", lines(10))}, day=2)
        self.commit({"Old.java": None, "sub/New.java": CLASS.format("New", lines(10))}, day=3)
        self.commit({"sub/New.java": CLASS.format("New", lines(11))}, day=4)
        self.assertEqual(
            told(read_history(self.root)),
            [["Other.java", "sub/New.java"], ["sub/New.java"], ["sub/New.java"], ["sub/New.java"]],
        )

    def test_white_space_is_no_change(self) -> None:
        self.commit({"A.java": CLASS.format("A", lines(3))})
        self.commit({"A.java": CLASS.format("A", lines(3).replace("  int", "\t\tint"))}, day=2)
        self.assertEqual(told(read_history(self.root)), [["A.java"], []])

    def test_window_authors_and_subfolder(self) -> None:
        self.commit({"in/A.java": "class A { }\n", "B.java": "class B { }\n"}, day=1)
        self.commit({"in/A.java": "class A { int x; }\n"}, author="oda", day=20)
        self.assertEqual(told(read_history(self.root, since="2026-01-10")), [["in/A.java"]])
        inside = read_history(self.root / "in")
        self.assertEqual(told(inside), [["A.java"], ["A.java"]])
        self.assertEqual(len({commit.author for commit in inside.commits}), 2)

    def test_merges_and_names_with_odd_signs(self) -> None:
        self.commit({"A b\tc.java": "class A { }\n", "Ä.java": "class Ä { }\n"})
        self.git("checkout", "--quiet", "-b", "side")
        self.commit({"B.java": "class B { }\n"}, day=2)
        self.git("checkout", "--quiet", "-")
        self.commit({"C.java": "class C { }\n"}, day=3)
        self.git("merge", "--quiet", "--no-edit", "side")
        history = read_history(self.root)
        self.assertEqual(sorted(sum(told(history), [])), ["A b\tc.java", "B.java", "C.java", "Ä.java"])

    def test_what_is_said_where_there_is_none(self) -> None:
        self.write({"A.java": "class A { }"})
        self.assertIn("no git repository", read_history(self.root).remark)
        self.assertEqual(head_of(self.root), "")
        shown = self.run_program("rank").stdout
        self.assertIn("history: this is no git repository", shown)
        self.assertIn("git is not installed", self.run_program("rank", "--no-cache", PATH="/nonexistent").stdout)

    def test_shallow_clones_say_so(self) -> None:
        for day in (1, 2, 3):
            self.commit({"A.java": f"class A {{ int x{day}; }}\n"}, day=day)
        clone = self.root.parent / "clone"
        subprocess.run(
            ["git", "clone", "--quiet", "--depth", "1", self.root.as_uri(), str(clone)], check=True, capture_output=True
        )
        history = read_history(clone)
        self.assertEqual((len(history.commits), "shallow" in history.remark), (1, True))

    def test_the_cache_holds_by_commit(self) -> None:
        folder = str(self.root.parent / "cache")
        self.commit({"A.java": "class A { }\n"})
        first = read_history(self.root, "", folder, 10**8)
        self.assertEqual(read_history(self.root, "", folder, 10**8), first)
        self.commit({"A.java": "class A { int x; }\n"}, day=2)
        self.assertEqual(len(read_history(self.root, "", folder, 10**8).commits), 2)

    def test_a_new_commit_gives_a_new_answer(self) -> None:
        self.commit({"A.java": "class A { B b; }\n", "B.java": "class B { }\n"})
        cached = ("rank", "--format", "csv", "--cache-dir", str(self.root.parent / "cache"))
        before = self.run_program(*cached).stdout
        self.commit({}, day=2)
        self.git("commit", "--quiet", "--amend", "--no-edit", "--allow-empty")
        self.commit({"A.java": "class A { B b; int n; }\n"}, day=3)
        self.commit({"A.java": "class A { B b; }\n"}, day=4)
        self.assertNotEqual(self.run_program(*cached).stdout, before)


@WITHOUT_GIT
class ChurnTest(GitTest):
    def test_worked_example(self) -> None:
        """Three commits of two files, one of the first alone; the fifth touches 240 files and hardly counts."""
        for day in (1, 2, 3):
            self.commit(
                {"a/Shop.java": CLASS.format("Shop", lines(day)), "a/Till.java": CLASS.format("Till", lines(day))}, day=day
            )
        self.commit({"a/Shop.java": CLASS.format("Shop", lines(9))}, author="oda", day=4)
        self.commit(
            {f"x/{n}.txt": "x" for n in range(238)}
            | {"a/Shop.java": CLASS.format("Shop", lines(8)), "a/Till.java": CLASS.format("Till", lines(8))},
            day=5,
        )
        codebase = read(self.root)
        churn = Churn(codebase, read_history(self.root))
        number = next(n for n, facts in enumerate(codebase.symbols.files) if facts.path == "a/Shop.java")
        self.assertEqual((round(float(churn.commits_of[number]), 2), churn.authors_of[number]), (4.01, 2))
        (partner,) = churn.partners(number)
        self.assertEqual((partner.name, partner.together, partner.share), ("a.Till", 3, 0.75))

    def test_bulk_commits_fade(self) -> None:
        for files, weight in ((1, 1.0), (24, 1.0), (48, 0.25), (240, 0.01)):
            self.assertAlmostEqual(weight_of(files), weight)

    def test_chances_are_learnt_and_doubted(self) -> None:
        """Whoever extends a base changes with it nine times in ten; fields and their types never together."""
        parts = {f"S{n}.java": f"class S{n} extends Base {{ }}\n" for n in range(4)}
        commits = [
            {"Base.java": "class Base { }\n", "Part.java": "class Part { }\n", "Has.java": "class Has { Part p; }\n"} | parts
        ]
        for turn in range(int(LEAST_CHANGES)):
            body = f"int x{turn};"
            changed = {"Base.java": f"class Base {{ {body} }}\n"}
            if turn % 10:
                changed |= {name: text.replace("{ }", f"{{ {body} }}") for name, text in parts.items()}
            commits += [changed, {"Part.java": f"class Part {{ {body} }}\n"}, {"Has.java": f"class Has {{ Part p; {body} }}\n"}]
        self.commit_many(commits)
        codebase = read(self.root)
        chances = {each.kind: each for each in estimate_chances(ClassGraph(codebase), Churn(codebase, read_history(self.root)))}
        extends, field, call = chances["extends"], chances["field"], chances["call"]
        self.assertTrue(extends.estimated and 0.7 < extends.low < extends.chance < extends.high <= 0.95, extends)
        self.assertEqual((field.estimated, field.chance), (False, USUAL["field"]), "no better than chance: the usual one stays")
        self.assertEqual((call.estimated, call.chance), (False, USUAL["call"]))

    def test_a_ranking_that_foretells_does_and_one_that_does_not_says_so(self) -> None:
        """Hubs drag their users along; loners change alone: fan-in foretells that, and the interval is above 0."""
        files = {f"Hub{n}.java": f"class Hub{n} {{ }}\n" for n in range(5)}
        files |= {f"Use{n}{m}.java": f"class Use{n}{m} {{ Hub{n} h; }}\n" for n in range(5) for m in range(n + 1)}
        files |= {f"Lone{n}.java": f"class Lone{n} {{ }}\n" for n in range(8)}
        commits = [files]
        for turn in range(12):
            for n in range(5):
                users = {f"Use{n}{m}.java": f"class Use{n}{m} {{ Hub{n} h; int x{turn}; }}\n" for m in range(n + 1)}
                commits.append({f"Hub{n}.java": f"class Hub{n} {{ int x{turn}; }}\n"} | users)
            alone = [name for n in range(5) for name in (f"Use{n}{m}.java" for m in range(n + 1))] * 3
            commits += [
                {name: f"class {name[:-5]} {{ Hub{name[3]} h; int y{turn}{count}; }}\n"} for count, name in enumerate(alone)
            ]
            commits += [{f"Lone{n}.java": f"class Lone{n} {{ int x{turn}; }}\n"} for n in range(8)]
        self.commit_many(commits)
        codebase = read(self.root)
        found = evaluate(codebase, diagnose(codebase), read_history(self.root))
        rho = {each.ranking: each for each in found.correlations}
        self.assertGreaterEqual(found.files, 20)
        self.assertTrue(0 < rho["ripple"].low <= rho["ripple"].rho <= rho["ripple"].high, rho)
        self.assertEqual(rho["strain"].rho, 0.0)  # nothing is hard here, so strain can't tell
        self.assertIn("no better than chance", " ".join(self.run_program("rank", "--evaluate").stdout.split()))


class StatisticsTest(unittest.TestCase):
    def test_rank_correlation(self) -> None:
        import numpy

        for one, other, wanted in (
            ([1, 2, 3], [10, 20, 90], 1.0),
            ([1, 2, 3], [3, 2, 1], -1.0),
            ([1, 1, 1], [1, 2, 3], 0.0),
            ([1, 2, 2, 4], [1, 3, 3, 9], 1.0),
        ):
            self.assertAlmostEqual(rank_correlation(numpy.array(one), numpy.array(other)), wanted)

    def test_score_interval(self) -> None:
        for share, count, low, high in ((0.5, 100, 0.404, 0.596), (0.0, 10, 0.0, 0.278), (1.0, 10, 0.722, 1.0)):
            found = score_interval(share, count)
            self.assertAlmostEqual(found[0], low, 3)
            self.assertAlmostEqual(found[1], high, 3)


@WITHOUT_GIT
class DemoHistoryTest(TreeTest):
    def test_every_sample_ends_with_what_lies_there(self) -> None:
        for sample in sorted(path.name for path in DEMO.iterdir() if path.is_dir()):
            root = self.root / sample
            shutil.copytree(DEMO / sample, root, ignore=shutil.ignore_patterns("__pycache__"))
            with self.subTest(sample=sample):
                self.assertTrue(give_history(root))
                self.assertEqual(self.status(root), "")
                history = read_history(root)
                self.assertGreaterEqual(len(history.commits), 6)
                self.assertGreaterEqual(len({commit.author for commit in history.commits}), 2)
                self.assertFalse(give_history(root), "never into a repository that is there")

    def status(self, root: Path) -> str:
        return subprocess.run(["git", "status", "--short"], cwd=root, capture_output=True, text=True, check=True).stdout
