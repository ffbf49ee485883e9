"""Who makes a class, who calls its members, what a change of one touches; traces over what is registered, by default or by
a facade; programs kept apart."""

from __future__ import annotations

import json

from isodesm.catalogue import catalogue_of
from isodesm.codebase.model import Codebase
from isodesm.diagnosis.diagnose import diagnose
from isodesm.measures.makers import makers_of
from isodesm.measures.member_use import member_use
from isodesm.measures.needs import depth_of_needs
from isodesm.queries.entries import entry_points
from isodesm.queries.trace import find_member, trace
from isodesm.queries.wiring_report import report_wiring
from tests.support import TreeTest, public, word

SINGLE = word("csharp", "collection", "calls=singleton")
HUB = {
    "Hub.cs": "namespace N { public interface IBell { void Ring(); } public class Siren : IBell { public void Ring() "
    "{ System.IO.File.AppendAllText(string.Empty, string.Empty); } } "
    "public class Gong : IBell { public void Ring() { } } public class DeskService { private readonly IBell bell; "
    "public DeskService(IBell bell) { this.bell = bell; } public void Go() { bell.Ring(); } }\n"
    "public class TowerService { private readonly DeskService desk; public TowerService(DeskService desk) { this.desk = desk; "
    "} public void Toll() { desk.Go(); } } }",
    "Start.cs": "namespace N { public class Program { public static void Main(string[] a) { Set(new Parts()); } "
    f"static void Set(Parts services) {{\nservices.{SINGLE}<IBell, Siren>();\nservices.{SINGLE}<DeskService>();\n"
    f"services.{SINGLE}<TowerService>(); }} }} }}",
    "SirenTest.cs": f"namespace N.Tests {{ [{public('csharp', 'test')}] public class SirenTest {{ public void Rings() "
    "{ new Siren().Ring(); } } }",
}


def number_of(codebase: Codebase, name: str) -> int:
    return next(n for n, each in enumerate(codebase.symbols.types) if each.name == name and each.kind != "module")


class MakersTest(TreeTest):
    def made_by(self, files: dict[str, str], name: str) -> list[tuple[str, str, int]]:
        codebase = self.read(files)
        return [(each.by, each.what, each.line) for each in makers_of(codebase, number_of(codebase, name))]

    def test_containers_and_tests(self) -> None:
        self.assertEqual(self.made_by(HUB, "Siren"), [("container", "singleton as IBell", 2), ("test", "SirenTest.Rings", 1)])

    def test_hosts(self) -> None:
        mark = public("typescript", "scope")
        panel = f"import {{ {mark} }} from 'parts';\n@{mark}({{ selector: 'hut-panel' }})\nexport class Panel {{ }}\n"
        routes = "import { Panel } from './panel';\nexport const routes = [{ path: 'x', component: Panel }];\n"
        self.assertEqual(
            self.made_by({"panel.ts": panel, "routes.ts": routes}, "Panel"),
            [("host", f"by its mark {mark} for `hut-panel`", 3), ("host", "named in `component: Panel`", 2)],
        )
        self.root = self.root.parent / "php"
        files = {
            "src/BellController.php": "<?php\nnamespace N;\nclass BellController { public function ring() { return 1; } }\n",
            "routes.php": "<?php\nuse N\\BellController;\n$app->get('/bell', [BellController::class, 'ring']);\n",
        }
        self.assertEqual(self.made_by(files, "BellController"), [("host", "named in `$app->get('/bell', …)`", 3)])


