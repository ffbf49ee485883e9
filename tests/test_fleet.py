"""Many trees: the same answers whatever answers them, and none lost when a tree, a worker or a scheduler fails."""

from __future__ import annotations

import csv
import io
import json
import os
import re
import shutil
import signal
import subprocess
import sys
import time
import unittest
from importlib.util import find_spec
from pathlib import Path
from typing import Any, ClassVar

from jsonschema import Draft202012Validator

from isodesm import __version__
from isodesm.fleet.executors import FleetBroken, _check_versions
from isodesm.fleet.shared import shared_types
from isodesm.fleet.trees import trees_of
from isodesm.output.schema import schema_document
from tests.support import DEMO, TreeTest, part_of

SAMPLES = sorted(path.name for path in DEMO.iterdir())
HAS_EXTRA = find_spec("distributed") is not None and find_spec("pyarrow") is not None
COPIES, SMALL = 10, ("forecast-jobs", "slope-map")


class FleetTest(TreeTest):
    def setUp(self) -> None:
        super().setUp()
        for name in SAMPLES:
            shutil.copytree(DEMO / name, self.root / "trees" / name)

    def fleet(self, *arguments: str, code: int = 0) -> dict[str, Any]:
        done = self.run_program("fleet", *arguments, "--format", "json", "-q")
        self.assertEqual(done.returncode, code, done.stderr)
        return json.loads(done.stdout)["result"]

    def test_a_tree_says_what_it_says_by_itself(self) -> None:
        found = self.fleet("trees/*", "--workers", "1")
        self.assertEqual([each["tree"] for each in found["trees"]][0], "bulletin-desk")
        for each in found["trees"]:
            alone = json.loads(self.run_program("rank", f"trees/{each['tree']}", "--format", "json").stdout)["result"]
            self.assertEqual(each["strain"], alone["summary"]["strain"])
            self.assertEqual(
                (each["worst"], each["worst_strain"]), (alone["classes"][0]["name"], alone["classes"][0]["strain"])
            )
        self.assertEqual(found["summary"]["strain"], sum(each["strain"] for each in found["trees"]))
        by_density = [each["density"] for each in self.fleet("trees/*", "--workers", "1", "--by", "density")["trees"]]
        self.assertEqual(by_density, sorted(by_density, reverse=True))

    def test_formats(self) -> None:
        answer = json.loads(self.run_program("fleet", "trees/*", "--workers", "1", "--shared", "--format", "json").stdout)
        self.assertEqual(list(Draft202012Validator(json.loads(schema_document())).iter_errors(answer)), [])
        rows = list(
            csv.DictReader(io.StringIO(self.run_program("fleet", "trees/*", "--workers", "1", "--format", "csv").stdout))
        )
        self.assertEqual({row["tree"] for row in rows}, set(SAMPLES))
        for width in (60, 80, 100, 200):
            table = self.run_program("fleet", "trees/*", "--workers", "1", COLUMNS=str(width)).stdout
            self.assertLessEqual(max(len(line.rstrip()) for line in table.splitlines()), width)
            for row in rows:
                self.assertRegex(
                    table, rf" {int(row['lines']):,} +{row['classes']} +{float(row['strain']):.0f} +{row['hard_bonds']} "
                )

    def test_a_page_about_all(self) -> None:
        self.run_program("fleet", "trees/*", "--workers", "1", "--report", "page.html", "-q")
        page = (self.root / "page.html").read_text(encoding="utf-8")
        data = json.loads(page.partition('id="data">')[2].partition("</script>")[0])
        self.run_program("mark", "trees/slope-map")
        found = self.fleet("trees/*", "--workers", "1")["trees"]
        self.assertEqual({each["tree"]: each["marked_strain"] for each in found}["slope-map"], 21.0)
        self.assertEqual(
            [each[:6] for each in data["trees"]],
            [[each[name] for name in ("tree", "lines", "classes", "strain", "hard_bonds", "density")] for each in found],
        )
        self.assertEqual([row[3] for row in data["worst"]], sorted((row[3] for row in data["worst"]), reverse=True))
        self.assertEqual(data["worst"][0][:2], [found[0]["tree"], found[0]["worst"]])

    def test_numbers_are_whole_beside_long_names(self) -> None:
        shutil.copytree(DEMO / "slope-map", self.root / f"far/{'a-very-long-name-of-a-tree-' * 3}")
        for width in (60, 80):
            table = self.run_program("fleet", "far/*", "trees/*", "--workers", "1", COLUMNS=str(width)).stdout
            self.assertLessEqual(max(len(line.rstrip()) for line in table.splitlines()), width)
            self.assertEqual(len(re.findall(r" 260 +13 +21 +5 ", table)), 2, table)

    def test_trees_by_folder_pattern_list_and_address(self) -> None:
        self.write(
            {
                "list.txt": "# ours\n\ntrees/slope-map\ntrees/s*\nother/sensor-hub\ngone\n",
                "other/sensor-hub/A.java": "class A {}",
            }
        )
        os.chdir(self.root)
        self.addCleanup(os.chdir, Path(__file__).parent.parent)
        found = {each.name: Path(each.path).relative_to(self.root).as_posix() for each in trees_of(["list.txt"])}
        self.assertEqual(
            found,
            {
                "gone": "gone",
                "slope-map": "trees/slope-map",
                "trees/sensor-hub": "trees/sensor-hub",
                "other/sensor-hub": "other/sensor-hub",
            },
        )
        self.assertEqual(len(trees_of(["trees/slope-map", f"file://{self.root}/trees/slope-map"])), 1)

    def test_a_tree_that_fails_is_named_and_the_rest_goes_on(self) -> None:
        self.write(
            {
                "list.txt": "trees/slope-map\nempty\ngone\nspoilt\n",
                "empty/a.txt": "",
                "spoilt/isodesm.toml": "layres = 1",
                "spoilt/A.java": "class A {}",
            }
        )
        found = self.fleet("list.txt", "--workers", "1")
        errors = {each["tree"]: each["error"] for each in found["trees"]}
        self.assertEqual(errors["slope-map"], "")
        for name, word in (("empty", "No source file"), ("gone", "no such"), ("spoilt", "layres")):
            self.assertIn(word, errors[name])
        self.fleet("list.txt", "--workers", "1", "--strict", code=1)
        for wrong in (("nowhere",), (), ("trees/*", "--by", "strian")):
            done = self.run_program("fleet", *wrong)
            self.assertEqual(done.returncode, 2)
            self.assertNotIn("Traceback", done.stderr)

    def test_what_several_trees_share(self) -> None:
        for name, body in (("one", "new desk.Bell();"), ("two", "new desk.Bell(); new desk.Bell();")):
            self.write({f"both/{name}/Hut.java": f"import desk.Bell; class Hut {{ void go() {{ {body} }} }}"})
        self.write({"both/lib/desk/Bell.java": "package desk; public class Bell {}"})
        bell = next(
            each for each in self.fleet("both/*", "--shared", "--workers", "1")["shared"] if each["name"] == "desk.Bell"
        )
        self.assertEqual((bell["declared_in"], bell["made_in"], bell["places"]), (["lib"], ["one", "two"], 3))
        self.assertEqual(shared_types([]), ())


