"""Who may call a constructor that a class is handed something through: as many as have to, and no more."""

from __future__ import annotations

import re
from collections.abc import Iterator

from isodesm.codebase.model import Codebase
from isodesm.facts.records import Member
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.text.insertions import FIELDS
from isodesm.planning.text.syntax import Syntax


def is_kept_back(member: Member) -> bool:
    """Whether only a class and those below it can call a constructor."""
    return bool({"private", "protected"} & set(member.modifiers.words))


def keeps_one_object(codebase: Codebase, number: int) -> bool:
    """Whether a class makes its one object itself: nobody else can call a constructor of it."""
    own = [each for each in codebase.symbols.types[number].members if each.kind == "constructor"]
    return bool(own) and all(map(is_kept_back, own)) and bool(codebase.shared.own_instances(number))


def narrowed(syntax: Syntax, constructor: Member) -> Iterator[Amendment]:
    """A public constructor becomes one for its own assembly, as what it takes is known to that only."""
    yield from _changed(syntax, constructor, {"public": "internal"}, "known to its own assembly only, as what it takes")


def opened(syntax: Syntax, constructor: Member) -> Iterator[Amendment]:
    """A constructor that only the class itself could call becomes one that tests can call."""
    words = syntax.traits.opened
    if words:
        yield from _changed(syntax, constructor, words, "can be called from outside the class, by tests for one")


def _changed(syntax: Syntax, constructor: Member, words: dict[str, str], said: str) -> Iterator[Amendment]:
    start = constructor.whole[0]
    head = syntax.text[start : max(constructor.body[0], constructor.place.end)].partition(b"(")[0]
    found = re.search(rf"\b({'|'.join(words)})\b\s*".encode(), head)
    if found is not None:
        by = words[found[1].decode()]
        end = found.end() if not by else found.start() + len(found[0].rstrip())
        yield Amendment(start + found.start(), start + end, FIELDS, by, said)
