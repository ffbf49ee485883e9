"""The layers of a codebase as settings: told ones as they are, a proposal as whole packages, for a person to correct."""

from __future__ import annotations

import re
from collections import Counter, defaultdict

from isodesm.codebase.model import Codebase
from isodesm.inference.layers.model import OPEN, PackageLayer
from isodesm.inference.layers.packages import segments_of
from isodesm.settings import LayerRule

Path = tuple[str, ...]
HEAD = """# Layers, outermost first. A class belongs to the layer that lists its package or folder, or the nearest one above it,
# under `packages`; else to the one that lists the innermost of its segments under `segments`."""


def layers_block(codebase: Codebase) -> str:
    """TOML with the layers; a remark that shows how to name them where there are none."""
    layers = codebase.layers
    if layers.told:
        return "\n".join([HEAD, *(line for rule in codebase.settings.layers for line in _rule(rule))])
    if not layers.layers:
        example = [LayerRule(name="presentation", segments=("web", "console")), LayerRule(name="domain", segments=("model",))]
        lines = [
            "All classes lie in one package or folder. Name yours like this:",
            *(line for each in example for line in _rule(each)),
        ]
        return "\n".join(
            [HEAD, *(f"# {line}".rstrip() for line in lines), f"#\n# Segments in this tree: {', '.join(_segments(codebase))}"]
        )
    lines = [HEAD, "# This is a proposal: correct it.", f"# {layers.order}"]
    found = _least(layers.packages)
    for layer in sorted(layers.layers, key=lambda each: -each.ring):
        names = sorted(name for name, own in found.items() if own == layer.name)
        lines += _packages(layer.name, names) if names else ["", f"# no package is proposed for the usual layer {layer.name}"]
    if open_ones := sorted(each.name for each in layers.packages if each.certainty == OPEN):
        lines += [
            "",
            "# Open, for too little speaks for one layer rather than another:",
            *(f"#   {name or '.'}" for name in open_ones),
        ]
    return "\n".join(lines)


def _rule(rule: LayerRule) -> list[str]:
    lists = [(key, list(value)) for key, value in (("segments", rule.segments), ("packages", rule.packages)) if value]
    return ["", "[[layers]]", f'name = "{rule.name}"', *(f"{key} = {listed(value)}" for key, value in lists)]


def _packages(layer: str, names: list[str]) -> list[str]:
    return ["", "[[layers]]", f'name = "{layer}"', "packages = [", *(f"    {_quoted(name)}," for name in names), "]"]


def _least(packages: tuple[PackageLayer, ...]) -> dict[str, str]:
    """Package to layer, without those that lie below one with the same layer; where all below a package have one layer, and
    none is open, that package stands for them."""
    sign = next((sign for sign in ("\\", "/", ".") if any(sign in each.name for each in packages)), ".")
    own: dict[Path, str] = {_path(each.name): "" if each.certainty == OPEN else each.layer for each in packages}
    below: dict[Path, set[str]] = defaultdict(set)
    for path, layer in own.items():
        for end in range(1, len(path) + 1):
            below[path[:end]].add(layer)
    found: dict[Path, str] = {}
    for path in sorted(below):
        above = next((found[path[:end]] for end in range(len(path) - 1, 0, -1) if path[:end] in found), "")
        alone = next(iter(below[path])) if len(below[path]) == 1 else own.get(path, "")
        if alone and alone != above:
            found[path] = alone
    if own.get(()):
        found[()] = own[()]
    return {sign.join(path) or ".": layer for path, layer in found.items()}


def _path(name: str) -> Path:
    return tuple(each for each in re.split(r"[.\\/]", name) if each)


def _segments(codebase: Codebase) -> list[str]:
    symbols = codebase.symbols
    counts: Counter[str] = Counter()
    for file in range(len(symbols.files)):
        counts.update({each for each in segments_of(symbols, file) if each})
    return [name for name, _ in counts.most_common(14)]


def _quoted(name: str) -> str:
    return f"'{name}'" if "\\" in name else f'"{name}"'


def listed(names: list[str]) -> str:
    """Names as a list of TOML."""
    return "[" + ", ".join(map(_quoted, names)) + "]"
