"""What code that nobody tuned the tool to showed: what is read, what is shared, and answers that must agree."""

from __future__ import annotations

import json
import os
from pathlib import Path

from isodesm.catalogue import catalogue_of
from isodesm.codebase.model import Codebase
from isodesm.codebase.reading import read
from isodesm.diagnosis.diagnose import diagnose
from isodesm.measures.dossier import make_dossier
from isodesm.measures.ranking import rank
from isodesm.reading.discovery import discover
from isodesm.settings import Settings
from tests.support import DEMO, NoHistory, TreeTest, read_sample

SAMPLES = sorted(path.name for path in DEMO.iterdir() if path.is_dir() and not path.name.startswith("_"))


class WhatIsReadTest(TreeTest):
    def kept(self, files: dict[str, str]) -> list[str]:
        return [file.path for file in discover(self.write(files), Settings()).files]

    def test_scripts_compiled_from_source_in_the_tree_are_left_out(self) -> None:
        code = "export class A { }\n"
        mapped = json.dumps({"version": 3, "sources": ["../src/deep/d.ts"]})
        files = {
            "a.ts": code, "a.js": code, "src/b.ts": code, "lib/b.js": code, "src/c.js": code, "dist/c.js": code,
            "src/deep/d.ts": code, "out2/d.js": code, "out2/d.js.map": mapped, "lib/own.js": code, "e.js": code,
        }  # fmt: skip
        self.assertEqual(self.kept(files), ["a.ts", "e.js", "lib/own.js", "src/b.ts", "src/c.js", "src/deep/d.ts"])
        left_out = discover(self.root, Settings()).left_out
        self.assertEqual(left_out, {"compiled from source in the tree": 4})

    def test_folders_of_dependencies_need_no_build_file(self) -> None:
        files = {
            "js/vendor/x.js": "class X { }", "com/vendor/Y.java": "package com.vendor; class Y { }", "vendors/z.php": "<?php",
        }  # fmt: skip
        self.assertEqual(self.kept(files), ["com/vendor/Y.java"])

    def test_a_package_is_named_as_such_wherever_the_path_begins(self) -> None:
        self.write(
            {
                "src/desk/__init__.py": "",
                "src/desk/infra/__init__.py": "",
                "src/desk/infra/relay.py": "class Relay: ...\n",
                "src/desk/app.py": "from desk.infra.relay import Relay\nclass App:\n    def go(self): return Relay()\n",
            }
        )
        for inside in (".", "src", "src/desk", "src/desk/infra", "src/desk/infra/relay.py"):
            codebase = read(self.root / inside)
            with self.subTest(path=inside):
                self.assertIn("desk.infra.relay.Relay", codebase.symbols.names)
                if "infra" not in inside:
                    creations = [
                        codebase.target_name(codebase.bonds.target[row]) for row in codebase.bonds.rows_of_kind("creation")
                    ]
                    self.assertEqual(creations, ["desk.infra.relay.Relay"])

    def test_namespaces_that_a_project_makes_known(self) -> None:
        usings = catalogue_of("csharp").implicit_usings["all"]
        own = '<ItemGroup><Using Include="Hut.Parts" /></ItemGroup>'
        for switched, wanted in (("enable", {*usings, "Hut.Parts"}), ("disable", {"Hut.Parts"})):
            project = f"<Project><ImplicitUsings>{switched}</ImplicitUsings>{own}</Project>"
            codebase = read(self.write({"p/p.csproj": project, "p/A.cs": "class A { }", "B.cs": "class B { }"}))
            found = codebase.hierarchy.imports_everywhere("csharp")
            self.assertEqual({(below, each.name) for below, each in found}, {("p/", name) for name in wanted})

    def test_samples_say_the_same_from_inside(self) -> None:
        for name in SAMPLES:
            root = DEMO / name
            sources = [file.path for file in discover(root, Settings()).files]
            inside = os.path.commonpath([str(Path(path).parent) for path in sources if "/test" not in path])
            with self.subTest(sample=name, inside=inside):
                self.assertEqual(self.said(root / inside, ""), self.said(root, f"{inside}/" if inside else ""))

    def said(self, path: Path, below: str) -> set[tuple[str, str, int]]:
        found = diagnose(read(path)).places
        wanted = ("hard-wired-creation", "static-singleton", "static-effect", "ambient-state", "service-lookup")
        return {
            (each.kind, each.file.removeprefix(below), each.line)
            for each in found
            if each.kind in wanted and each.file.startswith(below)
        }


