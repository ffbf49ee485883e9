"""Registrations that follow from a rule: scans of an assembly or a folder, and loops over all classes."""

from __future__ import annotations

import fnmatch
import posixpath
import re
from collections.abc import Iterator
from typing import NamedTuple

from isodesm.catalogue.containers import ContainerRules
from isodesm.facts.definitions import Definition
from isodesm.facts.languages import LANGUAGES, dialect_of
from isodesm.facts.records import Site
from isodesm.inference.registrations.branches import shortened
from isodesm.inference.registrations.families import Family
from isodesm.inference.registrations.registration import Registration
from isodesm.inference.registrations.source import Source
from isodesm.linking.hierarchy import Hierarchy
from isodesm.linking.symbols import Symbols

SHOWN = 100
"""Characters of a rule that are shown."""
_LOOPS = re.compile(r"for|foreach|enhanced_for|do_statement|while")
_CHOSEN = re.compile(r"\bWhere\s*\(|=>\s*\w+\.(?!Name\b)|\bIf\s*\(")
"""A choice by something else than names and bases."""


class _Asked(NamedTuple):
    """What a rule asks of a class."""

    ends: list[str]
    begins: list[str]
    bases: list[str]


class Rules:
    """The rules in one file."""

    def __init__(self, source: Source, families: tuple[Family, ...]) -> None:
        self.source, self.families = source, families
        self.common = source.symbols.catalogues.of(source.facts.language).registrations

    def registrations(self) -> Iterator[Registration]:
        """A registration for each class that a rule matches; one of nothing for a rule that can't be followed."""
        words = {word for _, rules in self.families for word in (*rules.scans, *rules.calls)}
        for site in self.source.content.sites:
            if site.name not in words or site.kind != "call":
                continue
            for family, rules in self.families:
                if site.name in rules.scans and self.source.is_told(site, rules):
                    yield from self._of_scan(site, family, rules)
                    break
                if site.in_loop and site.name in rules.calls and family and self.source.is_told(site, rules):
                    yield from self._of_loop(site, family, rules)
                    break

    def _of_scan(self, site: Site, family: str, rules: ContainerRules) -> Iterator[Registration]:
        node = self.source.node_of(site)
        for call in self.source.chained(node):
            node = call
        text = self.source.tree.of(node)
        words = re.findall(r"\w+", text)
        lifetime = next((rules.lifetimes[each] for each in reversed(words) if each in rules.lifetimes), rules.scans[site.name])
        if self.source.is_modular or dialect_of(self.source.facts.language).scans_leave_code:
            yield self._open(site, family, text)
        else:
            yield from self._matching(site, family, rules, text, lifetime)

    def _of_loop(self, site: Site, family: str, rules: ContainerRules) -> Iterator[Registration]:
        """A loop in which what is registered stands in variables."""
        node = self.source.node_of(site)
        if any(self.source.class_in(each.node) or self.source.created_in(each.node) for each in self.source.arguments(node)):
            return
        if site.generics or not self.source.arguments(node):
            return
        loop = node
        while loop is not None and not _LOOPS.match(loop.type):
            loop = loop.parent
        text = self.source.tree.of(loop) if loop is not None else ""
        if any(re.search(rf"\b{each}\b", text) for each in self.common.kinds):
            yield from self._matching(site, family, rules, text, rules.calls[site.name])
        elif rules.imports and not rules.always:
            yield self._open(site, family, text.partition("{")[0] or self.source.tree.of(node))

    def _open(self, site: Site, family: str, text: str) -> Registration:
        return Registration(
            abstraction="",
            implementation="",
            lifetime="",
            how="rule",
            family=family,
            rule=shortened(text, SHOWN),
            **self.source.place(site.place.line, site.place.column),
        )

    def _matching(self, site: Site, family: str, rules: ContainerRules, text: str, lifetime: str) -> Iterator[Registration]:
        asked = self._asked(text)
        if not any(asked) and _CHOSEN.search(text):
            yield self._open(site, family, text)
            return
        words = set(re.findall(r"\w+", text))
        how = next(
            (
                each
                for each in ("interfaces", "matching", "itself")
                if words & {*getattr(rules, each), *getattr(self.common, each)}
            ),
            "bases" if asked.bases else "itself",
        )
        for number in _concrete(self.source.symbols, {self.source.facts.language}):
            if not self._fits(number, asked):
                continue
            own = self.source.symbols.names[number]
            for abstraction in self._served(number, how, asked):
                yield Registration(
                    abstraction=abstraction,
                    implementation=own,
                    lifetime=lifetime,
                    how="rule",
                    family=family,
                    rule=shortened(text, SHOWN),
                    **self.source.place(site.place.line, site.place.column),
                )

    def _asked(self, text: str) -> _Asked:
        ends, begins = (
            re.findall(rf"\b(?:{'|'.join(words)})\(\s*\"([^\"]+)\"", text) if words else []
            for words in (self.common.name_ends, self.common.name_begins)
        )
        named = "|".join(self.common.of_base)
        bases = [
            one or other
            for one, other in re.findall(rf"\b(?:{named})\s*(?:<\s*([\w.]+)[^()]*>\s*\(|\(\s*typeof\(\s*([\w.]+))", text)
        ]
        bases += re.findall(r"typeof\(\s*([\w.]+)[^()]*\)\.(?:IsAssignableFrom)", text)
        return _Asked(ends, begins, bases if named else [])

    def _fits(self, number: int, asked: _Asked) -> bool:
        name = self.source.symbols.types[number].name
        if asked.ends and not name.endswith(tuple(asked.ends)):
            return False
        if asked.begins and not name.startswith(tuple(asked.begins)):
            return False
        return not asked.bases or any(self.source.symbols.types[each].name in asked.bases for each in self._line(number))

    def _line(self, number: int) -> list[int]:
        return self.source.hierarchy.ancestors(number)

    def _served(self, number: int, how: str, asked: _Asked) -> list[str]:
        """What a matching class serves by the rule."""
        symbols, name = self.source.symbols, self.source.symbols.types[number].name
        interfaces = [each for each in self._line(number) if symbols.types[each].kind == "interface"]
        if how == "interfaces":
            return [symbols.names[each] for each in interfaces]
        if how == "matching":
            return [symbols.names[each] for each in interfaces if symbols.types[each].name in (f"I{name}", name)]
        if how == "bases":
            return [symbols.names[each] for each in self._line(number) if symbols.types[each].name in asked.bases]
        return [symbols.names[number]]


