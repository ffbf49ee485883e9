"""One program written in five languages yields the same facts; hard constructs of each, in the facts of single files."""

from __future__ import annotations

import unittest

from isodesm.facts import typetext
from isodesm.facts.languages import LANGUAGES, dialect_of, language_by_suffix
from isodesm.facts.reader import read_file
from isodesm.facts.records import FileFacts, FileSites
from tests.support import CASES

SUFFIX = {"java": ".java", "csharp": ".cs", "typescript": ".ts", "php": ".php", "python": ".py"}


def facts_of(language: str, source: str, suffix: str = "") -> tuple[FileFacts, FileSites]:
    return read_file(language, f"x{suffix or SUFFIX[language]}", source.encode())


def plain(name: str) -> str:
    """A name without the customs of its language: case, sign of an interface, words for a constructor."""
    return name.lower().lstrip("$_").removeprefix("i") if name[:2] == "IP" else name.lower().lstrip("$")


class SameProgramTest(unittest.TestCase):
    MEMBERS = {("field", "bell", "Bell"), ("field", "count", ""), ("constructor", "", ""), ("method", "send", "")}
    SITES = [
        ("creation", "Bell"),
        ("creation", "Note"),
        ("static", "Clock.now"),
        ("field", "Relay.count"),
        ("call", "bell.ring"),
        ("call", "other.ring"),
    ]

    def test_same_facts(self) -> None:
        for language in LANGUAGES:
            path = next(
                each for each in (CASES / "same").iterdir() if each.name.removesuffix(".txt").endswith(SUFFIX[language])
            )
            facts, content = read_file(language, path.name.removesuffix(".txt"), path.read_bytes())
            with self.subTest(language=language):
                self.assertEqual(facts.trouble, ())
                types = {plain(each.name): each for each in facts.types if each.kind != "module"}
                self.assertEqual(set(types), {"base", "port", "relay"})
                relay = types["relay"]
                self.assertEqual({plain(typetext.head(each)) for each in (*relay.extends, *relay.implements)}, {"base", "port"})
                self.check_members(relay)
                self.check_sites(facts, content)

    def check_members(self, relay) -> None:
        found = {
            (member.kind, "" if member.kind == "constructor" else plain(member.name), "Bell" if member.type == "Bell" else "")
            for member in relay.members
        }
        self.assertEqual(found, self.MEMBERS)
        (constructor,) = [member for member in relay.members if member.kind == "constructor"]
        self.assertEqual([(each.name, each.type) for each in constructor.parameters], [("bell", "Bell")])
        (send,) = [member for member in relay.members if member.kind == "method"]
        self.assertEqual((send.branches, send.statements), (2, send.statements))
        self.assertIn(send.statements, range(4, 7))

    def check_sites(self, facts: FileFacts, content: FileSites) -> None:
        names = []
        for site in content.sites:
            if (site.text or site.name) in ("range", "super"):
                continue
            text = site.text.replace("$this.", "").replace("this.", "").replace("self.", "").lstrip("$")
            if site.kind == "creation" or (site.kind == "call" and facts.language == "python" and not text):
                names.append(("creation", site.text or site.name))
                self.assertEqual(site.in_loop, (site.text or site.name) == "Note")
            elif site.kind == "call":
                called = f"{text}.{site.name}".lower()
                names.append(("static" if called == "clock.now" else "call", called if called != "clock.now" else "Clock.now"))
            elif site.kind == "access" and text.lower().startswith("relay."):
                names.append(("field", "Relay.count"))
        self.assertEqual(sorted(set(names)), sorted(self.SITES))

    def test_every_language_has_a_sample_here_and_suffixes_of_its_own(self) -> None:
        suffixes = [suffix for language in LANGUAGES for suffix in dialect_of(language).suffixes]
        self.assertEqual(len(suffixes), len(set(suffixes)))
        self.assertEqual(set(SUFFIX), set(LANGUAGES))
        self.assertEqual(language_by_suffix()[".mjs"], "typescript")


