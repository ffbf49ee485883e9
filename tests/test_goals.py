"""Plans with a goal and plans in stages: what keeps a test from having a class alone, what it takes, and that a scan agrees."""

from __future__ import annotations

import json
from itertools import pairwise
from typing import Any

from isodesm.codebase.edited import edited
from isodesm.diagnosis.diagnose import diagnose
from isodesm.measures.testable import Testing, logic_of
from isodesm.planning.model.step import Plan
from isodesm.planning.planner.options import Options
from isodesm.planning.planner.reconcile import contents_after
from isodesm.planning.planner.staging import needed_ids, plan
from tests.support import DEMO, TreeTest, read_sample

SOCKET = 'class Horn { void sound() throws Exception { new java.net.Socket("a", 1).close(); } }'
LOGIC = "int f(int a) { if (a > 1) { return 2; } if (a > 0) { return 1; } return 0; } "


def desk(field: str, body: str, beside: str = SOCKET) -> str:
    return f"{beside} class Desk {{ {field} {LOGIC} void go() throws Exception {{ {body} }} }}"


class TestableTest(TreeTest):
    CASES = {
        "values only": (desk("int n;", "n++;"), []),
        "makes what opens a socket": (desk("", "new Horn().sound();"), ["effect network", "decision Horn"]),
        "is handed it": (desk("final Horn horn; Desk(Horn horn) { this.horn = horn; }", "horn.sound();"), []),
        "makes what has no effect": (
            desk("", "new Bell().ring(2);", "class Bell { int n; int ring(int a) { if (a > n) { n = a; } return n; } }"),
            [],
        ),
        "a device of its own": (desk("", 'new java.net.Socket("a", 1);'), ["effect network"]),
        "asks whether a file is there": (desk("boolean b;", 'b = new java.io.File("a").exists();'), []),
        "measures how long something takes": (
            desk("long t;", 'long s = System.nanoTime(); f(3); System.out.println("took " + (System.nanoTime() - s));'),
            [],
        ),
        "asks a shared instance": (
            desk(
                "",
                "Hub.getInstance().add(1);",
                "class Hub { private static final Hub HUB = new Hub(); private int n; static Hub getInstance() { return HUB; } "
                "void add(int a) { if (a > 0) { n += a; } } private Hub() { } }",
            ),
            ["decision Hub"],
        ),
        "an old constructor that supplies it": (
            desk(
                "final Horn horn; Desk(Horn horn) { this.horn = horn; } Desk() { this(new Horn()); }",
                "horn.sound();",
            ),
            [],
        ),
    }

    def test_what_keeps_a_test_from_having_a_class_alone(self) -> None:
        for name, (source, wanted) in self.CASES.items():
            with self.subTest(case=name):
                self.root = self.root.parent / name
                codebase = self.read({"Desk.java": source})
                number = codebase.symbols.names.index("Desk")
                found = Testing(codebase, diagnose(codebase)).of(number)
                self.assertEqual([f"{each.kind} {each.what}" for each in found.against], wanted)
                self.assertGreaterEqual(logic_of(codebase, number), 2 if wanted else 0)

    def test_nobody_writes_a_test_for_views_data_and_start_up(self) -> None:
        view = f"class Pane extends javax.swing.JPanel {{ {LOGIC} }}"
        start = f"class Start {{ public static void main(String[] a) {{ }} {LOGIC} }}"
        inner = f"class Outer {{ private static class Inner {{ {LOGIC} }} }}"
        codebase = self.read({"All.java": f"{view} {start} {inner}"})
        names = codebase.symbols.names
        self.assertEqual([logic_of(codebase, names.index(each)) for each in ("Pane", "Start", "Outer.Inner")], [0, 0, 0])


