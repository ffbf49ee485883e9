"""The page of reasons: it has every one that the code gives."""

from __future__ import annotations

import ast
import re
import unittest
from collections.abc import Iterator
from pathlib import Path

HOME = Path(__file__).parent.parent
PLANNING = HOME / "src/isodesm/planning"
GIVING = (
    "analysis/preconditions",
    "analysis/initialization_order",
    "techniques/give_instance/static_gateway",
    "techniques/move_effect_out/external_gateway",
    "techniques/replace_singleton",
    "techniques/replace_lookup",
    "techniques/wrap_static/provider",
    "techniques/wrap_static/wrap",
    "techniques/introduce_factory/factory",
    "techniques/inject_through_constructor/inject",
    "techniques/proposal",
    "techniques/lift_creation/forward",
    "techniques/retire_bridge/retire",
)
LEAST = 20
"""Letters of the shortest reason."""


def returned(path: Path) -> Iterator[str]:
    """Sentences that functions of a file give back, with `…` for what is put in."""
    functions = (each for each in ast.walk(ast.parse(path.read_text(encoding="utf-8"))) if isinstance(each, ast.FunctionDef))
    giving = (each for each in functions if each.returns is not None and "str" in ast.unparse(each.returns))
    for node in (inner for each in giving for inner in ast.walk(each)):
        for value in ast.walk(node.value) if isinstance(node, ast.Return) and node.value is not None else ():
            if isinstance(value, ast.Constant) and isinstance(value.value, str):
                yield value.value
            elif isinstance(value, ast.JoinedStr):
                yield "".join(each.value if isinstance(each, ast.Constant) else "…" for each in value.values)


class LeftPageTest(unittest.TestCase):
    def test_it_has_every_reason(self) -> None:
        page = (HOME / "docs/left.md").read_text(encoding="utf-8")
        files = [PLANNING / f"{name}.py" for name in GIVING]
        for path in files:
            reasons = {
                each for each in returned(path) if len(each) > LEAST and " " in each and not re.search(r"[{}()<>]", each)
            }
            with self.subTest(file=path.name):
                self.assertEqual([each for each in sorted(reasons) if each.strip(" …") not in page], [])
                self.assertTrue(reasons)
