"""What classes ask for and what containers make of it, known by shape in every language; layers from names and bonds."""

from __future__ import annotations

import json

from isodesm.catalogue import Catalogues, catalogue_of
from isodesm.codebase.model import Codebase
from isodesm.diagnosis.diagnose import diagnose
from isodesm.diagnosis.shared.spans import span_of, span_of_line
from isodesm.diagnosis.wiring_faults.cycles import _knots
from isodesm.linking.symbols import simple_name
from isodesm.settings import LayerRule
from tests.support import TreeTest, public

USERS = 3
INJECT = public("java", "inject")
SINGLE, SCOPED, FRESH = (public("csharp", lifetime) for lifetime in ("singleton", "scoped", "transient"))


def java_users(call: str, result: str = "Guard") -> dict[str, str]:
    """Three classes that use a locator, and what they look up."""
    users = {
        f"hut/U{n}.java": f"package hut; public class U{n} {{ void x() {{ {result} g = {call}; g.stand(); }} }}"
        for n in range(USERS)
    }
    return users | {"hut/Guard.java": "package hut; public interface Guard { void stand(); }"}


class LocatorShapeTest(TreeTest):
    """Registries that no catalogue knows: what hands out, what takes in, and how long what was put in lives."""

    CASES = {
        "Java, instances by class": (
            {
                "hut/Box.java": "package hut; import java.util.*; public class Box { private static final Map<Class<?>, "
                "Object> in = new HashMap<>(); public static <T> T find(Class<T> k) { return k.cast(in.get(k)); } "
                "public static <T> void offer(Class<T> k, T v) { in.put(k, v); } }"
            }
            | java_users("Box.find(Guard.class)"),
            "hut.Box",
            {"find"},
            {"offer": "singleton"},
        ),
        "Java, makers called anew": (
            {
                "hut/Box.java": "package hut; import java.util.*; import java.util.function.*; public class Box { "
                "private static final Map<String, Supplier<Object>> in = new HashMap<>(); public static Object "
                "find(String k) { return in.get(k).get(); } public static void offer(String k, Supplier<Object> v) { in.put(k, "
                "v); } }"
            }
            | java_users('(Guard) Box.find("g")'),
            "hut.Box",
            {"find"},
            {"offer": "transient"},
        ),
        "TypeScript, makers whose results are kept": (
            {
                "box.ts": "export class Box { private static makers = new Map<string, () => any>(); private static made "
                "= new Map<string, any>(); static find(k: string): any { if (!Box.made.has(k)) { Box.made.set(k, "
                "Box.makers.get(k)!()); } return Box.made.get(k); } static offer(k: string, m: () => any): void { "
                "Box.makers.set(k, m); } }"
            }
            | {
                f"u{n}.ts": f"import {{ Box }} from './box'; export class U{n} {{ x(): void {{ Box.find('g').stand(); }} }}"
                for n in range(USERS)
            },
            "box#Box",
            {"find"},
            {"offer": "singleton"},
        ),
        "Python, a dictionary of makers": (
            {
                "box.py": "class Box:\n    makers: dict[str, object] = {}\n\n    @classmethod\n    def find(cls, k):\n  "
                "      return cls.makers[k]()\n\n    @classmethod\n    def offer(cls, k, m):\n        cls.makers[k] = m\n"
            }
            | {
                f"u{n}.py": f"from box import Box\n\n\nclass U{n}:\n    def x(self):\n        Box.find('g').stand()\n"
                for n in range(USERS)
            },
            "box.Box",
            {"find"},
            {"offer": "transient"},
        ),
        "PHP, an untyped array of makers": (
            {
                "Box.php": "<?php\nclass Box { private static array $m = []; public static function find(string $k): "
                "object { return (self::$m[$k])(); } public static function offer(string $k, callable $f): void { "
                "self::$m[$k] = $f; } }\n"
            }
            | {
                f"U{n}.php": f"<?php\nclass U{n} {{ public function x(): void {{ Box::find('g')->stand(); }} }}\n"
                for n in range(USERS)
            },
            "Box",
            {"find"},
            {"offer": "transient"},
        ),
        "C#, by type argument": (
            {
                "Box.cs": "using System; using System.Collections.Generic; namespace H { public class Box { private "
                "readonly Dictionary<Type, object> m = new Dictionary<Type, object>(); public T Find<T>() { return "
                "(T)m[typeof(T)]; } public void Offer<T>(T it) { m[typeof(T)] = it; } } public interface IGuard { void "
                "Stand(); } }"
            }
            | {
                f"U{n}.cs": f"namespace H {{ public class U{n} {{ void X(Box b) {{ b.Find<IGuard>().Stand(); }} }} }}"
                for n in range(USERS)
            },
            "H.Box",
            {"Find"},
            {"Offer": "singleton"},
        ),
    }

    def test_shapes(self) -> None:
        for name, (files, box, reading, offering) in self.CASES.items():
            self.root = self.root.parent / name.replace(" ", "-").replace(",", "").replace("#", "sharp")
            codebase = self.read(files)
            found = {codebase.symbols.names[number]: locator for number, locator in codebase.locators.items()}
            with self.subTest(name=name):
                self.assertEqual(
                    {each: (set(it.reading), it.offering) for each, it in found.items()}, {box: (reading, offering)}
                )
                self.assertEqual(sum(1 for _ in codebase.bonds.rows_of_kind("lookup")), USERS)

    def test_what_only_looks_like_one(self) -> None:
        for name, body in {
            "a table of numbers": "private static final Map<String, Integer> in = new HashMap<>(); public static "
            "Integer find(String k) { return in.get(k); }",
            "an accessor of its own kind": "private static final Map<String, Object> in = new HashMap<>(); public "
            "static Box find(String k) { return (Box) in.get(k); }",
            "a private table": "private static final Map<String, Object> in = new HashMap<>(); private static Object "
            "find(String k) { return in.get(k); }",
        }.items():
            self.root = self.root.parent / name.replace(" ", "-")
            files = {"hut/Box.java": f"package hut; import java.util.*; public class Box {{ {body} }}"} | java_users(
                '(Guard) Box.find("g")'
            )
            with self.subTest(name=name):
                self.assertEqual(self.read(files).locators, {})

    def test_two_users_make_no_locator_of_an_object_that_may_be_another(self) -> None:
        files = dict(self.CASES["Java, instances by class"][0])
        del files["hut/U2.java"]
        self.assertEqual(len(self.read(files).locators), 1)  # nobody can be given another one
        held = {name: text.replace(" static ", " ").replace("Box.find", "new Box().find") for name, text in files.items()}
        self.assertEqual(self.read(held).locators, {})


