"""Classes whose job an effect is: the wrapper around a file store, a connection, a clock. They open their device themselves;
who makes or fetches them decides on it instead."""

from __future__ import annotations

from isodesm.codebase.model import Codebase
from isodesm.facts.records import Member
from isodesm.inference.evidence import DATA, is_accessor, is_method
from isodesm.inference.local_evidence import DEVICE_EFFECTS, STORAGE_EFFECTS

OWNERS = frozenset(("gateway", "repository"))
"""Roles whose job is to hold a device or store, so that opening it is no decision in the wrong place."""
MIXED = frozenset(("presentation", "test", "composition-root"))
"""Roles for which an effect is by the way, however often it is used."""
OUTSIDE = DEVICE_EFFECTS | STORAGE_EFFECTS
"""Effects that reach out of the program."""
LEAST_SHARE = {True: 1 / 3, False: 1 / 2}
"""Share of a class's working members that use the effect where it is the class's job: of effects that reach out of the program
more than that, of the others that much."""
MANY, SHARE_OF_MANY = 4, 1 / 5
"""Members that reach an effect outside the program, from which it is the job of a large class, too, if they are that share."""
LEAST_STATEMENTS = 12
"""Statements from which a member that decides a lot holds more than its effect."""
MIXED_SHARE = 1 / 3
"""Share of the members that use the effect which may decide in between; beyond it a class does two jobs."""
SHORT = 3
"""Statements up to which a member only wraps an effect."""


class Devices:
    """Knows, of each class and effect, whether using it is what the class is there for."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase = codebase
        self._known: dict[tuple[int, str], bool] = {}

    def is_own(self, number: int, effect: str) -> bool:
        """Whether a class is the wrapper around what has that effect."""
        key = (number, effect)
        if key not in self._known:
            self._known[key] = self._is_own(number, effect)
        return self._known[key]

    def _is_own(self, number: int, effect: str) -> bool:
        roles, bonds = self.codebase.roles, self.codebase.bonds
        role = roles.name(number)
        if role in MIXED:
            return False
        if role in OWNERS and effect in OUTSIDE:
            return True
        members = self.codebase.symbols.types[number].members
        touching = {bonds.source_member[use.row] for use in self.codebase.effects.used.get(number, ()) if use.effect == effect}
        working = {
            index
            for index, member in enumerate(members)
            if index in touching or (is_method(member) and member.statements and not is_accessor(member))
        }
        if not touching:
            return False
        share = len(touching) / max(len(working), 1)  # in the head of a class that has no members
        if effect not in OUTSIDE:
            if role in DATA or any(use.effect != effect for use in self.codebase.effects.used[number]):
                return False
            return share >= LEAST_SHARE[False] and all(index >= 0 and _is_short(members[index]) for index in touching)
        if role != "service":
            return share > LEAST_SHARE[True]
        return self._serves_with(number, effect, touching, working)

    def _serves_with(self, number: int, effect: str, touching: set[int], working: set[int]) -> bool:
        """Whether a class that works with others is all the same there for an effect, and decides little around it."""
        members, effects = self.codebase.symbols.types[number].members, self.codebase.effects
        methods = [index for index in touching if index >= 0 and is_method(members[index])]
        reaching = [index for index in working if index in touching or effect in effects.of_node((number, index))]
        mostly = 2 * len(methods) > len(working)
        often = len(reaching) >= MANY and len(reaching) >= SHARE_OF_MANY * len(working)
        deciding = [index for index in methods if self._decides(members[index])]
        return (mostly or often) and len(deciding) <= MIXED_SHARE * len(methods)

    def _decides(self, member: Member) -> bool:
        """Whether a member mixes the effect with decisions, so that a test would want to have it without."""
        return member.branches >= self.codebase.settings.limits.decisions and member.statements >= LEAST_STATEMENTS


def _is_short(member: Member) -> bool:
    return member.statements <= SHORT and member.branches <= 1
