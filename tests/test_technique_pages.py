"""The pages on techniques: what stands under *After* is what a plan makes of what stands under *Before*."""

from __future__ import annotations

import re
import unittest
from pathlib import Path

import isodesm
from isodesm.codebase.reading import read
from isodesm.planning.model.step import TECHNIQUES
from isodesm.planning.planner.options import Options
from isodesm.planning.planner.plan import plan
from tests.carrying import carry_out
from tests.support import TreeTest

PAGES = Path(__file__).parent.parent / "docs/techniques"
_FILE = re.compile(r"^`([^`\n]+)`\n\n```\w+\n(.*?)^```$", re.MULTILINE | re.DOTALL)
_LANGUAGE = re.compile(r"^## (Java|C#|TypeScript|PHP|Python)$", re.MULTILINE)


class PagesTest(TreeTest):
    def test_every_technique_has_a_page_in_two_languages(self) -> None:
        index = (PAGES / "README.md").read_text(encoding="utf-8")
        for name in TECHNIQUES:
            with self.subTest(technique=name):
                text = (PAGES / f"{name}.md").read_text(encoding="utf-8")
                self.assertEqual(len(_LANGUAGE.findall(text)), 2)
                self.assertIn(f"({name}.md)", index)

    def test_after_is_what_a_plan_makes(self) -> None:
        top = self.root
        for name in TECHNIQUES:
            parts = _LANGUAGE.split((PAGES / f"{name}.md").read_text(encoding="utf-8"))
            for language, body in zip(parts[1::2], parts[2::2], strict=True):
                with self.subTest(technique=name, language=language):
                    self.root = top / name / language
                    self.check_example(name, body)

    def check_example(self, name: str, body: str) -> None:
        before, title, after = re.split(r"^After (.*):$", body, flags=re.MULTILINE)
        sources = dict(_FILE.findall(before))
        made = plan(read(self.write(sources)), isodesm.diagnose(read(self.root)), Options(techniques=frozenset((name,))))
        self.assertIn(name, {step.technique for step in made.steps})
        self.assertEqual("; ".join(f'"{step.title}"' for step in made.steps), title)
        by_hand = any(edit.by_hand for step in made.steps for edit in step.edits)
        for step in made.steps:
            carry_out(self.root, step)
        changed = {
            path.relative_to(self.root).as_posix(): path.read_text()
            for path in self.root.rglob("*")
            if path.is_file() and sources.get(path.relative_to(self.root).as_posix()) != path.read_text()
        }
        wanted = dict(_FILE.findall(after))
        if by_hand:  # the example shows one way to do it, after which the plan no longer asks for it
            again = read(self.write(wanted))
            self.assertNotIn(name, {step.technique for step in plan(again, isodesm.diagnose(again)).steps})
        else:
            self.assertEqual(changed, wanted)


if __name__ == "__main__":
    unittest.main()
