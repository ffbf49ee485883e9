"""Facts of single files: what each construct of the language says, read by the pure reader."""

from __future__ import annotations

import random
import unittest

import msgspec

from isodesm.facts import typetext
from isodesm.facts.reader import read_file
from isodesm.facts.records import FileFacts, FileSites
from isodesm.facts.sharing import Sharing
from isodesm.facts.spans import Spans


def java(source: str) -> tuple[FileFacts, FileSites]:
    return read_file("java", "X.java", source.encode())


def members_of(source: str) -> list[str]:
    """`kind name: type (parameters)` of each member of the first type."""
    facts, _ = java(source)
    return [
        f"{m.kind} {m.name}: {m.type} ({', '.join(f'{p.type} {p.name}' for p in m.parameters)})" for m in facts.types[0].members
    ]


class JavaDeclarationsTest(unittest.TestCase):
    MEMBERS = {
        "class A { int a, b = 2; String[] c; }": ["field a: int ()", "field b: int ()", "field c: String[] ()"],
        "class A { int a, b[], c[][]; }": ["field a: int ()", "field b: int[] ()", "field c: int[][] ()"],
        "class A { A(int x, final String... y) {} }": ["constructor A:  (int x, String y)"],
        "class A { <T extends B> List<T> m(@N T t) { return null; } }": ["method m: List<T> (T t)"],
        "class A { static { } { } }": ["static :  ()", "instance :  ()"],
        "interface A { int X = 1; void m(); default B d() { return null; } }": [
            "field X: int ()",
            "method m: void ()",
            "method d: B ()",
        ],
        "enum A { ONE(1), TWO { void m() {} }; A() {} A(int i) {} }": [
            "constant ONE: A ()",
            "constant TWO: A ()",
            "constructor A:  ()",
            "constructor A:  (int i)",
        ],
        "record A(int x, B<C> y) { }": ["component x: int ()", "component y: B<C> ()", "constructor A:  (int x, B<C> y)"],
        "record A(int x) { A { check(x); } int twice() { return 2 * x; } }": [
            "constructor A:  (int x)",
            "method twice: int ()",
            "component x: int ()",
        ],
        '@interface A { String value() default "x"; }': ["method value: String ()"],
        "sealed class A permits B, C { }": [],
    }

    def test_a_function_that_a_constructor_passes_on_has_parameters_of_its_own(self) -> None:
        facts, _ = read_file("csharp", "A.cs", b"class A { A() : this(1, (x, y) => x) { } A(int n, F f) { g((z) => 1); } }")
        taken = [[each.name for each in member.parameters] for member in facts.types[0].members]
        self.assertEqual(taken, [[], ["n", "f"]])

    def test_members(self) -> None:
        for source, wanted in self.MEMBERS.items():
            with self.subTest(source=source):
                self.assertEqual(members_of(source), wanted)

    def test_heads_of_types(self) -> None:
        facts, _ = java(
            'package p.q;\n@Deprecated @Label("a, b)") public abstract class A<T extends Comparable<T>> extends B.C<int[]>'
            " implements I, J<K, L> { class In { interface Deep { } } Object o = new Base<X>(1) { }; void m() { class "
            "Local { } } }"
        )
        shown = [(t.kind, t.path, t.outer, t.extends, t.implements) for t in facts.types]
        self.assertEqual(
            shown,
            [
                ("class", "A", -1, ("B.C<int[]>",), ("I", "J<K, L>")),
                ("class", "A.In", 0, (), ()),
                ("interface", "A.In.Deep", 1, (), ()),
                ("anonymous", "A", 0, ("Base<X>",), ()),
                ("class", "A.Local", 0, (), ()),
            ],
        )
        self.assertEqual(facts.package, "p.q")
        self.assertEqual(facts.types[0].modifiers.words, ("public", "abstract"))
        self.assertEqual(
            [(a.name, a.arguments) for a in facts.types[0].modifiers.annotations], [("Deprecated", ""), ("Label", '"a, b)"')]
        )
        self.assertGreaterEqual(facts.types[4].outer_member, 0)

    def test_imports(self) -> None:
        facts, _ = java("import a.B; import static a.B.c; import a.*; import static a . B . *; class X { }")
        shown = [(i.name, i.alias, i.static, i.wildcard) for i in facts.imports]
        self.assertEqual(
            shown, [("a.B", "B", False, False), ("a.B.c", "c", True, False), ("a", "", False, True), ("a.B", "", True, True)]
        )

    def test_statements_and_branches(self) -> None:
        cases = {
            "a();": (1, 0),
            "if (x) { a(); } else { b(); }": (2, 1),
            "for (int i = 0; i < 3; i++) { a(); }": (2, 1),
            'String s = "; ; if (x)"; // ; ;': (1, 0),
            "switch (x) { case 1: a(); break; default: b(); }": (3, 2),
            "try { a(); } catch (E e) { }": (1, 1),
            "return a && b || c ? d : e;": (1, 3),
            "char c = ';';": (1, 0),
        }
        for body, wanted in cases.items():
            with self.subTest(body=body):
                member = java(f"class A {{ void m() {{ {body} }} }}")[0].types[0].members[0]
                self.assertEqual((member.statements, member.branches), wanted)


