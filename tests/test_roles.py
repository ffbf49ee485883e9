"""Roles, layers and effects of small classes: what is inferred, from which evidence, and where settings overrule it."""

from __future__ import annotations

from isodesm.catalogue import catalogue_of
from isodesm.codebase.model import Codebase
from isodesm.measures.narrower_role import narrower_role
from isodesm.settings import LayerRule
from tests.support import TreeTest

STORE = (
    "class FileThing { java.nio.file.Path p; void keep(String t) throws Exception { "
    "java.nio.file.Files.writeString(p, t); } void drop() throws Exception { java.nio.file.Files.delete(p); } }"
)


def role_of(codebase: Codebase, name: str) -> str:
    numbers = {codebase.symbols.types[n].name: n for n in range(len(codebase.symbols))}
    return codebase.roles.name(numbers[name])


class RoleTest(TreeTest):
    CASES = {
        "plain fields with accessors": ("class X { int a; int getA() { return a; } void setA(int v) { a = v; } }", "entity"),
        "final fields": ("class X { final int a; X(int a) { this.a = a; } int a() { return a; } }", "value"),
        "record": ("record X(int a) { int twice() { return a * 2; } }", "value"),
        "enum with behaviour": ("enum X { A, B; X next() { if (this == A) { return B; } return A; } }", "value"),
        "error of an error": ("class Y extends RuntimeException { } class X extends Y { }", "exception"),
        "static members only": ("class X { static int a(int b) { return b + 1; } }", "utility"),
        "interface": ("interface X { void a(); }", "abstraction"),
        "start": ("class X { public static void main(String[] a) { } }", "composition-root"),
        "start of newer code": ("class X { public static void main() { } }", "composition-root"),
        "main with other arguments": ("class X { int n; static void main(int a) { } }", "entity"),
        "storage in most methods": (STORE.replace("FileThing", "X"), "repository"),
        "network": (
            "class X { void go() throws Exception { if (a()) { new java.net.Socket(); } } boolean a() { return true; } }",
            "gateway",
        ),
        "collaborator that is called": (
            STORE + "class X { FileThing t; void go(int a) throws Exception { if (a > 1) { t.drop(); } } }",
            "service",
        ),
        "collaborator only held": (STORE + "class X { FileThing t; FileThing getT() { return t; } }", "entity"),
        "hands on what a collaborator gives": (
            STORE + "class X { final FileThing t; X(FileThing t) { this.t = t; } "
            "Object all() throws Exception { return t.keep(); } }",
            "service",
        ),
        "made in many places and kept in collections": (
            STORE
            + "class X { FileThing t; int f(int a) throws Exception { if (a > 1) { t.drop(); } return a; } }"
            + "class Y { X[] a; X[] b; java.util.List<X> c; java.util.List<X> d; java.util.Set<X> e; "
            "Object one() { return new X(); } Object two() { return new X(); } Object three() { return new X(); } }",
            "entity",
        ),
        "collaborator behind an abstraction": (
            STORE.replace("{", "implements Keeper {", 1) + "interface Keeper { void drop() throws Exception; }"
            "class X { Keeper k; void go(int a) throws Exception { if (a > 1) { k.drop(); } } }",
            "service",
        ),
        "computation without state": ("class X { int f(int a) { if (a > 1) { return f(a - 1); } return a; } }", "algorithm"),
        "computation on own fields": (
            "class X { int s; int f(int a) { if (a > s) { s = a; } else { s--; } while (s > 3) { s /= 2; } return s; } }",
            "entity",
        ),
        "makes what it returns": (
            "class P { int a; } class Q { int b; } class X { P one() { return new P(); } Q two() { return new Q(); } }",
            "factory",
        ),
        "own named constructors": (
            "class X { final int a; X(int a) { this.a = a; } static X one() { return new X(1); } static X two() { "
            "return new X(2); } }",
            "value",
        ),
        "annotated": ("@Repository class X { int a; }", "repository"),
        "annotated and qualified": ("@org.x.Entity class X { void go() { } }", "entity"),
        "visual base": ("class X extends javax.swing.JPanel { }", "presentation"),
        "name breaks a tie": (
            STORE + "class OrderController { FileThing t; void go(int a) throws Exception { if (a > 1) { t.drop(); } } }",
            "presentation",
        ),
        "name alone is too weak for data": ("class XEvent { void go(int a) { if (a > 1) { go(2); } } }", "algorithm"),
        "reads a clock but is data": ("class X { long at = System.nanoTime(); long getAt() { return at; } }", "entity"),
    }

    def test_roles(self) -> None:
        for name, (source, wanted) in self.CASES.items():
            with self.subTest(case=name):
                self.root = self.root.parent / name
                subject = next(each for each in ("OrderController", "XEvent", "X") if f" {each} " in source.replace("(", " "))
                self.assertEqual(role_of(self.read({"p/All.java": source}), subject), wanted)

    NARROWER = {
        "declared as a record": ("record X(int a) { }", "record: is declared as one"),
        "fields that never change": ("class X { final int a; X(int a) { this.a = a; } int a() { return a; } }", "record:"),
        "a field that is filled": ("class X { final java.util.Map<String, Y> a; X(java.util.Map<String, Y> a) { } }", ""),
        "a fixed field, and work": ("class X { final Y a; X(Y a) { this.a = a; } void go(int b) { a.go(b); } }", ""),
        "an event by who takes it": (
            "class XEvent { int a; int getA() { return a; } } class Y { void onRise(XEvent e) { e.getA(); } }",
            "event: Y.onRise takes it",
        ),
        "an event by name alone": ("class XEvent { int a; int getA() { return a; } }", ""),
        "run by a thread": (
            STORE + "class X implements Runnable { FileThing t; public void run() { t.drop(); } }",
            "worker: a thread, a pool or a timer calls its run",
        ),
        "told of what happened": (
            STORE + "class XListener { FileThing t; public void onRise(int e) { if (e > 1) { t.drop(); } } }",
            "handler: onRise is called with what has happened",
        ),
        "one kind of object given as another": (
            STORE + "interface Bin { void clear(); } class X implements Bin { FileThing t; public void clear() { t.drop(); } }",
            "adapter: gives a FileThing as Bin",
        ),
        "works with another": (STORE + "class X { FileThing t; void clear(int a) { if (a > 1) { t.drop(); } } }", ""),
    }

    def test_narrower_words_are_shown_by_more_than_a_name(self) -> None:
        for name, (source, wanted) in self.NARROWER.items():
            with self.subTest(case=name):
                self.root = self.root.parent / name
                codebase = self.read({"p/All.java": source})
                number = next(n for n, each in enumerate(codebase.symbols.types) if each.name.startswith("X"))
                found = narrower_role(codebase, number)
                said = f"{found.name}: {found.reason}" if found else ""
                self.assertEqual(said[: len(wanted)] if wanted else said, wanted)

    def test_doubles_and_helpers_of_tests(self) -> None:
        codebase = self.read(
            {
                "src/p/Bin.java": "package p; public interface Bin { void clear(); }",
                "test/p/NoBin.java": "package p; class NoBin implements Bin { public void clear() { } }",
                "test/p/Make.java": "package p; class Make { static Bin one() { return new NoBin(); } }",
                "test/p/BinTest.java": "package p; class BinTest { void testIt() { Make.one().clear(); } }",
            }
        )
        names = [narrower_role(codebase, n) for n in range(len(codebase.symbols))]
        self.assertEqual(
            {codebase.symbols.types[n].name: found.name for n, found in enumerate(names) if found},
            {"NoBin": "test double", "Make": "test helper"},
        )

    def test_tests_are_known_by_folder_and_framework(self) -> None:
        codebase = self.read(
            {
                "src/test/p/A.java": "class A { }",
                "src/p/B.java": f"import {catalogue_of('java').roles.imports['test'][0]}.Any; class B {{ }}",
                "src/p/contest/C.java": "class C { }",
            }
        )
        self.assertEqual([role_of(codebase, name) for name in "ABC"], ["test", "test", "value"])

    def test_settings_overrule_everything(self) -> None:
        codebase = self.read(
            {"p/A.java": f"package p; @{catalogue_of('java').roles.annotations['entity'][0]} class A {{ int a; }}"},
            roles={"p.*": "service"},
        )
        self.assertEqual(role_of(codebase, "A"), "service")
        self.assertIn("setting for `p.*`", codebase.roles[0].evidence[0].reason)

    def test_evidence_against_is_kept(self) -> None:
        codebase = self.read(
            {
                "p/A.java": f"package p; @{catalogue_of('java').roles.annotations['service'][0]} class AEntity "
                f"{{ int a; int getA() {{ return a; }} }}"
            }
        )
        self.assertEqual(
            [(e.role, e.strength) for e in codebase.roles[0].evidence], [("service", 80), ("entity", 50), ("entity", 10)]
        )

    def test_many_implementations_are_a_family_and_no_choice(self) -> None:
        few = "interface N { void a(); } " + "".join(f"class N{n} implements N {{ public void a() {{ }} }} " for n in range(3))
        many = "interface M { void a(); } " + "".join(
            f"class M{n} implements M {{ public void a() {{ }} }} " for n in range(20)
        )
        codebase = self.read({"A.java": few + many})
        numbers = {codebase.symbols.types[n].name: n for n in range(len(codebase.symbols))}
        self.assertEqual(len(codebase.roles.other_implementations(numbers["N0"])), 2)
        self.assertEqual(codebase.roles.other_implementations(numbers["M0"]), ())


