"""Registrations: every entry of the catalogue is recognised in a source made from it; definition files of both formats."""

from __future__ import annotations

import unittest

from isodesm.catalogue import RegistrationRules, catalogue_of
from isodesm.facts.definitions import Argument, read_definitions
from isodesm.facts.languages import LANGUAGES
from tests.support import TreeTest

SUFFIX = {"java": ".java", "csharp": ".cs", "typescript": ".ts", "php": ".php", "python": ".py"}
TYPES = {
    "java": "package p; interface Bell { } class Siren implements Bell { } ",
    "csharp": "namespace P { interface IBell { } class Siren : IBell { } } ",
    "typescript": "abstract class Bell { } class Siren extends Bell { } ",
    "php": "<?php namespace P; interface Bell { } class Siren implements Bell { } ",
    "python": "class Bell: ...\nclass Siren(Bell): ...\n",
}
CALL = {
    "java": "class Box {{ void build(Box box) {{ box.{name}(Bell.class, Siren.class); }} }}",
    "csharp": "namespace P {{ class Box {{ void Build(Box box) {{ box.{name}<IBell, Siren>(); }} }} }}",
    "typescript": "class Box {{ build(box: any) {{ box.{name}(Bell, Siren); }} }}",
    "php": "class Box {{ function build($box) {{ $box->{name}(Bell::class, Siren::class); }} }}",
    "python": "class Box:\n    def build(self, box):\n        box.{name}(Bell, Siren)\n",
}
CHAINED = {
    "java": "class Box {{ void build(Box box) {{ box.{name}(Bell.class).{to}(Siren.class).in({word}.class); }} }}",
    "csharp": "namespace P {{ class Box {{ void Build(Box box) {{ box.{name}<IBell>().{to}<Siren>().{word}(); }} }} }}",
    "typescript": "class Box {{ build(box: any) {{ box.{name}(Bell).{to}(Siren).{word}(); }} }}",
    "python": "class Box:\n    def build(self, box):\n        box.{name}(Bell).{to}(Siren).{word}()\n",
}


def short(name: str) -> str:
    return name.replace("#", ".").replace("\\", ".").rpartition(".")[2].removeprefix("I")


class CatalogueEntriesTest(TreeTest):
    def registered(self, language: str, source: str) -> list[tuple[str, str, str, str]]:
        self.root = self.root.parent / f"{language}-{abs(hash(source))}"
        found = self.read({f"box{SUFFIX[language]}": TYPES[language] + source}).registrations
        return [(short(each.abstraction), short(each.implementation), each.lifetime, each.how) for each in found]

    def test_calls(self) -> None:
        for language in LANGUAGES:
            for name, lifetime in catalogue_of(language).registrations.calls.items():
                with self.subTest(language=language, name=name):
                    found = self.registered(language, CALL[language].format(name=name))
                    self.assertEqual(found, [("Bell", "Siren", lifetime, "call")])

    def test_chained_words(self) -> None:
        for language, pattern in CHAINED.items():
            rules = catalogue_of(language).registrations
            name = next(iter(rules.calls))
            for to in rules.implementations:
                for word, lifetime in list(rules.lifetimes.items())[:1]:
                    with self.subTest(language=language, to=to, word=word):
                        found = self.registered(language, pattern.format(name=name, to=to, word=word))
                        self.assertEqual(found, [("Bell", "Siren", lifetime, "call")])

    def test_annotations(self) -> None:
        forms = {
            "java": "@{name} class Desk {{ }}",
            "typescript": "@{name}() class Desk {{ }}",
            "python": "@{name}\nclass Desk: ...\n",
            "php": "#[{name}] class Desk {{ }}",
        }
        for language, form in forms.items():
            for name, lifetime in catalogue_of(language).registrations.annotations.items():
                with self.subTest(language=language, name=name):
                    wanted = catalogue_of(language).registrations.lifetimes.get(name, lifetime)
                    self.assertEqual(
                        self.registered(language, form.format(name=name)), [("Desk", "Desk", wanted, "annotation")]
                    )

    def test_metadata(self) -> None:
        rules = catalogue_of("typescript").registrations
        for name, keys in rules.metadata.items():
            source = (
                f"@{name}({{ {keys[0]}: [Siren, {{ provide: Bell, {rules.metadata_implementations[0]}: Siren }}] }}) "
                "class Desk { }"
            )
            with self.subTest(name=name):
                found = self.registered("typescript", source)
                self.assertEqual([each[:2] for each in found], [("Bell", "Siren"), ("Siren", "Siren")])

    def test_what_only_looks_like_one(self) -> None:
        others = {
            "typescript": "class Box { run(list: any) { list.bind(this); list.register('a', 1); } }",
            "php": "class Box { function run($set) { $set->set('a', new Siren()); $set->add(1); } }",
            "python": "class Box:\n    def run(self, box):\n        box.register(Bell().name)\n",
        }
        for language, source in others.items():
            with self.subTest(language=language):
                self.assertEqual(self.registered(language, source), [])

    def test_every_language_has_rules(self) -> None:
        for language in LANGUAGES:
            self.assertIsInstance(catalogue_of(language).registrations, RegistrationRules)
            self.assertFalse(catalogue_of(language).registrations.is_empty, language)


