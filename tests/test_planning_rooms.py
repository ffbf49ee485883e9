"""Each room of planning on its own: order, preconditions, state, containers, wording, languages."""

from __future__ import annotations

import string
import unittest
from collections.abc import Iterator
from unittest import mock

import isodesm
from isodesm.catalogue import catalogue_of
from isodesm.codebase.model import Codebase
from isodesm.facts.languages import LANGUAGES
from isodesm.planning.analysis.decisions import find_decisions
from isodesm.planning.analysis.preconditions import of_class
from isodesm.planning.analysis.sources import Sources
from isodesm.planning.containers.registration_edits import makes
from isodesm.planning.language import language_named
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.code import Need, Signature, Typed
from isodesm.planning.model.refusal import Hazard, Reason, Refusal, Risk
from isodesm.planning.planner import planning
from isodesm.planning.planner.order import order_decisions
from isodesm.planning.state.arguments import apart_from
from isodesm.planning.state.context import PlanContext
from isodesm.planning.state.plan_state import PlanState
from isodesm.planning.verification.proof import Objection
from isodesm.planning.wording import hazards, reasons
from isodesm.planning.wording.steps import legacy_removed
from tests.support import DEMO, TreeTest, plan_of, read_sample

HORN = 'class Horn { void sound() throws Exception { new java.net.Socket("a", 1).close(); } }'


class OrderTest(TreeTest):
    def order(self, files: dict[str, str]) -> list[str]:
        codebase = self.read(files)
        found = order_decisions(codebase, find_decisions(codebase, isodesm.diagnose(codebase).hard))
        names = codebase.symbols.names
        return [f"{names[each.source].rpartition('.')[2]}: {each.name.rpartition('.')[2]}" for each in found]

    def test_what_a_target_decides_on_goes_before(self) -> None:
        fog = "class Fog { final Bell bell = new Bell(); void warn() throws Exception { bell.ring(); } }"
        bell = "class Bell { final Horn horn = new Horn(); void ring() throws Exception { horn.sound(); } }"
        sky = "class Sky { final Fog fog = new Fog(); void fall() throws Exception { fog.warn(); } }"
        self.assertEqual(
            self.order({"Horn.java": HORN, "Bell.java": bell, "Fog.java": fog, "Sky.java": sky}),
            ["Bell: Horn", "Fog: Bell", "Sky: Fog"],
        )

    def test_a_ring_comes_to_an_end(self) -> None:
        files = {
            f"{a}.java": f"class {a} {{ void go() throws Exception {{ new {b}().go(); new java.net.Socket(null, 1); }} }}"
            for a, b in (("A", "B"), ("B", "A"))
        }
        self.assertEqual(sorted(self.order(files)), ["A: B", "B: A"])

    def test_the_data_side_comes_first_among_equals(self) -> None:
        use = "public class {0} {{ final p.Horn horn = new p.Horn(); void go() throws Exception {{ horn.sound(); }} }}"
        files = {
            f"org/{layer}/{name}.java": f"package org.{layer}; {use.format(name)}"
            for layer, name in (("application", "Early"), ("infrastructure", "Later"))
        }
        files |= {
            f"org/{layer}/{name}.java": f"package org.{layer}; public class {name} {{ void go() {{ }} }}"
            for layer in ("application", "infrastructure")
            for name in ("One", "Two", "Three", "Four")
        }
        horn = "package p; public " + HORN.replace("void", "public void")
        self.assertEqual(self.order(files | {"p/Horn.java": horn}), ["Later: Horn", "Early: Horn"])


