"""How this codebase names its interfaces and places them: measured, not assumed."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable, Collection

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.linking.symbols import simple_name
from isodesm.planning.language import language_named

LEAST_SHARE = 0.4
"""Share of the interfaces that must follow a pattern before it counts as the habit."""
PORT = "Port"
"""Suffix where no habit could be measured and the class's own name is taken."""


class Habit(msgspec.Struct, frozen=True):
    """A naming habit: `prefix` (`I…`), `implementation` (class `…Impl`), or `plain`; with how often it was seen."""

    kind: str
    seen: int
    interfaces: int


def measure_habit(codebase: Codebase, language: str = "") -> Habit:
    """The way most interfaces with an implementation in the codebase are named, those of one language if one is given."""
    names, implementers = _implemented(codebase, language)
    total = len(names)
    seen = {
        "prefix": sum(1 for each in names if re.match(r"I[A-Z][a-z]", each)),
        "suffix": sum(1 for each in names if re.search(r"[a-z]Interface$", each)),
        "implementation": sum(1 for name, below in zip(names, implementers, strict=True) if f"{name}Impl" in below),
        "qualified": sum(1 for name, below in zip(names, implementers, strict=True) if _is_qualified(name, below)),
    }
    if language and language_named(language).interfaces_prefixed:
        return Habit("prefix", seen["prefix"], total)
    for kind, count in seen.items():
        if names and count >= LEAST_SHARE * total:
            return Habit(kind, count, total)
    return Habit("plain", total - seen["prefix"] - seen["implementation"], total)


def _implemented(codebase: Codebase, language: str) -> tuple[list[str], list[list[str]]]:
    """The names of interfaces that something outside tests implements, and those of what does."""
    symbols, roles = codebase.symbols, codebase.roles
    numbers = [
        number
        for number, declared in enumerate(symbols.types)
        if declared.kind == "interface"
        and roles.implementers.get(number)
        and roles.name(number) != "test"
        and language in ("", symbols.files[symbols.file_of[number]].language)
    ]
    below = [[symbols.types[each].name for each in roles.implementers[number]] for number in numbers]
    return [symbols.types[number].name for number in numbers], below


def _is_qualified(name: str, implementers: list[str]) -> bool:
    return any(re.match(rf"[A-Z]\w+{name}$", each) for each in implementers)


def interface_name(
    codebase: Codebase, target: int, habit: Habit, package: str, planned: Collection[str] = (), name: str = ""
) -> str:
    """A free name in `package` for an abstraction of a class, after the codebase's habit; `planned` are taken by others, and
    `name` is what to go by in the place of the class's own.

    Where interfaces have the names of their classes without a qualifying first word, that is dropped here, too, where enough
    is left (`FileGaugeFeed` gives `GaugeFeed`, as its siblings are named); else the class's name has the suffix for a port.
    """
    name = name or codebase.symbols.types[target].name
    candidates = []
    if habit.kind == "prefix":
        candidates.append(f"I{name}")
    elif habit.kind == "implementation" and name.endswith("Impl"):
        candidates.append(name.removesuffix("Impl"))
    elif habit.kind == "suffix":
        candidates.append(f"{name}Interface")
    words = re.findall(r"[A-Z]+(?![a-z])|[A-Z][a-z0-9]*", name)
    if habit.kind == "qualified" and len(words) >= 3:
        candidates.append("".join(words[1:]))
    candidates += [f"{name}{PORT}", *(f"{name}{PORT}{number}" for number in range(2, 100))]
    language = codebase.symbols.files[codebase.symbols.file_of[target]].language
    dialect = codebase.symbols.dialect(target)
    prefix = f"{package}{dialect.separator}" if package and dialect.style != "modules" else ""
    known = {declared.name for declared in codebase.symbols.types} if dialect.style == "modules" else set()
    implicit = frozenset(codebase.symbols.catalogues.of(language).implicit.names.split())
    line = codebase.roles.ancestors(target)
    bases = {simple_name(base) for each in line for base in codebase.roles.external_bases.get(each, ())}
    bases |= {codebase.symbols.types[each].name for each in line}
    bases |= {each.alias for each in codebase.symbols.files[codebase.symbols.file_of[target]].imports}  # and mean another there
    return next(
        each
        for each in candidates
        if each not in known
        and each not in planned
        and not {prefix + each, (prefix + each).lower()} & codebase.symbols.by_language[language].keys()
        and each not in implicit
        and each not in bases
    )


def variable_name(type_name: str, taken: set[str], *, snake: bool = False) -> str:
    """A parameter name for a type: its own with a small first letter (`snake`: words joined by underscores), made free by a
    number."""
    base = type_name.removesuffix(PORT) or type_name
    if re.match(r"I[A-Z][a-z]", base):
        base = base[1:]
    lead = re.match(r"[A-Z]+(?![a-z])", base)
    base = base[: len(lead[0])].lower() + base[len(lead[0]) :] if lead else base[:1].lower() + base[1:]
    if snake:
        base = re.sub(r"(?<=[a-z0-9])(?=[A-Z])", "_", base).lower()
    name, number = base, 2
    while name in taken:
        name, number = f"{base}{'_' if snake else ''}{number}", number + 1
    return name


def usual_home(codebase: Codebase, layer: str, language: str, home_of: Callable[[int], str]) -> tuple[str, int]:
    """The package that most interfaces of a layer live in, and a type of it; ('', -1) where they have no common home."""
    symbols, roles = codebase.symbols, codebase.roles
    found: dict[str, list[int]] = defaultdict(list)
    for number, declared in enumerate(symbols.types):
        if (
            declared.kind == "interface"
            and roles.implementers.get(number)
            and roles.name(number) != "test"
            and codebase.layers.name(number) == layer
        ):
            if symbols.files[symbols.file_of[number]].language == language:
                found[home_of(number)].append(number)
    total = sum(map(len, found.values()))
    home = max(sorted(found), key=lambda each: len(found[each]), default="")
    return (home, found[home][0]) if home and len(found[home]) >= 2 and len(found[home]) >= LEAST_SHARE * total else ("", -1)
