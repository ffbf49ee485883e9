"""What a member has others run: objects with a member that a thread or a pool calls, and own members that it hands over."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import NamedTuple

from isodesm.codebase.model import Codebase
from isodesm.facts import typetext
from isodesm.linking.symbols import simple_name

_OWN = re.compile(r"(?:\w+\s*[=:]\s*)?(?P<self>(?:\$?this|self)(?:\.|::|->))?(?P<name>\w+)")


class HandedOver(NamedTuple):
    """An own member that is passed to a call instead of being called: its name, and where."""

    name: str
    file: int
    line: int


def task_of(codebase: Codebase, number: int) -> str:
    """The member of a class by which a thread, a pool or a timer runs it; '' for any other class."""
    tasks = codebase.symbols.catalogues.of(codebase.symbols.dialect(number).name).tasks
    if not tasks:
        return ""
    bases = codebase.roles.bases
    outside = {simple_name(name) for each in codebase.roles.ancestors(number) for name in bases.external.get(each, ())}
    return next((member for base, member in tasks.items() if base in outside), "")


def handed_over(codebase: Codebase, node: tuple[int, int]) -> Iterator[HandedOver]:
    """The own members that a member passes to what it calls, in order of place."""
    symbols = codebase.symbols
    part, index = symbols.origin(*node)
    file = symbols.file_of[part]
    local = part - symbols.first[file]
    own = {m.name for each in codebase.roles.ancestors(node[0]) for m in symbols.types[each].members if m.kind == "method"}
    member = symbols.types[node[0]].members[node[1]]
    taken = {each.name for each in member.parameters}
    seen = set()
    for site in codebase.content(file).sites:
        if (site.type, site.member) != (local, index) or site.kind not in ("call", "creation") or not site.arguments:
            continue
        for text in typetext.split_top(site.arguments):
            found = _OWN.fullmatch(text.strip())
            named = found is not None and found["name"] in own and found["name"] not in seen
            if found is None or not named or not (found["self"] or _stands_for_itself(codebase, node[0], found["name"], taken)):
                continue
            seen.add(found["name"])
            yield HandedOver(found["name"], file, site.place.line)


def _stands_for_itself(codebase: Codebase, number: int, name: str, taken: set[str]) -> bool:
    """Whether a bare name can mean a member."""
    return codebase.symbols.dialect(number).implicit_self and name not in taken
