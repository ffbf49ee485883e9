"""The proof of a step: wrong edits of each kind are objected to, right ones are not; a plan survives a decision that fails."""

from __future__ import annotations

import unittest
from unittest import mock

from isodesm.diagnosis.diagnose import diagnose
from isodesm.planning.model.decision import Decision
from isodesm.planning.model.refusal import Reason, Refusal
from isodesm.planning.model.step import Written
from isodesm.planning.planner import phases, planning
from isodesm.planning.planner.options import Options
from isodesm.planning.planner.plan import plan
from isodesm.planning.planner.planning import Planning
from isodesm.planning.verification.proof import Objection, objections
from isodesm.planning.wording.reasons import sentence
from tests.support import TreeTest

PATHS = {"java": "p/A.java", "csharp": "A.cs", "typescript": "a.ts", "php": "A.php", "python": "a.py"}
KNOWN = {"Bell": frozenset(("q",)), "Late": frozenset(("a",)), "A": frozenset(("p",))}

WRONG = {
    "the tail of a chain is swallowed": (
        "csharp",
        "class A { long N() { return Clock.UtcNow.Ticks; } }",
        "class A { readonly System.Func<Time> utcNow; long N() { return utcNow(); } }",
        ("Clock", "UtcNow"),
        ("conservation", "`Ticks`"),
    ),
    "a guard is lost": (
        "java",
        "package p; class A { void go(int n) { if (n > limit) { bell.ring(n); } } }",
        "package p; class A { void go(int n) { bell.ring(n); } }",
        (),
        ("conservation", "`limit`"),
    ),
    "a call stands twice": (
        "java",
        "package p; class A { void go(int n) { bell.ring(n); horn.blow(n); } }",
        "package p; class A { void go(int n) { bell.ring(n); bell.ring(n); horn.blow(n); } }",
        (),
        ("conservation", "`bell.ring(…1)` would be added"),
    ),
    "an argument goes to another call": (
        "php",
        "<?php class A { function go($n, $m) { $this->ring($n, $m); $this->blow($n); } }",
        "<?php class A { function go($n, $m) { $this->ring($n); $this->blow($n, $m); } }",
        (),
        ("conservation", "`ring(…2)` would be lost"),
    ),
    "it does not parse": (
        "php",
        "<?php class A { function go() { return 1; } }",
        "<?php class A { function go() { return $this->; } }",
        (),
        ("syntax", "A.php"),
    ),
    "two parameters of one name": (
        "typescript",
        "class A { constructor(bell: B) { } }",
        "class A { constructor(bell: B, bell: C) { } }",
        (),
        ("declarations", "two `bell`"),
    ),
    "two fields of one name": (
        "java",
        "package p; class A { int bell; }",
        "package p; class A { int bell; final B bell; }",
        (),
        ("declarations", "`bell` twice"),
    ),
    "a field that hides an inherited one": (
        "java",
        "package p; class A extends Horn { void go() { bell.ring(); } void tell(B o) { o.bell(); } }",
        "package p; class A extends Horn { final Bell bell; void go() { bell.ring(); } void tell(B o) { o.bell(); } }",
        (),
        ("names", "`bell` means something else in `A`"),
    ),
    "a type that is its own base": (
        "csharp",
        "class A { }",
        "class A : A { }",
        (),
        ("declarations", "its own base"),
    ),
    "two constructors of one signature": (
        "csharp",
        "class A { public A(int n) { } }",
        "class A { public A(int n) { } public A(int m) { } }",
        (),
        ("declarations", "twice"),
    ),
    "a type of another package": (
        "java",
        "package p; class A { }",
        "package p; class A { Bell bell; }",
        (),
        ("names", "`Bell`"),
    ),
    "a type that no import gives": (
        "python",
        "class A:\n    def go(self):\n        pass\n",
        "class A:\n    def go(self, bell: Bell):\n        pass\n",
        (),
        ("names", "`Bell`"),
    ),
    "a type that is declared later": (
        "python",
        "class A:\n    def __init__(self):\n        pass\n\n\nclass Late:\n    pass\n",
        "class A:\n    def __init__(self, late: Late | None = None):\n        pass\n\n\nclass Late:\n    pass\n",
        (),
        ("names", "before it is declared"),
    ),
    "an import inside a function binds only there": (
        "python",
        "class A:\n    def __init__(self):\n        pass\n\n    def go(self):\n"
        "        from q import Horn\n        return Horn()\n",
        "class A:\n    def __init__(self, horn=None):\n        self.horn = horn or Horn()\n\n    def go(self):\n"
        "        from q import Horn\n        return self.horn\n",
        ("Horn",),
        ("names", "`Horn`"),
    ),
    "it does not compile": (
        "python",
        "from q import (\n    x,\n    )\n",
        "from q import (\n    x,\n    )\n    from q import y\n",
        (),
        ("syntax", "would not compile"),
    ),
    "a call becomes a value": (
        "java",
        "package p; class A { void go() {\nDriver.load();\n} }",
        "package p; class A { Driver driver; void go() {\ndriver;\n} }",
        ("Driver", "load"),
        ("moment", "bare value"),
    ),
    "something that is made anew": (
        "csharp",
        "class A { Port port; void Open() {\nport = new Port();\n} }",
        "class A { Port port; void Open() {\nport = port;\n} }",
        ("Port",),
        ("moment", "to itself"),
    ),
}
RIGHT = {
    "the rest of a chain goes on": (
        "csharp",
        "class A { long N() { return Clock.UtcNow.Ticks; } }",
        "class A { readonly System.Func<Time> utcNow; long N() { return utcNow().Ticks; } }",
        ("Clock", "UtcNow"),
    ),
    "a variable gives way to its value": (
        "java",
        "package p; class A { A() { int port = 7; go(new B(port)); } }",
        "package p; class A { A() { this(new B(7)); } }",
        ("go",),
    ),
    "a name in a remark": (
        "typescript",
        "export class A { }",
        "/** What the rest asks of Bell. */\nexport class A { }",
        (),
    ),
    "a later class under postponed names": (
        "python",
        "from __future__ import annotations\n\n\nclass A:\n    def go(self): ...\n\n\nclass Late: ...\n",
        "from __future__ import annotations\n\n\nclass A:\n    def go(self, late: Late): ...\n\n\nclass Late: ...\n",
        (),
    ),
    "overloads": ("java", "package p; class A { A() { } }", "package p; class A { A() { } A(int n) { } }", ()),
}