class PreconditionsTest(TreeTest):
    CASES = (
        ("A.java", "class A { }", None),
        ("A.java", "interface A { }", Reason.NO_CLASS),
        ("A.java", "class A implements java.io.Serializable { }", Reason.SERIALIZED),
        ("A.java", "class A { private A() { } }", Reason.ONLY_ITSELF_CREATES),
        ("A.java", "class B { B(int i) { } } class A extends B { A() { super(1); } }", None),
        ("A.java", "class A { int i; A() { i = 1; } A(int j) { i = j; } A(long k) { i = 2; } A(char c) { i = 3; } }",
         Reason.SEVERAL_CONSTRUCTORS),
        ("A.cs", "partial class A { A(int i) { } } partial class A { public A() { } }", Reason.CONSTRUCTORS_IN_PARTS),
        ("A.cs", "class A {\n#if SLOW\n    public A() { }\n#endif\n}", Reason.CONSTRUCTOR_UNDER_CONDITION),
        ("A.java", "class A { A(int... all) { } }", Reason.ANY_NUMBER_OF_ARGUMENTS),
        ("code.php", "<?php class A { function __construct() { } } class B extends A { function __construct() { } }",
         Reason.SUBCLASS_PASSES_BY),
        ("a.py", "def run():\n    class A:\n        pass\n", Reason.LOCAL_CLASS),
        ("a.py", "class B(Exception):\n    pass\n\n\nclass A(B):\n    pass\n", Reason.INHERITS_OF_LIBRARY),
        ("a.ts", "export class A { constructor(private a: number) { } }", None),
    )  # fmt: skip
    """File, source, and why its class `A` can take nothing."""

    def test_each(self) -> None:
        top = self.root
        for number, (path, source, wanted) in enumerate(self.CASES):
            with self.subTest(path=path, source=source):
                self.root = top / str(number)
                codebase = self.read({path: source})
                names = [declared.name for declared in codebase.symbols.types]
                refusal = of_class(Sources(codebase), names.index("A"))
                self.assertEqual(refusal.reason if refusal else None, wanted)


class StateTest(TreeTest):
    def test_each_change_gives_the_next_one(self) -> None:
        first = PlanState()
        changes = (
            ("legacy", first.with_legacy(3), {3}),
            ("registered", first.with_registered(4), {4}),
            ("wired", first.with_wired(1, 2), {1, 2}),
            ("internal_names", first.with_internal_names("BellPort"), {"BellPort"}),
            ("new_files", first.with_new_file("a", "b"), {"a": "b"}),
            ("named", first.with_names(0, Need("Bell", "hut")), {0: {Need("Bell", "hut")}}),
            ("edits", first.with_edits(0, Amendment(1, 1, 0, "x", "y")), {0: (Amendment(1, 1, 0, "x", "y"),)}),
        )
        for name, after, wanted in changes:
            with self.subTest(name=name):
                self.assertEqual((getattr(after, name), first), (wanted, PlanState()))
                others = {each for each in first.__struct_fields__ if getattr(after, each) != getattr(first, each)}
                self.assertEqual(others, {name})

    def test_functions_inside_functions_take_other_names(self) -> None:
        cases = {
            "rope": ("(rope, at) -> new Bell(rope, at)", "(rope2, at) -> new Bell(rope2, at)"),
            "a b": ("a => new Bell(a, x.a)", "a2 => new Bell(a2, x.a)"),
            "tower": ("rope -> new Bell(rope)", "rope -> new Bell(rope)"),
            "": ("() => new Bell()", "() => new Bell()"),
        }
        for taken, (text, wanted) in cases.items():
            self.assertEqual(apart_from(set(taken.split()), text), wanted)

    def test_a_legacy_constructor_goes_once(self) -> None:
        state = PlanState().with_legacy(3)
        self.assertTrue(state.keeps_legacy(3))
        self.assertFalse(state.with_retired(3).keeps_legacy(3))

    def test_what_is_taken_back_leaves_no_trace(self) -> None:
        """Every second attempt fails its checks: then all is as it was before that attempt, and the rest goes on."""
        attempt, tried, refused = planning.Planning.attempt, [0], []

        def objections(*_: object) -> Iterator[Objection]:
            tried[0] += 1
            return iter([Objection("names", "so that it is taken back")] if tried[0] % 2 else [])

        def watched(self: planning.Planning, *given: object, **named: object) -> None:
            state, steps, failed = self.context.state.for_attempt(), self.so_far.steps, sum(self.unproven.values())
            attempt(self, *given, **named)
            if sum(self.unproven.values()) > failed:
                refused.append((self.context.state == state, self.so_far.steps == steps))

        for name in sorted(each.name for each in DEMO.iterdir()):
            given = mock.patch.object(planning, "objections", objections)
            with given, mock.patch.object(planning.Planning, "attempt", watched):
                made = plan_of(read_sample(name), settle=False)
            self.assertTrue(made.steps)
        self.assertGreater(len(refused), 20)
        self.assertEqual(set(refused), {(True, True)})


