"""Lines of code, whatever the language."""

from __future__ import annotations

from collections.abc import Sequence

from isodesm.facts.records import Member


def joined(parts: Sequence[str], head: str, tail: str, margin: str, indent: str, width: int = 110) -> str:
    """A bracketed list on one line, or where that is too long with an entry a line."""
    line = head + ", ".join(parts) + tail
    if len(margin) + len(line) <= width or not parts:
        return line
    inner = f",\n{margin}{indent}".join(parts)
    return f"{head}\n{margin}{indent}{inner}\n{margin}{tail}"


def indented(lines: Sequence[str], margin: str) -> str:
    """Lines with a margin in front of all but empty ones."""
    return "\n".join(margin + line if line.strip() else "" for line in lines)


def common_position(constructor: Member | None, *, required: bool = False) -> int:
    """Which place among its parameters a constructor gives to a further one: the last, but in front of what need not be
    passed; that only where the further one is `required`, for until then both may be left out."""
    own = constructor.parameters if constructor is not None else ()
    return next((index for index, each in enumerate(own) if each.variadic or (required and each.default)), len(own))
