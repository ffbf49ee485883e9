"""`about` and `trace`: what is said of a class, and where a call goes; checked by hand against the samples' source."""

from __future__ import annotations

import json

from isodesm.diagnosis.diagnose import diagnose
from isodesm.errors import UsageError
from isodesm.queries.entries import entry_points
from isodesm.queries.trace import Hop, find_member, read_choices, trace
from tests.support import DEMO, TreeTest, read_sample


def short(name: str) -> str:
    return name.replace("\\", ".").replace("#", ".").rpartition(".")[2]


class AboutTest(TreeTest):
    def about(self, sample: str, name: str) -> dict:
        result = self.run_program("about", name, str(DEMO / sample), "--format", "json")
        self.assertEqual(result.returncode, 0, result.stderr)
        return json.loads(result.stdout)["result"]

    def test_a_class_that_makes_everything_itself(self) -> None:
        found = self.about("bulletin-desk", "BulletinService")
        self.assertEqual(
            (found["role"], found["layer"], found["constructor"], found["needs"]), ("service", "application", "", [])
        )
        self.assertEqual(
            [(short(each["name"]), each["line"], each["detail"]) for each in found["created_by"]],
            [("MorningRound", 15, "()"), ("DeskConsole", 40, "()")],
        )
        self.assertEqual([short(each["name"]) for each in found["handed_to"]], ["ReviewService", "BulletinPage"])
        self.assertEqual(
            [(short(each["name"]), each["detail"]) for each in found["creates"]],
            [
                ("DangerScale", "()"),
                ("FileGaugeFeed", '("readings")'),
                ("ReviewService", "(this)"),
                ("SirenRelay", '("siren.valley", 7011)'),
            ],
        )
        self.assertEqual(
            {each["effect"]: [short(name) for name in each["chain"]][-1] for each in found["locked"]},
            {
                "network": "Socket",
                "file": "readAllLines",
                "clock": "now",
            },
        )
        self.assertEqual(
            {each["name"]: len(each["users"]) for each in found["members"]}, {"latest": 2, "draft": 1, "publish": 1}
        )
        self.assertEqual([each["members"] for each in found["splits"]], [["draft", "publish"], ["latest"]])
        self.assertEqual(
            [each["name"].rpartition(".")[2] for each in found["objects"]["children"]],
            ["DangerScale", "FileGaugeFeed", "ReviewService"],
        )
        self.assertEqual(found["measures"]["strain"], 42.0)
        self.assertIn("Extract interface SirenRelayPort from SirenRelay", found["plan"])
        self.assertIn("dependency-cycle", {each["kind"] for each in found["findings"]})

    def test_what_one_more_touches_what_is_handed_and_what_stands_in(self) -> None:
        self.write(
            {
                "Bell.cs": "interface IBell { int Loud { get; } } class Gong : IBell { public int Loud => 3; }",
                "Siren.cs": "class Siren : IBell { public int Loud => System.DateTime.Now.Hour; }",
                "Bells.cs": "class Bells { public static IBell Of(bool high) { return high ? new Siren() : new Gong(); } }",
                "Hut.cs": "class Hut(IBell bell, int n = 3) { int Go() { return bell.Loud + new Siren().Loud + n; } }",
                "hut.py": "class Lamp: ...\n\n\nclass Desk:\n    def __init__(self, lamp=Lamp()):\n        self.lamp = lamp\n",
            }
        )
        bell, hut, desk = (
            json.loads(self.run_program("about", name, "--format", "json").stdout)["result"]
            for name in ("IBell", "Hut", "Desk")
        )
        self.assertEqual(
            [(each["name"], each["detail"]) for each in bell["siblings"]],
            [("Bells.Of", "creates Gong, Siren"), ("Hut.Go", "creates Siren")],
        )
        self.assertEqual({each["name"]: len(each["users"]) for each in bell["members"]}, {"Loud": 1})
        self.assertEqual(hut["constructor"], "class Hut(IBell bell, int n = 3)")
        self.assertEqual([each["how"] for each in desk["needs"]], ["where nothing is handed in: Lamp()"])
        self.assertIn("Use `bell`, the `IBell` that the constructor of `Hut` takes", hut["findings"][0]["remedy"])

    def test_a_class_that_is_handed_everything(self) -> None:
        found = self.about("sensor-hub", "CollectionRound")
        self.assertEqual(
            found["constructor"], "public CollectionRound(IRadioLink radio, IReadingStore store, IStationBook stations)"
        )
        self.assertEqual(
            [(each["name"], short(each["served_by"]), each["how"]) for each in found["needs"]],
            [
                ("radio", "RadioLink", "registered, singleton"),
                ("store", "FileReadingStore", "registered, singleton"),
                ("stations", "StationBook", "registered, singleton"),
            ],
        )
        self.assertEqual(found["locked"], [])
        self.assertEqual(found["tests"], [{"name": "Hollin.Hub.Tests.RoundTests", "directly": True}])

    def test_abstractions_and_their_other_implementers(self) -> None:
        found = self.about("bulletin-desk", "MailBell")
        self.assertEqual(
            [
                (short(each["name"]), [short(name) for name in each["implementers"]], each["users"])
                for each in found["abstractions"]
            ],
            [("Bell", ["PagerBell"], 1)],
        )
        self.assertEqual(
            [(each["name"], [short(user) for user in each["users"]]) for each in found["members"]], [("ring", ["MorningRound"])]
        )

    def test_it_fits_a_screen_and_full_shows_all(self) -> None:
        for sample, name in (
            ("bulletin-desk", "BulletinService"),
            ("warden-portal", "ClosureService"),
            ("forecast-jobs", "NightlyForecast"),
        ):
            cut = self.run_program("about", name, str(DEMO / sample), COLUMNS="140").stdout
            full = self.run_program("about", name, str(DEMO / sample), "--full", COLUMNS="140").stdout
            with self.subTest(name=name):
                self.assertLessEqual(len(cut.splitlines()), 48)
                self.assertNotIn("more; --full", full)
                self.assertTrue(all(len(line) <= 140 for line in cut.splitlines()))

    def test_names_as_people_use_them(self) -> None:
        for name, code, wanted in (
            ("app.BulletinService", 0, "org.hollin.desk.app.BulletinService"),
            ("Buletin", 2, "The nearest: `Bulletin`"),
            ("desk.Nothing", 2, "There is no class"),
        ):
            result = self.run_program("about", name, str(DEMO / "bulletin-desk"))
            with self.subTest(name=name):
                self.assertEqual((result.returncode, wanted in result.stdout + result.stderr), (code, True), result.stderr)

    def test_markdown_has_the_same_sections(self) -> None:
        text = self.run_program("about", "BulletinService", str(DEMO / "bulletin-desk"), "--format", "markdown").stdout
        for title in (
            "# org.hollin.desk.app.BulletinService",
            "## Made by",
            "## Locked effects",
            "## Natural splits",
            "## Planning would",
        ):
            self.assertIn(title, text)


