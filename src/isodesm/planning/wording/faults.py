"""What is wrong with what a step would write."""

from __future__ import annotations

from collections.abc import Sequence


def unparsed(file: str) -> str:
    """A file that does not parse."""
    return f"`{file}` would not parse any more"


def uncompiled(file: str) -> str:
    """A file that does not compile."""
    return f"`{file}` would not compile any more"


def unbound(name: str, file: str) -> str:
    """A name that nothing binds."""
    return f"`{name}` would be named in `{file}`, which does not know it there"


def circle(file: str, other: str) -> str:
    """Modules that would import each other."""
    return f"`{file}` would import `{other}`, which imports it while it is loaded"


def for_checkers(name: str, file: str) -> str:
    """A name that a program does not have."""
    return f"`{name}` would be asked for in `{file}` as it runs, which has it for type checkers only"


def arguments(name: str, count: int, file: str) -> str:
    """A call that no constructor takes."""
    return f"`{name}` would be made from {count} argument{'' if count == 1 else 's'} in `{file}`, which no constructor takes"


def not_handed_out(name: str, module: str, file: str) -> str:
    """A name that a module has not, or keeps to itself."""
    return f"`{name}` would be taken out of `{module}` in `{file}`, which does not hand it out"


def not_visible(name: str, file: str) -> str:
    """A type or constructor that its package keeps to itself."""
    return f"`{name}` would be named in `{file}`, where it is not visible"


def ambiguous(name: str, file: str) -> str:
    """A name that means one of two types."""
    return f"`{name}` in `{file}` would mean one of two types, for the namespace of another is imported"


def unknown(name: str, file: str) -> str:
    """A type that a file does not import."""
    return f"`{name}` would be named in `{file}`, which does not know it"


def late(owner: str, member: str, name: str) -> str:
    """A type that is named too early."""
    return f"`{owner}.{member}` would name `{name}` before it is declared"


def hidden(name: str, owner: str) -> str:
    """A member that hides what code meant."""
    return f"`{name}` means something else in `{owner}` already"


def act(what: str, how: str, file: str) -> str:
    """Something that the code does more or less often."""
    return f"`{what}` would be {how} in `{file}`"


def lost(words: Sequence[str]) -> str:
    """Words that are gone."""
    return f"{', '.join(f'`{each}`' for each in words)} would be lost from the code"


def bare(name: str) -> str:
    """A call that does nothing any more."""
    return f"a call would become the bare value `{name}`"


def assigned_to_itself(name: str) -> str:
    """Something that is created anew at a place."""
    return f"`{name}` would be assigned to itself: it is made anew there"


def twice(owner: str, what: str) -> str:
    """Two declarations of one name."""
    return f"`{owner}` would declare `{what}` twice"


def two_parameters(owner: str, member: str, name: str) -> str:
    """Two parameters of one name."""
    return f"`{owner}.{member}` would take two `{name}`"


def own_base(name: str) -> str:
    """A type that is its own base."""
    return f"`{name}` would be its own base"


def base_twice(name: str, base: str) -> str:
    """A base that stands twice."""
    return f"`{name}` would have the base `{base}` twice"
