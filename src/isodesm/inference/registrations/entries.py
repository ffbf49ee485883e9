"""Registrations as entries: of arrays and objects, of containers used as arrays, of the members of provider classes."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import cache
from typing import Any

from isodesm.catalogue.containers import ContainerRules
from isodesm.facts.languages import dialect_of
from isodesm.facts.records import DeclaredType, Site
from isodesm.inference.registrations.families import Family
from isodesm.inference.registrations.registration import Registration
from isodesm.inference.registrations.source import Source
from isodesm.linking.bonds import UNKNOWN
from isodesm.linking.symbols import simple_name

_ELEMENT = "array_element_initializer"
CLASS_KEYS = ("class", "factory", "arguments")
"""Words of a definition that is an array itself: what is made, what makes it, with what."""


_RETURNED = re.compile(rb"^return\s*(?:\[|array\s*\()", re.MULTILINE)


@cache
def _offset(words: tuple[str, ...]) -> re.Pattern[bytes]:
    """What puts a function under a name of a container; `words` are the calls that may stand around it."""
    called = "|".join(map(re.escape, words)) or "(?!)"
    return re.compile(rf"\]\s*=\s*(?:(?:static\s+)?(?:fn|function)\b|\$\w+->(?:{called})\b)".encode())


class Entries:
    """The entries of one file."""

    def __init__(self, source: Source, families: tuple[Family, ...]) -> None:
        self.source, self.families = source, families

    def registrations(self) -> Iterator[Registration]:
        """What entries register, in order of place."""
        if dialect_of(self.source.facts.language).registers_in_arrays:
            yield from self._of_arrays()
        for family, rules in self.families:
            if rules.attributes:
                yield from self._of_attributes(family, rules)
            if rules.makers and self.source.is_modular:
                yield from self._of_objects(family, rules)

    # --- arrays and offsets -----------------------------------------------------------------

    def _of_arrays(self) -> Iterator[Registration]:
        """Entries of arrays that a file returns, of listed members, and functions put under a name of a container."""
        arrays = next((each for each in self.families if each[0] == "arrays"), None)
        offsets = next((each for each in self.families if each[1].offsets), None)
        if not self._may_hold_entries(offsets):
            return
        for node in self.source.tree.nodes("return_statement", "assignment_expression", "property_element", _ELEMENT):
            if node.type == "return_statement" and node.parent.type == "program" and node.named_children:
                yield from self._of_array(node.named_children[0], arrays or self.families[0])
            elif node.type == "assignment_expression" and offsets is not None:
                yield from self._of_offset(node, offsets)
            elif node.type in ("property_element", _ELEMENT):
                yield from self._of_listed(node)

    def _may_hold_entries(self, offsets: Family | None) -> bool:
        """Whether the bare text has anything to look at, since a parse costs more than a search."""
        text = self.source.text
        words = {each.encode() for _, rules in self.families for each in rules.properties}
        return (
            _RETURNED.search(text) is not None
            or (offsets is not None and _offset(tuple(offsets[1].lifetimes)).search(text) is not None)
            or any(each in text and re.search(rb"\b%s\b\W+(?:\[|array)" % each, text) for each in words)
        )

    def _of_array(self, node: Any, family: Family) -> Iterator[Registration]:
        """The definitions of an array; a string key counts only with a value that makes something."""
        if node.type != "array_creation_expression":
            return
        for element in node.named_children:
            if element.type != _ELEMENT or len(element.named_children) != 2:
                continue
            key, value = element.named_children
            nested = self.source.tree.of(key).strip("\"'")
            if value.type == "array_creation_expression" and nested in ("services", "definitions", "dependencies"):
                yield from self._of_array(value, family)
            elif found := self._of_element(key, value, family) or self._other_name(node, key, value, family):
                yield found

    def _other_name(self, array: Any, key: Any, value: Any, family: Family) -> Registration | None:
        """A class that stands for another entry, in an array of definitions."""
        known, meant = self.source.class_in(key), self.source.tree.of(value).strip("\"'")
        defines = any(
            each.type == "array_creation_expression" and "class" in self._fields(each) for each in self._fields(array).values()
        )
        if not known or not self.source.is_text(value) or not (defines or meant in self._fields(array)):
            return None
        common = {"abstraction": known, "how": "entry", "family": family[0], "id": "", **self.source.place_of(key)}
        return self._registration(common, [meant], alias=True)

    def _of_element(self, key: Any, value: Any, family: Family) -> Registration | None:
        """One definition: a function, a call of a maker, an array with a class, or a class under the name of another."""
        name, rules = family
        known = self.source.class_in(key)
        served = known or self.source.tree.of(key).strip("\"'").replace("\\\\", "\\")
        at = self.source.place_of(key)
        common = {"abstraction": served, "how": "entry", "family": name, "id": "" if known else served, **at}
        while value.type == "member_call_expression" and rules.makers:  # what is chained says no more than with what
            value = value.child_by_field_name("object")
        if self.source.is_function(value):
            results = [each.name for each in self.source.made_by(value)] or self._declared_result(value)
            return self._registration(common, results, factory=True) if results or known else None
        if value.type == "array_creation_expression":
            return self._with_class(common, value)
        word = self.source.called(value)[0] if value.type == "function_call_expression" else ""
        if word and any(simple_name(each) == word for each in rules.makers):
            return self._created_by(common, value, served, alias=word in map(simple_name, rules.aliases))
        if known and (given := self.source.class_in(value) or self.source.created_in(value)):
            return self._registration(common, [given])
        return None

    def _with_class(self, common: dict[str, Any], value: Any) -> Registration | None:
        """An array that names a class, or what creates one."""
        fields = self._fields(value)
        named = fields.get("class")
        if named is None and "factory" not in fields:
            return None
        made = [self._class_of(named)] if named is not None else []
        return self._registration(common, made, factory="factory" in fields)

    def _created_by(self, common: dict[str, Any], value: Any, served: str, *, alias: bool) -> Registration:
        """A call of what creates the class of an entry, or the one that is passed."""
        arguments = self.source.arguments(value)
        given = [self._class_of(each.node) for each in arguments[:1] if not self.source.is_function(each.node)]
        if arguments and not given:
            given, factory = [each.name for each in self.source.made_by(arguments[0].node)], True
        else:
            given, factory = given or [served], False
        return self._registration(common, given, factory=factory, alias=alias)

    def _registration(
        self, common: dict[str, Any], made: list[str], *, factory: bool = False, alias: bool = False
    ) -> Registration:
        names = tuple(dict.fromkeys(made))
        return Registration(
            **common,
            implementation=names[0] if names else "",
            lifetime="singleton",
            factory=factory,
            alias=alias,
            made=names if len(names) > 1 else (),
        )

    def _declared_result(self, function: Any) -> list[str]:
        result = function.child_by_field_name("return_type")
        named = self.source.type_named(self.source.tree.of(result), function.start_byte) if result is not None else ""
        return [named] if named else []

    def _class_of(self, node: Any) -> str:
        text = self.source.tree.of(node).strip("\"'")
        return self.source.class_in(node) or text.replace("\\\\", "\\").lstrip("\\")

    def _fields(self, node: Any) -> dict[str, Any]:
        return {
            self.source.tree.of(each.named_children[0]).strip("\"'"): each.named_children[1]
            for each in node.named_children
            if each.type == _ELEMENT and len(each.named_children) == 2
        }

    def _of_listed(self, node: Any) -> Iterator[Registration]:
        """Entries of a list of bindings: a member of a provider class, or an array under such a word."""
        if node.type == "property_element":
            name = self.source.tree.of(node.named_children[0]).lstrip("$")
            value = node.child_by_field_name("default_value") or node.named_children[-1]
        elif len(node.named_children) == 2:
            name, value = self.source.tree.of(node.named_children[0]).strip("\"'"), node.named_children[1]
        else:
            return
        value = next((each for each in value.named_children if each.type == "array_creation_expression"), value)
        if value.type != "array_creation_expression":
            return
        for family, rules in self.families:
            if name in rules.properties and (node.type == "property_element") != (family == "arrays"):
                yield from self._bindings(name, value, family, rules)
                return

    def _bindings(self, name: str, array: Any, family: str, rules: ContainerRules) -> Iterator[Registration]:
        for element in array.named_children:
            if element.type != _ELEMENT:
                continue
            key, value = element.named_children[0], element.named_children[-1]
            served = self._class_of(key)
            makes = "factor" in name
            result = self.source.class_in(value) or self.source.created_in(value)
            if (not self.source.class_in(key) and not result) or "\n" in self.source.tree.of(value):
                continue
            yield Registration(
                abstraction=served,
                implementation=served if makes else result or self._class_of(value),
                lifetime=rules.properties[name],
                how="entry",
                family=family,
                factory=makes,
                alias="alias" in name,
                id="" if self.source.class_in(key) else served,
                **self.source.place_of(element),
            )

    def _of_offset(self, node: Any, family: Family) -> Iterator[Registration]:
        """`$container['id'] = function …`: a function under a name of a container that is used as an array."""
        left, right = node.child_by_field_name("left"), node.child_by_field_name("right")
        if left is None or left.type != "subscript_expression" or len(left.named_children) != 2:
            return
        holder, key = left.named_children
        lifetime, function = "singleton", right
        if right.type == "member_call_expression":
            word, arguments = self.source.called(right)[0], self.source.arguments(right)
            if word not in family[1].lifetimes or not arguments:
                return
            lifetime, function = family[1].lifetimes[word], arguments[0].node
        if not self.source.is_function(function) or not self._is_container(holder, function, family[1]):
            return
        known, text = self.source.class_in(key), self.source.tree.of(key).strip("\"'")
        made = list(dict.fromkeys(each.name for each in self.source.made_by(function)))
        if made or known:
            yield Registration(
                abstraction=known or text,
                implementation=made[0] if made else "",
                lifetime=lifetime,
                how="entry",
                family=family[0],
                id="" if known else text,
                factory=True,
                made=tuple(made) if len(made) > 1 else (),
                **self.source.place_of(node),
            )

    def _is_container(self, holder: Any, function: Any, rules: ContainerRules) -> bool:
        """Whether a variable holds a container: by its type, or because the function is handed one that it asks by name."""
        text = self.source.tree.of(holder)
        target = self.source.chain_at(text, holder).value.target
        if target != UNKNOWN:
            return any(each in rules.offsets for each in self.source.names_of(target))
        taken = re.search(r"\(\s*(?:[\w\\]+\s+)?(\$\w+)\s*\)", self.source.tree.of(function).partition("{")[0])
        body = self.source.tree.of(function)
        if taken is None:
            return text in ("$this", "$container", "$app", "$c")
        return text == "$this" or re.search(re.escape(taken.group(1)) + r"\s*(?:\[|->get\()", body) is not None

    # --- objects ----------------------------------------------------------------------------

    def _of_objects(self, family: str, rules: ContainerRules) -> Iterator[Registration]:
        """Names with what makes them, in an object that a registering call is given."""
        for site in self.source.content.sites:
            if site.kind != "call" or site.name not in rules.calls:
                continue
            node = self.source.node_of(site)
            for argument in self.source.arguments(node):
                for pair in argument.node.named_children if argument.node.type == "object" else ():
                    value = pair.child_by_field_name("value")
                    if pair.type == "pair" and value is not None and (found := self._of_maker(pair, value, family, rules)):
                        yield found
            arguments = self.source.arguments(node)
            if len(arguments) == 2 and self.source.is_text(arguments[0].node):
                key = self.source.tree.of(arguments[0].node).strip("\"'`")
                if found := self._made_so(key, node, arguments[1].node, family, rules):
                    yield found

    def _of_maker(self, pair: Any, value: Any, family: str, rules: ContainerRules) -> Registration | None:
        key = self.source.tree.of(pair.child_by_field_name("key")).strip("\"'")
        return self._made_so(key, pair, value, family, rules)

    def _made_so(self, key: str, at: Any, value: Any, family: str, rules: ContainerRules) -> Registration | None:
        """A name with a maker around a class, and words chained to it that say how long."""
        text = self.source.tree.of(value)
        maker = re.match(r"(\w+)\(", text)
        if maker is None or maker.group(1) not in rules.makers:
            return None
        inner = value
        while inner.type == "call_expression" and inner.child_by_field_name("function").type == "member_expression":
            inner = inner.child_by_field_name("function").child_by_field_name("object")
        given = self.source.arguments(inner)
        node = given[0].node if given else None
        word = maker.group(1)
        named = node is not None and self.source.is_text(node)
        served = "" if node is None else self.source.tree.of(node).strip("\"'") if named else self._made_or_named(node)
        words = [rules.lifetimes[each] for each in re.findall(r"\w+", text) if each in rules.lifetimes]
        return Registration(
            abstraction=key,
            implementation=served,
            lifetime=words[-1] if words else "transient",
            how="entry",
            family=family,
            id=key,
            alias=word in rules.aliases,
            factory=not served,
            **self.source.place_of(at),
        )

    def _made_or_named(self, node: Any) -> str:
        found = self.source.class_in(node) or self.source.created_in(node)
        if not found and self.source.is_function(node):
            made = self.source.made_by(node)
            found = made[0].name if made else ""
        return found

    # --- attributes of a class --------------------------------------------------------------

    def _of_attributes(self, family: str, rules: ContainerRules) -> Iterator[Registration]:
        """Attributes of a class with the family's base: what is made, and of what."""
        for site in self.source.content.sites:
            word = simple_name(site.name or site.text)
            if site.kind not in ("call", "creation") or site.type < 0 or word not in rules.attributes:
                continue
            declared, at = self.source.facts.types[site.type], site.place.start
            fields = (each for each in declared.members if each.kind == "field" and each.whole[0] <= at < each.whole[1])
            member = next(fields, None)
            if member is None or not self._has_base(declared, rules):
                continue
            call = self.source.node_of(site)
            made, by_function = self._named_in(call, rules), bool(self._given_by_function(call))
            own = site.inside < 0
            if not own and not (made and self._makes_one(self.source.content.sites[site.inside])):
                continue
            yield Registration(
                abstraction=made[0] if len(made) == 1 else member.name,
                implementation=made[0] if made else "",
                lifetime=rules.attributes[word],
                how="entry",
                family=family,
                id=member.name if own else "",
                factory=not made or by_function,
                made=tuple(made) if len(made) > 1 else (),
                scope=self.source.name_of(self.source.values.names.type_number(site.type)),
                hands=self._handed_in(call, rules) if len(made) == 1 and not by_function else None,
                **self.source.place(site.place.line, site.place.column),
            )

    def _makes_one(self, site: Site) -> bool:
        """Whether a call names the one class that it makes, and not several to choose from."""
        arguments = self.source.arguments(self.source.node_of(site))
        return bool(arguments) and bool(self.source.class_in(arguments[0].node))

    def _given_by_function(self, call: Any) -> str:
        """The class that a function says to give which a call names first; '' where it names none."""
        arguments = self.source.arguments(call)
        if not arguments or arguments[0].node.type not in ("identifier", "attribute"):
            return ""
        chain = self.source.chain_at(self.source.tree.of(arguments[0].node), arguments[0].node)
        return self.source.given_by(chain.base, chain.field) if chain.field else ""

    def _named_in(self, call: Any, rules: ContainerRules) -> list[str]:
        """The class that a call makes, or those of the calls that it chooses between."""
        arguments = self.source.arguments(call)
        if arguments and (made := self.source.class_in(arguments[0].node)):
            return [made]
        if given := self._given_by_function(call):
            return [given]
        inner = (each.node for each in arguments if each.node.type == "call")
        return [
            name for each in inner if self.source.called(each)[0] in rules.attributes for name in self._named_in(each, rules)
        ]

    def _handed_in(self, call: Any, rules: ContainerRules) -> tuple[tuple[str, str], ...] | None:
        """What a call hands to the class that it makes; None where more is said in a way that is not read."""
        if any(each.type in ("dictionary_splat", "list_splat") for each in self.source.listed(call)):
            return None
        if next(self.source.chained(call), None) is not None:
            return None
        found = []
        for at, each in enumerate(self.source.arguments(call)[1:]):
            inner = self._named_in(each.node, rules) if each.node.type == "call" else []
            text = self.source.tree.of(each.node)
            text = next((head for word in rules.delegates if (head := text.removesuffix(f".{word}")) != text), text)
            key = inner[0] if len(inner) == 1 else text.rpartition(".")[2] if re.fullmatch(r"[\w.]+", text) else ""
            found.append((each.name or str(at), key))
        return tuple(found)

    def _has_base(self, declared: DeclaredType, rules: ContainerRules) -> bool:
        wanted = set(map(simple_name, rules.bases))
        return any(simple_name(each) in wanted for each in (*declared.extends, *declared.implements))
