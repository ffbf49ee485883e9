"""The house: each room knows only the rooms to its left, and heavy imports stay inside functions."""

from __future__ import annotations

import ast
import re
import shutil
import subprocess
import sys
import tempfile
import unittest
from functools import cache
from pathlib import Path

SOURCE = Path(__file__).parent.parent / "src/isodesm"
ROOMS = (
    "disk",
    "facts",
    "reading",
    "linking",
    "inference",
    "codebase",
    "diagnosis",
    "queries",
    "measures",
    "drifting",
    "planning",
    "rewriting",
    "fleet",
    "output",
    "demo",
    "editor",
    "cli",
)
"""From left to right; a room may import itself and those to its left."""
EVERYWHERE = frozenset(("errors", "catalogue", ""))
ONLY_IN = {
    "typer": {"cli"},
    "rich": {"cli", "output"},
    "tree_sitter": {"facts"},
    "yaml": {"facts"},
    "defusedxml": {"facts"},
    "numpy": {"linking", "codebase", "measures"},
    "scipy": {"measures"},
    "matplotlib": {"output"},
    "jinja2": {"output"},
    "sqlite3": {"reading"},
    "platformdirs": {"reading"},
    **{f"tree_sitter_{name}": {"facts"} for name in ("java", "c_sharp", "typescript", "php", "python")},
}
LAZY = (
    "numpy",
    "scipy",
    "matplotlib",
    "jinja2",
    "yaml",
    "defusedxml",
    "platformdirs",
    "tree_sitter",
    *(name for name in ONLY_IN if name.startswith("tree_sitter_")),
)
LINES = 400
CHANGES = frozenset(
    (
        *("write_text", "write_bytes", "mkdir", "makedirs", "unlink", "rmdir", "rmtree", "rename", "renames", "touch", "chmod"),
        *("symlink_to", "hardlink_to", "copy", "copy2", "copyfile", "copytree", "copymode", "copystat", "chown", "fchmod"),
        *("link", "symlink", "truncate", "mkstemp", "mkdtemp", "TemporaryDirectory", "NamedTemporaryFile", "TemporaryFile"),
        *("move", "removedirs", "mknod", "mkfifo", "connect", "write_table", "savefig", "lchmod", "remove", "replace"),
    )
)
"""Names of calls that change what a disk holds."""
MODULES_ALONE = frozenset(("copy", "link", "truncate", "move", "connect", "remove", "replace", "rename", "chown", "symlink"))
"""Those of them that mean this only of a module for files: lists and texts have such calls, too."""
OF_FILES = frozenset(("os", "shutil", "sqlite3", "tempfile", "pathlib"))
WRITES_ELSEWHERE = frozenset((("reading", "connect"), ("output", "savefig"), ("fleet", "write_table")))
"""The cache's own library, which is given a name that was looked at; and two that write into memory."""


def writes(call: ast.Call) -> str:
    """What a call does to files, by its name; '' for nothing."""
    name = call.func.attr if isinstance(call.func, ast.Attribute) else call.func.id if isinstance(call.func, ast.Name) else ""
    of = call.func.value.id if isinstance(call.func, ast.Attribute) and isinstance(call.func.value, ast.Name) else ""
    said = ast.unparse(call)
    if name == "open":
        mode = call.args[0 if of and of not in ("os", "io") else 1 :][:1]
        by_flags = of == "os" and re.search(r"O_(?:WRONLY|RDWR|CREAT|APPEND|TRUNC)", said) and "os.devnull" not in said
        by_mode = any(isinstance(each, ast.Constant) and re.search(r"[wax+]", str(each.value)) for each in mode)
        return name if by_flags or (by_mode and of != "os") else ""
    if name == "touch" and call.args:  # one of ours
        return ""
    return name if name in CHANGES and (name not in MODULES_ALONE or of in OF_FILES) else ""


@cache
def modules() -> list[tuple[Path, str, ast.Module]]:
    """Every module of the package with its room ('' for the top) and tree."""
    found = []
    for path in sorted(SOURCE.rglob("*.py")):
        parts = path.relative_to(SOURCE).parts
        if "samples" not in parts:
            found.append((path, parts[0] if len(parts) > 1 else "", ast.parse(path.read_text(encoding="utf-8"))))
    return found


def imported(tree: ast.AST) -> list[str]:
    """Dotted names of all modules that a tree imports, wherever the import stands."""
    names = []
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            names += [alias.name for alias in node.names]
        elif isinstance(node, ast.ImportFrom):
            names.append("isodesm." * bool(node.level) + (node.module or ""))
    return names


