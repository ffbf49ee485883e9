"""Exports: declared types, the graph, registrations, and the schema that every output keeps to."""

from __future__ import annotations

import contextlib
import csv
import io
import json
import shutil
import subprocess
from typing import Any
from xml.etree import ElementTree

from jsonschema import Draft202012Validator
from typer.testing import CliRunner

from isodesm.cli.app import app
from isodesm.output.schema import LINES, schema_document
from tests.support import CLASSES, DEMO, TreeTest

SAMPLES = sorted(path.name for path in DEMO.iterdir())
HUT = """class Hut { void go() throws Exception { new Bell().ring(); } }
class Bell { void ring() throws Exception { new java.net.Socket(); } }
"""


REVISIONS = ("git", "-c", "user.name=Desk", "-c", "user.email=desk@hollin.example", "-c", "commit.gpgsign=false")


class SchemaTest(TreeTest):
    """Every output of every command is what the one schema says."""

    def setUp(self) -> None:
        super().setUp()
        self.schema = json.loads(schema_document())

    def check(self, *arguments: str) -> dict[str, Any]:
        """What a command gives, run in this process, held against the schema."""
        environment = {"ISODESM_CACHE_DIR": str(self.root.parent / "cache")}
        with contextlib.chdir(self.root):
            done = CliRunner().invoke(app, [*arguments, "-q"], env=environment)
        self.assertEqual(done.exit_code, 0, done.output)
        found = json.loads(done.stdout)
        for each in Draft202012Validator(self.schema).iter_errors(found):
            self.fail(f"{arguments}: {each.json_path}: {each.message[:300]}")
        return found

    def test_outputs_on_every_sample(self) -> None:
        for sample, (one, call) in CLASSES.items():
            tree = str(DEMO / sample)
            for command in (
                ("scan", tree, "--excused"),
                ("rank", tree, "--evaluate"),
                ("layers", tree),
                ("wiring", tree, "--root", one),
                ("about", one, tree),
                ("trace", call, tree),
                ("trace", "", tree),
                ("plan", tree, "--steps", "0"),
                ("step", tree),
            ):
                with self.subTest(sample=sample, command=command[0]):
                    found = self.check(*command, "--format", "json")
                    self.assertTrue(found["root"].endswith(f"samples/{sample}"), found["root"])

    def test_states_and_steps(self) -> None:
        tree = self.root / "slope-map"
        shutil.copytree(DEMO / "slope-map", tree)
        for command in (("init", "-q"), ("add", "."), ("commit", "-qm", "First")):
            subprocess.run([*REVISIONS, *command], cwd=tree, check=True, capture_output=True)
        mark = tree / "isodesm.mark.json"
        self.run_program("mark", str(tree))
        self.assertEqual(list(Draft202012Validator(self.schema).iter_errors(json.loads(mark.read_text()))), [])
        mark.rename(self.root / "kept.json")
        self.check("step", str(tree), "--write", "--count", "2", "--format", "json")
        self.check("drift", str(tree), "--mark", str(self.root / "kept.json"), "--format", "json")
        self.assertEqual(self.check("drift", str(tree), "--over", "1", "--format", "json")["root"], ".")

    def test_lines_of_exports(self) -> None:
        for what in LINES:
            part = Draft202012Validator({**self.schema["$defs"][what], "$defs": self.schema["$defs"]})
            for line in self.run_program("export", what, str(DEMO), "--quiet").stdout.splitlines():
                self.assertEqual([each.message for each in part.iter_errors(json.loads(line))], [], line)

    def test_the_schema_refuses(self) -> None:
        check = Draft202012Validator(self.schema)
        check.check_schema(self.schema)
        found = json.loads(self.run_program("scan", str(DEMO / "slope-map"), "--format", "json").stdout)
        for spoilt in (
            {**found, "schema": "isodesm/rank@1"},
            {**found, "schema": "isodesm/other@1"},
            {**found, "more": 1},
            {**found, "result": {**found["result"], "findings": [{"kind": 1}]}},
        ):
            self.assertFalse(check.is_valid(spoilt))
        self.assertEqual(json.loads(self.run_program("export", "schema").stdout), self.schema)

    def test_paths_count_from_what_root_says(self) -> None:
        self.write({"top/.git/HEAD": "x", "top/inner/a b/Hut.java": HUT, "free/Hut.java": HUT})
        for tree, options, root, uri in (
            ("top/inner", (), "inner", "inner/"),
            ("top/inner/a b", (), "inner/a b", "inner/a%20b/"),
            ("top", (), ".", None),
            ("free", (), "free", "free/"),
            ("free", ("--absolute",), f"{self.root.resolve()}/free", f"file://{self.root.resolve()}/free/"),
        ):
            with self.subTest(tree=tree, options=options):
                self.assertEqual(self.check("scan", tree, "--format", "json", *options)["root"], root)
                log = json.loads(self.run_program("scan", tree, "--format", "sarif", *options).stdout)
                self.assertEqual(log["runs"][0]["originalUriBaseIds"]["ROOT"].get("uri"), uri)


class GraphTest(TreeTest):
    SOURCE = {
        "web/Page.java": 'package web; class Page { core.Book<"> b = new core.Book(); void go() { b.open(); b.open(); } '
        "}".replace('<">', ""),
        "core/Book.java": "package core; public class Book { public void open() { } }",
    }

    def test_graphml(self) -> None:
        self.write(self.SOURCE)
        root = ElementTree.fromstring(self.run_program("export", "graph").stdout)
        space = "{http://graphml.graphdrawing.org/xmlns}"
        nodes = {node.get("id"): [data.text for data in node] for node in root.iter(f"{space}node")}
        self.assertEqual([values[0] for values in nodes.values()], ["core.Book", "web.Page"])
        edges = sorted(
            [nodes[edge.get("source")][1], nodes[edge.get("target")][1], *(data.text for data in edge)]
            for edge in root.iter(f"{space}edge")
        )
        self.assertEqual(
            edges, [["Page", "Book", "call", "2"], ["Page", "Book", "creation", "1"], ["Page", "Book", "field", "1"]]
        )

    def test_dot(self) -> None:
        self.write(self.SOURCE)
        text = self.run_program("export", "graph", "--format", "dot", "--kind", "creation").stdout
        self.assertIn('[label="creation", style=bold]', text)
        self.assertNotIn("call", text)
        self.assertEqual(text.count("{"), text.count("}"))


class TypesTest(TreeTest):
    def test_both_formats_have_all_types_of_all_samples(self) -> None:
        for sample in SAMPLES:
            with self.subTest(sample=sample):
                lines = self.run_program("export", "types", str(DEMO / sample), "--quiet").stdout.splitlines()
                table = list(
                    csv.DictReader(
                        io.StringIO(self.run_program("export", "types", str(DEMO / sample), "--format", "csv", "-q").stdout)
                    )
                )
                records = [json.loads(line) for line in lines]
                self.assertEqual([row["name"] for row in table], [record["name"] for record in records])
                self.assertEqual([int(row["members"] or 0) for row in table], [len(record["members"]) for record in records])
                self.assertGreater(len(records), 12)

    def test_a_type_in_parts_is_one(self) -> None:
        result = self.run_program("export", "types", str(DEMO / "sensor-hub"), "--quiet")
        (station,) = [
            json.loads(line)
            for line in result.stdout.splitlines()
            if '"Hollin.Hub.Domain.Station"' in line.partition("kind")[0]
        ]
        self.assertEqual(station["parts"], ["src/Domain/Station.cs"])
        self.assertEqual({member["name"] for member in station["members"]}, {"Name", "Offset", "Readings", "Corrected", "Add"})
