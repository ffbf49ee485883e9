"""Plans for classes that a container makes; the names it goes by are taken from the catalogue."""

from __future__ import annotations

import re
import unittest

import isodesm
from isodesm.catalogue import Catalogues, catalogue_of
from isodesm.codebase.reading import read
from isodesm.planning.planner.options import Options
from isodesm.planning.planner.plan import plan
from tests.carrying import carry_out
from tests.support import TreeTest, split_case

GATEWAY = {
    "java": "package hut;\npublic class Bell {\n    public void ring(String text) { try { new java.net.Socket(text, 1); "
    "} catch (Exception e) { } }\n}\n",
    "csharp": "namespace Hut {\n    public class Bell {\n        public void Ring(string text) { new "
    "System.Net.Sockets.TcpClient().Connect(text, 1); }\n    }\n}\n",
}


class ContainerTest(TreeTest):
    def after(self, files: dict[str, str]) -> tuple[list[str], list[str], dict[str, str]]:
        """Titles of the steps, reasons of what is left, and the files once all is carried out."""
        made = plan(read(self.write(files)), isodesm.diagnose(read(self.root)), Options())
        for step in made.steps:
            carry_out(self.root, step)
        return (
            [step.title for step in made.steps],
            [each.reason for each in made.left],
            {name: (self.root / name).read_text() for name in files},
        )

    def annotated(self, inside: str, marked: bool = True) -> dict[str, str]:
        """A watch that a container makes by its annotation, and a log beside it."""
        catalogue = catalogue_of("java")
        found, mark = next(iter(Catalogues().registering("java").annotations)), catalogue.injection.annotations[0]
        head = f"package hut;\nimport org.parts.{found};\nimport org.parts.{mark};\n@{found}\n"
        lead = f"    @{mark}\n" if marked else ""
        return {
            "hut/Bell.java": GATEWAY["java"],
            "hut/Log.java": f"package hut;\nimport org.parts.{found};\n@{found}\npublic class Log "
            f"{{\n    public void note(String s) {{ }}\n}}\n",
            "hut/Watch.java": f"{head}public class Watch "
            f"{{\n    private final Log log;\n{lead}    public Watch(Log log) {{ this.log = log; }}\n"
            f"    public void check(String s) {{ log.note(s); {inside} }}\n}}\n",
        }

    def test_what_is_handed_in_is_registered_first(self) -> None:
        found = next(iter(Catalogues().registering("java").annotations))
        titles, _, files = self.after(self.annotated("new Bell().ring(s);"))
        self.assertEqual(
            titles, ["Extract interface BellPort from Bell", "Register Bell in the container", "Hand Watch its BellPort"]
        )
        self.assertIn(f"import org.parts.{found};\n\n@{found}\npublic class Bell implements BellPort", files["hut/Bell.java"])
        self.assertEqual(files["hut/Watch.java"].count("public Watch("), 1)
        self.assertNotIn("this(", files["hut/Watch.java"])

    def test_the_mark_goes_with_the_constructor_that_the_container_can_call(self) -> None:
        mark = catalogue_of("java").injection.annotations[0]
        titles, _, files = self.after(self.annotated("log.note(s + System.currentTimeMillis());"))
        self.assertEqual(titles, ["Hand Watch its clock, old constructor kept"])
        self.assertRegex(files["hut/Watch.java"], rf"@{mark}\n\s+public Watch\(Log log\) \{{\n\s+this\(log, Clock")
        self.assertEqual(files["hut/Watch.java"].count(f"@{mark}"), 1)

    def test_two_constructors_that_a_container_could_not_tell_apart(self) -> None:
        titles, left, _ = self.after(self.annotated("log.note(s + System.currentTimeMillis());", marked=False))
        self.assertEqual((titles, len(left)), ([], 1))
        self.assertIn("could not tell the old constructor from the new one", left[0])
        watch = self.annotated("new Bell().ring(s); log.note(s + System.currentTimeMillis());", marked=False)
        watch["hut/Watch.java"] = re.sub(
            r"\n.*public Watch\(Log.*", "", watch["hut/Watch.java"].replace("final Log log;", "Log log;")
        )
        titles, left, _ = self.after(watch)  # the one with an argument is written by the step before
        self.assertEqual(titles[-1], "Hand Watch its BellPort")
        self.assertIn("could not tell the old constructor from the new one", left[0])

    def test_calls_are_told_as_others_are(self) -> None:
        rules = Catalogues().registering("csharp").calls
        single, fresh = (
            next(name for name, lifetime in rules.items() if lifetime == wanted) for wanted in ("singleton", "transient")
        )
        titles, _, files = self.after(
            {
                "Hut/Bell.cs": GATEWAY["csharp"],
                "Hut/Log.cs": "namespace Hut {\n    public interface ILog { void Note(string s); }\n    public class "
                "Log : ILog { public void Note(string s) { } }\n}\n",
                "Hut/Watch.cs": "namespace Hut {\n    public interface IWatch { void Check(string s); }\n    public "
                "class Watch : IWatch {\n        private readonly ILog log;\n"
                "        public Watch(ILog log) { this.log = log; }\n        public void Check(string s) { log.Note(s); "
                "new Bell().Ring(s); }\n    }\n}\n",
                "Setup/Setup.cs": f"using Hut;\n\nnamespace Setup "
                "{\n    public class Setup {\n        public void Add(Parts parts) {\n"
                f"            parts.{single}<ILog, Log>();\n            parts.{fresh}<IWatch, Watch>();\n"
                "        }\n    }\n}\n",
            }
        )
        self.assertEqual(
            titles, ["Extract interface IBell from Bell", "Register Bell in the container", "Hand Watch its IBell"]
        )
        self.assertIn(
            f"            parts.{single}<ILog, Log>();\n            parts.{single}<IBell, Bell>();\n", files["Setup/Setup.cs"]
        )
        self.assertIn("public Watch(ILog log, IBell bell)", files["Hut/Watch.cs"])

    def test_in_bulk_the_registration_follows(self) -> None:
        single = next(name for name, lives in Catalogues().registering("csharp").calls.items() if lives == "singleton")
        files = {
            "Hut/Log.cs": "namespace Hut {\n    public interface ILog { void Note(string s); }\n    public class Log : ILog "
            "{ public void Note(string s) { } }\n}\n",
            "Hut/BellService.cs": "namespace Hut {\n    public class BellService {\n        public void Ring(string s) "
            "{ System.IO.File.Delete(s); }\n    }\n}\n",
            "Hut/Watch.cs": "namespace Hut {\n    public class Watch {\n        private readonly BellService bell;\n"
            "        public Watch(BellService bell) { this.bell = bell; }\n"
            "        public void Check(string s) { bell.Ring(s); }\n    }\n}\n",
            "Setup/Setup.cs": "using Hut;\n\nnamespace Setup {\n    public class Setup {\n"
            f"        public void Add(Parts parts) {{\n            parts.{single}<ILog, Log>();\n"
            f"            parts.{single}<BellService>();\n            parts.{single}<Watch>();\n        }}\n    }}\n}}\n",
        }
        codebase = read(self.write(files))
        focus, only = frozenset(range(len(codebase.symbols))), frozenset({"extract-interface"})
        made = plan(codebase, isodesm.diagnose(codebase), Options(focus=focus, techniques=only))
        for step in made.steps:
            carry_out(self.root, step)
        self.assertEqual(
            [step.title for step in made.steps],
            ["Extract interface IBellService from BellService", "Let Watch ask for IBellService"],
        )
        self.assertIn("public Watch(IBellService bell)", (self.root / "Hut/Watch.cs").read_text())
        self.assertIn(
            f"            parts.{single}<IBellService, BellService>();\n            parts.{single}<Watch>();",
            (self.root / "Setup/Setup.cs").read_text(),
        )

    def test_what_is_no_class_is_no_token(self) -> None:
        rules = Catalogues().registering("typescript")
        found, own = next(iter(rules.annotations)), f"{{ {rules.provides_itself[0]}: 'root' }}"
        files = {
            "bell.ts": f"import {{ {found} }} from 'parts';\n@{found}({own})\nexport class Bell "
            f"{{ ring(text: string): void {{ fetch(text); }} }}\n",
            "watch.ts": f"import {{ {found} }} from 'parts';\nimport {{ Bell }} from './bell';\n@{found}()\nexport "
            "class Watch {\n  private bell = new Bell();\n"
            "  check(s: string): void { this.bell.ring(s + Date.now()); }\n}\n",
        }
        titles, left, files = self.after(files)
        self.assertEqual(titles, ["Hand Watch its Bell"])
        self.assertIn("constructor(bell: Bell)", files["watch.ts"])
        self.assertTrue(left and all("no class" in reason for reason in left))

    def test_a_lifetime_that_a_chained_call_gives_is_changed_by_hand(self) -> None:
        files = split_case(
            "=== p/M.java\npackage p; import <<java.modules imports>>.X;\nclass M extends Module { void configure() {\n"
            "<<java.modules calls>>(Night.class);\n"
            "<<java.modules calls>>(Office.class).in(<<java.modules lifetimes=singleton>>.class);\n} }\n"
            "=== p/Night.java\npackage p; class Night { int round; void go() { round++; } }\n"
            "=== p/Office.java\npackage p; class Office { final Night night; @<<java inject>> Office(Night night) "
            "{ this.night = night; } }\n"
        )
        found = isodesm.diagnose(read(self.write(files))).findings
        self.assertIn("captive-dependency", [each.kind for each in found])
        self.assertEqual(self.after(files)[2], files)


if __name__ == "__main__":
    unittest.main()
