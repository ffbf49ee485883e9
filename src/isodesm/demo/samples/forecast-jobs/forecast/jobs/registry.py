from __future__ import annotations

from collections.abc import Callable
from typing import Any


class JobRegistry:
    """Parts of the night's run by name."""

    _makers: dict[str, Callable[[], Any]] = {}
    _made: dict[str, Any] = {}

    @classmethod
    def offer(cls, name: str, maker: Callable[[], Any]) -> None:
        cls._makers[name] = maker

    @classmethod
    def part(cls, name: str) -> Any:
        if name not in cls._made:
            cls._made[name] = cls._makers[name]()
        return cls._made[name]
