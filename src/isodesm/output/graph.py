"""`export graph`: classes and the bonds between them, as GraphML or DOT."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from xml.sax.saxutils import escape, quoteattr

from isodesm.codebase.model import Codebase
from isodesm.linking.bonds import KINDS
from isodesm.linking.symbols import simple_name
from isodesm.output.text import printable

NODE_FIELDS = ("name", "label", "kind", "language", "file", "role", "layer")
HARD_KINDS = frozenset(("creation", "static-call", "static-field", "lookup"))
"""Kinds of bond that are drawn in the strong line."""


def graph_chunks(codebase: Codebase, form: str, kinds: frozenset[str]) -> Iterator[bytes]:
    """The graph of the classes of the tree in `graphml` or `dot`: an edge for each source, target and kind, with its count."""
    edges = _edges(codebase, kinds)
    used = {number for source, target, _ in edges for number in (source, target)}
    nodes = [
        number
        for number in range(len(codebase.symbols))
        if codebase.symbols.is_shown(number) and (number in used or not codebase.symbols.is_module(number))
    ]
    text = _graphml(codebase, nodes, edges) if form == "graphml" else _dot(codebase, nodes, edges)
    return (line.encode("utf-8", "replace") for line in text)


def _edges(codebase: Codebase, kinds: frozenset[str]) -> Counter[tuple[int, int, int]]:
    table = codebase.bonds
    counts: Counter[tuple[int, int, int]] = Counter()
    for source, target, kind in zip(table.source, table.target, table.kind, strict=True):
        if 0 <= target != source and kind < len(KINDS) and (not kinds or KINDS[kind] in kinds):
            counts[source, target, kind] += 1
    return counts


def _node_values(codebase: Codebase, number: int) -> tuple[str, ...]:
    symbols = codebase.symbols
    declared, facts = symbols.types[number], symbols.files[symbols.file_of[number]]
    return (
        symbols.names[number],
        declared.name or simple_name(symbols.names[number]),
        declared.kind,
        facts.language,
        facts.path,
        codebase.roles.name(number),
        codebase.layers.name(number),
    )


def _graphml(codebase: Codebase, nodes: list[int], edges: Counter[tuple[int, int, int]]) -> Iterator[str]:
    yield '<?xml version="1.0" encoding="UTF-8"?>\n<graphml xmlns="http://graphml.graphdrawing.org/xmlns">\n'
    for name in NODE_FIELDS:
        yield f'  <key id="{name}" for="node" attr.name="{name}" attr.type="string"/>\n'
    yield '  <key id="bond" for="edge" attr.name="bond" attr.type="string"/>\n'
    yield '  <key id="count" for="edge" attr.name="count" attr.type="int"/>\n'
    yield '  <graph id="bonds" edgedefault="directed">\n'
    for number in nodes:
        values = zip(NODE_FIELDS, _node_values(codebase, number), strict=True)
        data = "".join(f"<data key={quoteattr(name)}>{escape(printable(value))}</data>" for name, value in values if value)
        yield f'    <node id="n{number}">{data}</node>\n'
    for (source, target, kind), count in sorted(edges.items()):
        yield (
            f'    <edge source="n{source}" target="n{target}"><data key="bond">{KINDS[kind]}</data>'
            f'<data key="count">{count}</data></edge>\n'
        )
    yield "  </graph>\n</graphml>\n"


def _dot(codebase: Codebase, nodes: list[int], edges: Counter[tuple[int, int, int]]) -> Iterator[str]:
    yield 'digraph bonds {\n  rankdir=LR;\n  node [shape=box, fontname="sans-serif"];\n'
    layers = sorted({codebase.layers.name(number) for number in nodes})
    for index, layer in enumerate(layers):
        inside = [number for number in nodes if codebase.layers.name(number) == layer]
        if layer:
            yield f"  subgraph cluster_{index} {{\n    label={_quoted(layer)};\n"
        for number in inside:
            name, label, *_ = _node_values(codebase, number)
            yield f"{'    ' if layer else '  '}n{number} [label={_quoted(label)}, tooltip={_quoted(name)}];\n"
        if layer:
            yield "  }\n"
    for (source, target, kind), count in sorted(edges.items()):
        style = "bold" if KINDS[kind] in HARD_KINDS else "dashed"
        label = KINDS[kind] + (f" ×{count}" if count > 1 else "")
        yield f"  n{source} -> n{target} [label={_quoted(label)}, style={style}];\n"
    yield "}\n"


def _quoted(text: str) -> str:
    return '"' + printable(text).replace("\\", "\\\\").replace('"', '\\"') + '"'
