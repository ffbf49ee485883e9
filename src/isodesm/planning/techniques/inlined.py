"""An expression with the variables put in that were set just for it."""

from __future__ import annotations

import re
from functools import partial
from typing import Any

import msgspec

from isodesm.facts.records import FileSites, Local, Member
from isodesm.planning.analysis.expressions import SELF_WORDS, expression, free_names
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.model.decision import Place
from isodesm.planning.state.context import PlanContext
from isodesm.planning.text.insertions import PLACES
from isodesm.planning.text.syntax import Syntax


class Inlined(msgspec.Struct, frozen=True):
    """The expression, and what becomes of the lines that set the variables."""

    text: str
    gone: tuple[Amendment, ...] = ()


def inlined(context: PlanContext, place: Place, names: set[str]) -> Inlined | None:
    """The expression of a place in a constructor with some variables put in; None where one of them is used otherwise, too."""
    text, gone, member = expression(context.sources, place), list[Amendment](), place.member
    if member is None or member.kind != "constructor" or member.branches:
        return None
    syntax, content = context.sources.syntax(place.file), context.codebase.content(place.file)
    body = context.codebase.text(place.file)[slice(*member.body)].decode("utf-8", "replace")
    for name in sorted(names):
        local = _set_for(content, place, name)
        if local is None or len(re.findall(rf"(?<![\w.]){re.escape(name)}\b", body)) != 2:
            return None
        value = _value_of(context, place, content, local)
        statement = _statement(syntax, value, member) if value is not None else None
        if value is None or statement is None:
            return None
        inner = syntax.text[slice(*value)].decode("utf-8", "replace")
        if {each.lstrip("$") for each in free_names(inner)} & (_known_at(content, value[0]) | SELF_WORDS):
            return None
        text = re.sub(rf"(?<![\w.])\$?{re.escape(name)}\b", partial(_put_in, inner), text)
        gone.append(_removed(syntax, statement, name))
    return Inlined(text, tuple(gone))


def _put_in(inner: str, found: re.Match[str]) -> str:
    return inner


def _set_for(content: FileSites, place: Place, name: str) -> Local | None:
    """The variable of a name that a place uses, with what it is set to."""
    known = (each for each in content.locals if each.name.lstrip("$") == name and each.site >= 0)
    return next((each for each in known if each.start <= place.span[0] < each.end), None)


def _value_of(context: PlanContext, place: Place, content: FileSites, local: Local) -> tuple[int, int] | None:
    """The span of the creation or call that a variable is set to; None where that is decided on by itself."""
    site = content.sites[local.site]
    span = (site.place.start, site.place.end)
    decided_on = (place.file, *span) in context.considered.spans
    return span if site.kind in ("creation", "call") and not decided_on and site.member == place.site.member else None


def _statement(syntax: Syntax, value: tuple[int, int], member: Member) -> Any:
    """The statement of the constructor that holds a value; None where none does."""
    ends = ("statement", "local_variable_declaration", "lexical_declaration")
    found = syntax.at(*value).parent
    while found is not None and not found.type.endswith(ends):
        found = found.parent
    return found if found is not None and found.start_byte >= member.body[0] else None


def _known_at(content: FileSites, at: int) -> set[str]:
    """The variables that are known where a byte stands."""
    known = (each for each in content.locals if each.start <= at < each.end)
    return {each.name.lstrip("$") for each in known if each.kind not in ("self", "class")}


def _removed(syntax: Syntax, statement: Any, name: str) -> Amendment:
    """A statement gone, with its line where it has that for itself."""
    text = syntax.text
    line = text.rfind(b"\n", 0, statement.start_byte) + 1
    end = statement.end_byte + len(text[statement.end_byte :]) - len(text[statement.end_byte :].lstrip(b"; "))
    whole = text[line : statement.start_byte].strip() == b"" and text[end : end + 1] in (b"\n", b"\r")
    if whole:
        end += 2 if text[end : end + 2] == b"\r\n" else 1
    start = line if whole else statement.start_byte
    return Amendment(start, end, PLACES, "", f"`{name}` is put in where it was used")
