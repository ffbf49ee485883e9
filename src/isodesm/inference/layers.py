"""Which layer each class belongs to, and which way between two layers points outwards."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from functools import lru_cache

import msgspec

from isodesm.catalogue import shared_catalogue
from isodesm.inference.evidence import BASE, SHAPE
from isodesm.inference.roles import Roles
from isodesm.linking.bonds import KIND_NUMBER, KINDS, BondTable
from isodesm.linking.symbols import Symbols
from isodesm.settings import Settings

MOST_WRONG = 0.2
"""Share of the pairs of classes between layers that may point outwards; beyond it the layers are in doubt."""
LEAST_CLASSES = 2
"""Classes that a layer needs before it counts as one: a single class in a folder `data` is no layer."""
LEAST_SHARE = 0.4
"""Share of all classes that layers must hold together; below it the codebase is said to have none."""
SHARED_BY = 0.9
"""Share of the files that must lie below a folder or package for it to be the root that all share."""
_DOMAINS = frozenset("com org net edu gov io dev app info de uk fr nl ch at eu us jp cn ru br it es se fi pl cz".split())
"""First segments of reversed domain names."""
FLOATING = "infrastructure"
"""The usual layer that some codebases put outside their services, behind interfaces, and others beneath them."""
PORT_WEIGHT = 10
"""What implementing an inner layer's abstraction counts for when the order is found, beside 1 for any other pair of classes."""
ROLE_LAYERS = {
    "presentation": "presentation",
    "repository": "infrastructure",
    "gateway": "infrastructure",
    "service": "application",
    "entity": "domain",
}
"""Where a class belongs by its role, if its folders say nothing."""


class Layer(msgspec.Struct, frozen=True):
    """A ring of the codebase; `ring` is its distance from the core."""

    name: str
    ring: int


class Layers(msgspec.Struct, frozen=True):
    """Layers in order, outermost first, the layer of each type (-1: none), and what spoke for it and for the order."""

    layers: tuple[Layer, ...]
    of_type: tuple[int, ...]
    evidence: tuple[str, ...]
    order: str = ""
    wrong: float = 0.0
    """Share of the pairs of classes in different layers that point outwards, whatever the order."""

    @property
    def sure(self) -> bool:
        """Whether the layers are kept by most of the code, so that what breaks them is a fault and not a wrong guess."""
        return self.wrong <= MOST_WRONG

    def name(self, number: int) -> str:
        """The layer of a type, '' where none is known."""
        index = self.of_type[number]
        return self.layers[index].name if index >= 0 else ""

    def crossing(self, source: int, target: int) -> str:
        """`inner→outer` where a bond between two types points outwards, else ''; '' for all where the layers are in doubt."""
        return self.outward(source, target) if self.sure else ""

    def outward(self, source: int, target: int) -> str:
        """The same, in doubt too."""
        here, there = self.of_type[source], self.of_type[target]
        if here < 0 or there < 0 or self.layers[there].ring <= self.layers[here].ring:
            return ""
        return f"{self.layers[here].name}→{self.layers[there].name}"

    def skipped(self, source: int, target: int) -> str:
        """The layer that a bond between two types reaches past, '' for none: the nearest one between that has classes."""
        here, there = self.of_type[source], self.of_type[target]
        if here < 0 or there < 0:
            return ""
        one, other = self.layers[here], self.layers[there]
        if one.name == "presentation" and other.name == FLOATING:  # whichever way round the two inner ones lie
            return next(
                (each.name for index, each in enumerate(self.layers) if each.name == "application" and index in self._filled),
                "",
            )
        between = [
            each for index, each in enumerate(self.layers) if one.ring > each.ring > other.ring >= 0 and index in self._filled
        ]
        names = {each.name for each in self.layers}
        return between[0].name if between and not names.issuperset(("presentation", "domain")) else ""

    @property
    def _filled(self) -> frozenset[int]:
        return _filled(self.of_type)


@lru_cache(maxsize=8)
def _filled(of_type: tuple[int, ...]) -> frozenset[int]:
    return frozenset(of_type)


