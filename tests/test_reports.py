"""`layers`, `wiring`, `setup`, parts of a scan, SARIF, settings that accept or add to the catalogue: as a user runs them."""

from __future__ import annotations

import json
import re
import shutil
import struct
from pathlib import Path
from xml.etree import ElementTree

import msgspec

from isodesm.diagnosis.diagnose import diagnose
from isodesm.diagnosis.shared.findings import EXCUSES, KINDS
from isodesm.settings import load_settings
from tests.support import DEMO, TreeTest, public

DOCS = Path(__file__).parent.parent / "docs/findings"
LONE = {
    "src/Lamp.java": "package lamps;\npublic class Lamp { private final Wire wire = new Wire(); void on(int n) { if (n "
    "> 1) { wire.send(n); } } }\n",
    "src/Wire.java": 'package lamps;\npublic class Wire { void send(int n) { try { new java.net.Socket("a", n); } catch '
    "(Exception e) { } } }\n",
}
"""No container, no layers, no tests."""


class LayersTest(TreeTest):
    def test_what_it_says(self) -> None:
        shown = " ".join(self.run_program("layers", str(DEMO / "bulletin-desk")).stdout.split())
        for wanted in (
            "application 12 classes",
            "segment `infra` of org.hollin.desk.infra: BulletinArchive",
            "↑ 25 (6 hard)",
            "the order in the settings",
            "error outward-dependency",
            "error hard-wired-creation",
        ):
            self.assertIn(wanted, shown)

    def test_the_order_follows_the_bonds(self) -> None:
        """Without interfaces that infrastructure implements, services may use it: nothing points the wrong way."""
        shutil.copytree(DEMO / "forecast-jobs" / "forecast", self.root / "forecast")
        shown = self.run_program("layers", "forecast").stdout
        self.assertIn("application → infrastructure → domain: that is the way most bonds point", shown)
        self.assertIn("No bond points the wrong way.", shown)

    def test_own_layers_in_settings(self) -> None:
        self.write(
            {
                "isodesm.toml": '[[layers]]\nname = "rim"\nsegments = ["hall"]\n[[layers]]\nname = "hub"\nsegments = '
                '["yard"]\n',
                "hall/Gate.java": "package hall; public class Gate { public int open(int n) { return n; } }",
                "yard/Dog.java": "package yard; public class Dog { hall.Gate gate; int bark(int n) { return gate.open(n); } }",
            }
        )
        result = json.loads(self.run_program("layers", "--format", "json").stdout)["result"]
        self.assertEqual([(each["name"], each["ring"]) for each in result["layers"]], [("rim", 1), ("hub", 0)])
        self.assertEqual(
            [(each["kind"], each["crossing"]) for each in result["wrong_way"]], [("outward-dependency", "hub→rim")]
        )
        self.assertEqual(
            [each for each in result["crossings"] if each["outward"]],
            [
                {"source": "hub", "target": "rim", "bonds": 2, "hard": 0, "outward": True},
            ],
        )

    def test_classes_without_a_telling_folder_go_by_annotation(self) -> None:
        files = {f"shop/web/P{n}.java": f"package shop.web; public class P{n} {{ }}" for n in range(2)}
        files |= {f"shop/domain/D{n}.java": f"package shop.domain; public class D{n} {{ }}" for n in range(2)}
        mark = public("java", "controller")
        files["shop/odd/Post.java"] = (
            f"package shop.odd; @org.parts.{mark} public class Post {{ int go(int n) {{ return n; }} }}"
        )
        codebase = self.read(files)
        number = codebase.symbols.names.index("shop.odd.Post")
        self.assertEqual(
            (codebase.layers.name(number), codebase.layers.evidence[number]),
            ("presentation", f"role presentation: annotated with {mark}"),
        )