class GoalTest(TreeTest):
    HELPER = "class Tide { static int roll() { return new java.util.Random().nextInt(6); } static void calm() { } }"
    CASES = {
        "what it makes": (desk("", "new Horn().sound();"), "without the network", ["extract-interface", "bridge-constructor"]),
        "a device of its own": (
            desk("", 'java.nio.file.Path p = java.nio.file.Path.of("a"); java.nio.file.Files.delete(p);'),
            "without the file system",
            ["move-effect-out", "move-effect-out"],
        ),
        "one function of a class with others": (
            desk("", "if (Tide.roll() > 5) { Tide.calm(); }", HELPER),
            "without random numbers",
            ["wrap-static"],
        ),
        "nothing": (desk("int n;", "n++;"), "can be unit-tested alone already", []),
        "what is out of reach": (
            f'class Desk {{ {LOGIC} static void go() throws Exception {{ new java.net.Socket("a", 1); }} }}',
            "can't be unit-tested alone yet: the network would come along",
            [],
        ),
    }

    def goal(self, source: str, **options: bool) -> Plan:
        codebase = self.read({"Desk.java": source})
        number = codebase.symbols.names.index("Desk")
        return plan(codebase, diagnose(codebase), Options(goal=frozenset((number,)), **options))

    def test_the_fewest_steps_and_no_other(self) -> None:
        for name, (source, said, techniques) in self.CASES.items():
            with self.subTest(case=name):
                self.root = self.root.parent / name
                made = self.goal(source)
                self.assertIn(said, made.goals[0].said)
                self.assertEqual([each.technique for each in made.steps], techniques)
                self.assertEqual(bool(made.goals[0].after), "can't" in said)

    def test_callers_are_told_where_that_is_asked_for(self) -> None:
        shop = "class Shop { final Desk desk; Shop() { desk = new Desk(); } void open() throws Exception { desk.go(); } }"
        main = "class Start { public static void main(String[] a) throws Exception { new Shop().open(); } }"
        source = f"{desk('', 'new Horn().sound();')} {shop} {main}"
        self.assertNotIn("retire-bridge", [each.technique for each in self.goal(source).steps])
        made = self.goal(source, production=True)
        self.assertEqual([each.technique for each in made.steps][-2:], ["lift-creation", "retire-bridge"])

    def test_the_program_takes_classes_packages_and_layers(self) -> None:
        sample = str(DEMO / "bulletin-desk")

        def goals(*names: str) -> list[str]:
            asked = [word for name in names for word in ("--for", name)]
            done = self.run_program("plan", sample, "--format", "json", *asked)
            self.assertEqual(done.returncode, 0, done.stderr)
            return [each["name"].rpartition(".")[2] for each in json.loads(done.stdout)["result"]["goals"]]

        self.assertEqual(goals("StatusPage", "ClosureService"), ["ClosureService", "StatusPage"])
        whole = goals("org.hollin.desk.app")
        self.assertEqual((whole, goals("application")), (whole, whole))
        self.assertIn("BulletinService", whole)
        for wrong in (("--for", "Nobody"), ("--for", "StatusPage", "--focus", "StatusPage"), ("--callers",)):
            self.assertEqual(self.run_program("plan", sample, *wrong).returncode, 2)


class StagesTest(TreeTest):
    def test_each_stage_holds_what_it_says(self) -> None:
        for sample in ("bulletin-desk", "warden-portal"):
            codebase = read_sample(sample)
            made = plan(codebase, diagnose(codebase))
            self.assertEqual([each.number for each in made.steps], list(range(1, len(made.steps) + 1)))
            for one, other in pairwise(made.stages):
                self.assertEqual((one.last + 1, one.strain[1]), (other.first, other.strain[0]))
            for stage in made.stages:
                after = edited(codebase, contents_after(codebase, made.steps[: stage.last]))
                found = diagnose(after, families=())
                for name in stage.classes:
                    with self.subTest(sample=sample, stage=stage.number, name=name):
                        self.assertTrue(Testing(after, found).of(after.symbols.names.index(name)).alone)

    def test_a_plan_is_one_thing_however_much_of_it_is_asked_for(self) -> None:
        codebase = read_sample("bulletin-desk")
        diagnosis = diagnose(codebase)
        whole = plan(codebase, diagnosis)
        for steps in (1, 4, 9):
            part = plan(codebase, diagnosis, Options(steps=steps))
            self.assertEqual(part.steps, whole.steps[:steps])
        self.assertEqual(plan(codebase, diagnosis, Options(stages=2)).stages, whole.stages[:2])

    def test_one_step_of_a_later_stage_brings_what_it_needs(self) -> None:
        codebase = read_sample("bulletin-desk")
        diagnosis = diagnose(codebase)
        whole = plan(codebase, diagnosis)
        wanted = whole.steps[whole.stages[2].last - 1]
        ids = needed_ids(whole, [wanted.id])
        part = plan(codebase, diagnosis, Options(only=ids))
        self.assertEqual({each.id for each in part.steps}, ids)
        self.assertLess(len(part.steps), len(whole.steps))
        self.assertEqual(part.steps[-1].id, wanted.id)

    def test_a_stage_is_carried_out_as_a_whole(self) -> None:
        self.write(
            {
                "p/Horn.java": f"package p; public {SOCKET}",
                "p/Desk.java": f"package p; public {desk('', 'new Horn().sound();', '')}",
                "p/Start.java": "package p; class Start { public static void main(String[] a) throws Exception "
                "{ new Desk().go(); } }",
            }
        )
        stages = json.loads(self.run_program("plan", ".", "--format", "json").stdout)["result"]["stages"]
        done = self.run_program("step", ".", "--stage", "--write", "--dirty", "--format", "json")
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertEqual(len(json.loads(done.stdout)["result"]["steps"]), stages[0]["last"])
        again = json.loads(self.run_program("plan", ".", "--for", "Desk", "--format", "json").stdout)["result"]
        self.assertIn("alone already", again["goals"][0]["said"])
        self.assertEqual(self.run_program("step", ".", "--stage", "--all").returncode, 2)