class MemberUseTest(TreeTest):
    def test_a_change_touches_declarations_and_callers(self) -> None:
        codebase = self.read(HUB)
        use = member_use(codebase, number_of(codebase, "Siren"), "Ring")
        self.assertEqual(
            [(each.what, each.name.rpartition(".")[2], each.by) for each in use.touched],
            [
                ("declared", "Siren", ""),
                ("overridden", "IBell", ""),
                ("overridden", "Gong", ""),
                ("used", "DeskService", "service"),
                ("used", "SirenTest", "test"),
            ],
        )
        self.assertEqual((use.places, use.files, use.in_tests), (5, 2, 1))
        self.assertEqual(use.callers, {"service": 1, "test": 1})

    def test_as_a_user_asks(self) -> None:
        self.write(HUB)
        shown = self.run_program("about", "IBell.Ring", ".").stdout
        self.assertIn("5 places in 2 files, 1 of them in tests", shown)
        answer = json.loads(self.run_program("about", "Siren", ".", "--format", "json").stdout)["result"]
        self.assertEqual([(each["name"], each["calls"]) for each in answer["members"]], [("Ring", {"service": 1, "test": 1})])
        self.assertIn("heirs", self.run_program("about", "IBell", ".").stdout)
        wrong = self.run_program("about", "IBell.Nothing", ".")
        self.assertEqual(wrong.returncode, 2)
        self.assertIn("has no member `Nothing`. It has: Ring", wrong.stderr)

    def test_bonds_name_the_member_of_the_target(self) -> None:
        self.write(HUB)
        lines = [json.loads(line) for line in self.run_program("export", "bonds", ".").stdout.splitlines()]
        told = {(each["kind"], each["target"].rpartition(".")[2], each["target_member"]) for each in lines}
        self.assertLessEqual({("call", "IBell", "Ring"), ("creation", "Siren", "<init>"), ("field", "IBell", "")}, told)


class DepthTest(TreeTest):
    def test_needs_are_followed_to_what_serves_them(self) -> None:
        codebase = self.read(HUB)
        depth = depth_of_needs(codebase, range(len(codebase.symbols)))
        self.assertEqual([depth[number_of(codebase, name)] for name in ("TowerService", "DeskService", "Siren")], [2, 1, 0])


class TraceOverWiringTest(TreeTest):
    def test_registrations_have_their_place(self) -> None:
        codebase = self.read(HUB)
        (hop,) = trace(codebase, diagnose(codebase), find_member(codebase, "TowerService.Toll")).start.hops
        (inner,) = hop.hops
        self.assertEqual(
            (inner.class_name, inner.bound, inner.registered_in, inner.registered_line),
            ("N.Siren", "registered", "Start.cs", 2),
        )

    def test_defaults_stand_behind_what_nothing_registers(self) -> None:
        files = {
            "d.ts": "export interface Bell { ring(): void; } export class Siren implements Bell { ring(): void { fetch('a'); } "
            "} export class Gong implements Bell { ring(): void { } } export class Desk { constructor(private readonly bell: "
            "Bell = new Siren()) {} go(): void { this.bell.ring(); } }"
        }
        codebase = self.read(files)
        (hop,) = trace(codebase, diagnose(codebase), find_member(codebase, "Desk.go")).start.hops
        self.assertEqual((hop.class_name, hop.bound), ("d#Siren", "default"))

    def test_facades_pass_calls_on(self) -> None:
        base, method = word("php", "bindings", "facades"), word("php", "bindings", "facade-names")
        module, single = word("php", "bindings", "imports"), word("php", "bindings", "calls=singleton")
        files = {
            "A.php": f"<?php\nnamespace N;\nuse {module}\\Support\\{base};\ninterface Bell {{ function ring(); }}\nclass "
            "Siren implements Bell { public function ring() { file_put_contents('a', 'b'); } }\nclass Bells extends "
            f"{base} {{ protected static function {method}() {{ return Bell::class; }} }}\nclass Desk {{ public function go() "
            f"{{ Bells::ring(); }} }}\nclass Provider {{ function register() {{ $this->app->{single}(Bell::class, "
            "Siren::class); } }\n"
        }
        codebase = self.read(files)
        (hop,) = trace(codebase, diagnose(codebase), find_member(codebase, "Desk.go")).start.hops
        self.assertEqual((hop.declared, hop.class_name, hop.bound), ("N\\Bells", "N\\Siren", "registered"))

    def test_a_class_lists_its_members(self) -> None:
        self.write(HUB)
        self.assertRegex(self.run_program("trace", "TowerService", ".").stdout, r"TowerService\.Toll\s+of its own")