class CopiesTest(TreeTest):
    """Some copies of small trees, and what this process says of them by itself: the same in every test."""

    wanted: ClassVar[str] = ""

    def setUp(self) -> None:
        super().setUp()
        for number in range(COPIES):
            shutil.copytree(DEMO / SMALL[number % len(SMALL)], self.root / f"trees/{number:02} ö {number}")
        CopiesTest.wanted = self.wanted or self.said("--workers", "1")

    def said(self, *arguments: str) -> str:
        done = self.run_program("fleet", "trees/*", "--format", "json", "--no-cache", *arguments)
        self.assertEqual(done.returncode, 0, done.stderr)
        return done.stdout


@unittest.skipUnless(HAS_EXTRA, "the extra of fleets is not installed")
class ProcessesTest(CopiesTest):
    def test_processes_here(self) -> None:
        self.assertEqual(self.said("--workers", "2"), self.wanted)

    def test_tables_for_other_tools(self) -> None:
        from pyarrow import dataset

        self.run_program("fleet", "trees/0*", "--store", "facts", "--workers", "1", "-q")
        for table in ("types", "bonds", "findings", "measures"):
            found = dataset.dataset(self.root / "facts" / table, partitioning="hive").to_table().to_pydict()
            self.assertEqual(len(set(found["tree"])), COPIES)
            self.assertGreater(len(found["tree"]), COPIES * 5)