class WiringTest(TreeTest):
    def test_registrations_and_problems(self) -> None:
        shown = " ".join(self.run_program("wiring", str(DEMO / "sensor-hub"), COLUMNS="140").stdout.split())
        for wanted in (
            "11 registrations 6 singleton, 5 transient",
            "infrastructure IReadingStore FileReadingStore singleton src/Host/HubHost.cs:18",
            "warning captive-dependency",
            "Managed classes that are created by hand",
        ):
            self.assertIn(wanted, shown)

    def test_the_tree_below_a_class(self) -> None:
        result = json.loads(
            self.run_program("wiring", str(DEMO / "sensor-hub"), "--root", "CollectionRound", "--format", "json").stdout
        )["result"]

        def told(node: dict) -> list:
            return [node["name"].rpartition(".")[2], node["how"], node["lifetime"], [told(each) for each in node["children"]]]

        self.assertEqual(
            told(result["tree"]),
            [
                "CollectionRound",
                "root",
                "",
                [
                    ["RadioLink", "registered", "singleton", []],
                    ["FileReadingStore", "registered", "singleton", [["RoundSession", "registered", "transient", []]]],
                    ["StationBook", "registered", "singleton", []],
                ],
            ],
        )

    def test_unused_registrations(self) -> None:
        shown = self.run_program("wiring", str(DEMO / "warden-portal")).stdout
        self.assertRegex(shown, r"11 registrations that nothing asks for\n\s+wardens")

    def test_a_figure_needs_a_root_and_a_known_format(self) -> None:
        for arguments, wanted in (
            (("--figure", "a.svg"), "--root"),
            (("--root", "X", "--figure", "a.gif"), ".svg, .png, .pdf"),
        ):
            result = self.run_program("wiring", str(DEMO / "sensor-hub"), *arguments)
            self.assertEqual((result.returncode, wanted in result.stderr), (2, True), result.stderr)


class FiguresTest(TreeTest):
    def test_drawings_hold_what_they_should_and_are_the_same_twice(self) -> None:
        for arguments, texts in (
            (("layers", str(DEMO / "bulletin-desk")), 12),
            (("wiring", str(DEMO / "bulletin-desk"), "--root", "MorningRound"), 7),
        ):
            drawn = []
            for name in ("one.svg", "two.svg", "three.png"):
                result = self.run_program(*arguments, "--figure", name, "--no-cache")
                self.assertEqual(result.returncode, 0, result.stderr)
                drawn.append((self.root / name).read_bytes())
            with self.subTest(command=arguments[0]):
                self.assertEqual(drawn[0], drawn[1])
                root = ElementTree.fromstring(drawn[0])
                self.assertGreaterEqual(sum(1 for each in root.iter() if each.get("id", "").startswith("text_")), texts)
                width, height = struct.unpack(">II", drawn[2][16:24])
                self.assertTrue(600 < width < 2400 and 300 < height < 2400, (width, height))


class LoneTest(TreeTest):
    """A codebase with no container, no layers and no tests: every command still has something to say."""

    def test_every_command(self) -> None:
        self.write(LONE)
        for command, wanted in (
            (("scan",), "1 finding"),
            (("layers",), "No layers: 2 classes in one package"),
            (("wiring",), "No registrations were found"),
            (("wiring", "--root", "Lamp"), "└── Wire creates"),
            (("rank",), "lamps.Lamp"),
            (("plan",), "Extract interface"),
        ):
            result = self.run_program(command[0], ".", *command[1:])
            with self.subTest(command=command):
                self.assertEqual(result.returncode, 0, result.stderr)
                self.assertIn(wanted, " ".join(result.stdout.replace("  ", " ").split()))