def find_layers(symbols: Symbols, bonds: BondTable, roles: Roles, settings: Settings) -> Layers:
    """Layers from the settings; otherwise from package and folder names, if enough classes agree, and from roles."""
    if settings.layers:
        count = len(settings.layers)
        layers = tuple(Layer(rule.name, count - 1 - index) for index, rule in enumerate(settings.layers))
        tables = [frozenset(rule.segments) for rule in settings.layers]
    else:
        entries = shared_catalogue().layers
        layers = tuple(Layer(entry.name, entry.ring) for entry in entries)
        tables = [frozenset(entry.segments.split()) for entry in entries]
    by_segment = {segment: index for index, table in enumerate(tables) for segment in table}
    paths = _own_segments(symbols) if not settings.layers else [_segments(symbols, n) for n in range(len(symbols.files))]
    divided = _divided(paths, by_segment)
    found = [
        _layer_of_folder(symbols, file, segments, by_segment, divided, len(tables) - 1 if not settings.layers else -1)
        for file, segments in enumerate(paths)
    ]
    of_type = [found[file][0] for file in symbols.file_of]
    counted = [index for number, index in enumerate(of_type) if symbols.is_shown(number) and not symbols.is_module(number)]
    if not settings.layers and not _convincing(counted or of_type):
        return Layers((), (-1,) * len(of_type), ("",) * len(of_type))
    evidence = [found[file][1] for file in symbols.file_of]
    if settings.layers:
        return Layers(layers, tuple(of_type), tuple(evidence), "the order in the settings")
    _add_by_role(layers, of_type, evidence, roles, symbols)
    _add_contracts(layers, of_type, evidence, bonds, symbols)
    layers, order, wrong = _ordered(layers, of_type, bonds, symbols)
    return Layers(layers, tuple(of_type), tuple(evidence), order, wrong)


def _add_by_role(layers: tuple[Layer, ...], of_type: list[int], evidence: list[str], roles: Roles, symbols: Symbols) -> None:
    """Classes whose folders say nothing go where their role belongs, if an annotation or base gives it, or if they lie in a
    folder of a feature: one that holds classes of several layers by their roles."""
    numbers = {layer.name: index for index, layer in enumerate(layers)}
    features = _features(of_type, roles, symbols)
    for number, index in enumerate(of_type):
        role = roles[number]
        if index >= 0 or role.name not in ROLE_LAYERS or _lies_in_contracts(symbols, symbols.file_of[number]):
            continue
        strong = role.evidence[0].strength
        if strong >= BASE or (_folder(symbols, number) in features and (role.name != "entity" or strong >= SHAPE)):
            of_type[number] = numbers[ROLE_LAYERS[role.name]]
            evidence[number] = f"role {role.name}: {role.evidence[0].reason}"


def _folder(symbols: Symbols, number: int) -> str:
    return symbols.path(number).rpartition("/")[0]


def _features(of_type: list[int], roles: Roles, symbols: Symbols) -> frozenset[str]:
    """Folders without a layer whose classes have the roles of several layers."""
    found: dict[str, set[str]] = defaultdict(set)
    for number, index in enumerate(of_type):
        if index < 0 and symbols.is_shown(number) and (layer := ROLE_LAYERS.get(roles.name(number))):
            found[_folder(symbols, number)].add(layer)
    return frozenset(folder for folder, layers in found.items() if len(layers) >= LEAST_CLASSES)


def _lies_in_contracts(symbols: Symbols, file: int) -> bool:
    names = shared_catalogue().contracts.segments.split()
    return any(segment.lower() in names for segment in _segments(symbols, file)[-2:])


def _add_contracts(
    layers: tuple[Layer, ...], of_type: list[int], evidence: list[str], bonds: BondTable, symbols: Symbols
) -> None:
    """Abstractions in folders of their own belong to the layer that asks for them most; of several the innermost."""
    wanted = {
        number
        for number, index in enumerate(of_type)
        if index < 0 and symbols.types[number].is_abstract and _lies_in_contracts(symbols, symbols.file_of[number])
    }
    bases = (KIND_NUMBER["extends"], KIND_NUMBER["implements"])
    asking: dict[int, dict[int, set[int]]] = defaultdict(lambda: defaultdict(set))
    for kind, source, target in zip(bonds.kind, bonds.source, bonds.target, strict=True) if wanted else ():
        if target in wanted and kind not in bases and of_type[source] >= 0:
            asking[target][of_type[source]].add(source)
    for number, by_layer in asking.items():
        index = max(by_layer, key=lambda each: (len(by_layer[each]), -layers[each].ring))
        of_type[number] = index
        evidence[number] = f"asked for by {layers[index].name}"


def layers_by_role(symbols: Symbols, roles: Roles) -> dict[str, list[int]]:
    """Layer to the classes that belong there by their role alone, outermost first; empty where too few roles are known."""
    found: dict[str, list[int]] = {name: [] for name in ("presentation", "application", "infrastructure", "domain")}
    counted = [n for n in range(len(symbols)) if symbols.is_shown(n) and not symbols.is_module(n) and roles.name(n) != "test"]
    for number in counted:
        if layer := ROLE_LAYERS.get(roles.name(number)):
            found[layer].append(number)
    strong = [name for name, numbers in found.items() if len(numbers) >= LEAST_CLASSES]
    placed = sum(map(len, found.values()))
    return (
        {name: found[name] for name in found if found[name]}
        if len(strong) >= 2 and placed >= LEAST_SHARE * len(counted)
        else {}
    )


