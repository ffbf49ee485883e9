"""What a body decides and states: the heads of its branches and loops, and its simple statements, as spans of the text."""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache
from typing import Any, NamedTuple

from isodesm.facts.languages import dialect_of
from isodesm.facts.parsing import parse
from isodesm.facts.reader import queries_of


class Part(NamedTuple):
    """A part of a body: `loop` or `branch` with the span of its head, `statement` with its own; `whole` is where the node with
    its head and its body ends."""

    kind: str
    start: int
    end: int
    whole: int


def parts_of(language: str, path: str, text: bytes, start: int, end: int) -> list[Part]:
    """The parts of the code of a file between two places, in order of place."""
    return sorted(_parts(_root(language, path[path.rfind(".") :], text), language, path[path.rfind(".") :], start, end))


@lru_cache(maxsize=4)
def _root(language: str, suffix: str, text: bytes) -> Any:
    return parse(dialect_of(language), suffix, text)[0]


def _parts(root: Any, language: str, suffix: str, start: int, end: int) -> Iterator[Part]:
    from tree_sitter import QueryCursor

    cursor = QueryCursor(queries_of(language, suffix).facts)
    cursor.set_byte_range(start, end)
    for _, found in cursor.matches(root):
        for name, nodes in found.items():
            sort, _, kind = name.partition(".")
            for node in nodes if sort == "count" else ():
                if node.is_named and start <= node.start_byte and node.end_byte <= end:
                    yield Part(kind, *_head(node), node.end_byte)
    simple, waiting = dialect_of(language).simple_statements, [root]
    while waiting:
        for node in waiting.pop().named_children:
            if node.end_byte <= start or node.start_byte >= end:
                continue
            if node.type in simple and start <= node.start_byte and node.end_byte <= end:
                yield Part("statement", node.start_byte, node.end_byte, node.end_byte)
            waiting.append(node)


def _head(node: Any) -> tuple[int, int]:
    """The condition, else what stands before the body."""
    if (condition := node.child_by_field_name("condition")) is not None:
        return condition.start_byte, condition.end_byte
    body = next((found for field in ("body", "consequence") if (found := node.child_by_field_name(field)) is not None), None)
    return node.start_byte, body.start_byte if body is not None else node.end_byte
