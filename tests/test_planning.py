"""Plans: names, generated code, order, what is left, and predictions held against code with the steps carried out."""

from __future__ import annotations

import shutil
import subprocess
import tempfile
import unittest
from collections.abc import Iterator
from pathlib import Path

import isodesm
from isodesm.codebase.model import Codebase, read
from isodesm.planning.naming import measure_habit
from isodesm.planning.planner import _depths, plan
from isodesm.planning.steps import TECHNIQUES, Plan, Step
from tests.support import DEMO, TreeTest

GATEWAY = "package p; public class {0} {{ {1} public void send(String text) {{ try {{ new java.net.Socket(text, 1); }} catch (Exception e) {{ }} }} }}"
ROOT = "package p; public class Start { public static void main(String[] a) { new Shop(%s).run(\"a\"); } }"
SHOP = "package p; public class Shop { %s public void run(String s) { if (s != null) { %s } } }"


def plan_of(codebase: Codebase, **options: object) -> Plan:
    return plan(codebase, isodesm.diagnose(codebase), **options)


class InterfaceTest(TreeTest):
    def test_complete_signatures_and_imports(self) -> None:
        """Type parameters, bounds, declared errors, variadics, docs; only what users call; types of other packages imported."""
        codebase = self.read({
            "d/Item.java": "package d; public record Item(String s) { }",
            "d/Oops.java": "package d; public class Oops extends Exception { }",
            "g/Wire.java": """package g;
import d.*;
import java.util.Map;
public class Wire {
    /** Sends it.
     * @param items what to send */
    public <T extends Item> Map<String, T> send(final T first, Item... items) throws Oops {
        try { new java.net.Socket("a", 1); } catch (java.io.IOException e) { } return null;
    }
    public void unused() { }
    static void helper() { }
}""",
            "a/Shop.java": "package a; public class Shop { private final g.Wire wire = new g.Wire();\n"
            "  void run(d.Item i) throws d.Oops { if (i != null) { wire.send(i); } } }",
        })  # fmt: skip
        step = plan_of(codebase).steps[0]
        self.assertEqual(step.technique, "extract-interface")
        self.assertEqual(step.code[0].file, "g/WirePort.java")
        self.assertEqual(step.code[0].after, """package g;

import d.Item;
import d.Oops;
import java.util.Map;

/** What the rest of the code asks of Wire. */
public interface WirePort {

    /** Sends it.
     * @param items what to send */
    <T extends Item> Map<String, T> send(T first, Item... items) throws Oops;
}
""")

    def test_names_follow_the_habit(self) -> None:
        habits = {
            "prefix": ("interface IStore { void s(); } class Store implements IStore { public void s() { } }", "IMailer"),
            "implementation": ("interface Store { void s(); } class StoreImpl implements Store { public void s() { } }", "MailerPort"),
            "plain": ("interface Store { void s(); } class FileStore implements Store { public void s() { } }", "MailerPort"),
        }
        for kind, (source, name) in habits.items():
            with self.subTest(habit=kind):
                self.root = self.root.parent / kind
                codebase = self.read({
                    "p/Store.java": f"package p; {source}", "p/Mailer.java": GATEWAY.format("Mailer", ""),
                    "p/Shop.java": SHOP % ("Mailer m = new Mailer();", "m.send(s);"),
                })  # fmt: skip
                self.assertEqual(measure_habit(codebase).kind, kind)
                self.assertEqual(plan_of(codebase).steps[0].title, f"Extract interface {name} from Mailer")

    def test_an_interface_that_fits_is_reused(self) -> None:
        codebase = self.read({
            "p/Sender.java": "package p; public interface Sender { void send(String text); }",
            "p/Mailer.java": GATEWAY.format("Mailer", "").replace("class Mailer", "class Mailer implements Sender"),
            "p/Shop.java": SHOP % ("Mailer m = new Mailer();", "m.send(s);"),
        })  # fmt: skip
        self.assertEqual([step.technique for step in plan_of(codebase).steps][0], "bridge-constructor")
        self.assertIn("Sender", plan_of(codebase).steps[0].title)


