"""What steps write into users' code as remarks."""

from __future__ import annotations

OLD_CONSTRUCTOR = "Keeps callers compiling until they hand in the dependencies themselves."
"""What stands above a constructor that only hands over to the one which takes everything."""


def purpose_of(target: str) -> str:
    """What an interface says of itself."""
    return f"What the rest of the code asks of {target}."


def outside_of(name: str) -> str:
    """What the interface of a gateway says of itself."""
    return f"What {name} asks of the world outside."


def factory_of(name: str) -> str:
    """What the interface of a factory says of itself."""
    return f"Makes objects of {name}."


def adapter_of(target: str) -> str:
    """What an adapter says of itself."""
    return f"Passes on to {target}."


def data_of(owner: str) -> str:
    """What a class says of itself that keeps data."""
    return f"The data of {owner}."


def rules_of(owner: str) -> str:
    """What a class says of itself that has the rules of another."""
    return f"The rules of {owner}."


def container_factory_of(made: str) -> str:
    """What a factory says of itself that a container calls."""
    return f"Makes {made}, with what no definition file can hold."


OUTSIDE = "what lies outside"
"""What the adapter of a gateway passes on to."""
