"""Registrations: every entry of the catalogue is recognised in a source made from it; definition files of both formats."""

from __future__ import annotations

import unittest

from benchmarks.containers import compare
from isodesm.catalogue import catalogue_of
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
    "java": "import {module}.X; class App {{ void build(App app) {{ app.{name}(Bell.class, Siren.class); }} }}",
    "csharp": "namespace P {{ class App {{ void Build(App app) {{ app.{name}<IBell, Siren>(); }} }} }}",
    "typescript": "import x from '{module}x'; class App {{ build(app: any) {{ app.{name}(Bell, Siren); }} }}",
    "php": "class App {{ function build($app) {{ $app->{name}(Bell::class, Siren::class); }} }}",
    "python": "import {module}\nclass App:\n    def build(self, app):\n        app.{name}(Bell, Siren)\n",
}
CHAINED = {
    "java": "import {module}.X; class App {{ void build(App app) {{ app.{name}(Bell.class).{to}(Siren.class).in({word}.class); "
    "}} }}",
    "csharp": "namespace P {{ class App {{ void Build(App app) {{ app.{name}<IBell>().{to}<Siren>().{word}(); }} }} }}",
    "typescript": "import x from '{module}'; class App {{ build(app: any) {{ app.{name}(Bell).{to}(Siren).{word}(); }} }}",
    "python": "import {module}\nclass App:\n    def build(self, app):\n        app.{name}(Bell).{to}(Siren).{word}()\n",
}
OTHER_SHAPES = ("newSetBinder", "newMapBinder", "controller", "service", "repository")
"""Calls that name one thing by themselves; the cases have them in their own shape."""


def short(name: str) -> str:
    return name.replace("#", ".").replace("\\", ".").rpartition(".")[2].removeprefix("I")


class CatalogueEntriesTest(TreeTest):
    def registered(self, language: str, source: str, imports: tuple[str, ...] = ()) -> list[tuple[str, str, str, str]]:
        """What is registered in a file of that source, in a language where an import stands in front of the types."""
        self.root = self.root.parent / f"{language}-{abs(hash(source))}"
        types = TYPES[language]
        if imports and language == "csharp":
            types = f"using {imports[0]}; {types}"
        if imports and language == "php":
            types = types.replace("namespace P;", f"namespace P; use {imports[0].rstrip(chr(92))}\\X;")
        text = source if source.startswith("import ") and language != "java" else types + source
        if text is source:
            text = source.replace("class App", types + "class App", 1)
        if language == "java" and source.startswith("import "):
            head, _, rest = source.partition(";")
            text = types.replace("package p;", f"package p; {head};") + rest
        found = self.read({f"box{SUFFIX[language]}": text}).registrations
        return [(short(each.abstraction), short(each.implementation), each.lifetime, each.how) for each in found]

    def families(self, language: str):
        for family, rules in catalogue_of(language).containers.items():
            yield family, rules, (rules.imports[0].rstrip(".") if rules.imports else "parts")

    def test_calls(self) -> None:
        for language in LANGUAGES:
            for family, rules, module in self.families(language):
                for name, lifetime in rules.calls.items():
                    if rules.makers or name in OTHER_SHAPES or name in (*rules.together, *rules.contextual, *rules.meant_first):
                        continue
                    with self.subTest(language=language, family=family, name=name):
                        found = self.registered(language, CALL[language].format(name=name, module=module), rules.imports)
                        self.assertEqual(found, [("Bell", "Siren", lifetime, "call")])

    def test_chained_words(self) -> None:
        for language, pattern in CHAINED.items():
            for family, rules, module in self.families(language):
                name = next(iter(rules.calls), "")
                for to in rules.implementations if name else ():
                    for word, lifetime in list(rules.lifetimes.items())[:1]:
                        wanted = "singleton" if to in rules.instances else lifetime
                        with self.subTest(language=language, family=family, to=to, word=word):
                            source = pattern.format(name=name, to=to, word=word, module=module)
                            found = self.registered(language, source, rules.imports)
                            self.assertEqual(found, [("Bell", "Siren", wanted, "call")])

    def test_annotations(self) -> None:
        forms = {
            "java": "@{name} class Desk {{ }}",
            "typescript": "import x from '{module}x'; @{name}({word}) class App {{ }}",
            "python": "import {module}\n@{name}\nclass App: ...\n",
            "php": "#[{name}] class Desk {{ }}",
        }
        for language, form in forms.items():
            for family, rules, module in self.families(language):
                for name, lifetime in rules.annotations.items():
                    given = "".join(f"{{{each}: 'root'}}" for each in rules.provides_itself)
                    with self.subTest(language=language, family=family, name=name):
                        found = self.registered(language, form.format(name=name, module=module, word=given), rules.imports)
                        wanted = rules.lifetimes.get(name, lifetime)
                        self.assertEqual([each[2:] for each in found], [(wanted, "annotation")])

    def test_metadata(self) -> None:
        for family, rules, module in self.families("typescript"):
            for name, keys in rules.metadata.items():
                source = (
                    f"import x from '{module}x'; @{name}({{ {keys[0]}: [Siren, {{ provide: Bell, "
                    f"{rules.metadata_implementations[0]}: Siren }}] }}) class App {{ }}"
                )
                with self.subTest(family=family, name=name):
                    found = self.registered("typescript", source)
                    self.assertEqual(sorted(each[:2] for each in found), [("Bell", "Siren"), ("Siren", "Siren")])

    def test_what_only_looks_like_one(self) -> None:
        others = {
            "typescript": "class App { run(list: any) { list.bind(this); list.register('a', 1); } }",
            "php": "class App { function run($set) { $set->set('a', new Siren()); $set->add(1); } }",
            "python": "class App:\n    def run(self, app):\n        app.register(Bell().name)\n",
        }
        for language, source in others.items():
            for family, rules, _ in self.families(language):
                with self.subTest(language=language, family=family):
                    self.assertEqual(self.registered(language, source, rules.imports), [])


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


class RunningContainerTest(TreeTest):
    """What a container did is held against what the wiring says: each kind of line can differ."""

    def test_lines(self) -> None:
        bindings = catalogue_of("php").containers["bindings"]
        codebase = self.read(
            {
                "a.php": "<?php namespace P; interface Bell { } class Siren implements Bell { } class Gong implements Bell { } "
                "interface Clock { } class Hut { function __construct(private Bell $bell) { } } "
                "class Watch { function __construct(private Clock $clock) { } }",
                "b.php": f"<?php namespace P; use {bindings.imports[0]}X; class Provider {{ function register() {{ "
                "$this->app->singleton(Bell::class, Siren::class); $this->app->bind(Hut::class); "
                "$this->app->bind(Watch::class); "
                "} }",
            }
        )
        cases = {
            "gets Bell Siren shared": True,
            "gets Bell Siren fresh": False,
            "gets Bell Gong shared": False,
            "gets Hut Hut fresh": True,
            "holds Hut Siren": True,
            "holds Hut Gong": False,
            "fails Watch": True,
            "fails Hut": False,
        }
        for line, wanted in cases.items():
            same, wrong = compare(codebase, [line.split()])
            with self.subTest(line):
                self.assertEqual((same, len(wrong)), (1, 0) if wanted else (0, 1))
