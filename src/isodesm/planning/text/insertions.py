"""Where additions go in code as it is written: parameters, arguments, statements."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

from isodesm.facts.records import Member
from isodesm.planning.language.lines import joined
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.text.syntax import Syntax

IMPORTS, FIELDS, CONSTRUCTORS, PARAMETERS, STATEMENTS, PLACES = range(6)
"""Ranks of amendments at one place."""


_LEADING = re.compile(r"super\s*\(|parent::__construct|[\"']")


def in_head(constructor: Member | None) -> bool:
    """Whether a constructor is declared in the head of its class."""
    return constructor is not None and constructor.whole == (0, 0)


def leads(text: str) -> bool:
    """Whether a statement must stay in front of what is added: a call of the parent's constructor, or the text that
    documents it."""
    return bool(_LEADING.match(text))


def indent_unit(margin: str) -> str:
    """One step of indentation, as a margin suggests it."""
    return "\t" if margin.startswith("\t") else "  " if len(margin) == 2 else "    "


def inserted(
    brackets: tuple[Any, list[Any]], added: list[str], index: int, said: str, syntax: Syntax | None = None
) -> Amendment:
    """Further arguments of a call."""
    node, own = brackets
    if not own:
        text = ", ".join(added)
        if syntax is not None:
            margin = syntax.indent_at(node.start_byte)
            line = syntax.of(node.parent)
            text = joined(added, "", "", margin + line, "")
            if "\n" in text or len(margin + line + ", ".join(added)) > 110:
                unit = indent_unit(margin)
                text = f"{syntax.line_end}{margin}{unit}" + f",{syntax.line_end}{margin}{unit}".join(added)
        return Amendment(node.start_byte + 1, node.end_byte - 1, PARAMETERS, text, said)
    if index == 0:
        return Amendment(own[0].start_byte, own[0].start_byte, PARAMETERS, "".join(f"{each}, " for each in added), said)
    at = own[min(index, len(own)) - 1].end_byte
    return Amendment(at, at, PARAMETERS, "".join(f", {each}" for each in added), said)


def behind_remark(syntax: Syntax, at: int) -> int:
    """Byte `at`, or the end of its line where only a remark follows."""
    rest = syntax.text[at:].partition(b"\n")[0].rstrip()
    return at + len(rest) if rest.lstrip().startswith((b"//", b"#")) else at


def gap(syntax: Syntax, at: int, margin: str = "") -> str:
    """What has to follow an addition at byte `at`, so that an empty line parts it from the next member."""
    rest, _, following = syntax.text[at:].partition(b"\n")
    if rest.strip():
        return (
            "" if rest.strip().startswith(b"}") else syntax.line_end + margin[: len(margin) - (len(rest) - len(rest.lstrip()))]
        )
    line = following.partition(b"\n")[0].strip()
    return syntax.line_end if line and not line.startswith(b"}") else ""


def imported(syntax: Syntax, lines: list[str], action: str) -> Amendment:
    """Import lines behind those that a file has, or where the first belong."""
    at, behind = syntax.import_place()
    if behind:
        margin = syntax.import_margin()
        return Amendment(at, at, IMPORTS, "".join(f"{syntax.line_end}{margin}{line}" for line in lines), action)
    if not at:
        code = syntax.text.startswith((b"class ", b"def ", b"@"))
        apart = syntax.traits.apart_from_code if code else 2
        return Amendment(0, 0, IMPORTS, syntax.line_end.join(lines) + syntax.line_end * apart, action)
    return Amendment(
        at, at, IMPORTS, syntax.line_end + "".join(f"{syntax.line_end}{line}" for line in lines) + gap(syntax, at), action
    )


def without(own: Sequence[str], index: int, where: int, added: Sequence[str]) -> list[str]:
    """Arguments or parameters with further ones in their place, and one left out."""
    told = list(enumerate(own))
    return [*(each for at, each in told[:where] if at != index), *added, *(each for at, each in told[where:] if at != index)]


def listed(own: Sequence[Any], texts: Sequence[str], said: str) -> Amendment:
    """A bracketed list with other entries."""
    return Amendment(own[0].start_byte, own[-1].end_byte, PARAMETERS, ", ".join(texts), said)
