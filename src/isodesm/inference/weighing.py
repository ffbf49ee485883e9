"""Where nothing plainly says what a class is: what speaks for a service and what for a thing, added up with weights.

The weights were set by hand, and not fitted to anything: one for each ground, two for what says most.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable
from functools import cached_property
from typing import NamedTuple

from isodesm.facts import typetext
from isodesm.facts.records import DeclaredType, Member
from isodesm.inference.effect_kinds import EFFECT_WORDS, SEVERE
from isodesm.inference.effects import Effects
from isodesm.inference.evidence import SERVICE_LIKE, is_accessor, is_field, is_method, is_plain
from isodesm.linking.bonds import KIND_NUMBER, BondTable
from isodesm.linking.symbols import Symbols, simple_name

SERVES, THING = 3, 0
"""Sum from which a class is taken for a service, and down to which it is a thing; between the two nobody knows."""
WORKING = 3
"""Methods beyond accessors from which a class does something."""
OFTEN, HANDED_AROUND = 4, 4
"""Places that make a class, and members of others that take or give it, from which it is handed around."""
_AGENT = re.compile(r"(?:[a-z]{2}(?:er|or)|Service|Client|Engine|Store|Registry|Gateway)$")
_NO_AGENT = re.compile(
    r"(?:Actor|Anchor|Author|Border|Buffer|Center|Chapter|Character|Cluster|Color|Container|Corner|Cursor|Customer|"
    r"Door|Error|Factor|Filter|Floor|Folder|Footer|Header|Holder|Identifier|Integer|Iterator|Layer|Letter|Marker|"
    r"Member|Meter|Number|Offer|Order|Owner|Paper|Parameter|Partner|Pointer|Power|Sensor|Supplier|Timer|Tower|"
    r"Transfer|User|Vector|Visitor|Wrapper)$"
)
"""English names for somebody who does something, or keeps something for others, and nouns that only end so."""
_BY_VALUE = frozenset(
    "equals hashCode compareTo clone copy __eq__ __hash__ __lt__ __repr__ __str__ __len__ __iter__ __toString jsonSerialize "
    "toJSON Equals GetHashCode CompareTo Clone".split()
)
"""Methods of what is compared, copied or written down."""
_LATER = frozenset(("Promise", "Task", "ValueTask", "Future", "CompletableFuture", "Awaitable", "Coroutine"))
"""Results that come later: of work."""


class Weight(NamedTuple):
    """One thing that speaks for a service (above zero) or for a thing (below)."""

    points: int
    reason: str


class Weighing:
    """Adds up what speaks for and against, for classes that no annotation, base or shape decided."""

    def __init__(
        self, symbols: Symbols, bonds: BondTable, effects: Effects, made: Counter[int], role_of: Callable[[int], str]
    ) -> None:
        """`made` counts the places that create a type; `role_of` gives the role that is known of one, '' for none."""
        self.symbols, self.bonds, self.effects, self.made, self.role_of = symbols, bonds, effects, made, role_of

    def of(self, number: int, kept: int) -> list[Weight]:
        """The weights of a class that is kept in `kept` collections, the heaviest first."""
        declared = self.symbols.types[number]
        found = [*self._by_work(number, declared), *_by_form(declared)]
        found += self._by_use(number, kept, any(each.points > 1 for each in found))
        return sorted(found, key=lambda each: (-abs(each.points), each.reason))

    def _by_work(self, number: int, declared: DeclaredType) -> list[Weight]:
        found = []
        methods = [m for m in declared.members if is_method(m) and not m.is_static]
        working = [m for m in methods if not is_accessor(m) and not is_plain(m)]
        if len(working) >= WORKING and 3 * len(working) >= len(methods):
            found.append(Weight(1, f"{len(working)} of {len(methods)} methods do something"))
        if any(simple_name(typetext.head(m.type)) in _LATER or "async" in m.modifiers.words for m in methods):
            found.append(Weight(1, "works while others wait"))
        if effects := self.effects.of_type(number):
            found.append(Weight(2 if effects[0] in SEVERE else 1, f"reaches {EFFECT_WORDS[effects[0]]}"))
        if is_agent(declared.name):
            found.append(Weight(1, "is named for what it does"))
        if names := self._handed(number):
            found.append(Weight(2, f"is handed {', '.join(names[:2])}"))
        return found

    def _handed(self, number: int) -> list[str]:
        """Simple names of what its constructors take and which works for it."""
        members, table, wanted = self.symbols.types[number].members, self.bonds, KIND_NUMBER["parameter"]
        rows = (row for row in table.rows_of_source(number) if table.kind[row] == wanted and table.target[row] >= 0)
        built = {table.target[row] for row in rows if _builds(members, table.source_member[row])}
        return sorted(self.symbols.types[each].name for each in built if each != number and self._serves(each))

    def _serves(self, number: int) -> bool:
        role, declared = self.role_of(number), self.symbols.types[number]
        if role == "abstraction":
            return any(m.kind == "method" for m in declared.members)
        working = sum(1 for m in declared.members if is_method(m) and not is_plain(m) and not m.is_static)
        return role in SERVICE_LIKE - {"presentation"} or (role == "" and working > WORKING)

    def _by_use(self, number: int, kept: int, works: bool) -> list[Weight]:
        """What its users do with it; one that plainly `works` may be made all over by people who knew no better."""
        found = []
        if self.made[number] >= OFTEN and not works:
            found.append(Weight(-2, f"is made in {self.made[number]} places"))
        if kept >= 2:
            found.append(Weight(-2, f"is kept in {kept} collections"))
        if self._spoken_of[number] >= HANDED_AROUND:
            found.append(Weight(-1, f"{self._spoken_of[number]} members of others take or give it"))
        return found

    @cached_property
    def _spoken_of(self) -> Counter[int]:
        """Type to the methods of other classes that take or give an object of it; constructors take what they need."""
        table, types = self.bonds, self.symbols.types
        wanted = (KIND_NUMBER["parameter"], KIND_NUMBER["return"])
        columns = zip(table.kind, table.source, table.source_member, table.target, strict=True)
        return Counter(
            target
            for kind, source, index, target in columns
            if kind in wanted and target >= 0 and target != source and not _builds(types[source].members, index)
        )


def is_agent(name: str) -> bool:
    """Whether a name says what somebody does, or keeps for others."""
    return _AGENT.search(name) is not None and _NO_AGENT.search(name) is None


def _builds(members: tuple[Member, ...], index: int) -> bool:
    return index >= 0 and members[index].kind == "constructor"


def _by_form(declared: DeclaredType) -> list[Weight]:
    """What the declaration says of a thing."""
    found = []
    fields = [m for m in declared.members if is_field(m) and not m.is_static]
    if by_value := sorted({m.name for m in declared.members}.intersection(_BY_VALUE)):
        found.append(Weight(-1, f"has `{by_value[0]}`"))
    if fields and all({"final", "readonly", "const"}.intersection(m.modifiers.words) for m in fields):
        found.append(Weight(-1, "never changes"))
    own = sum(1 for m in declared.members if is_method(m) and simple_name(typetext.head(m.type)) == declared.name)
    if own >= 2:
        found.append(Weight(-1, "its methods give others of its kind"))
    if declared.outer >= 0 or declared.name.startswith("_"):
        found.append(Weight(-1, "belongs to another class"))
    return found
