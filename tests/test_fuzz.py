"""Spoilt source: whatever is done to a file, reading ends soon, raises nothing, and keeps what was not touched."""

from __future__ import annotations

import random
import time
import unittest
from collections.abc import Callable, Iterator

from isodesm.facts.languages import language_by_suffix
from isodesm.facts.reader import read_file
from tests.support import DEMO, TreeTest, part_of

SECONDS = 20.0
"""Far more than any of these files should take, far less than a run that hangs."""


def truncate(source: bytes, chance: random.Random) -> bytes:
    return source[: chance.randrange(len(source))]


def splice(source: bytes, chance: random.Random) -> bytes:
    start, end = sorted(chance.randrange(len(source)) for _ in range(2))
    at = chance.randrange(len(source))
    return source[:at] + source[start:end] + source[at:]


def flip(source: bytes, chance: random.Random) -> bytes:
    spoilt = bytearray(source)
    for _ in range(12):
        spoilt[chance.randrange(len(spoilt))] = chance.randrange(256)
    return bytes(spoilt)


def drop_brackets(source: bytes, chance: random.Random) -> bytes:
    return bytes(byte for byte in source if byte not in b"(){}[]" or chance.random() > 0.1)


WHOLE: dict[str, Callable[[bytes], bytes]] = {
    "CR only": lambda source: source.replace(b"\n", b"\r"),
    "CR LF": lambda source: source.replace(b"\n", b"\r\n"),
    "a mark": lambda source: b"\xef\xbb\xbf" + source,
    "UTF-16": lambda source: b"\xff\xfe" + source.decode().encode("utf-16-le"),
}
"""Changes that change nothing that is said."""
HEAVY: dict[str, bytes] = {
    "brackets": b"(" * 100_000,
    "brackets in lines": b"(\n" * 100_000,
    "braces": b"{" * 50_000 + b"}" * 50_000,
    "one line": b"x = f(1); " * 120_000,
    "NUL": b"\0" * 5_000,
    "quotes": b'"' * 30_001,
    "angle": b"<A" * 20_000,
    "chain": b"a" + b".b()" * 20_000,
    "empty": b"",
    "blank": b" \n" * 100_000,
    "bytes": bytes(range(256)) * 200,
}


def samples() -> Iterator[tuple[str, str, bytes]]:
    languages = language_by_suffix()
    for path in sorted(DEMO.rglob("*")):
        if path.suffix in languages and path.stat().st_size:
            yield languages[path.suffix], path.name, path.read_bytes()


class FuzzTest(TreeTest):
    def test_mutations(self) -> None:
        chance = random.Random(20)
        for language, name, source in samples():
            for mutate in (truncate, splice, flip, drop_brackets):
                spoilt = mutate(source, chance)
                with self.subTest(name=name, mutation=mutate.__name__):
                    begin = time.perf_counter()
                    read_file(language, name, spoilt)
                    self.assertLess(time.perf_counter() - begin, SECONDS)

    def test_changes_of_form_change_no_fact(self) -> None:
        for language, name, source in samples():
            facts, sites = read_file(language, name, source)
            wanted = (
                [(t.kind, t.path, [m.name for m in t.members]) for t in facts.types],
                [(s.kind, s.text, s.name) for s in sites.sites],
            )
            for change, apply in WHOLE.items():
                with self.subTest(name=name, change=change):
                    facts, sites = read_file(language, name, apply(source))
                    found = (
                        [(t.kind, t.path, [m.name for m in t.members]) for t in facts.types],
                        [(s.kind, s.text, s.name) for s in sites.sites],
                    )
                    self.assertEqual(found, wanted)
                    self.assertEqual(facts.trouble, ())

    @part_of("fuzz")
    def test_heavy_content(self) -> None:
        """Each is read, or left out and named, within the time that a file may take; the file beside it is read."""
        files = {f"{what}{suffix}": content for what, content in HEAVY.items() for suffix in self.suffixes().values()}
        begin = time.perf_counter()
        codebase = self.read({**files, "whole/A.java": b"class A { Object o = new A(); }"}, seconds_per_file=0.5)
        self.assertLess(time.perf_counter() - begin, SECONDS * 5)
        read, named = {facts.path for facts in codebase.symbols.files}, {each.path for each in codebase.trouble}
        self.assertEqual(set(files) - read - named, set())
        self.assertIn("A", {declared.name for declared in codebase.symbols.types})
        self.assertIn("takes longer", " ".join(each.reason for each in codebase.trouble))

    def suffixes(self) -> dict[str, str]:
        """Language to its first suffix."""
        return {language: suffix for suffix, language in sorted(language_by_suffix().items(), reverse=True)}

    def test_what_was_not_touched_is_kept(self) -> None:
        """A class in front of, and one behind, a place that does not parse."""
        wholes = {
            "java": "class A { B b = new B(); }\n%s\nclass C { B b = new B(); }",
            "csharp": "class A { B b = new B(); }\n%s\nclass C { B b = new B(); }",
            "typescript": "class A { b = new B(); }\n%s\nclass C { b = new B(); }",
            "php": "<?php class A { function f() { new B(); } }\n%s\nclass C { function f() { new B(); } }",
            "python": "class A:\n    b = B()\n%s\nclass C:\n    b = B()\n",
        }
        for language, whole in wholes.items():
            for spoilt in ("class D { void f( }", "@@ ((", "= ;"):
                with self.subTest(language=language, spoilt=spoilt):
                    facts, sites = read_file(language, f"x{self.suffixes()[language]}", (whole % spoilt).encode())
                    self.assertLessEqual({"A", "C"}, {each.name for each in facts.types})
                    self.assertEqual(sum(1 for each in sites.sites if "B" in (each.text, each.name)), 2)
                    self.assertTrue(facts.trouble)


if __name__ == "__main__":
    unittest.main()
