"""Additions to definition files: what comes in, and that every other byte stays."""

from __future__ import annotations

import unittest

from isodesm.facts.definitions import read_definitions
from isodesm.planning.text.definition_edits import with_alias, with_argument, with_factory_class, with_folder, with_service

YAML, XML = "services.yaml", "services.xml"
ARGUMENTS = (
    (YAML, "services:\n    a:\n        class: N\\A\n",
     "services:\n    a:\n        class: N\\A\n        arguments: ['@b']\n"),
    (YAML, "services:\n  a:\n    arguments: []   # none\n",
     "services:\n  a:\n    arguments: ['@b']   # none\n"),
    (YAML, 'services:\n  a:\n    arguments: ["@c", 3]\n',
     'services:\n  a:\n    arguments: ["@c", 3, "@b"]\n'),
    (YAML, "services:\n  a:\n    arguments:\n      - '@c'   # the first\n\n  d: ~\n",
     "services:\n  a:\n    arguments:\n      - '@c'   # the first\n      - '@b'\n\n  d: ~\n"),
    (YAML, "services:\n  a:\n    arguments:\n      $c: '@c'\n",
     "services:\n  a:\n    arguments:\n      $c: '@c'\n      $name: '@b'\n"),
    (YAML, "services:\r\n  a: ~\r\n  d:\r\n    class: N\\D\r\n",
     "services:\r\n  a:\r\n    arguments: ['@b']\r\n  d:\r\n    class: N\\D\r\n"),
    (YAML, "services:\n  a: { class: N\\A }\n",
     None),
    (YAML, "services:\n  a:\n    arguments: ['@c',\n      '@d']\n",
     None),
    (YAML, "services:\n  a:\n    arguments: ['@c']",
     "services:\n  a:\n    arguments: ['@c', '@b']"),
    (XML, '<beans>\n\t<bean id="a" class="p.A"/>\n</beans>\n',
     '<beans>\n\t<bean id="a" class="p.A">\n\t\t<constructor-arg ref="b"/>\n\t</bean>\n</beans>\n'),
    (XML, '<container>\n  <service id="a" class="N\\A">\n    <argument>x</argument> <!-- é -->\n  </service>\n</container>',
     '<container>\n  <service id="a" class="N\\A">\n    <argument>x</argument>\n    <argument type="service" id="b"/> '
     '<!-- é -->\n  </service>\n</container>'),
)  # fmt: skip
"""File, before, after; None where nothing can be added as it is written."""


MAKERS = (
    (YAML, "services:\n    a: ~   # alone\n",
     "services:\n    a:\n        factory: ['N\\M', 'make']   # alone\n"),
    (YAML, "services:\n  a:\n    class: N\\A\n    arguments: [1]\n",
     "services:\n  a:\n    class: N\\A\n    factory: ['N\\M', 'make']\n    arguments: [1]\n"),
    (YAML, "services:\n  a: { class: N\\A }\n", None),
    (XML, '<beans>\n  <bean class="p.A" id="a"/>\n</beans>',
     '<beans>\n  <bean class="N\\M" factory-method="make" id="a"/>\n</beans>'),
    (XML, '<container>\n  <service id="a" class="N\\A" />\n</container>',
     '<container>\n  <service id="a" class="N\\A">\n    <factory class="N\\M" method="make"/>\n  </service>\n</container>'),
    (XML, '<container>\n  <service id="a" class="N\\A">\n    <argument>x</argument>\n  </service>\n</container>',
     '<container>\n  <service id="a" class="N\\A">\n    <factory class="N\\M" method="make"/>\n    <argument>x</argument>\n'
     '  </service>\n</container>'),
)  # fmt: skip
"""The same for what makes a service."""


def changed(content: str, insertion: object) -> str:
    data = content.encode()
    return (data[: insertion.at] + insertion.text.encode() + data[insertion.at + insertion.length :]).decode()


class DefinitionTextsTest(unittest.TestCase):
    def first(self, path: str, text: str, id: str = "a") -> object:
        found, trouble = read_definitions(path, text.encode())
        self.assertEqual(trouble, ())
        return next(each for each in found if each.id == id)

    def test_a_maker(self) -> None:
        for path, before, after in MAKERS:
            with self.subTest(before=before):
                insertion = with_factory_class(before.encode(), self.first(path, before), "N\\M", "make")
                if after is None:
                    self.assertIsNone(insertion)
                else:
                    self.assertEqual(changed(before, insertion), after)
                    self.assertEqual(self.first(path, changed(before, insertion)).factory, "N\\M::make")

    def test_an_argument(self) -> None:
        for path, before, after in ARGUMENTS:
            with self.subTest(before=before):
                insertion = with_argument(before.encode(), self.first(path, before), "b", "name")
                if after is None:
                    self.assertIsNone(insertion)
                else:
                    self.assertEqual(changed(before, insertion), after)
                    again = self.first(path, changed(before, insertion))
                    self.assertEqual(again.arguments[-1].service, "b")

    def test_a_service_and_another_name(self) -> None:
        text = "services:\n    # one\n    a:\n        class: N\\A   # the first\n\n    d:\n        class: N\\D\n"
        behind = self.first(YAML, text, "d")
        more = changed(text, with_service(text.encode(), behind, "b", "N\\B", "transient"))
        self.assertEqual(more, f"{text}\n    b:\n        class: N\\B\n        shared: false\n")
        self.assertEqual(changed(text, with_alias(text.encode(), behind, "N\\Port", "d")), f"{text}\n    N\\Port: '@d'\n")
        beans = '<beans>\n  <bean id="a" class="p.A"/>\n</beans>\n'
        more = changed(beans, with_service(beans.encode(), self.first(XML, beans), "b", "p.B", "transient"))
        self.assertEqual(more, beans.replace("</beans>", '  <bean id="b" class="p.B" scope="prototype"/>\n</beans>'))

    def test_a_folder_in_the_place_of_services(self) -> None:
        text = "services:\n  x: ~   # stays\n\n  N\\R\\A: ~\n  # between\n  N\\R\\B: ~\n\n  y: ~\n"
        group = [self.first(YAML, text, each) for each in ("N\\R\\A", "N\\R\\B")]
        for insertion in with_folder(text.encode(), group, "N\\R\\", "../src/R/", ["C.php", "D.php"]):
            text = changed(text, insertion)
        self.assertEqual(
            text,
            "services:\n  x: ~   # stays\n\n  N\\R\\:\n    resource: '../src/R/'\n    exclude: '../src/R/{C.php,D.php}'\n"
            "  # between\n\n  y: ~\n",
        )
        text = (
            '<services>\n  <service id="N\\R\\A"/> <!-- stays -->\n  <service id="N\\R\\B"></service>\n  <service id="x"/>\n'
            "</services>\n"
        )
        group = [self.first(XML, text, each) for each in ("N\\R\\A", "N\\R\\B")]
        for insertion in with_folder(text.encode(), group, "N\\R\\", "../src/R/", ["C.php"]):
            text = changed(text, insertion)
        self.assertEqual(
            text,
            '<services>\n  <prototype namespace="N\\R\\" resource="../src/R/" exclude="../src/R/C.php"/> <!-- stays -->\n'
            '  <service id="x"/>\n</services>\n',
        )