class InjectionTest(TreeTest):
    """Which constructor a container calls, and what each parameter asks for."""

    CASES = {
        "the one that takes most": (
            "A.java",
            "class A { A() { } A(B b) { } A(B b, int n) { } } class B { }",
            "A",
            [("b", "B", ""), ("n", "", "")],
        ),
        "the marked one": (
            "A.java",
            f"import org.parts.{INJECT}; class A {{ @{INJECT} A(B b) {{ }} A(B b, C c) {{ }} }} class B {{ }} class C {{ }}",
            "A",
            [("b", "B", "")],
        ),
        "that of the base": (
            "a.ts",
            "export class B {} export class A { constructor(readonly b: B) {} } export class D extends A {}",
            "a#D",
            [("b", "a#B", "")],
        ),
        "collections and ways to get one": (
            "A.cs",
            "using System; using System.Collections.Generic; namespace N { class A { public A(IEnumerable<B> all, "
            "Func<B> later, B one = null) { } } class B { } }",
            "N.A",
            [("all", "N.B", "collection"), ("later", "N.B", "deferred"), ("one", "N.B", "default")],
        ),
        "promoted parameters": (
            "n.php",
            "<?php\nclass B {}\nclass A { public function __construct(private B $b, private ?B $c = null) {} }",
            "A",
            [("b", "B", ""), ("c", "B", "default")],
        ),
        "what is taken apart": (
            "a.ts",
            "export class A { constructor({ bell, loud: high = 3 }: any, {}: any) { } set({ x }) { this.x = x; } }",
            "a#A",
            [("bell", "", ""), ("loud", "", ""), ("{}", "", "")],
        ),
        "what __init__ takes": (
            "a.py",
            "class B: ...\n\n\nclass A:\n    def __init__(self, b: B, *rest, c: 'B | None' = None):\n        self.b = b\n",
            "a.A",
            [("b", "a.B", ""), ("rest", "", "collection"), ("c", "a.B", "default")],
        ),
    }

    def test_constructors(self) -> None:
        for name, (path, source, asker, wanted) in self.CASES.items():
            self.root = self.root.parent / name.replace(" ", "-")
            codebase = self.read({path: source})
            found = codebase.wiring.injections.of_constructor(codebase.symbols.names.index(asker))
            with self.subTest(name=name):
                self.assertEqual(
                    [
                        (
                            each.name.lstrip("$"),
                            codebase.symbols.names[each.target] if each.target >= 0 else "",
                            self.sort(each),
                        )
                        for each in found
                    ],
                    wanted,
                )

    def sort(self, injection) -> str:
        return (
            "collection"
            if injection.collection
            else "deferred"
            if injection.deferred
            else "default"
            if injection.default
            else ""
        )

    def test_members_that_a_container_fills_in(self) -> None:
        source = (
            f"import org.parts.{INJECT}; class A "
            f"{{ @{INJECT} B b; @{INJECT} void set(C c) {{ }} B own; @{INJECT} A(B x) {{ }} }} class B {{ }} class C {{ }}"
        )
        codebase = self.read({"A.java": source})
        found = codebase.wiring.injections.of_members(codebase.symbols.names.index("A"))
        self.assertEqual([each.name for each in found], ["b", "c"])

    def test_parameters_that_keep_what_is_injected_are_no_such_members(self) -> None:
        mark = public("typescript", "inject")
        source = (
            f"import {{ {mark} }} from 'parts'; export class B {{}} export class A "
            f"{{ constructor(@{mark}('b') private readonly b: B) {{}} @{mark}('c') c!: B; }}"
        )
        codebase = self.read({"a.ts": source})
        found = codebase.wiring.injections.of_members(codebase.symbols.names.index("a#A"))
        self.assertEqual([each.name for each in found], ["c"])


