"""Exports: declared types, the graph, registrations, and the schema that every output keeps to."""

from __future__ import annotations

import csv
import io
import json
import shutil
from typing import Any
from xml.etree import ElementTree

import msgspec

from isodesm.inference.registering import Registration
from isodesm.linking.bonds import Bond
from isodesm.output.schema import outputs
from isodesm.output.types import TypeRecord
from tests.support import DEMO, TreeTest

SAMPLES = sorted(path.name for path in DEMO.iterdir())
LINES = {"bonds": Bond, "types": TypeRecord, "registrations": Registration}


class SchemaTest(TreeTest):
    def test_outputs_keep_to_their_schema(self) -> None:
        """Every field is known, and no field is missing, in the outputs on all samples together."""
        for command in ("scan", "rank", "plan"):
            with self.subTest(command=command):
                result = self.run_program(command, str(DEMO), "--format", "json")
                self.assertEqual(result.returncode, 0, result.stderr)
                msgspec.json.decode(result.stdout, type=outputs()[command])
        for what, record in LINES.items():
            result = self.run_program("export", what, str(DEMO), "--quiet")
            with self.subTest(what=what):
                for line in result.stdout.splitlines():
                    self.check_line(json.loads(line), record)

    def test_steps_are_what_the_schema_says(self) -> None:
        tree = self.root / "slope-map"
        shutil.copytree(DEMO / "slope-map", tree)
        for name, options in {"next-step": (), "step": ("--write", "--count", "2")}.items():
            with self.subTest(name):
                result = self.run_program("step", str(tree), "--format", "json", *options)
                msgspec.json.decode(result.stdout, type=outputs()[name])

    def check_line(self, found: dict[str, Any], record: type[msgspec.Struct]) -> None:
        self.assertLessEqual(set(found), {field.encode_name for field in msgspec.structs.fields(record)})
        msgspec.convert(found, record)

    def test_the_schema_names_every_output(self) -> None:
        result = self.run_program("export", "schema")
        document = json.loads(result.stdout)
        self.assertEqual(
            set(document),
            {
                f"isodesm/{name}@1"
                for name in (
                    "bonds",
                    "types",
                    "registrations",
                    "scan",
                    "rank",
                    "layers",
                    "wiring",
                    "about",
                    "trace",
                    "plan",
                    "step",
                    "next-step",
                    "mark",
                    "drift",
                    "course",
                )
            },
        )
        for name, schema in document.items():
            self.assertIn("$defs", schema, name)
            self.assertIn("$ref", schema, name)


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