def said(language: str, before: str, after: str, may_go: tuple[str, ...]) -> list[tuple[str, str]]:
    written = Written(language, PATHS[language], before.encode(), after.encode())
    return [tuple(each) for each in objections([written], may_go, KNOWN)]


class ProofTest(unittest.TestCase):
    def test_wrong_edits_are_objected_to(self) -> None:
        for name, (language, before, after, may_go, (check, words)) in WRONG.items():
            with self.subTest(name=name):
                found = said(language, before, after, may_go)
                self.assertTrue(found)
                self.assertEqual(found[0][0], check)
                self.assertIn(words, found[0][1])

    def test_right_edits_are_not(self) -> None:
        for name, (language, before, after, may_go) in RIGHT.items():
            with self.subTest(name=name):
                self.assertEqual(said(language, before, after, may_go), [])


class SurvivalTest(TreeTest):
    FILES = {
        "p/Bell.java": "package p; public class Bell { public void ring(String s) { try { new java.net.Socket(s, 1); } catch "
        "(Exception e) { } } }",
        "p/Desk.java": "package p; public class Desk { void go(String s) { new Bell().ring(s); } }",
        "p/Till.java": "package p; public class Till { void go(String s) { new Bell().ring(s); } }",
    }

    def test_a_decision_that_fails_leaves_the_others(self) -> None:
        codebase = self.read(self.FILES)
        diagnosis = diagnose(codebase)
        whole = plan(codebase, diagnosis, Options())
        honest = phases.inject

        def fails_once(planning: Planning, decision: Decision) -> None:
            if planning.context.name(decision.source) == "Desk":
                planning.context.state = planning.context.state.with_legacy(0)
                raise KeyError("x")
            honest(planning, decision)

        with mock.patch.object(phases, "inject", fails_once):
            rest = plan(codebase, diagnosis, Options())
        self.assertEqual([each.title for each in rest.steps], [each.title for each in whole.steps if "Desk" not in each.title])
        self.assertEqual([each.reason for each in rest.left], [sentence(Refusal(Reason.MISTAKE, error="KeyError"))])

    def test_a_step_that_does_not_hold_is_not_offered(self) -> None:
        codebase = self.read(self.FILES)
        with mock.patch.object(planning, "objections", lambda *_: iter([Objection("syntax", "so it is")])):
            nothing = plan(codebase, diagnose(codebase), Options())
        self.assertEqual(nothing.steps, ())
        self.assertEqual({each.reason for each in nothing.left}, {sentence(Refusal(Reason.DOES_NOT_HOLD, fault="so it is"))})
        self.assertEqual(nothing.hard_bonds[0], nothing.hard_bonds[1])