class WiringTest(TreeTest):
    SOURCE = (
        "using Parts; namespace N { class S { void C(Store s) { %s } } interface I { void Go(); } class A : I { public "
        "void Go() { } } class B : I { public void Go() { } } class U { public U(I i) { } } }"
    )

    def wiring(self, body: str) -> tuple[Codebase, list[tuple[str, str]]]:
        codebase = self.read({"S.cs": self.SOURCE % body})
        (wanted,) = codebase.wiring.injections.of_constructor(codebase.symbols.names.index("N.U"))
        return codebase, [
            (simple_name(codebase.symbols.names[each.implementation]), each.lifetime)
            for each in codebase.wiring.serving(wanted)
        ]

    def test_what_serves(self) -> None:
        for body, wanted in (
            (f"s.{SCOPED}<I, A>();", [("A", "scoped")]),
            (f"s.{SINGLE}<I>(p => new B());", [("B", "singleton")]),
            (f"s.{FRESH}<A>();", []),
            (f"s.{SCOPED}<I, A>(); s.{SINGLE}<I, B>();", [("B", "singleton")]),
            ("", []),
        ):
            with self.subTest(body=body):
                self.assertEqual(self.wiring(body)[1], wanted)

    def test_aliases_of_definitions_are_followed(self) -> None:
        codebase = self.read(
            {
                "s.yaml": "services:\n  a.one:\n    class: N\\One\n  a.two: '@a.one'\n  N\\Port: '@a.two'\n",
                "s.php": "<?php\nnamespace N;\ninterface Port { }\nclass One implements Port { }\nclass U { public "
                "function __construct(private Port $p) { } }\n",
            }
        )
        (wanted,) = codebase.wiring.injections.of_constructor(codebase.symbols.names.index("N\\U"))
        self.assertEqual(
            [simple_name(codebase.symbols.names[each.implementation]) for each in codebase.wiring.serving(wanted)], ["One"]
        )

    def test_aliases_live_as_long_as_what_they_stand_for(self) -> None:
        """Fluent bindings: an alias takes the lifetime over, a bare mark allows and registers nothing by itself."""
        rules = Catalogues().registering("typescript")
        bind = next(name for name, lifetime in rules.calls.items() if lifetime == "transient")
        mark = next(name for name, lifetime in rules.annotations.items() if lifetime == "transient")
        single = next(name for name, lifetime in rules.lifetimes.items() if lifetime == "singleton")
        (itself,) = (each for each in rules.implementations if each.endswith("Self"))
        for alias in sorted({*rules.aliases} & {*rules.implementations}):
            for kept, lifetime in ((f".{single}()", "singleton"), ("", "transient")):
                files = {
                    "one.ts": f"@{mark}() export class One {{ n = 0; run(): void {{ this.n++; }} }}",
                    "port.ts": "export abstract class Port { abstract run(): void; }",
                    "start.ts": f"import {{ One }} from './one'; import {{ Port }} from './port'; export function start("
                    f"{bind}: any, names: any[]) {{ {bind}(One).{itself}(){kept}; {bind}(Port).{alias}(One); "
                    f"for (const each of names) {{ {bind}(each).{alias}(One); }} }}",
                }
                with self.subTest(alias=alias, lifetime=lifetime):
                    self.assertEqual(
                        sorted(
                            (simple_name(each.registration.abstraction), each.lifetime, each.registration.how)
                            for each in self.read(files).wiring.services
                        ),
                        [("One", lifetime, "call"), ("Port", lifetime, "call")],
                    )

    def test_filling_in_later_by_habit_is_one_decision(self) -> None:
        late = f"import org.parts.{INJECT}; class L%d {{ @{INJECT} Bell bell; void x() {{ bell.ring(); }} }}"
        early = f"import org.parts.{INJECT}; class E%d {{ final Bell b; @{INJECT} E%d(Bell b) {{ this.b = b; }} }}"
        for many, few, wanted in ((6, 0, 1), (6, 3, 1), (6, 4, 6), (3, 0, 3)):
            self.root = self.root.parent / f"{many}-{few}"
            files = {"Bell.java": "interface Bell { void ring(); }"}
            files |= {f"L{n}.java": late % n for n in range(many)} | {f"E{n}.java": early % (n, n) for n in range(few)}
            with self.subTest(late=many, early=few):
                found = [each for each in diagnose(self.read(files)).findings if each.kind == "late-dependency"]
                self.assertEqual(len(found), wanted)
                self.assertEqual(sum(1 + len(each.related) for each in found), many)


