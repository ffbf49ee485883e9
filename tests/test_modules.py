"""Which file a module name means: dotted names, paths, aliases of project files, packages of a workspace."""

from __future__ import annotations

import unittest

from isodesm.facts.records import FileFacts
from isodesm.reading.modules import Modules, without_suffix
from isodesm.reading.projects import Projects, read_lenient
from tests.support import TreeTest


def modules_of(language: str, paths: str, projects: Projects | None = None) -> tuple[Modules, list[str]]:
    listed = paths.split()
    facts = [FileFacts(language=language, path=path, length=0, digest="", lines=0) for path in listed]
    return Modules(language, enumerate(facts), projects or Projects()), listed


class DottedTest(unittest.TestCase):
    PATHS = (
        "src/desk/__init__.py src/desk/relay.py src/desk/night/__init__.py src/desk/night/run.py src/loose/tool.py top.py "
        "tests/desk/__init__.py tests/desk/test_relay.py other/pack/__init__.py"
    )
    CASES = (
        ("src/desk/relay.py", ".night", "src/desk/night/__init__.py"),
        ("src/desk/night/run.py", "..relay", "src/desk/relay.py"),
        ("src/desk/night/run.py", ".", "src/desk/night/__init__.py"),
        ("src/desk/night/run.py", "...", ""),
        ("src/desk/relay.py", "desk.night.run", "src/desk/night/run.py"),
        ("src/loose/tool.py", "desk.relay", "src/desk/relay.py"),
        ("tests/desk/test_relay.py", "desk.relay", "src/desk/relay.py"),
        ("src/desk/relay.py", "top", "top.py"),
        ("tests/desk/test_relay.py", "desk", "tests/desk/__init__.py"),
        ("top.py", "pack", "other/pack/__init__.py"),
        ("top.py", "loose.tool", ""),
        ("top.py", "src.loose.tool", "src/loose/tool.py"),
        ("top.py", "json", ""),
    )

    def test_find(self) -> None:
        modules, paths = modules_of("python", self.PATHS)
        for asker, name, wanted in self.CASES:
            with self.subTest(asker=asker, name=name):
                found = modules.find(name, paths.index(asker), asker)
                self.assertEqual(paths[found] if found >= 0 else "", wanted)

    def test_names(self) -> None:
        modules, paths = modules_of("python", self.PATHS)
        names = {paths[number]: name for number, name in modules.names.items()}
        self.assertEqual(names["src/desk/__init__.py"], "desk")
        self.assertEqual(names["src/desk/night/run.py"], "desk.night.run")
        self.assertEqual((names["src/loose/tool.py"], names["top.py"]), ("tool", "top"))

    def test_folders_without_a_package_file(self) -> None:
        modules, paths = modules_of("python", self.PATHS)
        self.assertTrue(modules.is_folder("src.loose", paths.index("top.py")))
        self.assertFalse(modules.is_folder("src.none", paths.index("top.py")))
        self.assertEqual(
            paths[modules.below(paths.index("src/desk/__init__.py"), "relay", "src/desk/__init__.py")], "src/desk/relay.py"
        )
        self.assertEqual(modules.below(paths.index("top.py"), "relay", "top.py"), -1)


class PathTest(TreeTest):
    PATHS = (
        "app/main.ts app/index.ts app/util/index.tsx app/both.js app/both.ts lib/x.mts packages/a/src/index.ts "
        "packages/a/src/deep/y.ts packages/b/index.js"
    )
    CASES = (
        ("app/main.ts", "./util", "app/util/index.tsx"),
        ("app/main.ts", ".", "app/index.ts"),
        ("app/util/index.tsx", "..", "app/index.ts"),
        ("app/main.ts", "./both", "app/both.ts"),
        ("app/main.ts", "./both.js", "app/both.ts"),
        ("app/main.ts", "../lib/x.mjs", "lib/x.mts"),
        ("app/main.ts", "./none", ""),
        ("app/main.ts", "@h/a", "packages/a/src/index.ts"),
        ("app/main.ts", "@h/a/deep/y", "packages/a/src/deep/y.ts"),
        ("app/main.ts", "@h/a/dist/deep/y", "packages/a/src/deep/y.ts"),
        ("app/main.ts", "b", "packages/b/index.js"),
        ("app/main.ts", "rx", ""),
        ("app/main.ts", "@lib/x", "lib/x.mts"),
        ("app/main.ts", "util/index", "app/util/index.tsx"),
        ("packages/b/index.js", "@lib/x", ""),
        ("app/main.ts", "exact", "lib/x.mts"),
    )
    FILES = {
        "app/tsconfig.json": '{ "extends": "../base", // remark\n "compilerOptions": { "baseUrl": ".", }, }',
        "base.json": '{ "compilerOptions": { "paths": { "@lib/*": ["lib/*"], "exact": ["./lib/x"] } } }',
        "packages/a/package.json": '{ "name": "@h/a", "main": "dist/index.js" }',
        "packages/b/package.json": '{ "name": "b", "main": "./index.js" }',
        "packages/broken/package.json": '{ "name": ',
        "packages/odd/package.json": '["list"]',
        "packages/none/package.json": '{ "name": 3 }',
    }

    def projects(self) -> Projects:
        self.write(self.FILES)
        return Projects(self.root, [path for path in self.FILES if path != "base.json"])

    def test_find(self) -> None:
        modules, paths = modules_of("typescript", self.PATHS, self.projects())
        for asker, name, wanted in self.CASES:
            with self.subTest(asker=asker, name=name):
                found = modules.find(name, paths.index(asker), asker)
                self.assertEqual(paths[found] if found >= 0 else "", wanted)

    def test_broken_project_files_are_named(self) -> None:
        trouble = self.projects().trouble
        self.assertEqual([each.path for each in trouble], ["packages/broken/package.json"])
        self.assertIn("can't be read as JSON", trouble[0].reason)

    def test_project_files_that_extend_each_other(self) -> None:
        files = {
            "tsconfig.json": '{ "extends": "./other.json" }',
            "other.json": '{ "extends": "./tsconfig.json", "compilerOptions": { "paths": { "@/*": ["src/*"] } } }',
        }
        self.write(files)
        self.assertEqual(Projects(self.root, ["tsconfig.json"]).candidates("@/a", "deep/down")[0], "src/a")

    def test_lenient_json(self) -> None:
        cases = {
            b'{"a": "//no", /* b */ "c": [1, 2,], } // d': {"a": "//no", "c": [1, 2]},
            b'\xef\xbb\xbf{"a": "x,]"}': {"a": "x,]"},
            b'{"a": "\\"//"}': {"a": '"//'},
        }
        for text, wanted in cases.items():
            with self.subTest(text=text):
                self.assertEqual(read_lenient(text), wanted)

    def test_suffixes(self) -> None:
        for path, wanted in {"a/b.ts": "a/b", "a.d/b": "a.d/", "b.test.ts": "b.test", "c": ""}.items():
            self.assertEqual(without_suffix(path), wanted)
