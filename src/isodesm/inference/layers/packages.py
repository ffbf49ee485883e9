"""The packages or folders of a tree, the segments of their names, and who knows whom among them."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping
from functools import cached_property

from isodesm.inference.roles import Roles
from isodesm.linking.bonds import KINDS, BondTable
from isodesm.linking.symbols import Symbols

SHARED_BY = 0.9
"""Share of the files that must lie below a folder or package for it to be the root that all share."""
_DOMAINS = frozenset("com org net edu gov io dev app info de uk fr nl ch at eu us jp cn ru br it es se fi pl cz".split())
"""First segments of reversed domain names."""


def package_of(symbols: Symbols, file: int) -> str:
    """The package of a file, else its folder."""
    facts = symbols.files[file]
    return facts.package or facts.path.rpartition("/")[0]


def segments_of(symbols: Symbols, file: int) -> list[str]:
    """The segments of the package of a file, else those of its folders."""
    facts = symbols.files[file]
    return re.split(r"[.\\]", facts.package) if facts.package else facts.path.split("/")[:-1]


def dividing(paths: Iterable[list[str]], by_segment: Mapping[str, object]) -> dict[tuple[str, ...], int]:
    """Path to the number of layers that the names of what lies directly in it speak for."""
    found: dict[tuple[str, ...], set[object]] = defaultdict(set)
    for path in {tuple(path) for path in paths}:
        for depth, segment in enumerate(path):
            if (layer := by_segment.get(segment.lower())) is not None:
                found[path[:depth]].add(layer)
    return {parent: len(layers) for parent, layers in found.items()}


class Packages:
    """Packages under numbers in order of name; classes of tests count nowhere."""

    def __init__(self, symbols: Symbols, bonds: BondTable, roles: Roles) -> None:
        self.symbols, self.bonds = symbols, bonds
        keys = [package_of(symbols, file) for file in range(len(symbols.files))]
        self.names = sorted(set(keys))
        numbers = {name: number for number, name in enumerate(self.names)}
        self.of_file = [numbers[key] for key in keys]
        self.of_type = [self.of_file[file] for file in symbols.file_of]
        self.is_production = [roles.name(number) != "test" and symbols.is_shown(number) for number in range(len(symbols))]
        self.types: dict[int, list[int]] = defaultdict(list)
        """Package to its production types: classes, or modules where it has no class."""
        for number, package in enumerate(self.of_type):
            if self.is_production[number] and not symbols.is_module(number):
                self.types[package].append(number)
        with_classes = frozenset(self.types)
        for number, package in enumerate(self.of_type):
            if self.is_production[number] and symbols.is_module(number) and package not in with_classes:
                self.types[package].append(number)

    @cached_property
    def arcs(self) -> dict[tuple[int, int], int]:
        """(package, package) to the number of pairs of classes of which the one knows the other."""
        table, of_type, is_production = self.bonds, self.of_type, self.is_production
        pairs: dict[tuple[int, int], set[tuple[int, int]]] = defaultdict(set)
        for kind, source, target in zip(table.kind, table.source, table.target, strict=True):
            if kind < len(KINDS) and target >= 0 and of_type[source] != of_type[target]:
                if is_production[source] and is_production[target]:
                    pairs[of_type[source], of_type[target]].add((source, target))
        return {pair: len(found) for pair, found in sorted(pairs.items())}

    @cached_property
    def users(self) -> Counter[int]:
        """How many packages know each."""
        return Counter(target for _, target in self.arcs)

    @cached_property
    def used(self) -> Counter[int]:
        """How many packages each knows."""
        return Counter(source for source, _ in self.arcs)

    @cached_property
    def segments(self) -> list[list[str]]:
        """The segments of each package's name, '' for those that nearly all share: a domain, an organisation, a product are no
        layers, whatever they are called."""
        symbols = self.symbols
        paths = [segments_of(symbols, file) for file in range(len(symbols.files))]
        shared = _shared(paths)
        found: list[list[str]] = [[] for _ in self.names]
        for file, path in enumerate(paths):
            begin = len(shared) if path[: len(shared)] == shared else 0
            if begin < 2 and len(path) > 2 and path[0] in _DOMAINS:
                begin = 2
            found[self.of_file[file]] = [""] * begin + path[begin:]
        return found

    @cached_property
    def strangers(self) -> frozenset[int]:
        """Packages of another origin than most of the tree, by the first segments of their names, that know nothing of it and
        are known: libraries that came along."""
        roots = [_root(name) for name in self.names]
        sizes: Counter[str] = Counter()
        for package, types in self.types.items():
            sizes[roots[package]] += len(types)
        if not sizes:
            return frozenset()
        own = max(sizes, key=lambda root: (sizes[root], root))
        knowing = {roots[source] for source, target in self.arcs if roots[target] == own}
        known = {roots[target] for source, target in self.arcs if roots[source] != roots[target]}
        return frozenset(
            package for package, root in enumerate(roots) if root and root != own and root in known and root not in knowing
        )


def _shared(paths: list[list[str]]) -> list[str]:
    shared: list[str] = []
    while True:
        below = Counter(path[len(shared)] for path in paths if path[: len(shared)] == shared and len(path) > len(shared))
        segment, count = below.most_common(1)[0] if below else ("", 0)
        if not below or count < SHARED_BY * len(paths):
            return shared
        shared.append(segment)


def _root(name: str) -> str:
    """The origin of a package by a reversed domain name; '' for names that tell none."""
    parts = name.split(".")
    return ".".join(parts[:2]) if len(parts) > 2 and parts[0] in _DOMAINS else ""
