"""What `layers` says: the layers with their classes, who knows whom across them, and what points the wrong way."""

from __future__ import annotations

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.form.layering import matrix
from isodesm.diagnosis.shared.findings import Diagnosis, Finding
from isodesm.diagnosis.shared.reporting import Report
from isodesm.inference.layers import PackageLayer


class LayerClass(msgspec.Struct, frozen=True):
    """A class of a layer, with its role and what put it there."""

    name: str
    role: str
    file: str
    evidence: str


class LayerRow(msgspec.Struct, frozen=True):
    """A layer; `ring` is its distance from the core, the largest outermost."""

    name: str
    ring: int
    classes: tuple[LayerClass, ...]


class Crossing(msgspec.Struct, frozen=True):
    """Bonds from one layer to another, the hard ones among them, and whether they point outwards."""

    source: str
    target: str
    bonds: int
    hard: int
    outward: bool


class LayerReport(msgspec.Struct, frozen=True):
    """`order` says how the layers were put in order; `unplaced` counts production classes that belong to none.

    `told` layers are those of the settings; others are a proposal, of which `packages` gives the grounds, the largest first."""

    layers: tuple[LayerRow, ...]
    order: str
    unplaced: int
    crossings: tuple[Crossing, ...]
    wrong_way: tuple[Finding, ...]
    told: bool
    packages: tuple[PackageLayer, ...]


WRONG_WAY = ("outward-dependency", "layer-skip")


def report_layers(codebase: Codebase, diagnosis: Diagnosis) -> LayerReport:
    """The layers of a codebase, outermost first; those without classes are left out."""
    report, layers = Report(codebase), codebase.layers
    rows: dict[str, list[LayerClass]] = {layer.name: [] for layer in layers.layers}
    unplaced = 0
    for number in range(len(codebase.symbols)):
        if not report.is_production(number) or codebase.symbols.is_module(number):
            continue
        name = layers.name(number)
        if name:
            rows[name].append(
                LayerClass(
                    codebase.symbols.names[number],
                    codebase.roles.name(number),
                    codebase.symbols.path(number),
                    layers.evidence[number],
                )
            )
        else:
            unplaced += 1
    rings = {layer.name: layer.ring for layer in layers.layers}
    crossings = tuple(
        Crossing(one, other, bonds, hard, rings[other] > rings[one])
        for (one, other), (bonds, hard) in matrix(report, diagnosis.places).items()
    )
    found = [each for each in diagnosis.findings if each.kind in WRONG_WAY or each.crossing]
    ordered = sorted((layer for layer in layers.layers if rows[layer.name]), key=lambda layer: -layer.ring)
    return LayerReport(
        layers=tuple(
            LayerRow(layer.name, layer.ring, tuple(sorted(rows[layer.name], key=lambda each: each.name))) for layer in ordered
        ),
        order=layers.order,
        unplaced=unplaced,
        crossings=crossings,
        wrong_way=tuple(found),
        told=layers.told,
        packages=layers.packages,
    )
