"""Layers: as the settings name them, else a proposal from the graph, names and what the classes of each package do."""

from isodesm.inference.layers.found import find_layers
from isodesm.inference.layers.model import Layer, Layers, PackageLayer

__all__ = ["Layer", "Layers", "PackageLayer", "find_layers"]
