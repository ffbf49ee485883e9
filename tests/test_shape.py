"""The shape of the code: no rings, rooms of planning with one direction, one room a language, plain functions, types."""

from __future__ import annotations

import ast
import importlib.util
import subprocess
import sys
import unittest
from collections.abc import Iterator
from pathlib import Path

from isodesm.facts.languages import LANGUAGES
from tests.test_house import SOURCE, modules

PLANNING = (
    *("model", "wording", "language", "text", "analysis", "state"),
    *("containers", "techniques", "verification", "planner"),
)
"""The rooms of planning from left to right; one may import itself and those to its left."""
OF_LANGUAGES = ("facts/languages", "planning/language", "catalogue")
PLAIN = frozenset(
    ("str", "bytes", "int", "float", "bool", "type", "object", "tuple", "frozenset", "None", "Any", "Level", "msgspec")
)
"""Names in the annotations of what a function that keeps its answers may be asked: values, and kinds of record."""
BRANCHES, ARGUMENTS, LINES = 25, 7, 55


def name_of(path: Path) -> str:
    """The dotted name of a module."""
    return ".".join(path.relative_to(SOURCE.parent).with_suffix("").parts).removesuffix(".__init__")


def imports() -> dict[str, set[str]]:
    """Module to the modules that it imports, wherever the import stands and whatever for."""
    trees = {name_of(path): tree for path, _, tree in modules()}
    found: dict[str, set[str]] = {}
    for name, tree in trees.items():
        own = found[name] = set()
        for node in ast.walk(tree):
            if isinstance(node, ast.Import):
                own.update(alias.name for alias in node.names)
            elif isinstance(node, ast.ImportFrom) and node.module:
                inner = [f"{node.module}.{alias.name}" for alias in node.names]
                own.update(each if each in trees else node.module for each in inner)
        own &= trees.keys() - {name}
    return found


def rings(edges: dict[str, set[str]]) -> list[list[str]]:
    """Sets of modules each of which leads to all the others: strongly connected components, by Kosaraju's two walks."""
    order: list[str] = []
    seen: set[str] = set()

    def walk(start: str, step: dict[str, set[str]]) -> Iterator[str]:
        waiting = [(start, iter(sorted(step[start])))]
        seen.add(start)
        while waiting:
            name, rest = waiting[-1]
            following = next((each for each in rest if each not in seen), None)
            if following is None:
                waiting.pop()
                yield name
            else:
                seen.add(following)
                waiting.append((following, iter(sorted(step[following]))))

    for name in sorted(edges):
        if name not in seen:
            order += walk(name, edges)
    back: dict[str, set[str]] = {name: set() for name in edges}
    for name, targets in edges.items():
        for each in targets:
            back[each].add(name)
    seen = set()
    groups = [sorted(walk(name, back)) for name in reversed(order) if name not in seen]
    return [group for group in groups if len(group) > 1]


def functions() -> Iterator[tuple[str, ast.FunctionDef | ast.AsyncFunctionDef]]:
    """All functions with the name of their module."""
    for path, _, tree in modules():
        for node in ast.walk(tree):
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
                yield name_of(path), node


def branches(function: ast.AST) -> int:
    """One more than the places at which a function decides: cyclomatic complexity with boolean operators and comprehensions."""
    count = 1
    for node in ast.walk(function):
        if isinstance(
            node, ast.If | ast.IfExp | ast.For | ast.While | ast.AsyncFor | ast.ExceptHandler | ast.Assert | ast.Lambda
        ):
            count += 1
        elif isinstance(node, ast.BoolOp):
            count += len(node.values) - 1
        elif isinstance(node, ast.comprehension):
            count += 1 + len(node.ifs)
        elif isinstance(node, ast.match_case):
            count += 1
    return count


def length(function: ast.FunctionDef | ast.AsyncFunctionDef) -> int:
    """Lines of a function, its head among them."""
    return (function.end_lineno or function.lineno) - function.lineno + 1


