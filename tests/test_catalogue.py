"""The catalogue is well-formed, and each of its entries is recognised in source that is made from it."""

from __future__ import annotations

import fnmatch
import shutil
import subprocess
import sys
import unittest
from collections import defaultdict
from collections.abc import Iterator

from isodesm.catalogue import Catalogues, catalogue_of, shared_catalogue
from isodesm.facts.languages import LANGUAGES, dialect_of
from isodesm.inference.effect_kinds import EFFECTS
from isodesm.linking.symbols import simple_name
from tests.support import TreeTest

CATALOGUES = Catalogues()
ROLES = frozenset(
    "entity value exception service gateway repository factory presentation composition-root utility test".split()
)
LIFETIMES = frozenset(("singleton", "scoped", "transient"))
LEAST_ENTRIES = {"java": 60, "csharp": 60, "typescript": 80, "php": 80, "python": 120}
"""Members with an effect that a language's catalogue names at the least."""

Use = tuple[str, str, str, str]
"""Effect, type or module, member, and source that uses it."""


def entries(language: str) -> Iterator[tuple[str, str, str]]:
    for effect, types in catalogue_of(language).effects.items():
        for name, members in types.items():
            for member in members:
                yield effect, name, member


class WellFormedTest(unittest.TestCase):
    def test_effects_are_known_and_listed_once(self) -> None:
        for language in LANGUAGES:
            places = defaultdict(set)
            for effect, name, member in entries(language):
                with self.subTest(language=language, name=name, member=member):
                    self.assertIn(effect, EFFECTS)
                    self.assertRegex(member, r"^(\*|[A-Za-z_$][\w$]*(/[01])?)$")
                    self.assertEqual(name, name.strip())
                    places[name, member].add(effect)
            self.assertEqual({use: found for use, found in places.items() if len(found) > 1}, {}, language)
            self.assertGreaterEqual(len(places), LEAST_ENTRIES[language], language)

    def test_roles_and_rules_name_what_there_is(self) -> None:
        for language in LANGUAGES:
            catalogue = catalogue_of(language)
            for table in (catalogue.roles.annotations, catalogue.roles.bases, catalogue.roles.imports):
                self.assertLessEqual(set(table), ROLES, language)
                for role, names in table.items():
                    with self.subTest(language=language, role=role):
                        self.assertEqual(len(names), len(set(names)))
            for family, rules in catalogue.containers.items():
                with self.subTest(language=language, family=family):
                    tables = (rules.calls, rules.lifetimes, rules.annotations, rules.methods, rules.scans, rules.attributes)
                    self.assertLessEqual({each for table in tables for each in table.values()}, LIFETIMES)
                    self.assertIn(rules.registers, ("", "marked", "concrete", "listed"))
                    self.assertIn(rules.fails, ("start-up", "first request", "first use"))
                    self.assertTrue(rules.always or rules.imports)

    def test_names_are_spelt_as_the_language_spells_them(self) -> None:
        for language in LANGUAGES:
            for _, name, _ in entries(language):
                with self.subTest(language=language, name=name):
                    self.assertNotIn("\\" if language != "php" else ".", name)
                    self.assertTrue("#" not in name or language == "typescript")

    def test_values_and_views_do_not_overlap_with_effects_of_creation(self) -> None:
        """What is listed by its full name as a plain value must not have an effect when it is merely made."""
        for language in LANGUAGES:
            created = {name for _, name, member in entries(language) if member == "new"}
            listed = {name for name in catalogue_of(language).values.types.split() if not name.endswith("*")}
            self.assertEqual(created & listed, set(), language)

    def test_whole_packages(self) -> None:
        cases = {
            ("java.util.regex.Pattern", "java"): True,
            ("java.net.Socket", "java"): False,
            ("System.Text.StringBuilder", "csharp"): True,
            ("collections.deque", "python"): True,
            ("collections", "python"): False,
        }
        for language in LANGUAGES:  # and whatever else each catalogue takes as a whole
            cases |= {
                (f"{name[:-1]}Any", language): True
                for name in catalogue_of(language).values.types.split()
                if name.endswith("*")
            }
        for (name, language), wanted in cases.items():
            with self.subTest(name=name):
                self.assertIs(CATALOGUES.is_value(name, language), wanted)
        self.assertTrue(CATALOGUES.is_view_part("javax.swing.JPanel", "java"))
        self.assertFalse(CATALOGUES.is_view_part("javax.swing.deep.JPanel", "java"))

    def test_shared_names(self) -> None:
        shared = shared_catalogue()
        rings = [layer.ring for layer in shared.layers if layer.ring >= 0]
        self.assertEqual(rings, sorted(rings, reverse=True))
        segments = [segment for layer in shared.layers for segment in layer.segments.split()]
        self.assertEqual(len(segments), len(set(segments)))
        self.assertLessEqual(set(shared.suffixes), ROLES)

    def test_what_needs_no_import(self) -> None:
        self.assertIn("open", CATALOGUES.built_in_functions("python"))
        self.assertIn("fetch", CATALOGUES.built_in_functions("typescript"))
        self.assertIn("file_get_contents", CATALOGUES.built_in_functions("php"))
        self.assertIn("java.lang.String", CATALOGUES.known_types("java"))
        for language in LANGUAGES:
            package = catalogue_of(language).implicit.package
            self.assertEqual(bool(package), dialect_of(language).has_module or language == "java", language)