class JavaSitesTest(unittest.TestCase):
    def sites(self, body: str) -> list[tuple[str, str, str]]:
        _, content = java(f"class A {{ void m(int p) {{ {body} }} }}")
        return [(site.kind, site.text, site.name) for site in content.sites]

    def test_kinds(self) -> None:
        cases = {
            "new B(1);": [("creation", "B", "")],
            "new B<>() { };": [("creation", "B<>", "")],
            "p.new In();": [("creation", "In", ".p")],
            "B::new;": None,
            "x = B::new;": [("assignment", "x", ""), ("creation", "B", "new")],
            "x = B[]::new;": [("assignment", "x", "")],
            "x = B::m;": [("assignment", "x", ""), ("reference", "B", "m")],
            "a.b.c();": [("call", "a.b", "c"), ("access", "a.b", "")],
            "super.c();": [("call", "super", "c")],
            "A.super.c();": [("call", "A.super", "c")],
            "B.C++;": [("assignment", "B.C", ""), ("access", "B.C", "")],
            "x = (B) y;": [("assignment", "x", ""), ("cast", "B", "")],
            "x = y instanceof B b;": [("assignment", "x", ""), ("test", "B", "")],
            "x = B.class;": [("assignment", "x", ""), ("literal", "B", "")],
            "throw new E();": [("throw", "", ""), ("creation", "E", "")],
            "this.x.c();": [("call", "this.x", "c")],
            "this.x.y.c();": [("call", "this.x.y", "c"), ("access", "this.x.y", "")],
            'String s = """\n  new B()\n  """;': [],
            "// new B();\n": [],
        }
        for body, wanted in cases.items():
            with self.subTest(body=body):
                if wanted is not None:
                    self.assertEqual(self.sites(body), wanted)

    def test_arguments_that_are_known_only_at_run_time(self) -> None:
        cases = {
            "new B(p);": True,
            'new B(1, "p".length());': False,
            "int q = 3; new B(q + 1);": True,
            "new B(field);": False,
            "new B(this.p);": False,
            "{ int q = 3; } new B(q);": False,
            "new B();": False,
        }
        for body, wanted in cases.items():
            with self.subTest(body=body):
                _, content = java(f"class A {{ int field; void m(int p) {{ {body} }} }}")
                (site,) = [site for site in content.sites if site.kind == "creation"]
                self.assertEqual(site.runtime_arguments, wanted)

    def test_loops_and_contexts(self) -> None:
        _, content = java(
            "class A { B f = new B(); static B s = new B(); static { new B(); } { new B(); } A() { new B(); }\n"
            "void m() { new B(); for (;;) { new B(); } while (a) new B(); new B(); } }"
        )
        shown = [(site.context, site.in_loop) for site in content.sites if site.kind == "creation"]
        self.assertEqual(
            shown,
            [
                ("field-initializer", False),
                ("field-initializer", False),
                ("static-initializer", False),
                ("constructor", False),
                ("constructor", False),
                ("method", False),
                ("method", True),
                ("method", True),
                ("method", False),
            ],
        )


