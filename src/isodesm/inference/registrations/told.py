"""What a sentence of registering calls says, while it is read."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Told:
    """What a call and those chained to it say, while they are read."""

    served: tuple[str, ...] = ()
    """What is served, as qualified names."""
    implementation: str = ""
    lifetime: str = ""
    key: str = ""
    order: str = ""
    condition: str = ""
    factory: bool = False
    alias: bool = False
    itself: bool = False
    interfaces: bool = False
    instance: bool = False
    wraps: bool = False
    only_for: str = ""
    listed: tuple[str, ...] = ()
    said: bool = False
    """Whether a chained call says what serves."""
    named_by_key: bool = False
    """Whether the class that is named serves under the key alone."""
    made: tuple[str, ...] = ()