class LayersTest(TreeTest):
    def tree(self, layout: dict[str, int], **extra: str) -> dict[str, str]:
        files = {
            f"p/{folder}/{folder.capitalize()}{n}.java": f"package p.{folder}; public class {folder.capitalize()}{n} {{ }}"
            for folder, count in layout.items()
            for n in range(count)
        }
        return files | {f"p/{name.replace('_', '/')}.java": text for name, text in extra.items()}

    def test_what_speaks_for_the_layer_of_a_package(self) -> None:
        """Package to what is said of it: by its name, by what its classes do, and by who knows whom."""
        shown = "package p.deck; public class Deck{0} extends javax.swing.JPanel {{ }}"
        keeps = (
            "package p.shed; public class Shed{0} {{ void go() throws Exception {{ java.nio.file.Files.readString(null); }} }}"
        )
        holds = "package p.bits; public class Bit{0} {{ private int a; public int getA() {{ return a; }} }}"
        uses = "package p.odd; class Odd{0} {{ p.deck.Deck0 d; p.shed.Shed0 s; p.bits.Bit0 b; org.other.kit.Kit0 k; }}"
        came = "package org.other.kit; public class Kit{0} {{ public void go() {{ }} }}"
        files = {
            f"{name}/F{n}.java": text.format(n)
            for name, text in (("deck", shown), ("shed", keeps), ("bits", holds), ("odd", uses), ("other", came))
            for n in range(4)
        }
        files |= {f"web/W{n}.java": f"package org.own.web; class W{n} {{ org.own.program.Core{n} c; }}" for n in range(9)}
        files |= {f"program/C{n}.java": f"package org.own.program; class Core{n} {{ }}" for n in range(9)}
        files |= {"bind/B.java": "package org.own; class B { p.odd.Odd0 o; }"}
        found = {each.name: each for each in self.read(files).layers.packages}
        for name, layer, certainty, reason in (
            ("p.deck", "presentation", "sure", "4 of 4 classes put visual parts together"),
            ("p.shed", "infrastructure", "sure", "4 of 4 classes reach the file system"),
            ("p.bits", "domain", "likely", "4 of 4 classes hold data"),
            ("org.own.web", "presentation", "sure", "is named `web`"),
            ("org.own.program", "application", "likely", "is named `program`, which may mean that"),
            ("org.other.kit", "shared", "sure", "knows nothing of the rest, which knows it: a library that came along"),
        ):
            with self.subTest(name=name):
                self.assertEqual((found[name].layer, found[name].certainty), (layer, certainty), found[name])
                self.assertIn(reason, found[name].reasons)

    def test_a_proposal_becomes_settings_once(self) -> None:
        bad = "package p.domain; class Slip { p.web.Web0 w; }"
        layout = self.tree({"web": 24, "domain": 2}, domain_Slip=bad)
        for n in range(24):
            layout[f"p/web/Web{n}.java"] = f"package p.web; public class Web{n} {{ p.domain.Domain0 d; }}"
        self.write(layout)

        def said() -> list[tuple[str, str]]:
            result = json.loads(self.run_program("layers", "--format", "json").stdout)["result"]
            return [(each["level"], each["message"]) for each in result["wrong_way"]]

        self.assertEqual(said(), [("note", "`Slip`, which belongs to domain, knows `Web0` of presentation.")])
        self.assertEqual(self.run_program("layers", "--write").returncode, 0)
        self.assertEqual(said(), [("error", "`Slip` of the layer domain knows `Web0` of the outer layer presentation.")])
        again = self.run_program("layers", "--write")
        self.assertEqual((again.returncode, "name layers already" in again.stderr), (2, True))

    def test_helpers_inside_a_layer_belong_to_it(self) -> None:
        codebase = self.read(
            self.tree({"web": 2, "domain": 2})
            | {
                "p/web/util/H.java": "package p.web.util; public class H { }",
                "p/util/G.java": "package p.util; public class G { }",
            }
        )
        names = {
            simple_name(codebase.symbols.names[number]): codebase.layers.name(number) for number in range(len(codebase.symbols))
        }
        self.assertEqual((names["H"], names["G"]), ("presentation", "shared"))

    def test_infrastructure_lies_where_fewest_bonds_point_outwards(self) -> None:
        port, adapter = (
            "package p.app; public interface Port { int go(int n); }",
            "package p.infra; public class Adapter implements p.app.Port { public int go(int n) { return n; } }",
        )
        user = (
            "package p.app; public class User { private final p.infra.Adapter a; public User(p.infra.Adapter a) { this.a = "
            "a; } }"
        )
        for name, extra, wanted in (
            ("inverted", {"app_Port": port, "infra_Adapter": adapter}, 1),
            ("classic", {"app_User": user, "infra_Adapter": adapter.replace(" implements p.app.Port", "")}, 0),
        ):
            self.root = self.root.parent / name
            codebase = self.read(self.tree({"web": 2, "app": 2, "infra": 2, "domain": 2}, **extra))
            rings = {layer.name: layer.ring for layer in codebase.layers.layers}
            with self.subTest(name=name):
                self.assertEqual(int(rings["infrastructure"] > rings["application"]), wanted, codebase.layers.order)
                self.assertEqual([each.kind for each in diagnose(codebase).findings if each.crossing], [])

    def named(self, files: dict[str, str]) -> dict[str, str]:
        """Class to layer."""
        codebase = self.read(files)
        return {simple_name(name): codebase.layers.name(number) for number, name in enumerate(codebase.symbols.names)}

    def test_interfaces_in_folders_of_their_own_belong_to_who_asks(self) -> None:
        files = self.tree({"web": 2, "app": 2, "infra": 2}) | {
            "p/contracts/Bell.java": "package p.contracts; public interface Bell { void ring(); }",
            "p/contracts/Horn.java": "package p.contracts; public interface Horn { void blow(); }",
            "p/infra/Siren.java": "package p.infra; public class Siren implements p.contracts.Bell { public void ring() { } }",
            "p/app/Desk.java": "package p.app; public class Desk { private final p.contracts.Bell b; Desk(p.contracts.Bell b) "
            "{ this.b = b; } }",
        }
        files |= {
            "p/contracts/Paint.java": "package p.contracts; public interface Paint { void go(); }",
            "p/web/Page.java": "package p.web; public class Page { Page(p.contracts.Paint paint) { paint.go(); } }",
            "p/app/Brush.java": "package p.app; public class Brush implements p.contracts.Paint { public void go() { } }",
        }
        layers = self.named(files)
        self.assertEqual([layers[each] for each in ("Bell", "Horn", "Paint")], ["application", "", "application"])

    def test_roles_fill_in_feature_folders_beside_role_folders(self) -> None:
        effect = "void keep() throws Exception { java.nio.file.Files.readString(null); }"
        files = self.tree({"web": 3, "app": 3, "infra": 3}) | {
            "p/orders/OrderService.java": "package p.orders; public class OrderService { final OrderRepository r; "
            "OrderService(OrderRepository r) { this.r = r; } void go() throws Exception { r.keep(); } }",
            "p/orders/OrderRepository.java": f"package p.orders; public class OrderRepository {{ {effect} }}",
        }
        layers = self.named(files)
        self.assertEqual((layers["OrderService"], layers["OrderRepository"]), ("application", "infrastructure"))

    def test_nothing_is_said_to_be_right_above_an_arrow_that_is_not(self) -> None:
        start = (
            "package p.domain; public class Start { public static void main(String[] a) { new p.web.Web0(); new p.web.Web1(); "
            "new p.app.App0(); } }"
        )
        self.write(self.tree({"web": 2, "app": 2, "domain": 2}, domain_Start=start))
        shown = self.run_program("layers", ".").stdout
        self.assertIn("↑", shown.partition("points outwards")[0])
        self.assertNotIn("No bond points the wrong way", shown)

    def test_settings_name_and_order_them(self) -> None:
        rules = (LayerRule(name="rim", segments=("odd",)), LayerRule(name="hub", segments=("web",)))
        codebase = self.read(self.tree({"web": 1, "odd": 1}), layers=rules)
        self.assertEqual([(layer.name, layer.ring) for layer in codebase.layers.layers], [("rim", 1), ("hub", 0)])


