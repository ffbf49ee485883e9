"""Registrations made by calls, and by what is chained to them."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import Any

from isodesm.catalogue.containers import ContainerRules
from isodesm.facts import typetext
from isodesm.facts.records import Site
from isodesm.inference.registrations.arguments import Arguments, Given
from isodesm.inference.registrations.branches import condition_at
from isodesm.inference.registrations.families import Family
from isodesm.inference.registrations.registration import Registration
from isodesm.inference.registrations.source import CONTAINER_LIKE, Argument, Source
from isodesm.inference.registrations.told import Told
from isodesm.linking.symbols import simple_name

_FUNCTION = re.compile(r"function|lambda|method_decl|method_def|constructor|local_function")
_REGISTERS = re.compile(r"bind|register|add|apply|configure|provide|supply|install|Add|Register|Bind|Configure|Use")
"""How functions begin that register something."""


class Calls:
    """The calls of one file."""

    def __init__(self, source: Source, families: tuple[Family, ...], offers: Mapping[int, str], proven: frozenset[str]) -> None:
        self.source, self.offers, self.proven = source, offers, proven
        self.families = tuple(each for each in families if self._is_spoken(*each))
        self.arguments = Arguments(source)
        self.words = frozenset(word for _, rules in self.families for word in rules.calls)
        self._spoken = self.words | {word for _, rules in self.families for word in rules.adders}
        self._spoken |= {word for _, rules in self.families if rules.descriptors for word in rules.lifetimes}
        self._described = any(rules.descriptors for _, rules in self.families)
        self._helping = next((each for each in self.families if each[0] and each[1].calls), None)
        self.seen: set[tuple[int, str, str]] = set()

    def _is_spoken(self, family: str, rules: ContainerRules) -> bool:
        """Whether a file can hold sentences of a family that is not proven: a word of what serves stands in it."""
        spelt = self.source.is_modular and rules.always and rules.calls and rules.implementations
        if not spelt or family in self.proven:
            return True
        return re.search(rf"\.(?:{'|'.join(rules.implementations)})\s*[<(]".encode(), self.source.text) is not None

    def registrations(self) -> Iterator[Registration]:
        """What the calls register, in order of place; a list that is begun only where the file adds nothing to it."""
        found = list(self._all())
        filled = {each.abstraction for each in found if each.order == "list" and each.implementation}
        for each in found:
            if each.order != "list" or each.implementation or each.made or each.abstraction not in filled:
                yield each

    def _all(self) -> Iterator[Registration]:
        for index, site in enumerate(self.source.content.sites):
            if site.kind not in ("call", "creation"):
                continue
            if index in self.offers:
                yield from self._of_call(site, "", self.families[0][1], self.offers[index])
                continue
            said = self._described if site.kind == "creation" else site.name in self._spoken
            for family, rules in self.families if said else ():
                lifetime = self._usual(site, rules)
                if lifetime is None or not self.source.is_told(site, rules):
                    continue
                found = list(self._of_call(site, family, rules, lifetime))
                yield from found
                if found:
                    break
            else:
                if self._helping and site.kind == "call" and _REGISTERS.match(site.name or site.text):
                    yield from self._of_helper(site, *self._helping)

    def _of_helper(self, site: Site, family: str, rules: ContainerRules) -> Iterator[Registration]:
        """A function of the program's own, or of a library, that is given a container, a name and what serves it."""
        if site.name in self.words or not self._is_given_a_container(site):
            return
        for found in self._of_call(site, family, rules, ""):
            pair = [self._number(found.abstraction), self._number(found.implementation)]
            known = pair[0] >= 0 and (pair[1] < 0 or pair[0] in self.source.hierarchy.ancestors(pair[1]))
            if known or (pair[0] < 0 <= pair[1]) or (found.id and pair[1] >= 0):
                yield found

    def _is_given_a_container(self, site: Site) -> bool:
        """Whether a call is made on a container, or has one among its first arguments."""
        last = site.text.replace("->", ".").rpartition(".")[2].lstrip("$")
        given = [each.strip(" {}$").partition(",")[0] for each in typetext.split_top(site.arguments)[:2]]
        on = bool(last) and CONTAINER_LIKE.search(last) is not None and not self._is_of_the_tree(site)
        return on or any(
            each in self.words or re.fullmatch(r"[\w.]*(?:context|container|services|builder|binder)", each) for each in given
        )

    def _is_of_the_tree(self, site: Site) -> bool:
        """Whether a call is made on an object whose class is in the tree, and so is read where it registers itself."""
        return self.source.values.chain(site.text, site).value.target >= 0

    def _usual(self, site: Site, rules: ContainerRules) -> str | None:
        """The lifetime that a call or creation gives by itself; None for one that does not register."""
        if site.kind == "creation":
            return "" if rules.descriptors and simple_name(site.text) in map(simple_name, rules.descriptors) else None
        if site.name in rules.calls and not rules.makers:
            return self.source.default_lifetime(rules) or rules.calls[site.name]
        if site.name in rules.adders and site.receiver < 0:
            return next(iter(rules.calls.values()), "")
        described = rules.descriptors and simple_name(site.text) in map(simple_name, rules.descriptors)
        return rules.lifetimes.get(site.name) if described else None

    # --- one call -----------------------------------------------------------------------------

    def _of_call(self, site: Site, family: str, rules: ContainerRules, lifetime: str) -> Iterator[Registration]:
        node = self.source.node_of(site)
        if rules.contextual and site.name == rules.contextual[0]:
            for whom, what, given, several in self._contextual(node, site, rules):
                yield Registration(
                    abstraction=what,
                    implementation=given,
                    lifetime=lifetime,
                    how="call",
                    family=family,
                    only_for=whom,
                    order="list" if several else "",
                    **self.source.place(site.place.line, site.place.column),
                )
            return
        told = self._added(node, site, rules, lifetime) or self._first(node, site, rules, Told(lifetime=lifetime))
        for call in self.source.chained(node):
            if self.source.called(call)[0] in rules.calls and rules.registers == "listed":
                break  # the next registration of the same sentence
            told, node = self._followed(call, rules, told), call
        if told.instance and not told.factory:
            told = replace(told, lifetime="singleton")
        if rules.adders and site.name in rules.calls and told.order == "list" and told.implementation in told.served:
            told = replace(told, implementation="")  # a list that is begun
        named = self._by_key(self._under(told, node, rules), family, rules)
        if named is not None:
            yield from self._registrations(named, node, site, family, rules)

    def _added(self, node: Any, site: Site, rules: ContainerRules, lifetime: str) -> Told | None:
        """What a list in a variable holds one more of; None where a call adds to none."""
        if site.name not in rules.adders or not site.text.isidentifier():
            return None
        before = self.source.text[: site.place.start]
        ends = {each.end() for each in re.finditer(rb"\b%s\s*+=\s*+" % site.text.encode(), before)}
        lists = (each for each in self.source.content.sites if each.place.start in ends and each.name in rules.lists)
        begun = max(lists, key=lambda each: each.place.start, default=None)
        if begun is None:
            return None
        told = self._first(self.source.node_of(begun), begun, rules, Told(lifetime=lifetime))
        given = self.source.arguments(node)
        key = self.source.tree.of(given[0].node).strip("\"'") if given and self.source.is_text(given[0].node) else ""
        return replace(told, order="list", implementation="", key=key)

    def _by_key(self, told: Told, family: str, rules: ContainerRules) -> Told | None:
        """What is registered under its key, where it is under that; None where nothing is that could be said."""
        if told.key and (not told.served or told.named_by_key):
            said = told.said or told.implementation or not rules.implementations
            if family and (family not in self.proven or not said):
                return None  # a key alone is what many other calls take
            told = replace(told, served=(told.key,))
        offered = bool(told.key) and (not family or bool(told.implementation))
        nothing = not told.served and not offered and (told.alias or not told.implementation)
        return None if nothing else told

    def _registrations(self, told: Told, node: Any, site: Site, family: str, rules: ContainerRules) -> Iterator[Registration]:
        """Each pair that was not said before at its place."""
        for abstraction, implementation in self._pairs(told):
            where = (site.place.line, abstraction, implementation)
            if where not in self.seen:
                self.seen.add(where)
                yield Registration(
                    abstraction=abstraction,
                    implementation=implementation,
                    lifetime=told.lifetime,
                    how="call",
                    id=told.key,
                    factory=told.factory,
                    alias=told.alias,
                    family=family,
                    order=told.order,
                    condition=told.condition,
                    made=told.made,
                    wraps=told.wraps,
                    only_for=told.only_for,
                    within=self._function_around(node),
                    **self._place(site, rules),
                )

    def _place(self, site: Site, rules: ContainerRules) -> dict[str, Any]:
        """Where a registration stands: its own call, where one sentence holds several."""
        named = self.source.node_of(site).child_by_field_name("name") if rules.registers == "listed" else None
        return self.source.place(site.place.line, site.place.column) if named is None else self.source.place_of(named)

    @staticmethod
    def _function_around(node: Any) -> int:
        """The line of the innermost function that holds a node; 0 outside all."""
        while node is not None and not _FUNCTION.search(node.type):
            node = node.parent
        return node.start_point[0] + 1 if node is not None else 0

    def _pairs(self, told: Told) -> list[tuple[str, str]]:
        """What is served, and by what: one pair each where a call names several classes for a list."""
        if told.order == "list" and told.listed:
            heads = [each for each in told.served if each not in told.listed]
            return [(heads[0] if heads else each, each) for each in told.listed]
        return [(each, told.implementation) for each in self._served(told)]

    def _under(self, told: Told, node: Any, rules: ContainerRules) -> Told:
        """With the branches around a call, and with the order that a call around it gives."""
        if not told.condition:
            condition = condition_at(self.source.tree, node)
            asked = rules.asks and re.match(rf"!\s*[\w.$>\-]*\b(?:{'|'.join(rules.asks)})\s*\(", condition)
            told = replace(told, order="first") if asked else replace(told, condition=condition)
        above = node.parent
        while above is not None and above.type in ("argument", "argument_list", "arguments"):
            above = above.parent
        if above is not None and above.child_by_field_name("function") is not None:
            told = replace(told, order=_order(self.source.called(above)[0], rules) or told.order)
        return told

    def _served(self, told: Told) -> list[str]:
        """The names that are served."""
        served = list(told.served)
        if told.interfaces and (number := self._number(told.implementation)) >= 0:
            served = [] if served == [told.implementation] else served
            served += [
                self.source.symbols.names[base]
                for base, _ in self.source.hierarchy.bases(number)
                if base >= 0 and self.source.symbols.types[base].kind == "interface"
            ]
        if told.itself and told.implementation:
            served.append(told.implementation)
        return list(dict.fromkeys(served)) or [told.implementation]

    def _number(self, name: str) -> int:
        return self.source.symbols.find(name, self.source.file)[0] if name else -1

    def _contextual(self, node: Any, site: Site, rules: ContainerRules) -> list[tuple[str, str, str, bool]]:
        """(for whom, what, with what, whether beside others) of a sentence with three calls."""
        said = {}
        for call in (node, *self.source.chained(node)):
            word, arguments = self.source.called(call)[0], self.source.arguments(call)
            if word in rules.contextual and arguments:
                kind, given = self.arguments.read(arguments[0], rules.contextual[2], rules, True)
                said[rules.contextual.index(word)] = given if kind in ("class", "made", "instance") else []
        whom, what, given = (said.get(index, []) for index in range(3))
        return [(each, what[0], one, len(given) > 1) for each in whom if what for one in given]

    def _first(self, node: Any, site: Site, rules: ContainerRules, told: Told) -> Told:
        """What the registering call itself says."""
        types = [each for text in typetext.arguments(site.generics) if (each := self._type(text, node))]
        arguments = self.source.arguments(node)
        told = self._with_arguments(node, arguments, site.name, rules, told, types)
        word = site.name
        if site.text.rpartition(".")[2] in rules.list_holders:
            told = replace(told, order="list")
        told = replace(
            told,
            order=_order(word, rules) or told.order,
            alias=told.alias or word in rules.aliases,
            wraps=word in rules.wraps,
            condition=told.condition or (word if word in rules.conditions else ""),
        )
        return replace(told, lifetime=self.arguments.lifetime(arguments, rules) or told.lifetime)

    def _type(self, text: str, node: Any) -> str:
        """The qualified name of a type argument, its own arguments as they are written."""
        name = self.source.type_named(text, node.start_byte)
        given = typetext.arguments(text) if "<" in text else ()
        return f"{name}<{', '.join(given)}>" if name and given else name

    def _with_arguments(
        self, node: Any, arguments: list[Argument], word: str, rules: ContainerRules, told: Told, types: list[str]
    ) -> Told:
        """What the arguments of the call add to its type arguments."""
        if word in rules.aliases and len(arguments) == 2:
            return self._alias(arguments, word, rules, told)
        given = self.arguments.read_all(arguments, word, rules, Given(list(types), told.key), self._is_handed_on)
        served, made = given.served, given.made
        if made and not given.alias and len(made) == 1 and not served:
            served.append(made[0])
        implementation = made[0] if made else served[-1] if served else ""
        together = word in rules.together
        instances = word in rules.instances and not given.factory and bool(arguments) and not types[1:]
        return replace(
            told,
            served=tuple(served if together else served[-1:] if word in rules.mapped else served[:1]),
            named_by_key=bool(given.key) and not types and len(served) == 1 and word not in rules.keyed,
            listed=tuple(served[len(types) :]) if types or together else (),
            implementation=implementation if made or len(served) != 1 or not given.factory else "",
            key=given.key,
            factory=given.factory,
            instance=given.instance or instances,
            alias=given.alias,
            made=tuple(made) if len(made) > 1 else (),
        )

    def _alias(self, arguments: list[Argument], word: str, rules: ContainerRules, told: Told) -> Told:
        """A name, and what it stands for, in the order of the family."""
        nodes = [each.node for each in arguments]
        name, meant = reversed(nodes) if word in rules.meant_first else nodes
        if not all(self.source.class_in(each) or self.source.is_text(each) for each in nodes):
            return told  # names that are in variables
        texts = [self.source.class_in(each) or self.source.tree.of(each).strip("\"'") for each in (name, meant)]
        known = bool(self.source.class_in(name))
        return replace(told, served=(texts[0],), implementation=texts[1], key="" if known else texts[0], alias=True)

    def _is_handed_on(self, node: Any) -> bool:
        made = self.source.made_by(node)
        return len(made) == 1 and made[0].alias

    # --- what is chained to it ------------------------------------------------------------------

    def _followed(self, call: Any, rules: ContainerRules, told: Told) -> Told:
        """What a chained call adds."""
        word, generics = self.source.called(call)
        arguments = self.source.arguments(call)
        types = [each for text in typetext.arguments(generics) if (each := self._type(text, call))]
        told = replace(
            told,
            lifetime=self.arguments.lifetime(arguments, rules) or rules.lifetimes.get(word, told.lifetime),
            order=_order(word, rules) or told.order,
            itself=told.itself or word in rules.itself,
            interfaces=told.interfaces or word in rules.interfaces,
            condition=self._said(call, word) if word in rules.conditions else told.condition,
        )
        told = self._narrowed(word, rules, told, types, arguments)
        if word in rules.parents and arguments and not told.implementation and self.source.is_text(arguments[0].node):
            return replace(told, implementation=self.source.tree.of(arguments[0].node).strip("\"'"), said=True)
        if word in rules.providers:
            made = types or self._classes_in(arguments)
            given = self.source.given_by(self._number(made[-1]), rules.providers[word]) if made else ""
            return replace(told, implementation=given, factory=True, said=True)
        if word in rules.implementations:
            return self._served_by(arguments, word, rules, told, types)
        if word in rules.abstractions:
            named = types or self._classes_in(arguments)
            kept = () if told.served == (told.implementation,) else told.served
            return replace(told, served=tuple(dict.fromkeys((*kept, *named))))
        return told

    def _classes_in(self, arguments: list[Argument]) -> list[str]:
        return [found for each in arguments if (found := self.source.class_in(each.node))]

    def _narrowed(self, word: str, rules: ContainerRules, told: Told, types: list[str], arguments: list[Argument]) -> Told:
        """For whom, under which key and how long something is registered, as far as a chained call says so."""
        first = self.source.tree.of(arguments[0].node) if arguments else ""
        if word in rules.consumers:
            named = types or self._classes_in(arguments)
            told = replace(told, only_for=named[0] if named else "", condition="" if named else told.condition)
        if word in rules.keys and types:
            told = replace(told, served=tuple(types))
        if word in rules.keys and arguments:
            texts = re.findall(r"[\"']([^\"']+)[\"']", first)
            mark = simple_name(first.removesuffix(".class")) if first.endswith(".class") else ""  # one of the tree's own
            told = replace(told, key=texts[0] if texts else mark or first)
        if word in rules.unshared and first.lower() == "false":
            told = replace(told, lifetime="transient")
        return replace(told, factory=True) if word in rules.factories else told

    def _said(self, call: Any, word: str) -> str:
        listed = ", ".join(self.source.tree.of(each.node) for each in self.source.arguments(call))
        return " ".join(f"{word}({listed})".split())[:80]

    def _served_by(self, arguments: list[Argument], word: str, rules: ContainerRules, told: Told, types: list[str]) -> Told:
        """What a chained call names as serving."""
        served = types[-1:]
        alias, factory, made = word in rules.aliases, False, []
        instance = word in rules.instances and bool(arguments)
        for each in arguments:
            kind, given = self.arguments.read(each, word, rules, True)
            if kind in ("class", "instance"):
                served = given
                instance = instance or kind == "instance"
            elif kind == "made":
                made, factory = given, True
                alias = alias or self._is_handed_on(each.node)
        if not arguments and not types:
            served = list(told.served[:1])  # it serves itself
        elif not served and not made and not instance:
            factory = True  # a maker in a variable
        return replace(
            told,
            said=True,
            implementation=(made or served or [""])[0],
            factory=factory,
            alias=alias,
            instance=instance,
            made=tuple(made) if len(made) > 1 else (),
        )


def _order(word: str, rules: ContainerRules) -> str:
    if word in rules.lists:
        return "list"
    if word in rules.first:
        return "first"
    return "replaces" if word in rules.replacing else ""