class SharedStateTest(TreeTest):
    """A class `Keeper` in five spellings of how it keeps its one instance; `other` keeps none."""

    INSTANCES = {
        "java": ("Keeper.java", "class Keeper {{ {0} }}", {
            "lazily": "static Keeper it; static Keeper get() { if (it == null) { it = new Keeper(); } return it; }",
            "for a key": "static java.util.Map<String, Keeper> all; "
            "static Keeper of(String k) { all[k] = new Keeper(); return all; }",
            "by its constructor": "static Keeper it; Keeper() { it = this; } static Keeper get() { return it; }",
        }),
        "php": ("Keeper.php", "<?php class Keeper {{ {0} }}", {
            "lazily, untyped": "private static $it; "
            "static function get() { if (!self::$it) { self::$it = new self(); } return self::$it; }",
            "late bound": "static $it; static function get($mode = 0) { return self::$it ??= new static($mode); }",
        }),
        "python": ("keeper.py", "class Keeper:\n    it = None\n{0}", {
            "by a class method": "    @classmethod\n    def get(cls):\n        if cls.it is None:\n"
            "            cls.it = cls()\n        return cls.it\n",
        }),
        "typescript": ("keeper.ts", "export class Keeper {{ {0} }}", {
            "lazily": "private static it: Keeper; "
            "static get(): Keeper { if (!Keeper.it) { Keeper.it = new Keeper(); } return Keeper.it; }",
        }),
    }  # fmt: skip

    def test_own_instances_by_shape(self) -> None:
        for language, (name, frame, bodies) in self.INSTANCES.items():
            for way, body in bodies.items():
                codebase = self.read({name: frame.format(body)})
                number = next(n for n, declared in enumerate(codebase.symbols.types) if declared.name == "Keeper")
                with self.subTest(language=language, way=way):
                    self.assertTrue(codebase.shared.own_instances(number))
                    accessor = next(m.name for m in codebase.symbols.types[number].members if m.name in ("get", "of"))
                    self.assertTrue(codebase.shared.is_accessor(number, accessor))

    def test_a_memo_is_nobody_s_to_set_and_brings_no_effect(self) -> None:
        platform = (
            "class Host { private static Boolean unix; static boolean isUnix() throws Exception { if (unix == null) "
            '{ unix = new java.io.FileReader("x").read() > 0; } return unix; } }'
        )
        user = "class User { boolean go(int n) throws Exception { return n > 1 && Host.isUnix(); } }"
        diagnosis = diagnose(self.read({"Host.java": platform, "User.java": user}), excused=True)
        self.assertEqual([each for each in diagnosis.places if each.source == "User"], [])

    def test_purity_is_proven(self) -> None:
        """`sum` reaches nothing, `known` a state of its own class: neither is a finding, and only one is pure."""
        tools = (
            "class Tools { private static int[] table; static int sum(int a) { return twice(a) + 1; } "
            "static int twice(int a) { return a * 2; } static int known(int a) { if (table == null) { table = new int[9]; } "
            "return table[a]; } }"
        )
        user = "class User { int a(int n) { return Tools.sum(n); } int b(int n) { return Tools.known(n); } }"
        diagnosis = diagnose(self.read({"Tools.java": tools, "User.java": user}), excused=True)
        excuses = {each.member: each.excuse for each in diagnosis.excused if each.source == "User"}
        self.assertEqual(excuses, {"a": "pure", "b": "unknown"})

    def test_one_decision_is_one_finding(self) -> None:
        user = "class User { void a() { Lot.s = 1; } int b() { return Lot.s; } int c() { return Lot.get(); } }"
        lot = "class Lot { static int s; static int get() { return s; } }"
        diagnosis = diagnose(self.read({"User.java": user, "Lot.java": lot}))
        (found,) = diagnosis.findings
        self.assertEqual((found.kind, found.places, len(found.related)), ("ambient-state", 3, 2))


class AgreementTest(TreeTest):
    def test_scan_about_and_rank_agree_on_effects(self) -> None:
        """A class that a finding says to have an effect of its own has it in `about` and in `rank`, on all samples."""
        for name in SAMPLES:
            codebase = read_sample(name)
            diagnosis = diagnose(codebase)
            ranking = rank(codebase, diagnosis)
            locked = {row.number: set(row.locked_effects) for row in ranking.classes}
            for each in diagnosis.places:
                if each.kind == "static-effect" and each.external and each.level in ("error", "warning"):
                    with self.subTest(sample=name, source=each.source, line=each.line):
                        self.assertLessEqual(
                            set(each.effects), self.effects_in_about(codebase, diagnosis, ranking, each.source_number)
                        )
                        if each.source_number in locked:
                            self.assertLessEqual(set(each.effects), locked[each.source_number])

    def effects_in_about(self, codebase: Codebase, diagnosis, ranking, number: int) -> set[str]:
        return {each.effect for each in make_dossier(codebase, diagnosis, ranking, NoHistory(), number).locked}
