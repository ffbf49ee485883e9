"""Layers as the settings tell them, else a proposal: package by package, then the classes that say more than their package."""

from __future__ import annotations

from collections import Counter, defaultdict
from typing import NamedTuple

from isodesm.catalogue import shared_catalogue
from isodesm.inference.effects import Effects
from isodesm.inference.evidence import BASE, SHAPE
from isodesm.inference.layers.evidence import PackageEvidence, Reason
from isodesm.inference.layers.model import LIKELY, OPEN, SURE, Layer, Layers, PackageLayer
from isodesm.inference.layers.order import ordered
from isodesm.inference.layers.packages import Packages, segments_of
from isodesm.inference.layers.told import told_layers
from isodesm.inference.roles import Roles
from isodesm.linking.bonds import KIND_NUMBER, BondTable
from isodesm.linking.symbols import Symbols
from isodesm.settings import Settings

AHEAD = {SURE: 1.5, LIKELY: 0.6}
"""How far the evidence for a layer must lie ahead of that for the next one."""
REASONS = 3
SEVERAL = 2
"""Layers by role from which the classes of a folder are those of a feature."""
ROLE_LAYERS = {
    "presentation": "presentation",
    "repository": "infrastructure",
    "gateway": "infrastructure",
    "service": "application",
    "entity": "domain",
}
"""Where a class belongs by its role, if its folders say nothing."""


class Placed(NamedTuple):
    """A tree whose classes are being placed: by number their layer (-1: none) and what spoke for it."""

    layers: tuple[Layer, ...]
    of_type: list[int]
    evidence: list[str]
    symbols: Symbols
    roles: Roles


def find_layers(symbols: Symbols, bonds: BondTable, roles: Roles, effects: Effects, settings: Settings) -> Layers:
    """Layers from the settings; otherwise proposed from names, from what classes do, and from who knows whom."""
    if settings.layers:
        return told_layers(symbols, settings.layers)
    entries = shared_catalogue().layers
    layers = tuple(Layer(entry.name, entry.ring) for entry in entries)
    packages = Packages(symbols, bonds, roles)
    if len(packages.types) < SEVERAL:
        return Layers((), (-1,) * len(symbols), ("",) * len(symbols))
    evidence = PackageEvidence(packages, symbols, bonds, roles, effects)
    proposed = {package: _proposed(packages, package, evidence.of(package)) for package in sorted(packages.types)}
    taken = _taken(proposed)
    numbers = {layer.name: index for index, layer in enumerate(layers)}
    of_package = {package: numbers[each.layer] for package, each in taken.items()}
    said = {package: f"package {each.name or '.'}: {'; '.join(each.reasons)}" for package, each in taken.items()}
    placed = Placed(
        layers,
        [of_package.get(package, -1) for package in packages.of_type],
        [said.get(package, "") for package in packages.of_type],
        symbols,
        roles,
    )
    named = frozenset(package for package in taken if evidence.is_named(package))
    _add_contracts(placed, bonds, packages, named)
    _add_by_role(placed, packages, named | {package for package, each in taken.items() if each.certainty == SURE})
    layers, order, wrong = ordered(layers, placed.of_type, bonds, symbols)
    sure = frozenset(
        number
        for number, package in enumerate(packages.of_type)
        if package in taken and taken[package].certainty == SURE and placed.of_type[number] == of_package[package]
    )
    shown = tuple(sorted(proposed.values(), key=lambda each: (-each.classes, each.name)))
    return Layers(layers, tuple(placed.of_type), tuple(placed.evidence), order, wrong, packages=shown, sure_types=sure)


def _proposed(packages: Packages, package: int, reasons: list[Reason]) -> PackageLayer:
    totals: dict[str, float] = defaultdict(float)
    for each in reasons:
        totals[each.layer] += each.points
    best, second = sorted(totals.items(), key=lambda each: (-each[1], each[0]))[:2]
    ahead = best[1] - second[1]
    hinted = sum(each.points for each in reasons if each.layer == best[0] and each.is_hint)
    certainty = SURE if ahead >= AHEAD[SURE] + hinted else LIKELY if ahead >= AHEAD[LIKELY] else OPEN
    said = [each.said for each in reasons if each.layer == best[0] and each.points > 0 and each.said]
    return PackageLayer(
        packages.names[package],
        best[0],
        certainty,
        len(packages.types[package]),
        tuple(said[:REASONS]) or ("nothing speaks for another",),
    )


