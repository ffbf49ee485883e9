"""The samples there are."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files
from typing import NamedTuple


class Sample(NamedTuple):
    """A sample codebase: its folder's name, the class that is worth a closer look, a program that checks it and how."""

    language: str
    name: str
    shown: str
    program: str
    check: str


@cache
def samples() -> tuple[Sample, ...]:
    """All of them, one for each language."""
    text = files(__package__).joinpath("samples.toml").read_text(encoding="utf-8")
    return tuple(
        Sample(language, given["name"], given["class"], given["program"], given["check"])
        for language, given in tomllib.loads(text).items()
    )