@unittest.skipUnless(HAS_EXTRA, "the extra of fleets is not installed")
@part_of("cluster")
class ClusterTest(CopiesTest):
    """With real workers, which die."""

    def start(self, *arguments: str) -> subprocess.Popen[bytes]:
        environment = {
            **os.environ,
            "ISODESM_CACHE_DIR": str(self.root.parent / "cache"),
            "DASK_DISTRIBUTED__DASHBOARD__LINK": "",
        }
        run = subprocess.Popen(
            [sys.executable, "-m", *arguments], cwd=self.root, env=environment, stdout=subprocess.PIPE, stderr=subprocess.PIPE
        )
        self.addCleanup(run.communicate)
        self.addCleanup(run.kill)
        return run

    def cluster(self, workers: int) -> tuple[str, subprocess.Popen[bytes], list[subprocess.Popen[bytes]]]:
        """The address of a scheduler, its process, and those of its workers."""
        place = self.root.parent / "scheduler.json"
        scheduler = self.start(
            "distributed.cli.dask_scheduler",
            "--host",
            "127.0.0.1",
            "--port",
            "0",
            "--no-dashboard",
            "--scheduler-file",
            str(place),
        )
        until = time.monotonic() + 60
        while not (place.exists() and place.read_text().strip()) and time.monotonic() < until:
            time.sleep(0.1)
        address = json.loads(place.read_text())["address"]
        own = [
            self.start("distributed.cli.dask_worker", address, "--no-nanny", "--nthreads", "1", "--no-dashboard")
            for _ in range(workers)
        ]
        from distributed import Client

        with Client(address) as client:
            client.wait_for_workers(workers, timeout=60)
        return address, scheduler, own

    def test_a_cluster_and_files_sent_along(self) -> None:
        address, _, _ = self.cluster(1)
        self.assertEqual(self.said("--scheduler", address), self.wanted)
        self.assertEqual(self.said("--scheduler", address, "--ship"), self.wanted)

    def test_a_worker_is_killed(self) -> None:
        address, _, workers = self.cluster(2)
        run = self.start("isodesm", "fleet", "trees/*", "--format", "json", "--no-cache", "--scheduler", address)
        self.wait_for_answers(1)
        workers[0].send_signal(signal.SIGKILL)
        out, err = run.communicate(timeout=120)
        self.assertEqual(run.returncode, 0, err)
        self.assertEqual(out.decode(), self.wanted)

    def test_the_scheduler_is_killed_and_the_run_goes_on_later(self) -> None:
        address, scheduler, _ = self.cluster(1)
        run = self.start("isodesm", "fleet", "trees/*", "--format", "json", "--no-cache", "--scheduler", address)
        self.wait_for_answers(2)
        scheduler.send_signal(signal.SIGKILL)
        _, err = run.communicate(timeout=120)
        self.assertEqual(run.returncode, 2, err)
        self.assertIn("is gone", err.decode())
        self.assertNotIn("Traceback", err.decode())
        done = self.run_program("fleet", "trees/*", "--format", "json", "--no-cache", "--workers", "1", "--resume")
        self.assertRegex(done.stderr, rf"[1-9]\d* of {COPIES} trees were answered for before")
        self.assertEqual(done.stdout, self.wanted)

    def wait_for_answers(self, count: int) -> None:
        until = time.monotonic() + 90
        while len(list((self.root.parent / "cache").rglob("*.answer"))) < count and time.monotonic() < until:
            time.sleep(0.02)

    def test_workers_of_another_version_are_named(self) -> None:
        class Client:
            def __init__(self, found: dict[str, str]) -> None:
                self.found = found

            def run(self, ask: object) -> dict[str, str]:
                return self.found

        for found, word in (({"tcp://a": __version__, "tcp://b": "9.9"}, "tcp://b has 9.9"), ({}, "no workers")):
            with self.assertRaisesRegex(FleetBroken, word):
                _check_versions(Client(found), "tcp://head")
        _check_versions(Client({"tcp://a": __version__}), "tcp://head")

    def test_one_large_tree_is_read_on_a_cluster(self) -> None:
        self.write({"trees/odd.java": "class Odd {", "trees/more/Wide.java": 'class Wide { String a = "\u00fc"; }'})
        for number in range(40):
            self.write({f"trees/more/Hut{number}.java": f"class Hut{number} {{ Hut{number} next = new Hut{number}(); }}"})
        wanted = self.run_program("scan", "trees", "--format", "json", "--no-cache").stdout
        address, _, _ = self.cluster(2)
        done = self.run_program("scan", "trees", "--format", "json", "--scheduler", address, "-v")
        self.assertEqual(done.stdout, wanted, done.stderr)
        self.assertIn("reading on the cluster", done.stderr)
        for command in ("rank", "mark", "report"):
            done = self.run_program(command, "trees", "--scheduler", address, "-o", "out")
            self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("--no-cache", self.run_program("scan", "trees", "--scheduler", address, "--no-cache").stderr)

    def test_two_at_once(self) -> None:
        address, _, _ = self.cluster(1)
        runs = [
            self.start("isodesm", "fleet", "trees/*", "--format", "json", "--no-cache", "--scheduler", address) for _ in "12"
        ]
        for run in runs:
            out, err = run.communicate(timeout=120)
            self.assertEqual((run.returncode, out.decode()), (0, self.wanted), err)

    def test_nobody_answers(self) -> None:
        done = self.run_program("fleet", "trees/*", "--scheduler", "tcp://127.0.0.1:9")
        self.assertEqual(done.returncode, 2)
        self.assertIn("No scheduler answers at tcp://127.0.0.1:9", done.stderr)
        done = self.run_program("fleet", "trees/*", "--scheduler", "tls://127.0.0.1:9")  # without certificates
        self.assertEqual(done.returncode, 2)
        self.assertIn("No scheduler answers at tls://127.0.0.1:9", done.stderr)


if __name__ == "__main__":
    unittest.main()