class CatalogueJoinTest(TreeTest):
    def test_own_entries_add_and_the_shipped_ones_stay(self) -> None:
        import msgspec

        from isodesm.catalogue import Catalogue

        own = msgspec.convert(
            {
                "effects": {"network": {"java.net.Socket": ["shout"], "radio.Link": ["new"]}},
                "values": {"types": "radio.Dial"},
                "roles": {"annotations": {"service": ["Works"]}},
                "lookups": {"radio.Book": ["page"]},
            },
            Catalogue,
        )
        shipped, joined = catalogue_of("java"), Catalogues({"java": own}).of("java")
        self.assertEqual(
            joined.effects["network"]["java.net.Socket"], (*shipped.effects["network"]["java.net.Socket"], "shout")
        )
        self.assertEqual(joined.effects["file"], shipped.effects["file"])
        self.assertTrue(
            Catalogues({"java": own}).is_value("radio.Dial", "java") and not Catalogues().is_value("radio.Dial", "java")
        )
        self.assertLessEqual(set(shipped.roles.annotations["service"]), set(joined.roles.annotations["service"]))
        self.assertIn("radio.Book", Catalogues({"java": own}).known_types("java"))
        self.assertIs(Catalogues({"java": own}).of("php"), catalogue_of("php"))


class KnotsTest(TreeTest):
    def test_knots(self) -> None:
        for edges, wanted in (
            ({}, []),
            ({1: [2], 2: [3]}, []),
            ({1: [2], 2: [1]}, [[1, 2]]),
            ({1: [2], 2: [3], 3: [1], 4: [1], 5: [6], 6: [5]}, [[1, 2, 3], [5, 6]]),
            ({1: [2], 2: [1, 3], 3: [4], 4: [3]}, [[1, 2], [3, 4]]),
            ({1: [2, 3], 2: [4], 3: [4], 4: [5], 5: []}, []),
        ):
            with self.subTest(edges=edges):
                self.assertEqual(_knots(edges), wanted)