class LayerTest(TreeTest):
    FILES = {
        f"shop/{layer}/{name}.java": f"package shop.{layer}; class {name} {{ }}"
        for layer in ("web", "app", "infra")
        for name in ("A", "B")
    }

    def test_inferred_from_segments(self) -> None:
        codebase = self.read(self.FILES)
        layers = {codebase.symbols.names[n]: codebase.layers.name(n) for n in range(len(codebase.symbols))}
        self.assertEqual(layers["shop.web.A"], "presentation")
        self.assertEqual(layers["shop.app.A"], "application")
        self.assertEqual(layers["shop.infra.B"], "infrastructure")
        self.assertIn("is named `infra`", codebase.layers.evidence[-1] + codebase.layers.evidence[2])

    def test_outwards_is_from_smaller_to_larger_rings(self) -> None:
        layers = self.read(self.FILES).layers
        number = {name: n for n, name in enumerate(self.read(self.FILES).symbols.names)}
        pairs = (("app.A", "infra.A", "application→infrastructure"), ("web.A", "app.A", ""), ("app.A", "app.B", ""))
        for one, other, wanted in pairs:
            source, target = number[f"shop.{one}"], number[f"shop.{other}"]
            self.assertEqual((layers.outward(source, target), layers.crossing(source, target)), (wanted, ""))

    def test_one_package_has_no_layers(self) -> None:
        layers = self.read({f"shop/A{n}.java": f"package shop; class A{n} {{ }}" for n in range(9)}).layers
        self.assertEqual((layers.layers, layers.name(0)), ((), ""))

    def test_settings_name_their_own(self) -> None:
        rules = (LayerRule(name="outside", segments=("infra", "web")), LayerRule(name="inside", segments=("app",)))
        codebase = self.read(self.FILES, layers=rules)
        number = {name: n for n, name in enumerate(codebase.symbols.names)}
        self.assertEqual(codebase.layers.crossing(number["shop.app.A"], number["shop.web.A"]), "inside→outside")


