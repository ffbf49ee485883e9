"""What the arguments of registering calls mean: classes, keys, objects, functions that make something."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from isodesm.catalogue.containers import ContainerRules
from isodesm.inference.registrations.source import Argument, Source
from isodesm.linking.symbols import simple_name

_TOKEN = re.compile(r"(?<![\w$])[A-Za-z_$][\w$]*+(?:(?:\.|::)[\w$]++)*+$")
"""A name that stands for a key."""
_SEVERAL = frozenset(("array_creation_expression", "array", "list", "tuple", "array_initializer", "collection_expression"))
"""Lists of classes as one argument."""


@dataclass
class Given:
    """What the arguments of a call say; mutable while they are read."""

    served: list[str]
    key: str
    made: list[str] = field(default_factory=list)
    factory: bool = False
    instance: bool = False
    alias: bool = False


class Arguments:
    """The arguments in one file."""

    def __init__(self, source: Source) -> None:
        self.source = source

    def read(self, given: Argument, word: str, rules: ContainerRules, named: bool) -> tuple[str, list[str]]:
        """What an argument is: a `class`, a `key`, what is `made` by a function, or an `instance`."""
        node = given.node
        if self.source.is_function(node) or self.source.is_choice(node):
            return "made", [each.name for each in self.source.made_by(node)]
        if node.type in _SEVERAL:
            return "class", [found for each in node.named_children if (found := self.source.class_in(_value(each)))]
        if not self.source.is_text(node) and any(each in rules.lifetimes for each in self.source.words_in(node)):
            return "", []
        if made := self.source.created_in(node):
            if simple_name(made) in rules.wrappers:
                return self._wrapped(node, rules)
            return ("instance", [made]) if named or word in rules.instances else ("", [])
        if node.type == "object":
            return self._in_object(node, rules)
        if found := self.source.class_in(node):
            return "class", [found]
        text = self.source.tree.of(node)
        if self.source.is_text(node):
            return "key", [text.strip("\"'`")]
        if _TOKEN.match(text) and not text[0].islower() and "." in text:
            return "key", [text]
        if word in rules.keyed and _TOKEN.match(text):
            return "key", [text]
        return "", []

    def read_all(
        self, arguments: list[Argument], word: str, rules: ContainerRules, given: Given, is_forwarded: Callable[[Any], bool]
    ) -> Given:
        """What arguments say one by one, beside what is known; a function may only forward what another registration has."""
        for each in arguments:
            kind, named = self.read(each, word, rules, bool(given.served))
            if kind == "class":
                given.served += named
            elif kind == "key" and not given.key:
                given.key = named[0]
            elif kind == "made":
                given.made, given.factory = named, True
                given.alias = len(named) == 1 and is_forwarded(each.node)
            elif kind == "instance":
                given.made, given.instance = named, True
        return given

    def _wrapped(self, node: Any, rules: ContainerRules) -> tuple[str, list[str]]:
        """The class, or the key of another registration, that an object around it names."""
        given = self.source.arguments(node)
        if not given:
            return "", []
        if found := self.source.class_in(given[0].node):
            return "class", [found]
        return ("class", [self.source.tree.of(given[0].node).strip("\"'")]) if self.source.is_text(given[0].node) else ("", [])

    def _in_object(self, node: Any, rules: ContainerRules) -> tuple[str, list[str]]:
        """What an object literal names under a word of what serves."""
        for pair in node.named_children:
            name, value = pair.child_by_field_name("key"), pair.child_by_field_name("value")
            if name is not None and self.source.tree.of(name).strip("\"'") in rules.metadata_implementations:
                if self.source.is_function(value):
                    return "made", [each.name for each in self.source.made_by(value)]
                return ("class", [found]) if (found := self.source.class_in(value)) else ("", [])
        return "", []

    def lifetime(self, arguments: list[Argument], rules: ContainerRules) -> str:
        """The lifetime that a word of the arguments gives, functions aside."""
        for each in arguments:
            for word in () if self.source.is_text(each.node) else self.source.words_in(each.node):
                if word in rules.lifetimes:
                    return rules.lifetimes[word]
        return ""


def _value(node: Any) -> Any:
    return node.named_children[-1] if node.type == "array_element_initializer" and node.named_children else node
