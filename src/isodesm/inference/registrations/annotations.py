"""Registrations by marks: on classes, and on methods whose results are served."""

from __future__ import annotations

import re
from collections.abc import Iterator

from isodesm.catalogue.containers import ContainerRules
from isodesm.facts.records import Annotation, DeclaredType, Member
from isodesm.inference.qualifiers import qualifier_of
from isodesm.inference.registrations.families import Family
from isodesm.inference.registrations.registration import Registration
from isodesm.inference.registrations.source import Source
from isodesm.linking.member_values import Scope
from isodesm.linking.symbols import simple_name


class Marks:
    """The marks of one file."""

    def __init__(self, source: Source, families: tuple[Family, ...]) -> None:
        self.source, self.families = source, families

    def registrations(self) -> Iterator[Registration]:
        """What marks register, in order of types."""
        for local, declared in enumerate(self.source.facts.types):
            own = self.source.name_of(self.source.values.names.type_number(local))
            if declared.kind != "interface":
                yield from self._of_type(declared, own)
            for position, member in enumerate(declared.members):
                if member.kind == "method":
                    yield from self._of_method(local, position, declared, member, own)

    def _of_type(self, declared: DeclaredType, own: str) -> Iterator[Registration]:
        marks = declared.modifiers.annotations
        for mark in marks:
            name = simple_name(mark.name)
            for family, rules in self.families:
                if name not in rules.annotations or not _provides(mark, rules):
                    continue
                yield Registration(
                    abstraction=own,
                    implementation=own,
                    lifetime=self._lifetime(marks, rules, rules.annotations[name]),
                    how="annotation",
                    id=_key(marks, rules),
                    family=family,
                    condition=_condition(marks, rules),
                    proxied=_is_proxied(marks, rules),
                    **self.source.place(declared.place.line, declared.place.column),
                )
                return

    def _of_method(self, local: int, position: int, declared: DeclaredType, member: Member, own: str) -> Iterator[Registration]:
        marks = member.modifiers.annotations
        names = {simple_name(each.name) for each in marks}
        for family, rules in self.families:
            found = next((each for each in rules.methods if each in names), None)
            if found is None:
                continue
            result = self._named(member.type, local, position)
            made = self._made(member) or self._bound(local, position, member)
            yield Registration(
                abstraction=result,
                implementation=made[0] if made else "",
                lifetime=self._lifetime(marks, rules, rules.methods[found]),
                how="method",
                scope=own,
                id=_key(marks, rules)
                or qualifier_of(self.source.symbols, marks)
                or (member.name if rules.decides_by_type else ""),
                factory=member.body != (0, 0),
                order="list" if names.intersection(rules.lists) else "",
                family=family,
                condition=_condition((*marks, *declared.modifiers.annotations), rules),
                made=tuple(made) if len(made) > 1 else (),
                proxied=_is_proxied(marks, rules),
                **self.source.place(member.place.line, member.place.column),
            )
            return

    def _made(self, member: Member) -> list[str]:
        """The classes that a method may give back."""
        if member.body == (0, 0):
            return []
        node = self.source.tree.root.descendant_for_byte_range(member.body[0], max(member.body[1] - 1, member.body[0]))
        while node.parent is not None and node.child_by_field_name("body") is None:
            node = node.parent
        found = [each for result in self.source.returned(node) for each in self.source.made_by(result)]
        return list(dict.fromkeys(each.name for each in found if not each.alias))

    def _bound(self, local: int, position: int, member: Member) -> list[str]:
        """The class that a method without a body stands for: that of its one parameter."""
        if member.body != (0, 0) or len(member.parameters) != 1:
            return []
        named = self._named(member.parameters[0].type, local, position)
        return [named] if named else []

    def _named(self, text: str, local: int, position: int) -> str:
        """The qualified name of a type as a member writes it."""
        return self.source.name_of(self.source.values.of_text(text, Scope(self.source.file, local, position)).target)

    @staticmethod
    def _lifetime(marks: tuple[Annotation, ...], rules: ContainerRules, usual: str) -> str:
        for mark in marks:
            for word in (simple_name(mark.name), *re.findall(r"\w+", mark.arguments)):
                if word in rules.lifetimes:
                    return rules.lifetimes[word]
        return usual


def _provides(mark: Annotation, rules: ContainerRules) -> bool:
    return not rules.provides_itself or any(word in mark.arguments for word in rules.provides_itself)


def _condition(marks: tuple[Annotation, ...], rules: ContainerRules) -> str:
    found = (each for each in marks if simple_name(each.name) in rules.conditions)
    return " and ".join(f"{simple_name(each.name)}({each.arguments})" if each.arguments else each.name for each in found)


def _is_proxied(marks: tuple[Annotation, ...], rules: ContainerRules) -> bool:
    return any(
        word in rules.proxied for mark in marks for word in (simple_name(mark.name), *re.findall(r"\w+", mark.arguments))
    )


def _key(marks: tuple[Annotation, ...], rules: ContainerRules) -> str:
    """The name that a mark gives, as a text in its arguments."""
    for mark in marks:
        named = simple_name(mark.name) in (*rules.keys, *rules.annotations)
        found = re.match(r"\s*(?:value\s*=\s*)?[\"']([^\"']+)[\"']", mark.arguments) if named else None
        if found:
            return found.group(1)
    return ""