class MembersTest(unittest.TestCase):
    """`kind name: type` of the members of the last declared type, by language and source."""

    CASES = (
        (
            "csharp",
            "class A { public string N { get; set; } int M => 1; B P { get { return null; } } }",
            "field N: string, property M: int, property P: B",
        ),
        ("csharp", "class A(B b, int n = 3) { }", "component b: B, component n: int, constructor A: "),
        ("csharp", "record struct A(int X);", "component X: int, constructor A: "),
        (
            "csharp",
            "class A { event E Rung; int this[int i] { get { return i; } } public static A operator +(A a, A b) => a; "
            "~A() { } }",
            "field Rung: E, property this: int, method op_Addition: A, method ~A: ",
        ),
        (
            "csharp",
            "class A { const int K = 1; static A() { } A() : this(1) { } A(int i) { } void F<T>() where T : B { } }",
            "field K: int, static A: , constructor A: , constructor A: , method F: void",
        ),
        (
            "typescript",
            "class A { #p = 1; constructor(private readonly b: B, c?: C) { } get v(): V { return this.b; } h = (e: E): "
            "F => e; }",
            "field #p: , constructor constructor: , field b: B, property v: V, method h: F",
        ),
        (
            "typescript",
            "class A { constructor(b) { this.b = b; this.c = new C(); } }",
            "constructor constructor: , field b: , field c: ",
        ),
        (
            "typescript",
            "abstract class A { abstract m(): B; static { } declare d: D; async *g() { } }",
            "method m: B, static : , field d: D, method g: ",
        ),
        (
            "php",
            "<?php class A { const K = 1, L = 2; public ?B $b, $c; function __construct(private B|C $d, public readonly "
            "int $e = 3) {} }",
            "field K: , field L: , field b: ?B, field c: ?B, constructor __construct: , field d: B|C, field e: int",
        ),
        (
            "php",
            "<?php enum A: string { case X = 'x'; const Y = self::X; function f(): static {} }",
            "constant X: A, field Y: , method f: static",
        ),
        ("python", "@dataclass\nclass A:\n    x: int\n    y: 'B' = None\n    z = 1\n", "field x: int, field y: 'B', field z: "),
        (
            "python",
            "class A:\n    @property\n    def p(self) -> B: ...\n    @staticmethod\n    def s(x): ...\n    def "
            "__init__(self, b: B = None):\n"
            "        self.b = b or C()\n        self.d: D = b\n",
            "property p: B, method s: , constructor __init__: , field b: B, field d: D",
        ),
    )

    def test_members(self) -> None:
        for language, source, wanted in self.CASES:
            with self.subTest(language=language, source=source):
                facts, _ = facts_of(language, source)
                self.assertEqual(", ".join(f"{m.kind} {m.name}: {m.type}" for m in facts.types[-1].members), wanted)
                self.assertEqual(facts.trouble, ())

    MODIFIERS = (
        ("csharp", '[Table("a,b"), Old] public sealed partial class A { }', ("public", "sealed", "partial"), ("Table", "Old")),
        ("typescript", "@Panel({ tag: 'x' })\nexport abstract class A { }", ("abstract", "class"), ("Panel",)),
        ("typescript", "@Panel() export default class A { }", ("class", "default"), ("Panel",)),
        ("php", "<?php #[Attr(1)] #[Other] final class A { }", ("final",), ("Attr", "Other")),
        ("python", "@outer.mark(1)\n@plain\nclass A: ...\n", (), ("outer.mark", "plain")),
    )

    def test_modifiers(self) -> None:
        for language, source, words, marks in self.MODIFIERS:
            with self.subTest(language=language, source=source):
                (declared,) = [each for each in facts_of(language, source)[0].types if each.name == "A"]
                self.assertEqual(declared.modifiers.words, words)
                self.assertEqual(tuple(each.name for each in declared.modifiers.annotations), marks)

    IMPORTS = (
        ("python", "from ..a import (b as c,  # why\n  d)", ["..a b c", "..a d d"]),
        ("python", "import a.b, c.d as e", ["a  a", "c.d  e"]),
        ("python", "from a import *", ["a  * "]),
        ("typescript", "import x, { a as b, type C } from './m';", ["./m default x", "./m a b", "./m C C"]),
        ("typescript", "export { a as b } from 'm'; export * from 'n'; export * as o from 'p';", ["m a b>", "n  * >", "p  o>"]),
        ("typescript", "const { a: b, c } = require('m'); module.exports = { b };", ["m a b", "m c c", " b b>"]),
        ("php", "<?php use A\\{B, C\\D as E}; use function F\\g;", ["A\\B  B", "A\\C\\D  E", "F\\g  g"]),
        (
            "csharp",
            "using A.B; using static C.D; using E = F.G<int>; global using H;",
            ["A.B  * ", "C.D  * ", "F.G  E", "H  * "],
        ),
    )

    def test_imports(self) -> None:
        """`name member alias`, a star for all, a mark behind what is handed on."""
        for language, source, wanted in self.IMPORTS:
            with self.subTest(source=source):
                found = facts_of(language, source)[0].imports
                shown = [f"{i.name} {i.member} {'* ' if i.wildcard else i.alias}{'>' if i.exported else ''}" for i in found]
                self.assertEqual(shown, wanted)


class TypeTextTest(unittest.TestCase):
    CASES = {
        "Optional['Roster'] | None": ("Roster", ("Roster",)),
        "?\\App\\Roster": ("\\App\\Roster", ("\\App\\Roster",)),
        "null|Roster": ("Roster", ("Roster",)),
        "() => Roster": ("", ("Roster",)),
        "typeof Roster": ("", ("Roster",)),
        'Dict[str, "Roster"]': ("Dict", ("Dict", "str", "Roster")),
        "'a' | 'b'": ("", ()),
        "{ a: Roster; b: Bell }": ("", ("Roster", "Bell")),
        "Roster?": ("Roster", ("Roster",)),
        "global::A.B<C>": ("A.B", ("A.B", "C")),
        "readonly Roster[]": ("Roster", ("Roster",)),
        "x is Roster": ("Roster", ("Roster",)),
        "(string, Roster)": ("", ("string", "Roster")),
        "Nullable<Roster>": ("Roster", ("Nullable", "Roster")),
    }

    def test_heads_and_names(self) -> None:
        for text, (head, names) in self.CASES.items():
            with self.subTest(text=text):
                self.assertEqual((typetext.head(text), typetext.names(text)), (head, names))
