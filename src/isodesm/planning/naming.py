"""How this codebase names its interfaces and places them: measured, not assumed."""

from __future__ import annotations

import re

import msgspec

from isodesm.catalogue import catalogue_of
from isodesm.codebase.model import Codebase
from isodesm.codebase.symbols import simple_name

LEAST_SHARE = 0.4
"""Share of the interfaces that must follow a pattern before it counts as the habit."""
PORT = "Port"
"""Suffix where no habit could be measured and the class's own name is taken."""


class Habit(msgspec.Struct, frozen=True):
    """A naming habit: `prefix` (`I…`), `implementation` (class `…Impl`), or `plain`; with how often it was seen."""

    kind: str
    seen: int
    interfaces: int


def measure_habit(codebase: Codebase) -> Habit:
    """The way most interfaces with an implementation in the tree are named."""
    symbols, roles = codebase.symbols, codebase.roles
    interfaces = [
        number for number, declared in enumerate(symbols.types)
        if declared.kind == "interface" and roles.implementers.get(number) and roles.name(number) != "test"
    ]  # fmt: skip
    prefixed = sum(1 for number in interfaces if re.match(r"I[A-Z][a-z]", symbols.types[number].name))
    implemented = sum(
        1 for number in interfaces
        if any(symbols.types[each].name == symbols.types[number].name + "Impl" for each in roles.implementers[number])
    )  # fmt: skip
    if interfaces and prefixed >= LEAST_SHARE * len(interfaces):
        return Habit("prefix", prefixed, len(interfaces))
    if interfaces and implemented >= LEAST_SHARE * len(interfaces):
        return Habit("implementation", implemented, len(interfaces))
    return Habit("plain", len(interfaces) - prefixed - implemented, len(interfaces))


def interface_name(codebase: Codebase, target: int, habit: Habit, package: str) -> str:
    """A free name in `package` for an abstraction of a class, after the codebase's habit.

    With plain names, a qualifying first word is dropped where enough is left (`FileGaugeFeed` gives `GaugeFeed`, as
    its siblings are named); otherwise the class's name with the suffix for a port.
    """
    name = codebase.symbols.types[target].name
    candidates = []
    if habit.kind == "prefix":
        candidates.append(f"I{name}")
    elif habit.kind == "implementation" and name.endswith("Impl"):
        candidates.append(name.removesuffix("Impl"))
    words = re.findall(r"[A-Z]+(?![a-z])|[A-Z][a-z0-9]*", name)
    if habit.kind == "plain" and len(words) >= 3:
        candidates.append("".join(words[1:]))
    candidates += [f"{name}{PORT}", *(f"{name}{PORT}{number}" for number in range(2, 100))]
    prefix = f"{package}." if package else ""
    language = codebase.symbols.files[codebase.symbols.file_of[target]].language
    implicit = frozenset(catalogue_of(language).implicit.names.split())
    bases = {simple_name(base) for each in codebase.roles.ancestors(target) for base in codebase.roles.external_bases.get(each, ())}
    return next(
        each for each in candidates
        if prefix + each not in codebase.symbols.by_language[language] and each not in implicit and each not in bases
    )  # fmt: skip


def variable_name(type_name: str, taken: set[str]) -> str:
    """A parameter name for a type: its own with a small first letter, made free by a number."""
    base = type_name[:1].lower() + type_name[1:]
    if re.match(r"i[A-Z]", base):
        base = base[1].lower() + base[2:]
    base = base.removesuffix(PORT) or base
    name, number = base, 2
    while name in taken:
        name, number = f"{base}{number}", number + 1
    return name