def _ordered(
    layers: tuple[Layer, ...], of_type: list[int], bonds: BondTable, symbols: Symbols
) -> tuple[tuple[Layer, ...], str, float]:
    """The layers with infrastructure in the place that leaves the fewest pairs of classes pointing outwards, why, and the share
    of those."""
    weights = _weights(layers, of_type, bonds, symbols)
    rest = [layer.name for layer in layers if layer.name != FLOATING]
    best: tuple[int, int, list[str]] | None = None
    for position in range(1, len(rest)):  # never outside presentation, never inside what is shared
        order = [*rest[:position], FLOATING, *rest[position:]]
        rank = {name: index for index, name in enumerate(order)}
        wrong = sum(count for (one, other), count in weights.items() if rank[other] < rank[one])
        if best is None or wrong < best[0]:
            best = (wrong, position, order)
    assert best is not None
    names = best[2]
    rings = {name: len(names) - 2 - index for index, name in enumerate(names)}
    found = {layer.name: Layer(layer.name, rings[layer.name]) for layer in layers}
    ports = sum(1 for (one, other), count in weights.items() if one == FLOATING and count >= PORT_WEIGHT)
    reason = (
        "the inner layers' interfaces are implemented there" if best[1] == 1 and ports else "that is the way most bonds point"
    )
    present = {layers[index].name for index in of_type if index >= 0}
    shown = " → ".join(name for name in names if name in present)
    pairs = sum(weights.values())
    return tuple(found[layer.name] for layer in layers), f"{shown}: {reason}", round(best[0] / pairs, 3) if pairs else 0.0


def _weights(layers: tuple[Layer, ...], of_type: list[int], bonds: BondTable, symbols: Symbols) -> dict[tuple[str, str], int]:
    """(layer, layer) to the weight of the pairs of classes of which the one knows the other."""
    bases = (KIND_NUMBER["extends"], KIND_NUMBER["implements"])
    pairs: dict[tuple[int, int], int] = {}
    for kind, source, target in zip(bonds.kind, bonds.source, bonds.target, strict=True):
        if (
            kind < len(KINDS)
            and target >= 0
            and of_type[source] != of_type[target]
            and of_type[source] >= 0
            and of_type[target] >= 0
        ):
            weight = PORT_WEIGHT if kind in bases and symbols.types[target].is_abstract else 1
            pairs[source, target] = max(pairs.get((source, target), 0), weight)
    found: Counter[tuple[str, str]] = Counter()
    for (source, target), weight in pairs.items():
        found[layers[of_type[source]].name, layers[of_type[target]].name] += weight
    return dict(found)


def _segments(symbols: Symbols, file: int) -> list[str]:
    facts = symbols.files[file]
    return re.split(r"[.\\]", facts.package) if facts.package else facts.path.split("/")[:-1]


def _own_segments(symbols: Symbols) -> list[list[str]]:
    """The segments of each file's package or folder without the root that nearly all share: a domain, an organisation, a
    product are no layers, whatever they are called."""
    paths = [_segments(symbols, file) for file in range(len(symbols.files))]
    shared: list[str] = []
    while True:
        below = Counter(path[len(shared)] for path in paths if path[: len(shared)] == shared and len(path) > len(shared))
        segment, count = below.most_common(1)[0] if below else ("", 0)
        if not below or count < SHARED_BY * len(paths):
            break
        shared.append(segment)
    found = []
    for path in paths:
        begin = len(shared) if path[: len(shared)] == shared else 0
        if begin < 2 and len(path) > 2 and path[0] in _DOMAINS:
            begin = 2
        found.append([""] * begin + path[begin:])
    return found


def _divided(paths: list[list[str]], by_segment: dict[str, int]) -> dict[tuple[str, ...], int]:
    """Folder or package to the number of layers that the names of what lies directly in it speak for."""
    found: dict[tuple[str, ...], set[int]] = defaultdict(set)
    for path in {tuple(path) for path in paths}:
        for depth, segment in enumerate(path):
            if (index := by_segment.get(segment.lower())) is not None:
                found[path[:depth]].add(index)
    return {parent: len(layers) for parent, layers in found.items()}


def _layer_of_folder(
    symbols: Symbols,
    file: int,
    segments: list[str],
    by_segment: dict[str, int],
    divided: dict[tuple[str, ...], int],
    last: int,
) -> tuple[int, str]:
    """The layer of the segment that divides the tree: beside which lie the most other layers; of several the innermost."""
    found = [
        (by_segment[segment.lower()] == last, -divided[tuple(segments[:depth])], -depth, segment)
        for depth, segment in enumerate(segments)
        if segment.lower() in by_segment
    ]
    if not found:
        return -1, ""
    segment = min(found)[3]  # helpers inside a layer belong to that layer
    facts = symbols.files[file]
    return by_segment[segment.lower()], f"segment `{segment}` of {facts.package or facts.path.rpartition('/')[0]}"


def _convincing(of_type: list[int]) -> bool:
    counts = Counter(index for index in of_type if index >= 0)
    strong = [count for count in counts.values() if count >= LEAST_CLASSES]
    return len(strong) >= 2 and sum(counts.values()) >= LEAST_SHARE * len(of_type)