class ConstructorTest(TreeTest):
    CASES = {
        # how Shop makes its mailer, what the root passes, the constructor after the step
        "field": (
            "private final Mailer mailer = new Mailer();", "mailer.send(s);", "",
            "public Shop(MailerPort mailer) {\n        this.mailer = mailer;\n    }",
        ),
        "in the constructor": (
            "private final int n; private final Mailer mailer; Shop(int n) { this.n = n; this.mailer = new Mailer(); }", "mailer.send(s);", "3",
            "Shop(int n, MailerPort mailer) {\n        this.n = n; this.mailer = mailer;\n    }",
        ),
        "in a method": ("", "new Mailer().send(s);", "", "public Shop(MailerPort mailer) {\n        this.mailer = mailer;\n    }"),
        "behind super": (
            "Mailer mailer = new Mailer(); Shop() {\n        super();\n        warm();\n    } void warm() { }", "mailer.send(s);", "",
            "Shop(MailerPort mailer) {\n        super();\n        this.mailer = mailer;\n        warm();\n    }",
        ),
    }  # fmt: skip

    def test_after(self) -> None:
        for name, (fields, use, passed, wanted) in self.CASES.items():
            with self.subTest(case=name):
                self.root = self.root.parent / name
                codebase = self.read({
                    "p/Mailer.java": GATEWAY.format("Mailer", ""), "p/Shop.java": SHOP % (fields, use), "p/Start.java": ROOT % passed,
                })  # fmt: skip
                steps = {step.technique: step for step in plan_of(codebase).steps}
                self.assertEqual(list(steps), ["extract-interface", "inject-through-constructor", "register"])
                self.assertIn(wanted, steps["inject-through-constructor"].code[0].after)
                wired = f"new Shop({passed + ', ' if passed else ''}mailer).run(\"a\");"
                self.assertIn("MailerPort mailer = new Mailer();\n", steps["register"].code[0].after)
                self.assertIn(wired, steps["register"].code[0].after)

    def test_left_with_the_reason(self) -> None:
        cases = {
            "needs `break-cycle`": ("Mailer mailer = new Mailer(this);", "mailer.send(s);", "Mailer(Shop s) { }"),
            "needs `introduce-factory`: its arguments": ("", "new Mailer(s).send(s);", "final String t; Mailer(String t) { this.t = t; }"),
            "needs `introduce-factory`: it has state": ("", "new Mailer().send(s);", "int sent;"),
            "needs `introduce-factory`: what it is made": ("int n = 3; Mailer mailer = new Mailer(n);", "mailer.send(s);", "final int t; Mailer(int t) { this.t = t; }"),
            "needs `introduce-factory`: what": ("final Mailer mailer; Shop(int n) { if (n > 1) { mailer = new Mailer(); } else { mailer = null; } }", "mailer.send(s);", ""),
            "needs `introduce-factory`: making it can fail": ("Mailer mailer = new Mailer();", "mailer.send(s);", "Mailer() throws java.io.IOException { }"),
            "is created in static code": ("static Mailer mailer = new Mailer();", "mailer.send(s);", ""),
            "several constructors": ("Mailer m; Shop() { m = new Mailer(); } Shop(int n) { m = new Mailer(); }", "m.send(s);", ""),
            "needs `wrap-static`": ("", "Thread.sleep(3);", ""),
        }  # fmt: skip
        for reason, (fields, use, mailer) in cases.items():
            with self.subTest(reason=reason):
                self.root = self.root.parent / reason.replace("`", "").replace(":", "")
                codebase = self.read({"p/Mailer.java": GATEWAY.format("Mailer", mailer), "p/Shop.java": SHOP % (fields, use)})
                made = plan_of(codebase)
                self.assertEqual(made.steps, ())
                self.assertEqual([each.reason[: len(reason)] for each in made.left if each.source == "p.Shop"], [reason])