class EffectTest(TreeTest):
    """Locked effects of class A in small trees."""

    NET = "class Net { void send() { try { new java.net.Socket(); } catch (Exception e) { } } void idle() { } } "
    CASES = {
        "made and called": (NET + "class A { Net n = new Net(); void go() { n.send(); } }", ("network",)),
        "made, but only a harmless method called": (
            NET + "class Calm { int x; void a() { } } class A { Calm c = new Calm(); void go() { c.a(); } }",
            (),
        ),
        "handed in": (NET + "class A { Net n; A(Net n) { this.n = n; } void go() { n.send(); } }", ()),
        "made in a method": (NET + "class A { void go() { new Net().send(); } }", ("network",)),
        "known under a base": (
            "interface S { void send(); } "
            + NET.replace("Net {", "Net implements S {").replace("void send", "public void send")
            + "class A { S s = new Net(); void go() { s.send(); } }",
            ("network",),
        ),
        "inherited method": (
            NET + "class Sub extends Net { } class A { Sub s = new Sub(); void go() { s.send(); } }",
            ("network",),
        ),
        "by construction": (
            "class Opener { Opener() throws Exception { new java.net.Socket(); } } class A { Object o = new Opener(); }",
            ("network",),
        ),
        "through an own method": (
            NET + "class A { void go() { inner(); } private void inner() { new Net().send(); } }",
            ("network",),
        ),
        "through a static function": (
            NET + "class T { static void t() { new Net().send(); } } class A { void go() { T.t(); } }",
            ("network",),
        ),
        "static function without effect beside one with": (
            NET + "class T { static void t() { new Net().send(); } static void u() { } } class A { void go() { T.u(); } }",
            (),
        ),
        "shared instance": (
            NET + "class T { static final Net ONE = new Net(); } class A { void go() { T.ONE.send(); } }",
            ("network",),
        ),
        "accessor": (
            "class T { static T t; static T get() { return t; } void send() { try { new java.net.Socket(); } catch "
            "(Exception e) { } } }"
            "class A { void go() { T.get().send(); } }",
            ("network",),
        ),
        "run by the host": (
            "class Job implements Runnable { public void run() { try { new java.net.Socket(); } catch (Exception e) { } } }"
            "class A { void go(java.util.concurrent.Executor x) { x.execute(new Job()); } }",
            ("network",),
        ),
        "anonymous class": (
            "class A { Runnable r = new Runnable() { public void run() { System.nanoTime(); } }; }",
            ("clock",),
        ),
        "a clock two classes away": (
            "class C { long now() { return System.nanoTime(); } } class B { C c = new C(); long now() { return c.now(); } }"
            "class A { B b = new B(); long go() { return b.now(); } }",
            (),
        ),
        "a logger that asks the time": (
            "class MyLogger { static void log() { System.nanoTime(); } } class A { void go() { MyLogger.log(); } }",
            (),
        ),
        "a default that can be replaced": (
            NET + "class A { final Net n; A() { this(new Net()); } A(Net n) { this.n = n; } void go() { n.send(); } }",
            (),
        ),
        "the default of another class": (
            NET + "class B { final Net n; B() { this(new Net()); } B(Net n) { this.n = n; } void go() { n.send(); } }"
            "class A { B b = new B(); void go() { b.go(); } }",
            ("network",),
        ),
        "date of today and of a given day": (
            "class A { Object a = new java.util.Date(); Object b = new java.util.Date(3L); }",
            ("clock",),
        ),
        "a connection that somebody opened": (
            'class A { void go(java.sql.Connection c) throws Exception { c.prepareStatement(""); } }',
            (),
        ),
    }

    def test_locked_effects(self) -> None:
        for name, (source, wanted) in self.CASES.items():
            with self.subTest(case=name):
                self.root = self.root.parent / name
                codebase = self.read({"All.java": source})
                numbers = {codebase.symbols.types[n].name: n for n in range(len(codebase.symbols))}
                self.assertEqual(codebase.effects.of_type(numbers["A"]), wanted)
                for effect in wanted:
                    chain = codebase.effects.chain_of_type(numbers["A"], effect)
                    self.assertEqual(chain[0], "A")
                    self.assertGreaterEqual(len(chain), 2)

    def test_what_would_be_left(self) -> None:
        """With the pair (A, Net) cut, only the effect that A has of itself is left."""
        source = self.NET + "class A { Net n = new Net(); void go() { n.send(); System.nanoTime(); } }"
        codebase = self.read({"All.java": source})
        numbers = {codebase.symbols.types[n].name: n for n in range(len(codebase.symbols))}
        self.assertEqual(codebase.effects.of_type(numbers["A"]), ("network", "clock"))
        cut = frozenset([(numbers["A"], numbers["Net"])])
        self.assertEqual(codebase.effects.type_without(numbers["A"], cut), ("clock",))
        self.assertEqual(codebase.effects.type_without(numbers["A"], frozenset()), ("network", "clock"))