class HouseTest(unittest.TestCase):
    def test_arrows_point_left(self) -> None:
        for path, room, tree in modules():
            for name in imported(tree):
                if name.split(".")[0] != "isodesm" or room == "":
                    continue
                target = (name.split(".") + [""])[1]
                with self.subTest(module=str(path.relative_to(SOURCE)), imports=name):
                    if target == "settings":
                        self.assertNotIn(room, ("facts", "catalogue"))
                    elif target not in EVERYWHERE:
                        self.assertIn(target, ROOMS)
                        self.assertIn(room, ROOMS)
                        self.assertLessEqual(ROOMS.index(target), ROOMS.index(room))

    def test_families_of_findings_know_only_what_they_share(self) -> None:
        families = ("hard_bonds", "wiring_faults", "form", "shared")
        for path, _, tree in modules():
            parts = path.relative_to(SOURCE).parts
            if parts[0] != "diagnosis" or parts[1] not in families:
                continue
            for name in imported(tree):
                if name.startswith("isodesm.diagnosis."):
                    with self.subTest(module="/".join(parts), imports=name):
                        self.assertIn(name.split(".")[2], (parts[1], "shared"))

    def test_linter_is_content(self) -> None:
        ruff = shutil.which("ruff", path=str(Path(sys.executable).parent)) or shutil.which("ruff")
        if ruff is None:
            self.skipTest("no linter here")
        checked = ["src", "tests", "benchmarks"]
        result = subprocess.run([ruff, "check", "--quiet", *checked], cwd=SOURCE.parent.parent, capture_output=True, text=True)
        self.assertEqual(result.returncode, 0, result.stdout[-2000:])

    def test_files_are_written_in_one_room(self) -> None:
        """Every call that opens a file to write it, or changes what a folder holds, stands in the room for that."""
        found = [
            f"{path.relative_to(SOURCE)}:{node.lineno} {written}"
            for path, room, tree in modules()
            if room != "disk"
            for node in ast.walk(tree)
            if isinstance(node, ast.Call) and (written := writes(node)) and (room, written) not in WRITES_ELSEWHERE
        ]
        self.assertEqual(found, [])
        for code in (
            "open(a, 'wb')",
            "p.open('a')",
            "os.open(a, os.O_WRONLY)",
            "p.write_text(b)",
            "os.replace(a, b)",
            "p.touch()",
        ):
            self.assertTrue(writes(ast.parse(code, mode="eval").body), code)

    def test_packages_stay_in_their_rooms(self) -> None:
        for path, room, tree in modules():
            for name in imported(tree):
                allowed = ONLY_IN.get(name.split(".")[0])
                if allowed is not None:
                    with self.subTest(module=str(path.relative_to(SOURCE)), imports=name):
                        self.assertIn(room, allowed)

    def test_heavy_imports_are_inside_functions(self) -> None:
        for path, _, tree in modules():
            top = [node for node in tree.body if isinstance(node, ast.Import | ast.ImportFrom)]
            heavy = [name for node in top for name in imported(node) if name.split(".")[0] in LAZY]
            with self.subTest(module=str(path.relative_to(SOURCE))):
                self.assertEqual(heavy, [])

    def test_files_stay_short(self) -> None:
        long = {str(p.relative_to(SOURCE)): n for p, _, _ in modules() if (n := len(p.read_text().splitlines())) > LINES}
        self.assertEqual(long, {})

    def test_public_functions_are_documented(self) -> None:
        bare = [
            f"{path.relative_to(SOURCE)}:{node.name}"
            for path, _, tree in modules()
            for node in tree.body
            if isinstance(node, ast.FunctionDef | ast.ClassDef)
            and not node.name.startswith("_")
            and not ast.get_docstring(node)
        ]
        self.assertEqual(bare, [])

    def test_what_was_said_before_is_said_without_the_core_and_what_draws(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            Path(folder, "A.java").write_text("class A { }")
            code = (
                f"import sys; sys.argv = ['isodesm', 'scan', {folder!r}, '--cache-dir', {folder + '/cache'!r}]\n"
                "from isodesm.cli.app import app\n"
                "try: app()\nexcept SystemExit: pass\n"
                "print([m for m in ('rich.console', 'tree_sitter', 'numpy', 'isodesm.codebase.model') if m in sys.modules])"
            )
            run = [sys.executable, "-c", code]
            said = [subprocess.run(run, capture_output=True, text=True, timeout=60).stdout.splitlines() for _ in range(2)]
        self.assertEqual((said[0][:-1], said[1][-1]), (said[1][:-1], "[]"))
        self.assertIn("rich.console", said[0][-1])

    def test_help_loads_none_of_the_core(self) -> None:
        code = (
            "import sys; sys.argv = ['isodesm', '--help']\n"
            "from isodesm.cli.app import app\n"
            "try: app()\nexcept SystemExit: pass\n"
            "print([m for m in sys.modules if m.split('.')[0] in ('numpy', 'tree_sitter', 'msgspec', 'scipy', 'matplotlib')])"
        )
        result = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=60)
        self.assertEqual(result.stdout.splitlines()[-1], "[]", result.stderr)