def told(hop: Hop) -> list:
    """Each hop as `Class.member`, effects by name, hard ones with a mark; with the hops below it."""
    name = hop.effect if hop.effect else f"{short(hop.class_name)}.{hop.member}"
    return [
        ("!" if hop.hard else "") + name + (f" ({hop.bound})" if hop.bound not in ("itself", "start", "effect") else ""),
        *map(told, hop.hops),
    ]


class TraceTest(TreeTest):
    CASES = {
        ("sensor-hub", "PollFunction.Tick"): [
            "PollFunction.Tick",
            [
                "CollectionRound.Run",
                ["RadioLink.Poll (registered)", ["network"], ["!clock"]],
                ["FileReadingStore.Keep (registered)", ["file"]],
            ],
        ],
        ("sensor-hub", "Calibration.Apply"): [
            "Calibration.Apply",
            ["!IStationBook.Get (looked up)"],
            ["!IReadingStore.Get (looked up)"],
            ["FileReadingStore.Keep (registered)", ["file"]],
            ["!clock"],
        ],
        ("slope-map", "SlopeDetailComponent.title"): [
            "SlopeDetailComponent.title",
            ["ClosureService.refresh", ["ClosureClient.closures", ["network"]], ["!environment"]],
            ["SlopeStore.current"],
            ["ClosureService.closed", ["SlopeStore.find"], ["!clock"]],
        ],
        ("warden-portal", "SignController.sign"): [
            "SignController.sign",
            ["ClosureService.sign", ["SmsGateway.send", ["network"]], ["!Parts.get (looked up)"]],
            ["!Parts.get (looked up)"],
        ],
        ("forecast-jobs", "WeeklyDigest.lines"): ["WeeklyDigest.lines", ["!JobRegistry.part (looked up)"]],
        ("bulletin-desk", "BulletinPage.show"): None,
    }

    def test_by_hand(self) -> None:
        for (sample, name), wanted in self.CASES.items():
            codebase = read_sample(sample)
            found = trace(codebase, diagnose(codebase), find_member(codebase, name))
            with self.subTest(name=name):
                if wanted is not None:
                    self.assertEqual(told(found.start), wanted)
                self.check_places(codebase, found.start)

    def check_places(self, codebase, hop: Hop) -> None:
        """Each hop's place holds the name of what is called."""
        for each in hop.hops:
            line = (codebase.root / each.file).read_text(encoding="utf-8").splitlines()[each.line - 1]
            self.assertIn(short(each.class_name) if each.member == "new" else each.member.rpartition(".")[2], line)
            self.check_places(codebase, each)

    SHOP = {
        "shop/web/Foot.java": "package shop.web; class Foot { }",
        "shop/web/Page.java": "package shop.web; public class Page { private final shop.app.Bell bell; public "
        "Page(shop.app.Bell bell) { this.bell = bell; } public void go(int n) { bell.ring(n); } }",
        "shop/app/Bell.java": "package shop.app; public interface Bell { void ring(int n); }",
        "shop/infra/Loud.java": "package shop.infra; public class Loud implements shop.app.Bell { public void ring(int "
        'n) { if (n > 0) { ring(n - 1); helper(n); } } private void helper(int n) { try { new java.net.Socket("a", n); '
        "} catch (Exception e) { } } }",
        "shop/infra/Soft.java": "package shop.infra; public class Soft implements shop.app.Bell { public void ring(int "
        "n) { Thread.yield(); } }",
    }

    def test_several_implementations_are_named_and_can_be_chosen(self) -> None:
        codebase = self.read(self.SHOP)
        diagnosis, start = diagnose(codebase), find_member(codebase, "Page.go")
        (several,) = trace(codebase, diagnosis, start).start.hops
        self.assertEqual(
            (several.bound, [short(each) for each in several.candidates], several.hops), ("several", ["Loud", "Soft"], ())
        )
        (chosen,) = trace(codebase, diagnosis, start, read_choices(codebase, ("Bell=Loud",))).start.hops
        self.assertEqual(told(chosen), ["Loud.ring (chosen)", ["Loud.helper", ["network"]]])  # and the recursion ends
        self.assertEqual(chosen.crossing, "presentation→infrastructure")
        shown = self.run_program("trace", "Page.go", ".", "--bind", "Bell=Loud").stdout
        self.assertIn("Loud.ring as Bell (chosen)", shown)

    def test_wrong_names_and_choices(self) -> None:
        codebase = self.read(self.SHOP)
        for call, wanted in (
            (lambda: find_member(codebase, "Page.stop"), "It has: go"),
            (lambda: find_member(codebase, "go"), "Name a class and a method"),
            (lambda: find_member(codebase, "Bell.ring"), "with a body"),
            (lambda: read_choices(codebase, ("Bell",)), "ABSTRACTION=IMPLEMENTATION"),
            (lambda: read_choices(codebase, ("Bell=Page",)), "does not implement"),
        ):
            with self.subTest(wanted=wanted), self.assertRaisesRegex(UsageError, wanted):
                call()

    def test_depth_and_fan_out_end(self) -> None:
        """A chain of twenty classes is cut at the depth asked for; a class that calls itself through others ends, too."""
        files = {
            f"C{n}.java": f"class C{n} {{ private final C{n + 1} next; C{n}(C{n + 1} next) {{ this.next = next; }} "
            "void go(int a) { if (a > 1) { next.go(a); next.go(a + 1); } } }"
            for n in range(20)
        }
        files["C20.java"] = (
            "class C20 { private final C0 first; C20(C0 first) { this.first = first; } void go(int a) throws Exception "
            "{ first.go(a); new java.net.Socket(); } }"
        )
        codebase = self.read(files)
        diagnosis = diagnose(codebase)
        for depth, wanted in ((3, "depth"), (60, "again")):
            hop = trace(codebase, diagnosis, find_member(codebase, "C0.go"), depth=depth).start
            count = 0
            while hop.hops:
                hop, count = hop.hops[0], count + 1
            with self.subTest(depth=depth):
                self.assertEqual((hop.cut, count), (wanted, min(depth + 1, 21)))

    def test_what_others_run(self) -> None:
        ledger = "class Ledger { void note(String t) { new java.io.File(t).delete(); } }"
        task = 'class Task implements Runnable { Ledger l = new Ledger(); public void run() { l.note("t"); } }'
        head = "import java.util.concurrent.*; class Weir { ExecutorService pool; Ledger l = new Ledger(); "
        bodies = {
            "new Thread(new Task()).start();": ["Task.new", "Ledger.new", "Task.run", "Ledger.note"],
            "pool.submit(this::shut);": ["Weir.shut", "Ledger.note"],
            "pool.submit(shut());": ["Weir.shut", "Ledger.note"],
            "pool.submit(this::other);": [],
        }
        for body, wanted in bodies.items():
            weir = f'{head} void go() {{ {body} }} Runnable shut() {{ l.note("s"); return null; }} void other() {{ }} }}'
            codebase = self.read({"Weir.java": weir, "Task.java": task, "Ledger.java": ledger})
            hops, found = list(trace(codebase, diagnose(codebase), find_member(codebase, "Weir.go")).start.hops), []
            while hops:
                hop = hops.pop(0)
                hops = [*hop.hops, *hops]
                found += [] if hop.effect else [f"{hop.class_name}.{hop.member}"]
            with self.subTest(body):
                self.assertEqual(found, wanted)

    def test_a_choice_without_effect_is_told(self) -> None:
        self.write({"A.java": "interface Bell { void ring(); } class Gong implements Bell { public void ring() { } }"})
        self.write({"B.java": "class Hut { Bell bell; void warn() { bell.ring(); } void sleep() { new java.net.Socket(); } }"})
        for member, said in (("Hut.warn", False), ("Hut.sleep", True)):
            shown = self.run_program("trace", member, "--bind", "Bell=Gong").stdout
            self.assertEqual("--bind changed nothing for `Bell`" in shown, said, shown)

    def test_mermaid(self) -> None:
        text = self.run_program("trace", "PollFunction.Tick", str(DEMO / "sensor-hub"), "--format", "markdown").stdout
        diagram = text.partition("```mermaid\n")[2].partition("```")[0].splitlines()
        self.assertEqual(diagram[0], "sequenceDiagram")
        named = {line.split()[1] for line in diagram if line.strip().startswith("participant")}
        for line in diagram[1:]:
            if ">>" in line or "-x" in line:
                one, _, rest = line.strip().replace("-x", "->>").replace("-->>", "->>").partition("->>")
                self.assertLessEqual({one, rest.partition(":")[0]}, named)
        self.assertTrue(any("Poll" in line for line in diagram))


