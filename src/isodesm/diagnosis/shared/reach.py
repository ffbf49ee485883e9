"""What can be got to over edges."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import TypeVar

Node = TypeVar("Node")


def reached(leads_to: Callable[[Node], Iterable[Node]], starts: Iterable[Node]) -> set[Node]:
    """Everything that the starts lead to, each asked what it leads to; those themselves only where there is a way round."""
    seen: set[Node] = set()
    waiting = list(starts)
    while waiting:
        for each in leads_to(waiting.pop()):
            if each not in seen:
                seen.add(each)
                waiting.append(each)
    return seen


def knots_of(starts: list[int], used: list[int]) -> list[int]:
    """The strongly connected component of each node of a graph, where node n leads to `used[starts[n] : starts[n + 1]]`; what a
    component leads to has a lower number. One walk in depth with low links (1972), without recursion."""
    count = len(starts) - 1
    order, low, label = [-1] * count, [0] * count, [-1] * count
    pending, seen, closed = list(starts), 0, 0
    opened: list[int] = []
    for root in range(count):
        path = [root] if order[root] < 0 else []
        while path:
            node = path[-1]
            if order[node] < 0:
                order[node] = low[node] = seen
                seen += 1
                opened.append(node)
            if pending[node] < starts[node + 1]:
                following = used[pending[node]]
                if order[following] < 0:
                    path.append(following)  # looked at again from here once its own are done
                    continue
                pending[node] += 1
                if label[following] < 0:
                    low[node] = min(low[node], low[following])
                continue
            path.pop()
            if low[node] == order[node]:
                while label[node] < 0:
                    label[opened.pop()] = closed
                closed += 1
    return label