class SetupTest(TreeTest):
    def test_it_writes_what_was_inferred_and_loads_again(self) -> None:
        for sample in ("bulletin-desk", "warden-portal"):
            target = self.root / f"{sample}.toml"
            result = self.run_program("setup", str(DEMO / sample), "--output", str(target))
            self.assertEqual(result.returncode, 0, result.stderr)
            settings = load_settings(target, {})
            with self.subTest(sample=sample):
                self.assertIn("presentation", [each.name for each in settings.layers])
                self.assertNotIn("\t", target.read_text(encoding="utf-8"))

    def test_the_written_file_changes_no_layer(self) -> None:
        target = self.root / "isodesm.toml"
        self.run_program("setup", str(DEMO / "bulletin-desk"), "--output", str(target))
        plain, again = (
            json.loads(self.run_program("layers", str(DEMO / "bulletin-desk"), "--format", "json", *options).stdout)["result"][
                "crossings"
            ]
            for options in ((), ("--config", str(target)))
        )
        self.assertEqual(plain, again)

    def test_never_over_an_existing_one(self) -> None:
        self.write(LONE | {"isodesm.toml": "# mine\n"})
        result = self.run_program("setup", ".")
        self.assertEqual(result.returncode, 2)
        self.assertIn("is there already", result.stderr)
        self.assertEqual((self.root / "isodesm.toml").read_text(encoding="utf-8"), "# mine\n")

    def test_without_layers_it_says_how_to_name_them(self) -> None:
        self.write(LONE)
        self.assertEqual(self.run_program("setup", ".").returncode, 0)
        text = (self.root / "isodesm.toml").read_text(encoding="utf-8")
        self.assertIn("# All classes lie in one package or folder.", text)
        self.assertIn("Segments in this tree: lamps", text)


class PartsOfAScanTest(TreeTest):
    def scan(self, *arguments: str) -> list[dict]:
        result = self.run_program("scan", str(DEMO / "bulletin-desk"), "--format", "json", *arguments)
        self.assertEqual(result.returncode, 0, result.stderr)
        return json.loads(result.stdout)["result"]["findings"]

    def test_filters(self) -> None:
        for arguments, holds in (
            (("--kind", "static-effect", "--kind", "layer-skip"), lambda each: each["kind"] in ("static-effect", "layer-skip")),
            (("--level", "warning"), lambda each: each["level"] in ("error", "warning")),
            (("--layer", "presentation"), lambda each: each["layer"] == "presentation"),
            (("--class", "ClosureService"), lambda each: "ClosureService" in each["source"] + each["target"]),
        ):
            everything, found = self.scan(), self.scan(*arguments)
            with self.subTest(arguments=arguments):
                self.assertEqual(found, [each for each in everything if holds(each)])
                self.assertTrue(0 < len(found) < len(everything))

    def test_wrong_ones_say_what_there_is(self) -> None:
        for arguments, wanted in (
            (("--kind", "static-efect"), "Did you mean `static-effect`?"),
            (("--layer", "cellar"), "Layers: presentation"),
            (("--class", "BuletinService"), "`BulletinService`"),
            (("--level", "fatal"), "--level takes one of"),
        ):
            result = self.run_program("scan", str(DEMO / "bulletin-desk"), *arguments)
            with self.subTest(arguments=arguments):
                self.assertEqual((result.returncode, wanted in result.stderr), (2, True), result.stderr)

    def test_a_gate_looks_at_the_part(self) -> None:
        for kind, code in (("static-effect", 0), ("hard-wired-creation", 1)):
            result = self.run_program("scan", str(DEMO / "bulletin-desk"), "--kind", kind, "--fail-on", "error")
            self.assertEqual(result.returncode, code, result.stderr)

    def test_findings_in_other_files_name_them(self) -> None:
        shown = self.run_program("scan", str(DEMO / "warden-portal"), "--kind", "mismatched-argument", "--full").stdout
        self.assertIn("15  error  mismatched-argument  in config/services.yaml", shown)