class ContainersTest(TreeTest):
    def context(self, files: dict[str, str]) -> tuple[Codebase, PlanContext]:
        codebase = self.read(files)
        return codebase, PlanContext(codebase, [])

    def test_which_classes_a_container_makes(self) -> None:
        mark = catalogue_of("java").injection.annotations[0]
        codebase, context = self.context(
            {
                "Bell.java": f"import org.parts.{mark}; class Bell {{ @{mark} Bell(Horn horn) {{ }} }}",
                "Horn.java": HORN,
                "Fog.java": "class Fog { Fog(Horn horn) { } static Fog make() { return new Fog(new Horn()); } }",
            }
        )
        made = {codebase.symbols.names[number] for number in range(len(codebase.symbols)) if makes(context, number)}
        self.assertEqual(made, {"Bell"})


class WordingTest(unittest.TestCase):
    def test_every_code_has_a_sentence(self) -> None:
        self.assertEqual((set(reasons.SENTENCES), set(hazards.SENTENCES)), (set(Reason), set(Risk)))

    def test_sentences_stand_by_themselves(self) -> None:
        for code, text in (*reasons.SENTENCES.items(), *hazards.SENTENCES.items()):
            with self.subTest(code=code.name):
                self.assertEqual(text, text.strip().rstrip("."))
                self.assertNotIn("  ", text)

    def test_facts_stand_in_their_places(self) -> None:
        refusal = Refusal(Reason.NEEDS_FACTORY, because=Refusal(Reason.CREATED_ANEW))
        self.assertEqual(reasons.sentence(refusal), "needs `introduce-factory`: it is made anew each time, and kept until then")
        self.assertIn("`clock`", hazards.hazard(Hazard(Risk.READ_ONCE, name="clock")))
        for code, text in reasons.SENTENCES.items():
            facts = {name: "x" for _, name, _, _ in string.Formatter().parse(text) if name}
            self.assertNotIn("{", reasons.sentence(Refusal(code, **facts)))

    def test_a_default_is_no_constructor(self) -> None:
        self.assertIn("constructor", legacy_removed("Bell", overloads=True).title)
        self.assertIn("defaults", legacy_removed("Bell", overloads=False).title)


class LanguagesTest(unittest.TestCase):
    SIGNATURE = Signature("ring", "text: Typed, loud", Typed("bool"))

    def test_every_language_has_its_room(self) -> None:
        for name in LANGUAGES:
            self.assertEqual(language_named(name).name, name)
        with self.assertRaises(KeyError):
            language_named("nobody's")

    def test_traits(self) -> None:
        traits = {
            "overloads": {"java", "csharp"},
            "structural_types": {"typescript"},
            "checked_errors": {"java"},
            "interfaces_prefixed": {"csharp"},
            "snake_case": {"python"},
            "keyword_arguments": {"python"},
            "conditional_compilation": {"csharp"},
        }
        for trait, wanted in traits.items():
            with self.subTest(trait=trait):
                self.assertEqual({name for name in LANGUAGES if getattr(language_named(name), trait)}, wanted)

    def test_scripts_have_no_types(self) -> None:
        self.assertTrue(language_named("typescript", "a/b.ts").typed)
        self.assertFalse(language_named("typescript", "a/b.js").typed)


if __name__ == "__main__":
    unittest.main()
