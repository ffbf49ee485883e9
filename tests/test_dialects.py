"""The functions of each dialect, as tables of text and what it means."""

from __future__ import annotations

import unittest

from isodesm.facts.languages import LANGUAGES, dialect_of, query_text, reader_version
from isodesm.facts.languages.csharp.conditional import readings
from isodesm.facts.records import Modifiers


class ChainTest(unittest.TestCase):
    CASES = {
        "java": {"a.b.C": "a.b.C", "this.x": "this.x", "a().b": "", "a[0]": "", "a .\n b": "a .\n b", "1.5": "", "": ""},
        "csharp": {
            "global::A.B": "global.A.B",
            "ex::A": "ex.A",
            "Box<int>.Item": "Box.Item",
            "Box<A<B>>.Deep<C>": "Box.Deep",
            "a?.B": "a.B",
            "a!.B": "a.B",
            "@class.x": "class.x",
            "a()": "",
            "a[1].b": "",
            "base": "base",
            "a . b": "a.b",
        },
        "typescript": {
            "this.a!.b?.c": "this.a.b.c",
            "this.#hard": "this.#hard",
            "$scope.x": "$scope.x",
            "a\n  .b": "a.b",
            "a()": "",
            "`x`": "",
            "a!": "a",
            "(a)": "",
        },
        "php": {
            "$this->a->b": "$this.a.b",
            "$a?->b": "$a.b",
            "self::$one": "self.one",
            "\\A\\B::C": "\\A\\B.C",
            "A\\B": "A\\B",
            "$a": "$a",
            "$a->b()": "",
            "A::class": "",
            "$a[0]": "",
            "namespace\\A": "namespace\\A",
        },
        "python": {"self.a.b": "self.a.b", "a": "a", "a().b": "", "a[0].b": "", "'x'": "", "a if b else c": ""},
    }

    def test_chains(self) -> None:
        for language, cases in self.CASES.items():
            for text, wanted in cases.items():
                with self.subTest(language=language, text=text):
                    self.assertEqual(dialect_of(language).read_chain(text), wanted)
        self.assertEqual(set(self.CASES), set(LANGUAGES))


class BasesTest(unittest.TestCase):
    CASES = (
        ("java", "A<B, C>, D", "class", (("A<B, C>", "D"), ())),
        ("csharp", ": Base<T>, IFoo, N.IBar", "class", (("Base<T>",), ("IFoo", "N.IBar"))),
        ("csharp", ": IFoo, IBar", "class", ((), ("IFoo", "IBar"))),
        ("csharp", ": Base(x, y), IFoo", "record", (("Base",), ("IFoo",))),
        ("csharp", ": IFoo", "interface", (("IFoo",), ())),
        ("csharp", ": Ice", "class", (("Ice",), ())),
        ("csharp", ": Foo", "struct", ((), ("Foo",))),
        ("csharp", "", "class", ((), ())),
        ("typescript", "extends Base<T>", "class", (("Base<T>",), ())),
        ("typescript", "implements I, J<K>", "class", (("I", "J<K>"), ())),
        ("php", "extends A", "class", (("A",), ())),
        ("php", "implements A, \\B\\C /* no */", "class", (("A", "\\B\\C"), ())),
        ("php", "use A, B { A::x insteadof B; }", "uses", (("A", "B"), ())),
        ("python", "(A, b.C, metaclass=M, *more)", "class", (("A", "b.C"), ())),
        ("python", "(\n    A,  # why\n    Generic[T],\n)", "class", (("A", "Generic[T]"), ())),
        ("python", "()", "class", ((), ())),
        ("python", "", "class", ((), ())),
    )

    def test_bases(self) -> None:
        for language, text, kind, wanted in self.CASES:
            with self.subTest(language=language, text=text):
                self.assertEqual(dialect_of(language).read_bases(text, kind), wanted)