def spelt(member: str, some: str) -> tuple[str, str]:
    """How code names a member, or `some` one where all of them are meant, and the arguments that it is given."""
    called, _, most = member.partition("/")
    return some if called == "*" else called, "" if most == "0" else "1"


class EntriesTest(TreeTest):
    """Each effect of each language, used as code would use it, is seen on the class that does."""

    def sources(self, language: str) -> dict[str, Use]:
        made = {}
        for number, (effect, name, member) in enumerate(entries(language)):
            source = getattr(self, f"use_{language}")(f"U{number}", name, member)
            made[f"U{number}"] = (effect, name, member, source)
        return made

    def use_java(self, own: str, name: str, member: str) -> str:
        short = simple_name(name)
        called, given = spelt(member, "any")
        call = f"new {short}({given})" if called == "new" else f"{short}.{called}({given})"
        field = f"{short}.{member}.flush()" if member in ("out", "err", "in") else call
        return f"package u; import {name}; class {own} {{ void run() {{ {field}; }} }}"

    def use_csharp(self, own: str, name: str, member: str) -> str:
        space, _, short = name.rpartition(".")
        called, given = spelt(member, "Any")
        call = f"new {short}({given})" if called == "new" else f"{short}.{called}{'(1)' if member == '*' else ''}"
        use = call if call.endswith(")") else f"var x = {call}; {call}(1)"
        return f"using {space}; namespace U {{ class {own} {{ void Run() {{ {use}; }} }} }}"

    def use_typescript(self, own: str, name: str, member: str) -> str:
        module, _, taken = name.partition("#")
        built_in = catalogue_of("typescript").implicit.package
        head, local = "", taken or "lib"
        if taken == "default":
            head, local = f"import lib from '{module}';", "lib"
        elif taken:
            head = f"import {{ {taken} }} from '{module}';"
        elif name.partition(".")[0] in KNOWN_GLOBALS or name == built_in:
            local = name
        elif name == "fs.promises":
            head, local = "import * as fs from 'fs';", name
        else:
            head = f"import * as lib from '{name}';"
        called, given = spelt(member, "any")
        call = f"new {local}({given})" if called == "new" else f"{local}.{called}({given})"
        call = f"{called}({given})" if name == built_in else call
        first = call.partition("(")[0] if not call.startswith("new") else 1
        return f"{head} class {own} {{ run() {{ const x = {first}; {call}; }} }}"

    def use_php(self, own: str, name: str, member: str) -> str:
        called, given = spelt(member, "any")
        if name == catalogue_of("php").implicit.package:
            return f"<?php namespace U; class {own} {{ function run() {{ {called}({given}); }} }}"
        short = simple_name(name)
        call = f"new {short}({given})" if called == "new" else f"{short}::{called}({given})"
        return f"<?php namespace U; use {name}; class {own} {{ function run() {{ {call}; }} }}"

    def use_python(self, own: str, name: str, member: str) -> str:
        module, _, short = name.rpartition(".")
        if name == "builtins":
            head, call = "", f"{member}(1)"
        elif member in ("new", "new/0"):
            head, call = f"from {module} import {short}", f"{short}({spelt(member, '')[1]})"
        else:
            called, given = spelt(member, "any")
            head = (
                f"from {module} import {short}"
                if short[:1].isupper() or name in ("datetime.datetime", "datetime.date")
                else f"import {name}"
            )
            call = f"{short if head.startswith('from') else name}.{called}({given})"
        return f"{head}\nclass {own}:\n    def run(self):\n        x = {call.partition('(')[0]}\n        {call}\n"

    def test_every_entry_is_seen(self) -> None:
        suffix = {"java": ".java", "csharp": ".cs", "typescript": ".ts", "php": ".php", "python": ".py"}
        for language in LANGUAGES:
            self.root = self.root.parent / language
            uses = self.sources(language)
            folder = "u/" if language == "java" else ""
            codebase = self.read({f"{folder}{own}{suffix[language]}": source for own, (*_, source) in uses.items()})
            seen = {
                codebase.symbols.types[number].name: {use.effect for use in found}
                for number, found in codebase.effects.used.items()
            }
            for own, (effect, name, member, source) in uses.items():
                with self.subTest(language=language, name=name, member=member, source=source):
                    self.assertIn(effect, seen.get(own, set()))