class SpansTest(TreeTest):
    def test_spans(self) -> None:
        text = "eins\n  zwei drei\r\nÄ vier\n".encode()
        for start, end, wanted in (
            (text.find(b"drei"), text.find(b"drei") + 4, (2, 8, 12, "  zwei drei")),
            (text.find(b"vier"), text.find(b"vier") + 4, (3, 3, 7, "Ä vier")),
            (0, len(text), (1, 1, 5, "eins")),
            (text.find(b"zwei"), text.find(b"zwei"), (2, 3, 4, "  zwei drei")),
        ):
            with self.subTest(wanted=wanted):
                self.assertEqual(tuple(span_of(text, start, end)), wanted)
        self.assertEqual(tuple(span_of_line(text, 2)), (2, 3, 12, "  zwei drei"))
        self.assertEqual(tuple(span_of_line(text, 99)), (99, 1, 2, ""))


class AmbientFactsTest(TreeTest):
    """Who reads and writes what belongs to nobody, as the links say it."""

    CASES = {
        "A.java": (
            "class S { static int n; int own; } class U { void f() { S.n = 1; S.n++; int y = S.n; new S().own = 3; } "
            "void g() { int n = 2; n = 3; } }",
            {("U", "S", "n"): 2},
        ),
        "A.cs": (
            "static class S { public static int N { get; set; } static void In() { N = 2; } } class U { void F() { S.N "
            "+= 1; } }",
            {("S", "S", "N"): 1, ("U", "S", "N"): 1},
        ),
        "a.php": (
            "<?php\nclass S { public static $n = 1; static function put($x) { self::$n = $x; static::$n++; } }\nclass U "
            "{ function f() { S::$n = 2; $_SESSION['a'] = 1; $_GET['b'] ?? 0; $_SESSION['c']['d'] .= 'x'; } }",
            {("S", "S", "n"): 2, ("U", "S", "n"): 1, ("U", "$_SESSION", "$_SESSION"): 2},
        ),
        "a.ts": (
            "export let n = 1; export class U { f(): void { n = 2; globalThis.hut = 3; const window = { a: 1 }; "
            "window.a = 4; } }",
            {("U", "a", "n"): 1, ("U", "globalThis", "hut"): 1},
        ),
        "a.py": (
            "n = 1\n\n\ndef f():\n    global n\n    n = 2\n\n\nclass C:\n    k = 1\n\n    def g(self):\n        n = 3\n "
            "       C.k = 4\n        self.k = 5\n",
            {("a", "a", "n"): 1, ("C", "C", "k"): 1},
        ),
    }

    def test_writes(self) -> None:
        from collections import Counter

        from isodesm.linking.bonds import WRITE

        for path, (source, wanted) in self.CASES.items():
            self.root = self.root.parent / path.replace(".", "-")
            codebase = self.read({path: source})
            table = codebase.bonds
            found = Counter(
                (
                    simple_name(codebase.symbols.names[table.source[row]]),
                    simple_name(codebase.target_name(table.target[row])),
                    table.text_of("callee", row),
                )
                for row, kind in enumerate(table.kind)
                if kind == WRITE
            )
            with self.subTest(path=path):
                self.assertEqual(dict(found), wanted)


