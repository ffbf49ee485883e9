"""What speaks for the layer of a package: its name, what its classes do and show, and where it stands in the graph.

The weights were set by hand on readings of fourteen public codebases, and held against others that were read beforehand.
"""

from __future__ import annotations

from functools import cached_property
from typing import NamedTuple

from isodesm.catalogue import shared_catalogue
from isodesm.inference.effect_kinds import EFFECT_WORDS, GRAVITY
from isodesm.inference.effects import Effects
from isodesm.inference.evidence import DATA, SHAPE
from isodesm.inference.layers.order import positions
from isodesm.inference.layers.packages import Packages, dividing
from isodesm.inference.roles import Roles
from isodesm.linking.bonds import KIND_NUMBER, BondTable
from isodesm.linking.symbols import Symbols

NAMED, ALSO_NAMED, HINTED, NAMED_SHARED, BELOW_SHARED = 5.0, 3.0, 2.0, 3.0, 1.5
"""What a segment is worth that names a layer: the one that divides the tree, a further one, one that may mean other things,
the last one if it names what all share, which helpers inside a layer are called by, too, and one before the last."""
SHOWN, PRESENTS, STARTS = 6.0, 4.0, 2.0
"""What it is worth if all classes put visual parts together, are presentation by their role, or start the program."""
REACHES, KEEPS, NOTHING_OUTSIDE = 4.0, 3.0, -1.2
"""If all reach a device or store, if all are gateways or repositories; and what stands against it from the start."""
HOLDS, DECLARES, COMPUTES, NO_DATA = 3.5, 1.5, 1.2, -1.0
"""If all are data, abstractions, rules without state; and what stands against it from the start."""
SERVES, COMPUTES_TOO, USUAL = 3.0, 0.8, 1.0
"""If all are services, rules without state; and what speaks for the application from the start, as the general case."""
HELPS, CAME_ALONG = 2.0, 3.0
"""If all have static members only; if the package knows nothing of the rest, and has another origin."""
INNER, OUTER, BELOW = 2.0, 1.5, 1.0
"""What the place in the order of packages is worth at its ends, for the domain, the presentation and what is shared."""
FEW = 1.5
"""What is done by few classes says little: n classes count n / (n + FEW)."""
THIN = 0.4
"""What a class counts that is taken for data since little speaks for anything else."""
LEAST_SHOWN = 0.25
"""Share of classes that must put visual parts together before that counts: most programs tell somebody something somewhere."""
OUTSIDE = frozenset(("network", "database", "process", "file"))
_PUT_TOGETHER = frozenset(KIND_NUMBER[kind] for kind in ("extends", "implements", "creation", "static-call", "field"))


class Reason(NamedTuple):
    """What speaks for a layer (above zero) or against it, in words; '' for what is so from the start."""

    layer: str
    points: float
    said: str
    is_hint: bool = False
    """Whether it may well mean something else, so that nothing is sure by it."""