def of_folder(hierarchy: Hierarchy, given: Definition) -> Iterator[Registration]:
    """A registration for each class below a folder that a definition names, but for what it leaves out."""
    symbols = hierarchy.symbols
    home = posixpath.dirname(given.path)
    folder = posixpath.normpath(posixpath.join(home, given.resource.partition("*")[0]))
    left_out = [posixpath.normpath(posixpath.join(home, each)) for each in given.exclude]
    for number in _concrete(symbols, {each for each in LANGUAGES if dialect_of(each).registers_in_arrays}):
        path, own = symbols.path(number), symbols.names[number]
        if not own.startswith(given.id.lstrip("\\")) or not (folder == "." or path.startswith(f"{folder}/")):
            continue
        if any(path.startswith(f"{each}/") or fnmatch.fnmatch(path, each) or path == each for each in left_out):
            continue
        yield Registration(
            abstraction=own,
            implementation=own,
            lifetime="singleton",
            how="rule",
            file=given.path,
            line=given.line,
            column=given.column,
            family="definitions",
            rule=f"{given.id} in {given.resource}" + (f", but {', '.join(given.exclude)}" if given.exclude else ""),
        )


def _concrete(symbols: Symbols, languages: set[str]) -> Iterator[int]:
    """The classes of some languages that can be made."""
    for number, declared in enumerate(symbols.types):
        if declared.kind in ("class", "record") and not declared.is_abstract and symbols.is_shown(number):
            if symbols.files[symbols.file_of[number]].language in languages and "static" not in declared.modifiers.words:
                yield number