class HubTest(TreeTest):
    THEME = (
        "package p.hub; public final class Theme { private static final Theme ONE = new Theme(); private Theme() { } "
        "public static Theme getInstance() { return ONE; } public String read() throws Exception "
        '{ return new java.io.FileReader("t").toString(); } }'
    )
    USER = (
        "package p.desk; public class {0} {{ public void show() throws Exception "
        "{{ System.out.println(p.hub.Theme.getInstance().read()); }} }}"
    )

    def test_what_many_of_a_folder_ask_for_is_handed_to_all_in_one_stage(self) -> None:
        names = ("Lamp", "Panel", "Gauge")
        start = "".join(f"new p.desk.{each}().show(); " for each in names)
        files: dict[str, str | bytes] = {f"p/desk/{each}.java": self.USER.format(each) for each in names}
        files["p/hub/Theme.java"] = self.THEME
        files["p/Start.java"] = (
            f"package p; class Start {{ public static void main(String[] a) throws Exception {{ {start}}} }}"
        )
        codebase = self.read(files)
        diagnosis = diagnose(codebase)
        made = plan(codebase, diagnosis)
        self.assertIn("3 classes of `desk` no longer ask for `Theme` by name: 4 steps", made.stages[0].said)
        after = diagnose(edited(codebase, contents_after(codebase, made.steps[: made.stages[0].last])), families=())
        self.assertEqual([each for each in after.hard if each.target == "p.hub.Theme" and each.level != "note"], [])
        wanted = made.steps[made.stages[0].last - 1].id
        part = plan(codebase, diagnosis, Options(only=needed_ids(made, [wanted])))
        self.assertEqual(part.steps[-1].id, wanted)
        two = {name: text for name, text in files.items() if "Gauge" not in name}
        self.root = self.root.parent / "two"
        two["p/Start.java"] = str(files["p/Start.java"]).replace("new p.desk.Gauge().show(); ", "")
        self.assertEqual(plan(fewer := self.read(two), diagnose(fewer)).stages, ())