def alternatives(annotation: ast.expr) -> list[str]:
    """The types of a union as written, `None` left out."""
    if isinstance(annotation, ast.BinOp) and isinstance(annotation.op, ast.BitOr):
        return [*alternatives(annotation.left), *alternatives(annotation.right)]
    return [said] if (said := ast.unparse(annotation)) != "None" else []


class ShapeTest(unittest.TestCase):
    def test_nothing_imports_itself_over_others(self) -> None:
        self.assertEqual(rings(imports()), [])
        self.assertEqual(rings({"a": {"b"}, "b": {"c"}, "c": {"b"}, "d": {"a"}}), [["b", "c"]])

    def test_rooms_of_planning_know_those_to_their_left(self) -> None:
        found = []
        for name, targets in imports().items():
            own = name.split(".")
            if own[1:2] != ["planning"] or len(own) < 3:
                continue
            self.assertIn(own[2], PLANNING, name)
            for each in targets:
                other = each.split(".")
                if other[1:2] == ["planning"] and PLANNING.index(other[2]) > PLANNING.index(own[2]):
                    found.append(f"{name} imports {each}")
        self.assertEqual(found, [])

    def test_languages_are_named_in_their_rooms(self) -> None:
        found = [
            f"{path.relative_to(SOURCE)}:{node.lineno}"
            for path, _, tree in modules()
            if not path.relative_to(SOURCE).as_posix().startswith(OF_LANGUAGES)
            for node in ast.walk(tree)
            if isinstance(node, ast.Constant) and node.value in LANGUAGES
        ]
        self.assertEqual(found, [])

    def test_what_a_function_of_planning_finds_is_no_sentence(self) -> None:
        found = [
            f"{name}:{node.name}"
            for name, node in functions()
            if name.startswith("isodesm.planning.")
            and node.returns is not None
            and "str" in (said := alternatives(node.returns))
            and len(said) > 1
        ]
        self.assertEqual(found, [])

    def test_no_module_keeps_answers_about_a_codebase(self) -> None:
        """A function that keeps its answers is asked with plain values: what belongs to a run is kept by the run."""
        found = []
        for name, node in functions():
            if any("cache" in (said := ast.unparse(each)) and "property" not in said for each in node.decorator_list):
                for each in (*node.args.posonlyargs, *node.args.args, *node.args.kwonlyargs):
                    names = {part.id for part in ast.walk(each.annotation or ast.Name("?")) if isinstance(part, ast.Name)}
                    if not names <= PLAIN:
                        found.append(f"{name}:{node.name}({each.arg})")
        self.assertEqual(found, [])

    def test_functions_stay_plain(self) -> None:
        many = {f"{name}:{node.name}": count for name, node in functions() if (count := branches(node)) > BRANCHES}
        self.assertEqual(many, {})
        wide = {}
        for name, node in functions():
            own = [each.arg for each in (*node.args.posonlyargs, *node.args.args, *node.args.kwonlyargs)]
            count = len(own) - (own[:1] in (["self"], ["cls"]))
            if count > ARGUMENTS:
                wide[f"{name}:{node.name}"] = count
        self.assertEqual(wide, {})
        long = {f"{name}:{node.name}": count for name, node in functions() if (count := length(node)) > LINES}
        self.assertEqual(long, {})
        code = "def f(a): return [b for b in a if b and (b > 1 or b < 0)] if a else 0"
        self.assertEqual(branches(ast.parse(code)), 6)

    @unittest.skipIf(importlib.util.find_spec("mypy") is None, "no checker of types here")
    def test_types_are_right(self) -> None:
        result = subprocess.run(
            [sys.executable, "-m", "mypy"], cwd=SOURCE.parent.parent, capture_output=True, text=True, timeout=600
        )
        self.assertEqual(result.returncode, 0, result.stdout[-3000:] + result.stderr[-500:])
