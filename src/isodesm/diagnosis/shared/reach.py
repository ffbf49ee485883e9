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
