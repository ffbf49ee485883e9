"""What can be got to over edges."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from typing import TypeVar

Node = TypeVar("Node")


def reached(edges: Mapping[Node, Collection[Node]], starts: Iterable[Node]) -> set[Node]:
    """Everything that the starts lead to; those themselves only where there is a way round."""
    seen: set[Node] = set()
    waiting = list(starts)
    while waiting:
        for each in edges.get(waiting.pop(), ()):
            if each not in seen:
                seen.add(each)
                waiting.append(each)
    return seen