class PackageEvidence:
    """Adds up what speaks for each layer, a package at a time."""

    def __init__(self, packages: Packages, symbols: Symbols, bonds: BondTable, roles: Roles, effects: Effects) -> None:
        self.packages, self.symbols, self.bonds, self.roles, self.effects = packages, symbols, bonds, roles, effects
        self._positions = positions(range(len(packages.names)), packages.arcs)
        entries = shared_catalogue().layers
        self._named = {segment: entry.name for entry in entries for segment in entry.segments.split()}
        self._hinted = {segment: entry.name for entry in entries for segment in entry.hints.split()}

    def of(self, package: int) -> list[Reason]:
        """What speaks for and against each layer, the heaviest first."""
        types = self.packages.types.get(package, [])
        found = [*self._by_name(package), *self._by_place(package)]
        if types:
            found += self._by_content(types)
        if package in self.packages.strangers:
            found.append(Reason("shared", CAME_ALONG, "knows nothing of the rest, which knows it: a library that came along"))
        return sorted(found, key=lambda each: (-each.points, each.layer, each.said))

    def is_named(self, package: int) -> bool:
        """Whether a segment of its name speaks for a layer."""
        return any(each.lower() in self._named for each in self.packages.segments[package])

    @cached_property
    def _divided(self) -> dict[tuple[str, ...], int]:
        return dividing(self.packages.segments, self._named)

    def _by_name(self, package: int) -> list[Reason]:
        """By the segment that divides the tree, beside which lie the most other layers; helpers inside a layer belong to it."""
        path = self.packages.segments[package]
        named = [
            (depth, segment, self._named[segment.lower()])
            for depth, segment in enumerate(path)
            if segment.lower() in self._named
        ]
        inner = [each for each in named if each[2] != "shared"]
        found = []
        if inner:
            first = min(inner, key=lambda each: (-self._divided[tuple(path[: each[0]])], -each[0], each[1]))
            found.append(Reason(first[2], NAMED, f"is named `{first[1]}`"))
            others = {each[2]: each[1] for each in inner if each[2] != first[2]}
            found += [Reason(layer, ALSO_NAMED, f"is named `{segment}`, too") for layer, segment in sorted(others.items())]
        elif named:
            depth, segment, _ = named[-1]
            own = depth == len(path) - 1
            said = f"is named `{segment}`" if own else f"lies below `{segment}`"
            found.append(Reason("shared", NAMED_SHARED if own else BELOW_SHARED, said, is_hint=not own))
        hints = [segment for segment in path if segment.lower() in self._hinted]
        if hints:
            found.append(
                Reason(self._hinted[hints[-1].lower()], HINTED, f"is named `{hints[-1]}`, which may mean that", is_hint=True)
            )
        return found

    def _by_place(self, package: int) -> list[Reason]:
        place, users, used = self._positions[package], self.packages.users[package], self.packages.used[package]
        known = f"known by {users} of the other packages, and knows {used}"
        return [
            Reason("domain", INNER * (0.5 - place), f"stands inside: {known}"),
            Reason("shared", BELOW * (0.5 - place), f"stands inside: {known}"),
            Reason("presentation", OUTER * (place - 0.5), f"stands outside: {known}"),
        ]

    def _by_content(self, types: list[int]) -> list[Reason]:
        count, roles = len(types), [self.roles[number] for number in types]
        weight = count / (count + FEW) / count

        def of_role(*names: str) -> list[str]:
            return [each.name for each in roles if each.name in names]

        shown = sum(1 for number in types if number in self._shows)
        outside = [{use.effect for use in self.effects.used.get(number, ()) if not use.sort} & OUTSIDE for number in types]
        reaching = sorted({effect for effects in outside for effect in effects}, key=GRAVITY.__getitem__)
        data = sum(
            1.0 if each.evidence[0].strength >= SHAPE else THIN for each in roles if each.name in DATA | {"exception", "part"}
        )
        rules, plain = len(of_role("algorithm")), sum(1 for number in types if self.symbols.is_module(number)) < count
        reached, kept = sum(map(bool, outside)), len(of_role("gateway", "repository"))
        declared, serving = len(of_role("abstraction")), len(of_role("service", "factory"))
        starting, presenting = len(of_role("composition-root")), len(of_role("presentation"))
        helping = len(of_role("utility")) if plain else 0

        def said(many: float, what: str) -> str:
            return f"{many:g} of {count} classes {what}"

        words = ", ".join(EFFECT_WORDS[effect] for effect in reaching[:2])
        weighed = [
            Reason("presentation", SHOWN * shown * (shown >= LEAST_SHOWN * count), said(shown, "put visual parts together")),
            Reason("presentation", PRESENTS * presenting, said(presenting, "show something or answer requests")),
            Reason("presentation", STARTS * starting, said(starting, "start the program")),
            Reason("infrastructure", REACHES * reached, said(reached, f"reach {words}")),
            Reason("infrastructure", KEEPS * kept, said(kept, "are gateways or repositories")),
            Reason("domain", HOLDS * data, said(round(data), "hold data")),
            Reason("domain", DECLARES * declared, said(declared, "are abstractions")),
            Reason("domain", COMPUTES * rules, said(rules, "compute without state or effects")),
            Reason("application", SERVES * serving, said(serving, "are services or factories")),
            Reason("application", COMPUTES_TOO * rules, said(rules, "compute without state or effects")),
            Reason("shared", HELPS * helping, said(helping, "have static members only")),
        ]
        usual = [
            Reason("infrastructure", NOTHING_OUTSIDE, ""),
            Reason("domain", NO_DATA, ""),
            Reason("application", USUAL, ""),
        ]
        return [Reason(each.layer, each.points * weight, each.said) for each in weighed if each.points] + usual

    @cached_property
    def _shows(self) -> frozenset[int]:
        """Types that extend, make or keep parts of what is seen on a screen; pictures are read by others, too."""
        table, catalogues, externals = self.bonds, self.symbols.catalogues, self.bonds.externals.strings
        known: dict[tuple[int, str], bool] = {}
        found = set()
        for kind, source, target in zip(table.kind, table.source, table.target, strict=True):
            if kind not in _PUT_TOGETHER or target >= 0 or not 0 <= -1 - target < len(externals):
                continue
            key = target, self.symbols.files[self.symbols.file_of[source]].language
            if key not in known:
                known[key] = catalogues.is_widget(externals[-1 - target], key[1])
            if known[key]:
                found.add(source)
        return frozenset(found)