class GivenTest(TreeTest):
    """What is passed decides what some members do: each rule of each language, used with a text that it matches."""

    SAMPLES = {
        "php": ("'https://a.b/c'", "'php://input'", "'php://stdout'", "'php://memory'", "$all, true"),
        "java": ("picture, kind, stream", "Desk.class.getResource(name)", "stream"),
        "csharp": ("new MemoryStream()",),
        "python": ("io.BytesIO(content)",),
        "typescript": ('"data:,a"',),
    }
    SHAPES = {
        "php": ("a.php", "<?php class Desk {{ function run() {{ {call}; }} }}"),
        "java": ("Desk.java", "class Desk {{ void run() {{ {call}; }} }}"),
        "csharp": ("Desk.cs", "class Desk {{ void Run() {{ {call}; }} }}"),
        "python": ("desk.py", "{head}\nclass Desk:\n    def run(self):\n        {call}\n"),
        "typescript": ("desk.ts", "class Desk {{ run() {{ {call}; }} }}"),
    }

    def test_every_rule_decides(self) -> None:
        for language, samples in self.SAMPLES.items():
            package = catalogue_of(language).implicit.package
            for rule, sample in zip(catalogue_of(language).given, samples, strict=True):
                member = rule.members.split()[0]
                owner, _, called = member.rpartition(".")
                head = f"import {owner.partition('.')[0]}"
                named = called if owner == package else owner if called == "new" else member
                new = "new " if called == "new" and language != "python" else ""
                name, shape = self.SHAPES[language]
                self.root = self.root.parent / f"{language}-{called}-{len(sample)}"
                for arguments, wanted in ((sample, rule.effect), ("'a'" if language != "java" else "new File(a)", None)):
                    codebase = self.read({name: shape.format(call=f"{new}{named}({arguments})", head=head)})
                    found = {use.effect for uses in codebase.effects.used.values() for use in uses}
                    with self.subTest(language=language, member=member, arguments=arguments):
                        if wanted is None:
                            self.assertTrue(found)
                        else:
                            self.assertEqual(found, {wanted} - {""})


class PlatformTest(unittest.TestCase):
    """Each module, package or function of a platform has an effect by the catalogue, or a reason why it has none."""

    LISTING = {
        "typescript": ("node", "-e", "console.log(require('module').builtinModules.join(' '))"),
        "php": ("php", "-r", "foreach (get_loaded_extensions() as $e) echo implode(' ', get_extension_funcs($e) ?: []), ' ';"),
        "java": ("jshell", "-s", "-"),
    }
    JAVA = (
        'try (var all = java.nio.file.Files.list(java.nio.file.FileSystems.getFileSystem(java.net.URI.create("jrt:/"))'
        '.getPath("/packages"))) { all.forEach(each -> System.out.print(each.getFileName() + " ")); }\n/exit\n'
    )

    def parts(self, language: str) -> set[str]:
        """What a platform consists of, as it says itself."""
        if language == "python":
            return {name for name in sys.stdlib_module_names if not name.startswith("_")}
        command = self.LISTING[language]
        if shutil.which(command[0]) is None:
            self.skipTest(f"{command[0]} is not installed")
        told = subprocess.run(command, input=self.JAVA, capture_output=True, text=True, check=True).stdout.split()
        standard = tuple(f"{each}." for each in ("java", "javax", "org.ietf", "org.jcp", "org.w3c", "org.xml"))
        return {each for each in told if each.startswith(standard) or (language != "java" and not each.startswith("_"))}

    def named(self, language: str) -> set[str]:
        """What has an effect: modules by their name, types by their package, functions by themselves."""
        catalogue = catalogue_of(language)
        names = {name for types in catalogue.effects.values() for name in types}
        names |= {each.rpartition(".")[0] for calls in catalogue.effect_calls.values() for each in calls}
        if language == "php":
            return {each.partition("/")[0] for types in catalogue.effects.values() for each in types.get("functions", ())}
        if language == "typescript":
            return {each.removeprefix("node:").partition("#")[0] for each in names}
        return {each.partition(".")[0] if language == "python" else each.rpartition(".")[0] for each in names}

    def test_nothing_is_left_out(self) -> None:
        for language in ("python", *self.LISTING):
            with self.subTest(language=language):
                quiet = [pattern for names in catalogue_of(language).quiet.values() for pattern in names.split()]
                missing = {
                    each
                    for each in self.parts(language) - self.named(language)
                    if not any(fnmatch.fnmatchcase(each, pattern) for pattern in quiet)
                }
                self.assertEqual(missing, set())


KNOWN_GLOBALS = frozenset(
    "Date performance process Math crypto window navigator location history console localStorage sessionStorage document "
    "XMLHttpRequest WebSocket EventSource Worker SharedWorker indexedDB Atomics Worklet screen visualViewport WebTransport "
    "AudioContext SpeechSynthesisUtterance speechSynthesis MediaRecorder Audio Notification caches".split()
)
"""Objects of the host that no import brings in."""