class AcceptanceTest(TreeTest):
    SOURCE = {"a/Now.java": "package a;\npublic class Now { boolean now(long a) { return System.nanoTime() > a; } }\n"}

    def test_settings_accept_with_a_reason(self) -> None:
        rule = '[[accept]]\nkind = "static-effect"\nclass = "*Now"\nreason = "the clock itself"\n'
        stale = '[[accept]]\nkind = "layer-skip"\nclass = "*Gone"\nreason = "was so once"\n'
        self.write(self.SOURCE | {"isodesm.toml": rule + stale})
        result = json.loads(self.run_program("scan", "--format", "json").stdout)["result"]
        self.assertEqual(result["findings"], [])
        self.assertEqual(
            [(e["excuse"], e["justification"], e["accepted_in"]) for e in result["excused"]],
            [("accepted", "the clock itself", "settings")],
        )
        self.assertEqual(
            [each["message"] for each in result["unused_acceptances"]], ["accepts `layer-skip` for `*Gone`, which is not found"]
        )
        self.assertIn("not needed: isodesm.toml accepts `layer-skip`", self.run_program("scan").stdout)

    def test_a_reason_is_required(self) -> None:
        self.write(self.SOURCE | {"isodesm.toml": '[[accept]]\nkind = "static-effect"\nreason = " "\n'})
        result = self.run_program("scan")
        self.assertEqual((result.returncode, "needs a reason" in result.stderr), (2, True))

    def test_remarks_that_are_of_no_use_are_reported(self) -> None:
        source = (
            "package a;\n// isodesm: accept static-effect\n// isodesm: accept nonsense – because\n// isodesm: accept "
            "layer-skip – not here\nclass A { }\n"
        )
        unused = diagnose(self.read({"a/A.java": source})).unused_acceptances
        self.assertEqual([each.line for each in unused], [2, 3, 4])
        for each, wanted in zip(unused, ("gives no reason", "names no kind", "which is not found here"), strict=True):
            self.assertIn(wanted, each.message)


HANDED = (
    "final Rig rig; A(Rig rig) { this.rig = rig; } int r() throws Exception { rig.s(); return 3; } "
    "int p(int n) { return n > 1 ? n : 5; } int q(int n) { return n > 1 ? n : 4; }"
)
"""What makes a class a service: it works with a gateway that it is handed."""
RIG = "class Rig { void s() throws Exception { new java.net.Socket(); } }"


class OwnCatalogueTest(TreeTest):
    def test_own_effects_registrations_and_values(self) -> None:
        self.write(
            {
                "isodesm.toml": (
                    '[catalogue.java.effects.network]\n"radio.Link" = ["new"]\n[catalogue.java.values]\ntypes = "radio.Dial"\n'
                    '[catalogue.java.registrations.calls]\nsupply = "scoped"\n'
                ),
                "a/Rig.java": "package a;\n" + RIG,
                "a/Use.java": (
                    "package a;\nclass Use {\n  Object l(int n) { return n > 1 ? null : new radio.Link(); }\n  Object d "
                    "= new radio.Dial();\n" + HANDED.replace("A(", "Use(") + "\n"
                    "  void w(Box box) { box.supply(Use.class); }\n  int x(int n) { return n > 1 ? n : 2 * n; }\n  int "
                    "y(int n) { return n > 2 ? n : 3 * n; }\n}\n"
                ),
            }
        )
        result = json.loads(self.run_program("scan", "--format", "json").stdout)["result"]
        self.assertEqual([(each["line"], each["effects"]) for each in result["findings"]], [(3, ["network"])])
        self.assertIn(("radio.Dial", "standard-value"), [(each["target"], each["excuse"]) for each in result["excused"]])
        registrations = [json.loads(line) for line in self.run_program("export", "registrations").stdout.splitlines()]
        self.assertEqual([(each["abstraction"], each["lifetime"]) for each in registrations], [("a.Use", "scoped")])

    def test_two_codebases_in_one_process_keep_their_own(self) -> None:
        source = {"A.java": "class A { Object l = new radio.Link(); " + HANDED + " }", "Rig.java": RIG}
        from isodesm.catalogue import Catalogue

        own = msgspec.convert({"effects": {"network": {"radio.Link": ["new"]}}}, Catalogue)
        with_entry = self.read(source, catalogue={"java": own})
        self.assertEqual((len(diagnose(with_entry).findings), len(diagnose(self.read(source)).findings)), (1, 0))

    def test_wrong_entries_are_named(self) -> None:
        for text, wanted in (
            ("[catalogue.cobol.effects]\n", "cobol"),
            ("[catalogue.java]\neffect = 1\n", "did you mean `effects`"),
        ):
            self.write(LONE | {"isodesm.toml": text})
            result = self.run_program("scan")
            self.assertEqual((result.returncode, wanted in result.stderr), (2, True), result.stderr)