class EntriesTest(TreeTest):
    def test_each_sample_has_its_own(self) -> None:
        for sample, wanted in (
            ("bulletin-desk", {"DeskConsole.main", "BulletinPage.show", "StatusPage.show", "MorningRound.run"}),
            ("sensor-hub", {"Program.Main", "PollFunction.Tick"}),
            ("slope-map", {"MapViewComponent.draw", "SlopeDetailComponent.title"}),
            ("warden-portal", {"ClosureController.close", "SignController.sign"}),
            ("forecast-jobs", {"main.main", "RecheckJob.run"}),
        ):
            found = {f"{short(each.name)}.{each.member}" for each in entry_points(read_sample(sample))}
            with self.subTest(sample=sample):
                self.assertLessEqual(wanted, found)
                shown = self.run_program("trace", str(DEMO / sample)).stdout
                self.assertTrue(all(name in shown for name in wanted), shown)

    def test_every_entry_can_be_followed(self) -> None:
        for sample in ("bulletin-desk", "warden-portal", "forecast-jobs"):
            codebase = read_sample(sample)
            diagnosis = diagnose(codebase)
            for each in entry_points(codebase):
                found = trace(codebase, diagnosis, (each.number, each.index))
                self.assertEqual((found.start.class_name, found.start.member), (each.name, each.member))

    def test_none(self) -> None:
        self.write({"A.java": "class A { int x(int n) { return n; } }"})
        self.assertIn("No entry point was recognised", self.run_program("trace").stdout)