class OrderTest(TreeTest):
    def test_depths(self) -> None:
        """a ─► b ─► c, a ─► c; and a ring d ─► e ─► d."""
        self.assertEqual(_depths([1, 2, 3], {1: {2, 3}, 2: {3}}), {1: 2, 2: 1, 3: 0})
        self.assertEqual(set(_depths([4, 5], {4: {5}, 5: {4}})), {4, 5})

    def test_what_a_step_needs_comes_before_it(self) -> None:
        steps = plan_of(read(DEMO / "bulletin-desk")).steps
        seen: set[str] = set()
        for step in steps:
            with self.subTest(step=step.title):
                self.assertLessEqual(set(step.needs), seen)
                self.assertIn(step.technique, TECHNIQUES)
                self.assertTrue(step.edits and all(edit.line >= 1 for edit in step.edits))
            seen.add(step.id)
        titles = [step.title for step in steps]
        self.assertLess(
            titles.index("Hand BulletinService its GaugeFeed, old constructor kept"), titles.index("Hand MorningRound its BulletinServicePort")
        )
        self.assertEqual(titles[-1], "Wire MorningRound in DeskConsole")

    def test_a_shorter_plan_is_the_beginning_of_the_longer(self) -> None:
        codebase = read(DEMO / "bulletin-desk")
        short, whole = plan_of(codebase, steps=4), plan_of(codebase)
        self.assertEqual(short.steps, whole.steps[:4])
        self.assertGreater(short.not_shown, 0)


class CarriedOutTest(TreeTest):
    """The first steps of the demo's plan done by hand, exactly as written: it compiles, and measures as predicted."""

    SERVICE = "src/main/java/org/hollin/desk/app/BulletinService.java"

    def carry_out(self) -> list[list[tuple[str, str, str]]]:
        """For each step, edits as (file, old text, new text); an empty old text makes a new file."""
        codebase = read(DEMO / "bulletin-desk")
        first, extract, third = plan_of(codebase).steps[:3]
        relay = "src/main/java/org/hollin/desk/infra/SirenRelay.java"
        fields, _, constructors = third.code[0].after.partition("\n\n")
        return [
            [
                (self.SERVICE, 'private final FileGaugeFeed feed = new FileGaugeFeed("readings");', "private final GaugeFeed feed;"),
                (self.SERVICE, first.code[0].before, first.code[0].after),
            ],
            [
                (extract.code[0].file, "", extract.code[0].after),
                (relay, "public class SirenRelay {", "public class SirenRelay implements org.hollin.desk.app.SirenRelayPort {"),
                (relay, "    public void sound(", "    @Override\n    public void sound("),
            ],
            [
                (self.SERVICE, "    private final ReviewService review;", f"    private final ReviewService review;\n{fields}"),
                (self.SERVICE, third.code[0].before, constructors),
                (self.SERVICE, '            SirenRelay relay = new SirenRelay("siren.valley", 7011);\n            relay.sound', "            sirenRelay.sound"),
            ],
        ]  # fmt: skip

    def states(self) -> Iterator[tuple[Step, Path]]:
        """Each step with the tree in which it has just been carried out."""
        steps = plan_of(read(DEMO / "bulletin-desk")).steps
        tree = self.root / "desk"
        shutil.copytree(DEMO / "bulletin-desk", tree)
        for step, edits in zip(steps[:3], self.carry_out(), strict=True):
            for name, old, new in edits:
                path = tree / name
                text = path.read_text() if old else ""
                self.assertEqual(text.count(old) if old else 1, 1, f"{name}: {old}")
                path.write_text(text.replace(old, new) if old else new)
            yield step, tree

    def test_predicted_is_measured(self) -> None:
        for step, tree in self.states():
            with self.subTest(step=step.title):
                codebase = read(tree)
                ranking = isodesm.rank(codebase, isodesm.diagnose(codebase))
                self.assertEqual((ranking.total_strain, ranking.total_hard_bonds), (step.after.strain, step.after.hard_bonds))
                (row,) = [row for row in ranking.classes if row.name == step.classes[0]]
                self.assertEqual((row.strain, row.hard_bonds), (step.after.class_strain, step.after.class_hard_bonds))
                self.assertEqual(row.locked_effects, step.after.locked_effects)

    @unittest.skipUnless(shutil.which("javac"), "javac is not installed")
    def test_it_compiles_after_every_step(self) -> None:
        for step, tree in self.states():
            with self.subTest(step=step.title), tempfile.TemporaryDirectory() as classes:
                sources = [str(path) for path in tree.rglob("*.java")]
                result = subprocess.run(["javac", "-d", classes, *sources], capture_output=True, text=True)
                self.assertEqual(result.returncode, 0, result.stderr)
