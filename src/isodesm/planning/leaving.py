"""What a plan leaves, in words: the bonds of a decision with the reason, and the words that go with a decision it takes."""

from __future__ import annotations

from collections.abc import Collection, Sequence

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import LEVELS
from isodesm.planning.decisions import Decision
from isodesm.planning.obstacles import STATIC
from isodesm.planning.steps import LeftOver

BEHIND_OBJECT = "is static code that tests get past: those who call it are handed an object in its place"


def words_of(codebase: Codebase, decision: Decision) -> list[str]:
    """The words that go with a decision: its target, what was called, and for look-ups and repeated places all they say."""
    words = [decision.name, decision.kind]
    said: set[str] = set()
    for place in decision.places:
        for row in (place.row, *(each.row for each in place.nested)):
            words += [codebase.bonds.text_of("callee", row), codebase.target_name(codebase.bonds.target[row])]
        text = codebase.text(place.file)[place.span[0] : place.span[1]].decode("utf-8", "replace")
        if decision.kind == "service-lookup" or text in said:
            words.append(text)
        said.add(text)
    return words


def left_over(decision: Decision, reason: str) -> LeftOver:
    """What is left of a decision that a plan does not take on."""
    first = decision.places[0].finding
    return LeftOver(
        source=first.source,
        target=first.target,
        kind=first.kind,
        count=len(decision.findings),
        file=first.file,
        line=first.line,
        reason=reason,
        level=min((each.level for each in decision.findings), key=LEVELS.index),
    )


def said_rightly(left: Sequence[LeftOver], given_objects: Collection[str]) -> tuple[LeftOver, ...]:
    """The same, with what the plan did for the users of static classes: it gave those of some names an object."""
    return tuple(
        msgspec.structs.replace(each, reason=BEHIND_OBJECT) if each.reason == STATIC and each.source in given_objects else each
        for each in left
    )