def _taken(proposed: dict[int, PackageLayer]) -> dict[int, PackageLayer]:
    """The packages whose proposal counts: not those that are open, unless hardly anything would be left."""
    clear = {package: each for package, each in proposed.items() if each.certainty != OPEN}
    return clear if len({each.layer for each in clear.values()}) >= SEVERAL else proposed


def _add_by_role(placed: Placed, packages: Packages, firm: frozenset[int]) -> None:
    """Classes whose folders say nothing `firm` go where their role belongs, if an annotation or base gives it, or if
    they lie in a folder of a feature: one that holds classes of several layers by their roles."""
    symbols, roles = placed.symbols, placed.roles
    numbers = {layer.name: index for index, layer in enumerate(placed.layers)}
    features = _features(placed, packages, firm)
    for number, package in enumerate(packages.of_type):
        role = roles[number]
        if package in firm or role.name not in ROLE_LAYERS or _lies_in_contracts(symbols, symbols.file_of[number]):
            continue
        strong = role.evidence[0].strength
        if strong >= BASE or (package in features and (role.name != "entity" or strong >= SHAPE)):
            placed.of_type[number] = numbers[ROLE_LAYERS[role.name]]
            placed.evidence[number] = f"role {role.name}: {role.evidence[0].reason}"


def _features(placed: Placed, packages: Packages, firm: frozenset[int]) -> frozenset[int]:
    """Packages of which nothing firm is known, whose classes have the roles of several layers, one of them by nature outside:
    shown, or kept in a store."""
    found: dict[int, Counter[str]] = defaultdict(Counter)
    for package, types in packages.types.items():
        for number in types if package not in firm else ():
            if layer := ROLE_LAYERS.get(placed.roles.name(number)):
                found[package][layer] += 1
    return frozenset(
        package
        for package, layers in found.items()
        if len(layers) >= SEVERAL and layers.keys() & {"presentation", "infrastructure"}
    )


def _lies_in_contracts(symbols: Symbols, file: int) -> bool:
    names = shared_catalogue().contracts.segments.split()
    return any(segment.lower() in names for segment in segments_of(symbols, file)[-2:])


def _add_contracts(placed: Placed, bonds: BondTable, packages: Packages, named: frozenset[int]) -> None:
    """Abstractions in folders of their own belong to the layer that asks for them most; of several the innermost. What only the
    presentation asks for, and others implement, is what those have to offer, and belongs to the application."""
    symbols, of_type = placed.symbols, placed.of_type
    wanted = {
        number
        for number, package in enumerate(packages.of_type)
        if package not in named and symbols.types[number].is_abstract and _lies_in_contracts(symbols, symbols.file_of[number])
    }
    for number in wanted:
        of_type[number], placed.evidence[number] = -1, ""
    bases = (KIND_NUMBER["extends"], KIND_NUMBER["implements"])
    asking: dict[int, dict[int, set[int]]] = defaultdict(lambda: defaultdict(set))
    for kind, source, target in zip(bonds.kind, bonds.source, bonds.target, strict=True) if wanted else ():
        if target in wanted and kind not in bases and of_type[source] >= 0:
            asking[target][of_type[source]].add(source)
    for number, by_layer in asking.items():
        index = max(by_layer, key=lambda each: (len(by_layer[each]), -placed.layers[each].ring))
        offered = {of_type[each] for each in placed.roles.implementers.get(number, ())} - {index, -1}
        if placed.layers[index].name == "presentation" and offered:
            index = next(at for at, layer in enumerate(placed.layers) if layer.name == "application")
        of_type[number] = index
        placed.evidence[number] = f"asked for by {placed.layers[index].name}"