class ParameterTest(TreeTest):
    """Static code that a constructor does not reach: with a parameter, and testable then."""

    SOURCES = {
        "Tides.java": "public final class Tides {\n    private Tides() { }\n\n    static int next(int a) {\n"
        "        if (a > 3) {\n            return a;\n        }\n        return new java.util.Random().nextInt(a);\n    }\n}\n",
        "Tides.cs": "using System;\n\npublic static class Tides\n{\n    public static int Next(int a)\n    {\n"
        "        if (a > 3)\n        {\n            return a;\n        }\n        return DateTime.Now.Hour > a ? 1 : 2;\n"
        "    }\n}\n",
        "tides.ts": "export class Tides {\n  static next(a: number): number {\n    if (a > 3) {\n      return a;\n    }\n"
        "    return Math.random() > a ? 1 : 2;\n  }\n}\n",
        "Tides.php": "<?php\n\nclass Tides\n{\n    public static function next(int $a): int\n    {\n        $now = 1;\n"
        "        if ($a > 3) {\n            return $now;\n        }\n        return time() > $a ? 1 : 2;\n    }\n}\n",
        "tides.py": "import random\n\n\nclass Tides:\n    @staticmethod\n    def next(a):\n"
        '        """The next tide."""\n        if a > 3:\n            return a\n        return random.random() > a\n',
    }
    LEFT = {
        "handed on as a function": ("tides.ts", "  }\n}\n", "  }\n}\nexport const all = [1].map(Tides.next);\n"),
        "private": ("Tides.java", "static int next", "private static int next"),
        "any number of arguments": ("Tides.java", "next(int a)", "next(int a, int... b)"),
        "marked for a host": ("Tides.java", "    static int", "    @Bean static int"),
        "a function inside": (
            "tides.py",
            "        if a > 3:",
            "        def b():\n            return random.random()\n        if b() > 3:",
        ),
    }

    def planned(self, name: str, source: str) -> Plan:
        codebase = self.read({name: source})
        number = next(n for n, each in enumerate(codebase.symbols.types) if (each.name, each.kind) == ("Tides", "class"))
        return plan(codebase, diagnose(codebase), Options(goal=frozenset((number,))))

    def test_a_function_takes_what_it_calls(self) -> None:
        for name, source in self.SOURCES.items():
            with self.subTest(file=name):
                self.root = self.root.parent / name
                made = self.planned(name, source)
                self.assertEqual([each.technique for each in made.steps], ["inject-through-parameter"])
                self.assertEqual(made.goals[0].after, ())

    def test_what_can_take_no_parameter_is_left(self) -> None:
        for case, (name, old, new) in self.LEFT.items():
            with self.subTest(case=case):
                self.root = self.root.parent / case
                source = self.SOURCES[name]
                self.assertEqual(source.count(old), 1)
                self.assertEqual(self.planned(name, source.replace(old, new)).steps, ())


class EarlyTest(TreeTest):
    """A parent whose constructor runs a method of the class: what the class is handed is there by then, or the step is left."""

    PARENT = "class Pane:\n    def __init__(self):\n        self.fill()\n\n    def fill(self):\n        self.draw()\n\n\n"
    OWN = "class Chart(Pane):\n{0}    def draw(self):\n        self.shown = 1 if random.random() > 0.5 else 2\n"
    CASES = {
        "without a constructor": "",
        "with one": '    def __init__(self):\n        """A chart."""\n        super().__init__()\n        self.done = True\n\n',
    }

    def test_python_runs(self) -> None:
        for case, constructor in self.CASES.items():
            with self.subTest(case=case):
                self.root = self.root.parent / case
                source = f"import random\n\n\n{self.PARENT}{self.OWN.format(constructor)}"
                codebase = self.read({"chart.py": source}, roles={"chart.Chart": "service"})
                number = next(n for n, each in enumerate(codebase.symbols.types) if each.name == "Chart")
                made = plan(codebase, diagnose(codebase), Options(goal=frozenset((number,))))
                self.assertEqual((len(made.steps), made.goals[0].after), (1, ()))
                after = contents_after(codebase, made.steps)["chart.py"].decode()
                names: dict[str, Any] = {}
                exec(compile(after, "chart.py", "exec"), names)
                self.assertEqual(names["Chart"](chance=lambda: 0.9).shown, 1)
                self.assertIn(names["Chart"]().shown, (1, 2))

    def test_where_the_parent_comes_first_the_step_is_left(self) -> None:
        parent = "class Pane { Pane() { fill(); } void fill() { draw(); } void draw() { } }"
        chart = (
            "class Chart extends Pane { int n; Chart() { super(); } void draw() { n = new java.util.Random().nextInt(3) > 1 "
            f"? 1 : 2; }} {LOGIC} }}"
        )
        codebase = self.read({"Chart.java": f"{parent} {chart}"})
        made = plan(codebase, diagnose(codebase), Options(goal=frozenset((codebase.symbols.names.index("Chart"),))))
        self.assertEqual((len(made.steps), bool(made.goals[0].after)), (0, True))
        self.assertIn("its parent may ask for it before", made.left[0].reason)