class RobustnessTest(TreeTest):
    """Every command on input that is not as it should be: a message, an exit code, never a traceback."""

    def test_all_commands(self) -> None:
        self.write(
            {
                "a/Broken.java": "class A { void x( { } class B extends A { new ;;; }",
                "a/Bytes.php": b"<?php class \xff\xfe { function f() { $_GET[\xff]; } }",
                "a/Half.cs": "namespace N { class C { public C(",
                "a/odd.ts": "@Deco({ a: [",
                "a/empty.py": "",
                "a/deep.py": "x = " + "[" * 200 + "]" * 200,
                "a/services.yaml": "services:\n  a: { class: [1, 2] }\n  b:\n    arguments: {x: 1}\n",
            }
        )
        for command in (
            ("scan",),
            ("scan", "--format", "sarif"),
            ("rank", "--figure", "r.svg"),
            ("layers", "--figure", "l.svg"),
            ("wiring",),
            ("trace",),
            ("setup", "-o", "s.toml"),
            ("plan",),
        ):
            result = self.run_program(command[0], "a", *command[1:])
            with self.subTest(command=command):
                self.assertEqual(result.returncode, 0, result.stdout + result.stderr)
                self.assertNotIn("Traceback", result.stderr)

    def test_nothing_to_read_and_no_such_folder(self) -> None:
        (self.root / "void").mkdir()
        for command in (
            ("scan",),
            ("rank",),
            ("layers",),
            ("wiring",),
            ("about", "X"),
            ("trace", "X.y"),
            ("setup",),
            ("plan",),
        ):
            for folder, code in (("void", 3), ("gone", 2)):
                result = self.run_program(*command, folder)
                with self.subTest(command=command, folder=folder):
                    self.assertEqual(result.returncode, code, result.stderr)
                    self.assertIn(folder, result.stderr)

    def test_a_single_file(self) -> None:
        self.write(
            {
                "Lamp.java": "class Lamp { private final java.net.Socket s = new java.net.Socket(); void on() { "
                "s.connect(null); } }"
            }
        )
        for command in (("scan",), ("rank",), ("layers",), ("wiring",), ("about", "Lamp"), ("trace", "Lamp.on")):
            result = self.run_program(*command, "Lamp.java")
            with self.subTest(command=command):
                self.assertEqual(result.returncode, 0, result.stderr)
                self.assertIn("Lamp", result.stdout)