class SarifTest(TreeTest):
    def test_every_required_property(self) -> None:
        """What SARIF 2.1.0 requires of each object that is used, and that indexes and places hold together."""
        self.write(
            {
                "a/Now.java": "package a;\npublic class Now { boolean now(long a) { return System.nanoTime() > a; } // "
                "isodesm: accept static-effect – the clock\n}\n"
            }
        )
        for target, least in ((str(DEMO), 60), (".", 1)):
            log = json.loads(self.run_program("scan", target, "--format", "sarif").stdout)
            self.assertEqual(log["version"], "2.1.0")
            (run,) = log["runs"]
            driver = run["tool"]["driver"]
            self.assertEqual(driver["name"], "isodesm")
            for rule in driver["rules"]:
                self.assertIn(rule["id"], KINDS)
                self.assertTrue(rule["shortDescription"]["text"] and rule["help"]["text"])
                self.assertIn(rule["defaultConfiguration"]["level"], ("error", "warning", "note"))
            self.assertGreaterEqual(len(run["results"]), least)
            fingerprints = [each["partialFingerprints"]["isodesm/v1"] for each in run["results"]]
            self.assertEqual(len(fingerprints), len(set(fingerprints)))
            for each in run["results"]:
                self.check_result(each, driver["rules"])
        self.assertEqual(
            run["results"][0]["suppressions"], [{"kind": "inSource", "status": "accepted", "justification": "the clock"}]
        )

    def check_result(self, result: dict, rules: list[dict]) -> None:
        self.assertEqual(rules[result["ruleIndex"]]["id"], result["ruleId"])
        self.assertIn(result["level"], ("error", "warning", "note"))
        self.assertTrue(result["message"]["text"])
        for location in (*result["locations"], *result.get("relatedLocations", ())):
            place = location["physicalLocation"]
            self.assertRegex(place["artifactLocation"]["uri"], r"^[^/\\\s][^\\\s]*$")
            self.assertGreaterEqual(place["region"]["startLine"], 1)
        region = result["locations"][0]["physicalLocation"]["region"]
        self.assertTrue(region["endLine"] > region["startLine"] or region["endColumn"] > region["startColumn"])

    def test_the_chain_and_the_other_registration_are_related(self) -> None:
        log = json.loads(self.run_program("scan", str(DEMO / "sensor-hub"), "--format", "sarif").stdout)
        told = {
            message["message"]["text"] for each in log["runs"][0]["results"] for message in each.get("relatedLocations", ())
        }
        for wanted in (
            "reaches the network here",
            "is registered with a container here",
            "`RoundSession` is registered as transient here",
        ):
            self.assertIn(wanted, told)


class DocsTest(TreeTest):
    def test_every_kind_and_excuse_has_its_page_with_all_parts(self) -> None:
        for kind in KINDS:
            text = (DOCS / f"{kind}.md").read_text(encoding="utf-8")
            with self.subTest(kind=kind):
                self.assertTrue(text.startswith(f"# {kind}\n"))
                for part in ("## Why it hurts", "## Before and after", "## When it is excused", "## How to accept one"):
                    self.assertIn(part, text)
                self.assertGreaterEqual(text.count("```"), 4)
                self.assertIn(f"isodesm: accept {kind} –", text)
        index = (DOCS / "README.md").read_text(encoding="utf-8")
        self.assertEqual([each for each in (*KINDS, *EXCUSES) if f"`{each}`" not in index], [])
        self.assertEqual({path.stem for path in DOCS.glob("*.md")} - {"README"}, set(KINDS))
        self.assertEqual([link for link in re.findall(r"\]\(([\w-]+\.md)\)", index) if not (DOCS / link).is_file()], [])