class DefinitionFilesTest(unittest.TestCase):
    YAML = b"""services:
  _defaults: { autowire: true, public: false }
  App\\Relay: ~
  app.bell:
    class: App\\Bell
    arguments: ['@app.relay', '%url%', !tagged_iterator x]
    tags: [{ name: bell }, loud]
    shared: false
  App\\BellInterface: '@app.bell'
  App\\: { resource: '../src/' }
  z: { factory: ['@a', 'make'], arguments: { $a: '@?b' } }
"""
    XML = b"""<container xmlns="urn:x"><services>
  <service id="a" class="A\\B" shared="false"><argument type="service" id="c" on-invalid="null"/><argument>5</argument><tag
  name="t"/></service>
  <service id="al" alias="a"/></services></container>"""

    def test_yaml(self) -> None:
        found, trouble = read_definitions("s.yaml", self.YAML)
        self.assertEqual(trouble, ())
        self.assertEqual(
            [(d.id, d.line, d.type, d.alias, d.scope) for d in found],
            [
                ("App\\Relay", 3, "App\\Relay", "", ""),
                ("app.bell", 4, "App\\Bell", "", "transient"),
                ("App\\BellInterface", 9, "", "app.bell", ""),
                ("App\\", 10, "", "", ""),
                ("z", 11, "z", "", ""),
            ],
        )
        bell, made = found[1], found[4]
        self.assertEqual(bell.arguments[0], Argument(value="@app.relay", service="app.relay"))
        self.assertEqual((bell.arguments[2].value, bell.tags), ("!tagged_iterator x", ("bell", "loud")))
        self.assertEqual(
            (made.factory, made.arguments), ("@a::make", (Argument(value="@?b", name="$a", service="b", optional=True),))
        )
        self.assertEqual([each.autowired for each in found], [True, True, False, True, True])

    def test_xml(self) -> None:
        found, trouble = read_definitions("s.xml", self.XML)
        self.assertEqual(trouble, ())
        self.assertEqual(
            [(d.id, d.line, d.column, d.type, d.alias, d.scope) for d in found],
            [("a", 2, 3, "A\\B", "", "transient"), ("al", 4, 3, "", "a", "")],
        )
        self.assertEqual(found[0].arguments, (Argument(value="c", service="c", optional=True), Argument(value="5")))

    def test_trouble_is_named(self) -> None:
        cases = {
            "a.xml": (b"<services><a>", "no valid XML"),
            "a.yml": (b"services: [a: {b", "no valid YAML"),
            "b.xml": (b'<!DOCTYPE x [<!ENTITY a "b">]><services>&a;</services>', "entities"),
            "b.yml": (b"services:\n" + b"  " * 3 + b"[" * 5000, "no valid YAML"),
        }
        for path, (content, words) in cases.items():
            with self.subTest(path=path, words=words):
                found, trouble = read_definitions(path, content)
                self.assertEqual(found, ())
                self.assertIn(words, trouble[0].reason)
