"""Plans of small sources, one test each: `python -m tests plans.java.NAME` runs one, `plans.java` those of a language."""

from __future__ import annotations

import re
import shutil
from collections.abc import Iterator
from pathlib import Path

import isodesm
from isodesm.codebase.reading import read
from isodesm.measures.strain import weigh
from isodesm.settings import StrainWeights
from tests.carrying import carry_out, complaints, has_compiler, suffix_of
from tests.support import CASES, TreeTest, case_names, plan_of, split_case

CHECKED = (".java", ".php", ".py")
"""Suffixes of sources that a compiler is asked about which takes a class by itself."""


def cases(file: str) -> Iterator[tuple[str, str]]:
    """Name, in letters and lines, and text of each case of a file."""
    text = (CASES / "plans" / file).read_text(encoding="utf-8")
    for part in re.split(r"^##### ", text, flags=re.MULTILINE)[1:]:
        title, _, body = part.partition("\n")
        yield re.sub(r"\W+", "-", title.strip()).strip("-").lower(), body


class PlanCase(TreeTest):
    """`=== path` before, `=== after path` once all steps are carried out, `=== steps` their titles, `=== left` what stays
    and why; `=== only` has techniques that the whole tree is planned by."""

    file = ""

    def check_case(self, name: str) -> None:
        parts = split_case(dict(cases(self.file))[name])
        before = self.write_sources(parts)
        codebase = read(self.root)
        only = frozenset(parts.get("only", "").split())
        made = plan_of(codebase, focus=frozenset(range(len(codebase.symbols))) if only else frozenset(), techniques=only)
        for step in made.steps:
            carry_out(self.root, step)
        self.assertEqual([step.title for step in made.steps], parts.get("steps", "").splitlines())
        self.assertEqual([f"{each.source}: {each.reason}" for each in made.left], parts.get("left", "").splitlines())
        marked = any("utf-8-sig" in each for each in parts)  # which one compiler takes for a letter
        suffix = suffix_of(self.root)
        if made.steps and not marked and suffix in CHECKED and has_compiler(suffix):
            self.assertEqual(complaints(self.root), "")
        after = [weigh(each, StrainWeights()) for each in isodesm.diagnose(read(self.root)).hard]
        self.assertEqual((made.strain[1], made.hard_bonds[1]), (round(sum(after), 9), sum(map(bool, after))))
        self.check_sources(parts, before)

    def write_sources(self, parts: dict[str, str]) -> dict[str, bytes]:
        for name, body in parts.items():
            path, *style = name.split()
            if path not in ("after", "steps", "left", "only"):
                encoding = next((word for word in style if word != "crlf"), "utf-8")
                self.write({path: (body.replace("\n", "\r\n") if "crlf" in style else body).encode(encoding)})
        return self.contents()

    def contents(self) -> dict[str, bytes]:
        shutil.rmtree(self.root / "__pycache__", ignore_errors=True)
        found: list[Path] = [
            each for each in sorted(self.root.rglob("*")) if each.is_file() and "__pycache__" not in each.parts
        ]
        return {each.relative_to(self.root).as_posix(): each.read_bytes() for each in found}

    def check_sources(self, parts: dict[str, str], before: dict[str, bytes]) -> None:
        changed = {f"after {name}": text for name, text in self.contents().items() if before.get(name) != text}
        self.assertEqual(sorted(changed), sorted(name for name in parts if name.startswith("after ")))
        for name, content in changed.items():
            self.assertEqual(content.decode("utf-8-sig").replace("\r\n", "\n"), parts[name])
            self.assertIn(content.count(b"\n") - content.count(b"\r\n"), (0, content.count(b"\n")), "line ends are mixed")

    def id(self) -> str:
        return f"plans.{self.file.removesuffix('.txt')}.{self._testMethodName.removeprefix('test_')}"

    def __str__(self) -> str:
        return self.id()


def _test(name: str) -> object:
    return lambda self: self.check_case(name)


for _file in case_names("plans"):
    _name = f"{_file.removesuffix('.txt').title()}PlanTest"
    globals()[_name] = type(_name, (PlanCase,), {"file": _file} | {f"test_{name}": _test(name) for name, _ in cases(_file)})
