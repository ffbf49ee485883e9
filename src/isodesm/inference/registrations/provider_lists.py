"""Registrations in lists of providers: in the marks of components and modules, and where a program starts."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from msgspec import structs

from isodesm.catalogue.containers import ContainerRules
from isodesm.facts import typetext
from isodesm.inference.registrations.families import Families, Family
from isodesm.inference.registrations.registration import Registration
from isodesm.inference.registrations.source import Source
from isodesm.linking.symbols import simple_name

_CONSTANT = re.compile(rb"^(?:export\s+)?const\s+(\w++)(?=\s*+(?::[^=\n]*+)?=\s*+\[)", re.MULTILINE)
"""A constant that holds a list."""


class Lists:
    """The lists of providers in one file."""

    def __init__(self, source: Source, families: tuple[Family, ...], tree: Families) -> None:
        self.source, self.families, self.tree = source, families, tree

    def registrations(self) -> Iterator[Registration]:
        """What the lists register, in order of place."""
        listing = [each for each in self.families if each[1].metadata or each[1].provider_lists]
        if not self.source.is_modular or not listing:
            return
        marked = any("[" in mark.arguments for each in self.source.facts.types for mark in each.modifiers.annotations)
        if marked or self._names_a_list(listing):
            for pair in self.source.tree.nodes("pair"):
                yield from self._of_pair(pair, listing)
        yield from self._of_constants(dict(listing))

    def _of_constants(self, listing: dict[str, ContainerRules]) -> Iterator[Registration]:
        """The entries of lists that are kept in a constant for other files to list."""
        for found in _CONSTANT.finditer(self.source.text) if self.tree.listed else ():
            name = found[1].decode()
            family = self.tree.listed.get(name, "")
            if family in listing and len(re.findall(rb"\b%s\b" % re.escape(found[1]), self.source.text)) == 1:
                value = self._value_of(name)
                if value is not None and value.type == "array":
                    yield from self._entries(value, family, listing[family], "", "")

    def _names_a_list(self, listing: list[Family]) -> bool:
        """Whether a key that lists providers stands in the bare text, since a parse costs more than a search."""
        text = self.source.text
        names = {each.encode() for _, rules in listing for each in rules.provider_lists}
        return any(re.search(rb"\b%s[\"']?\s*:" % re.escape(each), text) for each in names if each in text)

    def _of_pair(self, pair: Any, listing: list[Family]) -> Iterator[Registration]:
        """One entry of an object literal, if it is a list of providers."""
        key = self.source.tree.of(pair.child_by_field_name("key")).strip("\"'")
        value = pair.child_by_field_name("value")
        if value is None:
            return
        mark, local = self._mark_around(pair)
        holder = self.source.name_of(self.source.values.names.type_number(local)) if local >= 0 else ""
        for family, rules in listing:
            if mark and key in rules.metadata.get(mark, ()):
                for each in self._entries(value, family, rules, holder, ""):
                    yield structs.replace(each, lifetime="scoped") if mark in rules.parts else each
                return
        known = any(mark in rules.metadata for _, rules in listing)
        if mark and not known and value.type == "array":
            yield from self._of_unknown_mark(value, listing[0], local, holder)
        elif not mark:
            for family, rules in listing:
                if key in rules.provider_lists and self._starts(pair, rules):
                    yield from self._entries(value, family, rules, "", "")
                    return

    def _mark_around(self, node: Any) -> tuple[str, int]:
        """The simple name of the mark that holds a node, and the index of the class it is on."""
        depth = 0
        while node is not None and node.type != "decorator":
            depth += node.type == "object"
            node = node.parent
        if node is None or depth != 1:
            return "", -1
        name = re.match(r"@\s*([\w.$]+)", self.source.tree.of(node))
        at = node.end_byte
        holder = next(
            (
                local
                for local, each in enumerate(self.source.facts.types)
                if each.kind != "module" and each.body[0] >= at and each.outer_member < 0
            ),
            -1,
        )
        return (name.group(1).rpartition(".")[2] if name else ""), holder

    def _starts(self, pair: Any, rules: ContainerRules) -> bool:
        """Whether a list belongs to a call that starts a program, to an object that is typed as its settings, or to one that
        is passed to such a call elsewhere."""
        node = pair.parent
        while node is not None and node.type not in ("statement_block", "class_body"):
            if node.type == "call_expression" and self.source.called(node)[0] in rules.starts:
                return True
            if node.type == "variable_declarator":
                typed = node.child_by_field_name("type")
                if typed is not None and any(each in self.source.tree.of(typed) for each in rules.starts):
                    return True
                return self.source.tree.of(node.child_by_field_name("name")) in self.tree.listed
            node = node.parent
        return False

    def _of_unknown_mark(self, value: Any, family: Family, local: int, holder: str) -> Iterator[Registration]:
        """A mark that no catalogue lists counts for the classes in its lists that the constructor takes."""
        members = self.source.facts.types[local].members if local >= 0 else ()
        taken = {typetext.head(p.type) for m in members if m.kind == "constructor" for p in m.parameters}
        for entry in value.named_children:
            if self.source.tree.of(entry) in taken:
                for found in self._entry(entry, "", family[1], holder):
                    yield structs.replace(found, lifetime="scoped")

    # --- entries ----------------------------------------------------------------------------

    def _entries(self, value: Any, family: str, rules: ContainerRules, holder: str, condition: str) -> Iterator[Registration]:
        """The entries of a list, of lists in it, and of a constant that stands for one."""
        if value.type == "array":
            for entry in value.named_children:
                yield from self._entries(entry, family, rules, holder, condition)
        elif value.type in ("spread_element", "parenthesized_expression", "as_expression"):
            yield from self._entries(value.named_children[0], family, rules, holder, condition)
        elif value.type == "ternary_expression":
            asked = " ".join(self.source.tree.of(value.child_by_field_name("condition")).split())
            yield from self._entries(value.child_by_field_name("consequence"), family, rules, holder, asked)
            yield from self._entries(value.child_by_field_name("alternative"), family, rules, holder, f"not ({asked})")
        elif value.type == "identifier" and (listed := self._constant(value)) is not None:
            yield from self._entries(listed, family, rules, holder, condition)
        elif value.type == "identifier" and self.source.tree.of(value)[:1].islower():
            return  # a list of another file, which is read there
        elif value.type in ("object", "identifier", "member_expression"):
            for each in self._entry(value, family, rules, holder):
                yield _under(each, condition)

    def _constant(self, node: Any) -> Any:
        """The list that a constant of the file is."""
        value = self._value_of(self.source.tree.of(node))
        return value if value is not None and value.type == "array" else None

    def _value_of(self, name: str) -> Any:
        """What a constant of the file is given."""
        for each in self.source.tree.root.named_children:
            inner = each.child_by_field_name("declaration") or each
            for declarator in inner.named_children if inner.type == "lexical_declaration" else ():
                named = declarator.child_by_field_name("name")
                value = declarator.child_by_field_name("value")
                if named is not None and self.source.tree.of(named) == name:
                    return value
        return None

    def _entry(self, entry: Any, family: str, rules: ContainerRules, holder: str) -> Iterator[Registration]:
        """A class, or a token with what serves it."""
        fields = self._fields(entry) if entry.type == "object" else {}
        token = fields.get("provide", entry if entry.type != "object" else None)
        if token is None:
            return
        word = next((each for each in rules.metadata_implementations if each in fields), "")
        value = fields.get(word) if word else token
        function = word in ("useFactory",) or (value is not None and self.source.is_function(value))
        function = function or (value is not None and self.source.is_choice(value))
        made = list(dict.fromkeys(each.name for each in self.source.made_by(value))) if value is not None and function else []
        served = made[0] if made else "" if function else self._named(value) if word not in ("useValue",) else self._made(value)
        key = self.source.tree.of(token)
        known = self.source.class_in(token)
        yield Registration(
            abstraction=known or key.strip("\"'"),
            implementation=served,
            how="metadata",
            scope=holder,
            lifetime=self._lifetime(fields, served, rules),
            factory=function,
            alias=word in rules.aliases,
            family=family,
            id="" if known else key.strip("\"'"),
            order="list"
            if any(self.source.tree.of(fields[each]) == "true" for each in rules.list_words if each in fields)
            else "",
            made=tuple(made) if len(made) > 1 else (),
            **self.source.place_of(entry),
        )

    def _fields(self, node: Any) -> dict[str, Any]:
        found = {}
        for pair in node.named_children:
            key, value = pair.child_by_field_name("key"), pair.child_by_field_name("value")
            if key is not None:
                found[self.source.tree.of(key).strip("\"'")] = value
            elif pair.type == "shorthand_property_identifier":
                found[self.source.tree.of(pair)] = pair
            elif pair.type == "method_definition":
                found[self.source.tree.of(pair.child_by_field_name("name"))] = pair
        return found

    def _named(self, node: Any) -> str:
        return self.source.class_in(node) or self.source.tree.of(node).strip("\"'")

    def _made(self, node: Any) -> str:
        return self.source.created_in(node)

    def _lifetime(self, fields: dict[str, Any], served: str, rules: ContainerRules) -> str:
        """What the entry says, or the mark of the class that serves."""
        words = self.source.words_in(fields["scope"]) if "scope" in fields else []
        number = self.source.symbols.find(served, self.source.file)[0] if served and not words else -1
        for mark in self.source.symbols.types[number].modifiers.annotations if number >= 0 else ():
            words += re.findall(r"\w+", mark.arguments) if simple_name(mark.name) in rules.allowed_by else []
        return next((rules.lifetimes[each] for each in words if each in rules.lifetimes), "singleton")


def _under(found: Registration, condition: str) -> Registration:
    return structs.replace(found, condition=condition) if condition else found