class ModifiersTest(unittest.TestCase):
    CASES = (
        ("java", '@A(x = ")") public @b.C final', ("public", "final"), (("A", 'x = ")"'), ("b.C", ""))),
        (
            "csharp",
            '[A("]"), B] [return: C(1)] public static readonly int',
            ("public", "static", "readonly"),
            (("A", '"]"'), ("B", ""), ("C", "1")),
        ),
        ("csharp", "async Task<int>", ("async",), ()),
        ("csharp", "", (), ()),
        ("typescript", "@A({ b: [c] }) private readonly ", ("private", "readonly"), (("A", "{ b: [c] }"),)),
        ("php", "#[A(1), B] #[C] public static ?Foo ", ("public", "static"), (("A", "1"), ("B", ""), ("C", ""))),
        ("php", "/** doc public */ # final\n private ", ("private",), ()),
    )

    def test_modifiers(self) -> None:
        for language, text, words, marks in self.CASES:
            with self.subTest(language=language, text=text):
                found = dialect_of(language).read_modifiers(text)
                self.assertEqual(found.words, words)
                self.assertEqual(tuple((each.name, each.arguments) for each in found.annotations), marks)

    REFINED = (
        ("java", "method", "run", "class", "method", ()),
        ("csharp", "constructor", "A", "class", "constructor", ()),
        ("typescript", "method", "constructor", "class", "constructor", ()),
        ("typescript", "method", "go", "module", "method", ("static",)),
        ("php", "method", "__construct", "class", "constructor", ()),
        ("php", "method", "__CONSTRUCT", "trait", "constructor", ()),
        ("php", "constfield", "K", "class", "field", ("static", "final")),
        ("python", "method", "__init__", "class", "constructor", ()),
        ("python", "method", "__init__", "module", "method", ("static",)),
        ("python", "method", "_hidden", "class", "method", ("private",)),
        ("python", "field", "x", "class", "field", ()),
    )

    def test_kinds_of_members(self) -> None:
        for language, kind, name, owner, wanted, words in self.REFINED:
            with self.subTest(language=language, name=name, owner=owner):
                found, modifiers = dialect_of(language).refine_member(kind, name, Modifiers(), owner)
                self.assertEqual((found, modifiers.words), (wanted, words))

    def test_names_of_operators(self) -> None:
        names = dialect_of("csharp").name_member
        for (kind, name), wanted in {
            ("operator", "+"): ("method", "op_Addition"),
            ("operator", "true"): ("method", "op_True"),
            ("destructor", "A"): ("method", "~A"),
            ("indexer", ""): ("property", "this"),
            ("conversion", "int"): ("method", "op_Implicit"),
            ("method", "Go"): ("method", "Go"),
        }.items():
            self.assertEqual(names(kind, name), wanted)


class StatementsTest(unittest.TestCase):
    CASES = (
        ("java", b'{ a(); for (int i = 0; i < 3; i++) { b(";"); } /* c; */ return; // d;\n }', 3),
        ("java", b"{ }", 0),
        ("csharp", b"{ var a = 1; using (b) { c(); } }", 2),
        ("php", b"{ $a = 1; for ($i = 0; $i < 3; $i++) { echo ';'; } }", 2),
        ("typescript", b"{\n  const a = 1\n  if (a) {\n    go()\n  }\n  return a\n}", 3),
        ("typescript", b"{ }", 0),
        ("python", b'"""Doc.\nmore."""\nx = 1\nif x:\n    go()\n    # no\nelse:\n    pass\nreturn x\n', 3),
        ("python", b"pass", 0),
    )

    def test_counts(self) -> None:
        for language, body, wanted in self.CASES:
            with self.subTest(language=language, body=body):
                self.assertEqual(dialect_of(language).count_statements(body), wanted)


class ConditionalTest(unittest.TestCase):
    SOURCE = b"a\n#if OLD\nb\n#elif NEW || !OLD\nc\n#else\nd\n#endif\ne\n"
    CASES = (
        (SOURCE, b"a\nc\ne", b"a\nb\ne"),
        (b"#define X\n#if X\na\n#else\nb\n#endif", b"a", b"a"),
        (b"#if A && (B || !C)\na\n#else\n#if true\nb\n#endif\nc\n#endif", b"b\nc", b"a"),
        (b"#if !A // remark\na\n#endif", b"a", b"a"),
        (b"#region x\na\n#if\nb\n#endif", b"#region x\na\nb", b"#region x\na\nb"),
        (b"#if A\na\n#endif\n#endif\n#else\nb", b"b", b"a\nb"),
    )

    def test_branches(self) -> None:
        for source, compiled, first in self.CASES:
            with self.subTest(source=source):
                for text, wanted in zip(readings(source), (compiled, first), strict=True):
                    self.assertEqual(b"\n".join(line for line in text.split(b"\n") if line.strip()), wanted)
                    self.assertEqual((len(text), text.count(b"\n")), (len(source), source.count(b"\n")))

    def test_files_without_sections_have_one_reading(self) -> None:
        self.assertEqual(list(readings(b'class A { string s = "#"; }\n#region x\n')), [])


class QueriesTest(unittest.TestCase):
    def test_captures_are_of_one_vocabulary(self) -> None:
        """Each head is one that the assembler has a reader for, each part one that some reader asks for."""
        import re

        from isodesm.facts.assembler import FAMILIES

        parts = frozenset(
            "name of modifiers generics extends implements body parameters value whole scope iterated receiver "
            "arguments callee written throws "
            "decorator definition default accessors dimensions".split()
        )
        for language in LANGUAGES:
            text = re.sub(r'"(?:\\.|[^"\\])*"|;[^\n]*', "", query_text(language))
            for capture in sorted(set(re.findall(r"@([\w.]+)", text))):
                with self.subTest(language=language, capture=capture):
                    family, dot, _ = capture.partition(".")
                    self.assertTrue(capture in parts if not dot else family in (*FAMILIES, "trouble"))

    def test_version_is_of_the_code(self) -> None:
        self.assertEqual(len(reader_version()), 8)
        self.assertEqual(reader_version(), reader_version())
