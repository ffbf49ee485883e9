"""What each class is for, with the evidence that spoke for it and against it.

Strength of evidence: settings, then annotations, then bases, then shape, then names. The strongest decides;
names and folders only break ties.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterator
from functools import cached_property

from isodesm.inference.collection_use import kept_together
from isodesm.inference.effect_kinds import SEVERE
from isodesm.inference.effects import Effects
from isodesm.inference.evidence import (
    BASE,
    DATA,
    NAME,
    SERVICE_LIKE,
    SHAPE,
    UNKNOWN,
    WEAK_SHAPE,
    Evidence,
    Role,
    decide,
    is_accessor,
    is_field,
    is_method,
    is_open,
    is_plain,
)
from isodesm.inference.local_evidence import StandingEvidence
from isodesm.inference.weighing import SERVES, THING, Weighing
from isodesm.linking.bonds import KIND_NUMBER, BondTable
from isodesm.linking.symbols import Symbols
from isodesm.settings import Settings

MOST_ALTERNATIVES = 12
"""Implementations beyond which an abstraction is no choice between services but a family of kinds, like nodes of a tree."""
WIRED = frozenset(("service", "gateway", "repository", "presentation"))
MADE_OFTEN, KEPT_TOGETHER = 3, 5
"""Places that make a class, and arrays or collections of it or its bases, from which it is a thing that is handed around."""
MOST_WEIGHT = 4
"""What the sum of weights beyond the least for a service may add to the strength of its evidence."""
LEAST_WIRED = 3
"""Services that a class must put together to count as a composition root."""


class Roles(StandingEvidence):
    """Roles of all types, by number: `roles[number]`."""

    def __init__(
        self, symbols: Symbols, bonds: BondTable, effects: Effects, settings: Settings, makers: Collection[str] = ()
    ) -> None:
        super().__init__(symbols, bonds, effects, settings)
        self._makers = makers
        self._others: dict[int, tuple[int, ...]] = {}
        self._evidence: list[list[Evidence]] = [self._standing_evidence(number) for number in range(len(symbols))]
        for number, evidence in self._values_by_use():
            self._evidence[number].append(evidence)
        self._roles = [decide(found) for found in self._evidence]
        made = Counter(target for created in self._creations.values() for _, target in created)
        self._weighing = Weighing(symbols, bonds, effects, made, lambda each: self._roles[each].name)
        self._settle_collaborators()
        self._settle_roots()

    def __getitem__(self, number: int) -> Role:
        return self._roles[number]

    def name(self, number: int) -> str:
        """The role of a type in one word."""
        return self._roles[number].name

    # --- what bonds say -------------------------------------------------------------------

    @property
    def implementers(self) -> dict[int, list[int]]:
        """Types that extend or implement each type, over any number of steps, sorted."""
        return self.bases.implementers

    def creations(self, number: int) -> list[tuple[int, int]]:
        """(member, target) of every creation of a type of the tree in a class."""
        return self._creations.get(number, [])

    def made_in(self, number: int, index: int) -> tuple[int, ...]:
        """The types of the tree that a member creates."""
        return tuple(target for member, target in self._creations.get(number, ()) if member == index)

    def other_implementations(self, number: int) -> tuple[int, ...]:
        """Production classes, sorted, that implement an abstraction which a class implements too."""
        found = self._others.get(number)
        if found is None:
            family: set[int] = set()
            for base in self.ancestors(number)[1:]:
                implementers = self.implementers.get(base, ())
                if self.symbols.types[base].is_abstract and len(implementers) <= MOST_ALTERNATIVES:
                    family.update(implementers)
            family.difference_update(self.ancestors(number))
            found = self._others[number] = tuple(sorted(each for each in family if self._is_alternative(each)))
        return found

    def _is_alternative(self, number: int) -> bool:
        declared = self.symbols.types[number]
        return bool(declared.name) and not declared.is_abstract and self._roles[number].name != "test"

    def _field_types(self, number: int) -> Iterator[tuple[str, int]]:
        """(text, target) of every field type of a class."""
        table = self.bonds
        return ((table.text_of("text", row), table.target[row]) for row in self._rows(number, "field"))

    def _calls(self, number: int) -> Iterator[tuple[int, int]]:
        """(member, target) of every call of a method of a type of the tree in a class."""
        table = self.bonds
        return ((table.source_member[row], table.target[row]) for row in self._rows(number, "call") if table.target[row] >= 0)

    def _rows(self, number: int, kind: str) -> Iterator[int]:
        wanted, kinds = KIND_NUMBER[kind], self.bonds.kind
        return (row for row in self.bonds.rows_of_source(number) if kinds[row] == wanted)

    @cached_property
    def _called(self) -> set[tuple[int, int]]:
        """(type, type that it calls methods of)."""
        table, call = self.bonds, KIND_NUMBER["call"]
        return {
            (source, target)
            for kind, source, target in zip(table.kind, table.source, table.target, strict=True)
            if kind == call and target >= 0
        }

    # --- evidence that does ---------------------------------------------------------------

    @cached_property
    def kept_together(self) -> Counter[int]:
        """Type to how often it is kept in arrays and collections."""
        return kept_together(self.symbols, self.bonds)

    def _values_by_use(self) -> Iterator[tuple[int, Evidence]]:
        """Classes whose objects are made in many places and kept in collections are things, whatever they can do.

        Services are neither; a class that reaches out of the program by itself is no thing, however it is kept.
        """
        made: Counter[int] = Counter(target for created in self._creations.values() for _, target in created)
        kept = self.kept_together
        for number, places in sorted(made.items()):
            count = max(kept[each] for each in self.ancestors(number))
            outside = any(use.effect in SEVERE and not use.sort for use in self.effects.used.get(number, ()))
            if places >= MADE_OFTEN and count >= KEPT_TOGETHER and not outside:
                yield number, Evidence("entity", SHAPE + 4, f"is made in {places} places, and kept in {count} collections")

    def _settle_collaborators(self) -> None:
        """Classes with behaviour are services when they have collaborators; whose are known only when theirs are."""
        undecided = [
            number
            for number, declared in enumerate(self.symbols.types)
            if self._roles[number].name == ""
            or self._roles[number].evidence[0].strength < SHAPE
            or (self._roles[number].name in DATA and self._roles[number].evidence[0].strength == SHAPE)
        ]
        while True:
            changed = False
            for number in undecided:
                found = [*self._evidence[number], *self._from_collaborators(number)]
                role = decide(found)
                if role.name != self._roles[number].name:
                    changed = True
                self._roles[number] = role
            if not changed:
                break
            undecided = [number for number in undecided if self._roles[number].name != "service"]
        for number, role in enumerate(self._roles):
            if role.name == "":
                self._roles[number] = self._fallback(number)
            elif role.name in SERVICE_LIKE and role.evidence[0].strength <= NAME:
                self._roles[number] = self._named(number, role)

    def _settle_roots(self) -> None:
        """Classes that only put services together and keep none of them are composition roots, whatever they are called; so are
        those that definition files name as makers."""
        for number, name in enumerate(self.symbols.names if self._makers else ()):
            if name in self._makers and self._makes_alone(number):
                evidence = Evidence("composition-root", SHAPE + 6, "definition files name it as what makes objects")
                self._roles[number] = Role(evidence.role, (evidence, *self._roles[number].evidence))
        for number, created in self._creations.items():
            declared, role = self.symbols.types[number], self._roles[number]
            if (
                role.name not in (*SERVICE_LIKE, "utility", "algorithm")
                or role.evidence[0].strength >= BASE
                or self.symbols.is_module(number)
            ):
                continue
            targets = {target for _, target in created if self._roles[target].name in WIRED}
            working = [m for m in declared.members if is_method(m) and not is_plain(m)] or [
                m for m in declared.members if is_method(m)
            ]
            statements, branches = sum(m.statements for m in working), sum(m.branches for m in working)
            keeps = any(
                target >= 0 and self._roles[target].name in (*SERVICE_LIKE, "abstraction")
                for _, target in self._field_types(number)
            )
            if len(targets) >= LEAST_WIRED and 2.5 * len(created) >= statements and 4 * branches <= statements and not keeps:
                evidence = Evidence(
                    "composition-root", SHAPE + 4, f"creates {len(targets)} services, keeps none and does little else"
                )
                self._roles[number] = Role(evidence.role, (evidence, *role.evidence))

    def _makes_alone(self, number: int) -> bool:
        """Whether a class has nothing but static functions, and makes or hands out something with them."""
        members = self.symbols.types[number].members
        own = [each for each in members if each.kind != "constructor"]
        return bool(own) and all(each.kind == "method" and each.is_static for each in own)

    def _from_collaborators(self, number: int) -> list[Evidence]:
        names = self.collaborators(number)
        if not names:
            return self._from_siblings(number)
        members = self.symbols.types[number].members
        working = any(is_method(m) and not is_accessor(m) for m in members)
        delegating = any(  # handing on what a collaborator gives looks like an accessor, and is none
            index >= 0 and is_method(members[index]) and self._is_collaborator(target, number)
            for index, target in self._calls(number)
        )
        strength = SHAPE + 3 if working or delegating else WEAK_SHAPE
        return [Evidence("service", strength, f"works with {', '.join(names[:3])}")]

    def collaborators(self, number: int) -> tuple[str, ...]:
        """Simple names, sorted, of the service-like types that a class holds in fields, or makes where fields have no types."""
        found = {text for text, target in self._field_types(number) if self._is_collaborator(target, number)}
        members = self.symbols.types[number].members if number >= 0 else ()
        if any(m.kind == "field" and not m.is_static and not m.type for m in members):  # what they hold, no type says
            found |= {
                self.symbols.types[each].name
                for _, each in self._creations.get(number, ())
                if self._is_collaborator(each, number)
            }
        return tuple(sorted(found))

    def _from_siblings(self, number: int) -> list[Evidence]:
        """A class that stands beside services, behind the same abstraction, is one of them, if it is nothing more special."""
        if any(each.role in ("repository", "gateway") for each in self._evidence[number]):
            return []
        for base in self.ancestors(number)[1:]:
            if self._roles[base].name != "abstraction":
                continue
            siblings = [each for each in self.implementers.get(base, ()) if each != number]
            if siblings and all(self._roles[each].name in SERVICE_LIKE for each in siblings):
                name = self.symbols.types[base].name
                return [Evidence("service", SHAPE + 1, f"implements {name}, as services do")]
        return []

    def _is_collaborator(self, target: int, number: int) -> bool:
        """Whether a field's type is service-like, or an abstraction that mostly is, and the class calls it."""
        if target < 0 or target == number or (number, target) not in self._called:
            return False
        if self._roles[target].name == "abstraction":
            implementers = self.implementers.get(target, ())
            if not implementers and self._holds_values(target):
                return False
            serving = sum(1 for each in implementers if self._roles[each].name in SERVICE_LIKE)
            return 2 * serving >= len(implementers)
        return self._roles[target].name in SERVICE_LIKE

    def _holds_values(self, number: int) -> bool:
        """Whether an interface that nothing in the tree implements is a bag of options, by its members or its name."""
        declared = self.symbols.types[number]
        named = any(each.role in DATA for each in self._evidence[number] if each.strength <= NAME)
        return named or not any(m.kind == "method" for m in declared.members)

    def _works(self, number: int) -> bool:
        """Whether a class is, by its shape or better, one that does work for others."""
        return (
            self._roles[number].name in ("service", "gateway", "repository")
            and self._roles[number].evidence[0].strength >= SHAPE
        )

    def _named(self, number: int, role: Role) -> Role:
        """A class of which its name alone says what it is: taken at its word where more speaks for that."""
        evidence = self._weighed(number)
        return (
            Role(role.name, (Evidence(role.name, evidence.strength, evidence.reason), *role.evidence))
            if evidence.role == "service"
            else role
        )

    def _weighed(self, number: int) -> Evidence:
        """A service, a thing, or what nobody knows: by what speaks for the one and the other."""
        weights = self._weighing.of(number, max(self.kept_together[each] for each in self.ancestors(number)))
        total = sum(each.points for each in weights)
        if total >= SERVES:
            said = " and ".join(each.reason for each in weights if each.points > 0)
            return Evidence("service", WEAK_SHAPE + min(total - SERVES, MOST_WEIGHT), said)
        against = [each.reason for each in weights if each.points < 0]
        if total <= THING and (against or not weights):
            said = " and ".join(against[:2]) or "works on its own fields, without collaborators or effects"
            return Evidence("entity", WEAK_SHAPE, said)
        return Evidence("entity", UNKNOWN, "works on its own fields; little speaks for a service, little against one")

    def _fallback(self, number: int) -> Role:
        """A class that nothing spoke for: by whether it has state of its own."""
        declared = self.symbols.types[number]
        fields = [m for m in declared.members if is_field(m) and not m.is_static]
        made = sorted(
            {self.symbols.types[t].name for _, t in self._creations.get(number, ()) if t != number and self._works(t)}
        )
        if declared.kind == "anonymous":
            evidence = Evidence("part", WEAK_SHAPE, "is an anonymous class")
        elif made and any(is_method(m) and not is_accessor(m) for m in declared.members):
            evidence = Evidence("service", WEAK_SHAPE, f"makes itself {', '.join(made[:3])}")
        elif fields and not is_open(declared):
            evidence = self._weighed(number)
        elif any(is_method(m) for m in declared.members):
            evidence = Evidence("algorithm", WEAK_SHAPE, "behaviour without state, collaborators or effects")
        else:
            evidence = Evidence("value", WEAK_SHAPE, "declares nothing of its own")
        return Role(evidence.role, (evidence, *self._roles[number].evidence))
