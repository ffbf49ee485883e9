"""Runs a function over portions of work in forked processes, which find what they share in memory instead of being sent it."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Sequence
from multiprocessing import get_context
from typing import Any


def start_method() -> str:
    """How worker processes start: by forking where that is possible, since what is in memory is then shared."""
    return "fork" if hasattr(os, "fork") and os.uname().sysname == "Linux" else "spawn"


def can_fork(workers: int, amount: int, least: int) -> bool:
    """Whether it pays to fork for an amount of work, and can be done."""
    return workers > 1 and amount >= least and start_method() == "fork"


def portions_of(work: Sequence[Any], size: int) -> list[Sequence[Any]]:
    """Work in portions of at most `size`, in order."""
    return [work[start : start + size] for start in range(0, len(work), size)]


def forked(workers: int, function: Callable[..., Any], portions: list[Sequence[Any]], *shared: Any) -> Iterator[Any]:
    """`function(portion, *shared)` for each portion, in order; what it returns is sent back, so it should be packed."""
    _shared.append((function, portions, shared))
    try:
        with get_context("fork").Pool(workers) as pool:
            yield from pool.imap(_run, range(len(portions)))
    finally:
        _shared.pop()


_shared: list[tuple[Callable[..., Any], list[Sequence[Any]], tuple[Any, ...]]] = []


def _run(portion: int) -> Any:
    function, portions, shared = _shared[-1]
    return function(portions[portion], *shared)