class EntriesTest(TreeTest):
    def test_hosts_enter_by_marks_bases_and_functions(self) -> None:
        """Every mark, base and function of the catalogue is an entry in a source made from it."""
        forms = {
            "java": (
                'class A {{ @{mark}("/x") void go() {{ int n = 1; }} }}',
                "class A implements {base} {{ public void {member}(Object o) {{ int n = 1; }} }}",
            ),
            "csharp": (
                'class A {{ [{mark}("/x")] public void Go() {{ int n = 1; }} }}',
                "class A : {base} {{ public void {member}() {{ int n = 1; }} }}",
            ),
            "typescript": (
                "class A {{ @{mark}('/x') go(): void {{ let n = 1; }} }}",
                "import {{ {base} }} from 'host'; class A extends {base} {{ {member}(): void {{ let n = 1; }} }}",
            ),
            "php": (
                "<?php class A {{ #[{mark}('/x')] public function go() {{ $n = 1; }} }}",
                "<?php use H\\{base}; class A extends {base} {{ public function {member}() {{ $n = 1; }} }}",
            ),
            "python": (
                "@app.{mark}('/x')\ndef go():\n    n = 1\n",
                "from host import {base}\n\n\nclass A({base}):\n    def {member}(self):\n        n = 1\n",
            ),
        }
        suffix = {"java": "A.java", "csharp": "A.cs", "typescript": "a.ts", "php": "A.php", "python": "a.py"}
        for language, (marked, based) in forms.items():
            rules = catalogue_of(language).entries
            sources = [marked.format(mark=mark) for mark in rules.marks]
            sources += [based.format(base=base, member=members[0]) for base, members in rules.bases.items()]
            for index, source in enumerate(sources):
                self.root = self.root.parent / f"{language}{index}"
                with self.subTest(language=language, source=source):
                    self.assertEqual(len(entry_points(self.read({suffix[language]: source}))), 1)

    def test_what_a_container_fills_in_afterwards_is_no_bypass(self) -> None:
        mark, fills = public("java", "inject"), word("java", "marked", "fills")
        line = f" box.{fills}(a);"
        for after, wanted in (("", 1), (line, 0)):
            self.root = self.root.parent / f"fills{wanted}"
            files = {
                "A.java": f"import org.parts.{mark}; class A {{ @{mark} Bell bell; void go() {{ bell.ring(); }} }} class Bell "
                f"{{ void ring() {{ }} }} class U {{ void x(Box box) {{ A a = new A();{after} a.go(); }} }} class Box {{ }}"
            }
            found = [each for each in diagnose(self.read(files)).findings if each.kind == "bypassed-injection"]
            self.assertEqual(len(found), wanted)


class ProgramsTest(TreeTest):
    def project(self, name: str, bell: str) -> dict[str, str]:
        return {
            f"{name}/{name}.csproj": "<Project/>",
            f"{name}/Start.cs": f"using Shared; namespace {name} {{ public class Program {{ public static void Main("
            f"string[] a) {{ Set(new Parts()); }} static void Set(Parts services) {{ services.{SINGLE}<IBell, {bell}>(); "
            f"services.{SINGLE}<{name}Desk>(); }} }} public class {name}Desk {{ private readonly IBell bell; "
            f"public {name}Desk(IBell bell) {{ this.bell = bell; }} public void Go() {{ bell.Ring(); }} }} }}",
        }

    def test_what_one_registers_does_not_serve_the_other(self) -> None:
        shared = {
            "Shared/Shared.csproj": "<Project/>",
            "Shared/Bells.cs": "namespace Shared { public interface IBell { void Ring(); } public class Siren : IBell { public "
            "void Ring() { } } public class Gong : IBell { public void Ring() { } } }",
        }
        codebase = self.read({**shared, **self.project("One", "Siren"), **self.project("Two", "Gong")})
        self.assertEqual(codebase.programs.names, ("One", "Two"))
        served = {}
        for name in ("OneDesk", "TwoDesk"):
            (need,) = codebase.wiring.injections.of_constructor(number_of(codebase, name))
            served[name] = codebase.symbols.types[codebase.wiring.answer(need).chosen].name
        self.assertEqual(served, {"OneDesk": "Siren", "TwoDesk": "Gong"})
        report = report_wiring(codebase, diagnose(codebase))
        self.assertEqual({each.programs for each in report.registrations}, {("One",), ("Two",)})
        self.assertEqual([each for each in report.problems if each.kind == "duplicate-registration"], [])
        shown = self.run_program("wiring", ".").stdout
        self.assertRegex(shown, r"program One  2 registrations[\s\S]*program Two  2 registrations")