class SharingTest(unittest.TestCase):
    def test_equal_parts_are_one_object_and_the_facts_are_the_same(self) -> None:
        source = "import a.B; public class %s { public static B make(final B one) throws E { return one; } private B held; }"
        sharing = Sharing()
        one, other = (sharing.of(java(source % name)[0]) for name in ("X", "Y"))
        self.assertEqual(one, java(source % "X")[0])
        for part in ("kind", "name", "type", "modifiers", "throws"):
            self.assertIs(getattr(one.types[0].members[0], part), getattr(other.types[0].members[0], part))
        self.assertIs(one.types[0].members[0].parameters[0], other.types[0].members[0].parameters[0])
        self.assertIs(one.types[0].modifiers, other.types[0].modifiers)
        self.assertIs(one.imports[0], other.imports[0])


class ReaderTest(unittest.TestCase):
    def test_facts_travel(self) -> None:
        """What a worker packs is what arrives."""
        for record in java(
            "class A<T> extends B { @X(1) int a = 2; void m(C c) throws D { for (var e : c.f()) { new G(e) { }; } } }"
        ):
            packed = msgspec.msgpack.encode(record)
            self.assertEqual(msgspec.msgpack.decode(packed, type=type(record)), record)

    def test_generated_files_are_known_by_their_header(self) -> None:
        cases = {
            "// Generated by x, do not edit\n": True,
            "/* -- This file was mechanically generated: Do not edit! -- */": True,
            "// <auto-generated/>": True,
            "// Events generated by the user are handled here\n": False,
            "": False,
        }
        for header, wanted in cases.items():
            with self.subTest(header=header):
                self.assertEqual(java(header + "class A { }")[0].generated, wanted)

    def test_trouble_names_the_line_and_the_rest_is_read(self) -> None:
        facts, content = java("class A {\n  void ok() { new B(); }\n  void bad( { }\n}\nclass C { D d = new D(); }")
        self.assertEqual([each.line for each in facts.trouble], [3])
        self.assertEqual([site.text for site in content.sites if site.kind == "creation"], ["B", "D"])


class TypeTextTest(unittest.TestCase):
    def test_taking_types_apart(self) -> None:
        cases = [
            (typetext.head, "java.util.Map.Entry<K, V>[]", "java.util.Map.Entry"),
            (typetext.head, "@N Foo", "Foo"),
            (typetext.head, "Outer<String>.Inner", "Outer.Inner"),
            (typetext.head, "", ""),
            (typetext.names, "Map<String, ? extends Roster[]>", ("Map", "String", "Roster")),
            (typetext.names, "int[]", ("int",)),
            (typetext.arguments, "Map<K, List<V>>", ("K", "List<V>")),
            (typetext.arguments, "K", ()),
            (typetext.split_top, 'a, f(b, c), "d, e", {g, h}', ("a", "f(b, c)", '"d, e"', "{g, h}")),
            (typetext.type_parameters, "<T extends A & B<C, D>, U>", (("T", ("A", "B<C, D>")), ("U", ()))),
        ]
        for function, text, wanted in cases:
            with self.subTest(function=function.__name__, text=text):
                self.assertEqual(function(text), wanted)


class SpansTest(unittest.TestCase):
    def test_what_is_around_a_place(self) -> None:
        """Against a look at each: ranges in each other, side by side, across, empty, and the same twice."""
        chance = random.Random(5)
        for _ in range(400):
            ranges = [(start := chance.randrange(30), start + chance.randrange(12), n) for n in range(chance.randrange(14))]
            spans = Spans(ranges)
            for at in range(-1, 45):
                wanted = [what for start, end, what in ranges if start <= at < end]
                self.assertEqual(spans.around(at), wanted, (ranges, at))
                self.assertEqual(spans.is_any_around(at), bool(wanted))
