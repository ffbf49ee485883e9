"""What each class is for, with the evidence that spoke for it and against it.

Strength of evidence: settings, then annotations, then bases, then shape, then names. The strongest decides;
names and folders only break ties.
"""

from __future__ import annotations

import fnmatch
from collections import defaultdict
from functools import cached_property

from isodesm.catalogue import Catalogue, shared_catalogue
from isodesm.facts import typetext
from isodesm.facts.records import DeclaredType, Member
from isodesm.inference.effects import SEVERE, Effects
from isodesm.inference.evidence import (
    ANNOTATION,
    BASE,
    DATA,
    NAME,
    SERVICE_LIKE,
    SETTING,
    SHAPE,
    WEAK_SHAPE,
    Evidence,
    Role,
    decide,
    from_annotations,
    from_name,
    is_accessor,
    is_plain,
    is_start,
    is_test_path,
)  # fmt: skip
from isodesm.linking.bonds import KIND_NUMBER, STATE, BondTable
from isodesm.linking.symbols import Symbols, simple_name
from isodesm.settings import Settings

PLAIN_SHARE = 0.75
"""Share of plain methods from which a class with fields counts as data."""

MOST_ALTERNATIVES = 12
"""Implementations beyond which an abstraction is no choice between services but a family of kinds, like nodes of a tree."""
TELLING_EFFECTS = SEVERE | {"thread"}
"""Effects that say what a class is for; a clock, a console or a setting is read by the way, by data too."""

STARTING_MODULES = frozenset(("main", "__main__", "bootstrap", "program", "Program", "startup", "wsgi", "asgi", "manage"))
"""Names of modules that start a program."""
WIRED = frozenset(("service", "gateway", "repository", "presentation"))
LEAST_WIRED = 3
"""Services that a class must put together to count as a composition root."""
READS_REQUEST = "reads the request"
REQUEST_VARIABLES = frozenset(("$_GET", "$_POST", "$_REQUEST", "$_COOKIE", "$_FILES"))
"""Global variables that hold what somebody asked for: who reads them answers requests."""
DEVICE_EFFECTS = frozenset(("network", "process"))
STORAGE_EFFECTS = frozenset(("database", "file"))


class Roles:
    """Roles of all types, by number: `roles[number]`."""

    def __init__(self, symbols: Symbols, bonds: BondTable, effects: Effects, settings: Settings) -> None:
        self.symbols, self.bonds, self.effects, self.settings = symbols, bonds, effects, settings
        self.bases = effects.bases
        self.ancestors = self.bases.ancestors
        """A type and all it inherits from in the tree, nearest first."""
        self._others: dict[int, tuple[int, ...]] = {}
        self._evidence: list[list[Evidence]] = [self._standing_evidence(number) for number in range(len(symbols))]
        self._roles = [decide(found) for found in self._evidence]
        self._settle_collaborators()
        self._settle_roots()

    def __getitem__(self, number: int) -> Role:
        return self._roles[number]

    def name(self, number: int) -> str:
        """The role of a type in one word."""
        return self._roles[number].name

    def is_for(self, number: int, roles: frozenset[str]) -> bool:
        """Whether a class has one of some roles for certain: by its shape or better, or by its name as well."""
        role = self._roles[number]
        named = any(each.role == role.name and each.strength <= NAME for each in role.evidence)
        return role.name in roles and (named or role.evidence[0].strength >= SHAPE)

    # --- what bonds say -------------------------------------------------------------------

    @property
    def external_bases(self) -> dict[int, list[str]]:
        """External types that each type extends or implements itself."""
        return self.bases.external

    @property
    def implementers(self) -> dict[int, list[int]]:
        """Types that extend or implement each type, over any number of steps, sorted."""
        return self.bases.implementers

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

    @cached_property
    def _field_types(self) -> dict[int, list[tuple[str, int]]]:
        """(text, target) of every field type of a class."""
        found: dict[int, list[tuple[str, int]]] = defaultdict(list)
        field = KIND_NUMBER["field"]
        for row, kind in enumerate(self.bonds.kind):
            if kind == field:
                found[self.bonds.source[row]].append((self.bonds.text_of("text", row), self.bonds.target[row]))
        return found

    @cached_property
    def _creations(self) -> dict[int, list[tuple[int, int]]]:
        """Type to the (member, target) of every creation of a type of the tree in it."""
        found: dict[int, list[tuple[int, int]]] = defaultdict(list)
        creation, table = KIND_NUMBER["creation"], self.bonds
        for kind, source, member, target in zip(table.kind, table.source, table.source_member, table.target, strict=True):
            if kind == creation and target >= 0:
                found[source].append((member, target))
        return found

    @cached_property
    def _called(self) -> set[tuple[int, int]]:
        """(type, type that it calls methods of)."""
        call, table = KIND_NUMBER["call"], self.bonds
        return {(s, t) for kind, s, t in zip(table.kind, table.source, table.target, strict=True) if kind == call and t >= 0}

    # --- evidence that needs no other role ------------------------------------------------

    def _standing_evidence(self, number: int) -> list[Evidence]:
        declared = self.symbols.types[number]
        facts = self.symbols.files[self.symbols.file_of[number]]
        catalogue = self.symbols.catalogues.of(facts.language)
        found: list[Evidence] = []
        for pattern, role in self.settings.roles.items():
            if fnmatch.fnmatchcase(self.symbols.names[number], pattern):
                found.append(Evidence(role, SETTING, f"setting for `{pattern}`"))
        found += from_annotations(declared, catalogue)
        found += self._from_bases(number, catalogue)
        if is_test_path(facts.path):
            found.append(Evidence("test", ANNOTATION + 5, "lies in a test folder"))
        found += self._from_shape(number, declared)
        found += from_name(declared.name)
        return found

    def _from_bases(self, number: int, catalogue: Catalogue) -> list[Evidence]:
        found = []
        own = self.symbols.names[number]
        language = self.symbols.files[self.symbols.file_of[number]].language
        if self.symbols.catalogues.is_value(own, language):
            found.append(Evidence("value", BASE - 1, "is a standard value"))
        if self.symbols.catalogues.is_view_part(own, language):
            found.append(Evidence("presentation", BASE - 2, "is a visual part"))
        for each in self.ancestors(number):
            for base in (self.symbols.names[each], *self.external_bases.get(each, ())):
                for role, patterns in catalogue.roles.bases.items():
                    if base in patterns:
                        found.append(Evidence(role, BASE, f"extends {base}" if base != own else f"is {base}"))
                if base != own and self.symbols.catalogues.is_value(base, language, whole_packages=False):
                    found.append(Evidence("value", SHAPE + 1, f"extends the standard value {base}"))
                simple = simple_name(base)
                if base != own and simple.endswith(("Exception", "Error")) and self.symbols.types[number].kind == "class":
                    found.append(Evidence("exception", BASE, f"extends {base}"))
        facts = self.symbols.files[self.symbols.file_of[number]]
        for prefix in catalogue.roles.imports.get("test", ()):
            if any(each.name.startswith(prefix) for each in facts.imports):
                found.append(Evidence("test", ANNOTATION, f"imports {prefix}"))
        return found

    def _from_shape(self, number: int, declared: DeclaredType) -> list[Evidence]:
        if declared.kind in ("interface", "annotation"):
            role = "abstraction" if declared.kind == "interface" else "value"
            return [Evidence(role, SHAPE, f"is an {declared.kind}")]
        if self.symbols.is_module(number):
            return self._from_module(declared)
        methods = [member for member in declared.members if member.kind == "method"]
        fields = [member for member in declared.members if member.kind in ("field", "component") and not member.is_static]
        found = []
        if any(is_start(member) for member in methods):
            working = [member for member in methods if not member.is_static and not is_plain(member)]
            if len(working) <= 3:
                found.append(Evidence("composition-root", SHAPE + 5, "holds the program's start"))
        effects = {use.effect for use in self.effects.used.get(number, ())} & TELLING_EFFECTS
        if declared.kind == "enum":
            found.append(Evidence("value", SHAPE - 5 if effects else SHAPE + 1, "is an enum"))
        if declared.kind == "record":
            found.append(Evidence("value", SHAPE - 5 if effects else SHAPE + 1, "is a record"))
        if methods and not fields and all(member.is_static for member in methods):
            found.append(Evidence("utility", SHAPE, "has static members only"))
        found += self._effect_evidence(number, methods, effects)
        found += self._data_evidence(number, declared, fields, methods, effects)
        if self._draws(number, methods):
            found.append(Evidence("presentation", SHAPE + 6, "draws on the screen"))
        if number in self._readers_of_requests:
            found.append(Evidence("presentation", SHAPE + 6, READS_REQUEST))
        if self._makes_things(number, declared, methods):
            found.append(Evidence("factory", SHAPE + 2, "its methods create what they return"))
        return found

    def _from_module(self, declared: DeclaredType) -> list[Evidence]:
        """A module is no class: it holds functions and variables, or starts the program."""
        if any(is_start(member) for member in declared.members) or declared.name in STARTING_MODULES:
            return [Evidence("composition-root", SHAPE + 5, "holds the program's start")]
        return [Evidence("utility", SHAPE, "is a module")]

    def _effect_evidence(self, number: int, methods: list[Member], effects: set[str]) -> list[Evidence]:
        """Touching a store or device is what a class is for when most of its working methods do; else it is by the way."""
        if not effects or all(member.is_static for member in methods):
            return []
        found = [Evidence("service", WEAK_SHAPE, "has effects")]
        working = sum(1 for member in methods if not is_accessor(member)) or 1
        for role, sort in (("repository", STORAGE_EFFECTS), ("gateway", DEVICE_EFFECTS)):
            touched = {self.bonds.source_member[use.row] for use in self.effects.used[number] if use.effect in sort}
            if touched:
                strength = (SHAPE + 4 if 2 * len(touched) >= working else WEAK_SHAPE + 5) + (role == "gateway")
                found.append(Evidence(role, strength, f"touches {', '.join(sorted(effects & sort))}"))
        return found

    def _draws(self, number: int, methods: list[Member]) -> bool:
        """Whether most of what a class does itself is showing things."""
        if all(member.is_static for member in methods):
            return False
        uses = self.effects.used.get(number, ())
        drawing = sum(1 for use in uses if use.effect == "gui")
        return drawing >= 2 and 2 * drawing > sum(1 for use in uses if use.effect in TELLING_EFFECTS)

    @cached_property
    def _readers_of_requests(self) -> frozenset[int]:
        names = {-1 - number for number, name in enumerate(self.bonds.externals.strings) if name in REQUEST_VARIABLES}
        if not names:
            return frozenset()
        rows = zip(self.bonds.kind, self.bonds.source, self.bonds.target, strict=True)
        return frozenset(source for kind, source, target in rows if kind == STATE and target in names)

    def _data_evidence(
        self, number: int, declared: DeclaredType, fields: list[Member], methods: list[Member], effects: set[str]
    ) -> list[Evidence]:
        """Data has fields, and methods that hand them in and out or compute from them."""
        instance = [member for member in methods if not member.is_static]
        if effects or (not fields and not self.bases.in_tree.get(number)):
            return []
        plain = [member for member in instance if is_plain(member)]
        frozen = fields and all("final" in member.modifiers.words for member in fields)
        if fields and len(plain) >= PLAIN_SHARE * len(instance):
            role = "value" if frozen else "entity"
            return [Evidence(role, SHAPE, f"{len(fields)} fields, {len(plain)} of {len(instance)} methods are plain")]
        return []

    def _makes_things(self, number: int, declared: DeclaredType, methods: list[Member]) -> bool:
        """Whether most of the methods that are no accessors create, and return, something of the tree."""
        working = [m for m in methods if not m.is_private and m.body != (0, 0) and not (is_accessor(m) and m.name.startswith(("get", "is")))]
        if len(working) < 2 and not declared.name.endswith(tuple(shared_catalogue().suffixes["factory"].split())):
            return False
        created: dict[int, set[str]] = defaultdict(set)
        for member, target in self._creations.get(number, ()):
            if number not in self.ancestors(target):  # its own named constructors make no factory of a class
                created[member].update(self.symbols.types[each].name for each in self.ancestors(target))
        making = [
            m for index, m in enumerate(declared.members)
            if m in working and m.statements <= 8 and simple_name(typetext.head(m.type)) in created.get(index, ())
        ]  # fmt: skip
        return 2 * len(making) > len(working) and bool(making)

    # --- evidence that does ---------------------------------------------------------------

    def _settle_collaborators(self) -> None:
        """Classes with behaviour are services when they have collaborators; whose are known only when theirs are."""
        undecided = [
            number for number, declared in enumerate(self.symbols.types)
            if self._roles[number].name == "" or self._roles[number].evidence[0].strength < SHAPE
            or (self._roles[number].name in DATA and self._roles[number].evidence[0].strength == SHAPE)
        ]  # fmt: skip
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
        for number in range(len(self._roles)):
            if self._roles[number].name == "":
                self._roles[number] = self._fallback(number)

    def _settle_roots(self) -> None:
        """Classes that only put services together and keep none of them are composition roots, whatever they are called."""
        for number, created in self._creations.items():
            declared, role = self.symbols.types[number], self._roles[number]
            if role.name not in (*SERVICE_LIKE, "utility", "algorithm") or role.evidence[0].strength >= BASE or self.symbols.is_module(number):
                continue
            targets = {target for _, target in created if self._roles[target].name in WIRED}
            working = [m for m in declared.members if m.kind == "method" and not is_plain(m)] or [m for m in declared.members if m.kind == "method"]
            statements, branches = sum(m.statements for m in working), sum(m.branches for m in working)
            keeps = any(target >= 0 and self._roles[target].name in (*SERVICE_LIKE, "abstraction") for _, target in self._field_types.get(number, ()))
            if len(targets) >= LEAST_WIRED and 2.5 * len(created) >= statements and 4 * branches <= statements and not keeps:
                evidence = Evidence("composition-root", SHAPE + 4, f"creates {len(targets)} services, keeps none and does little else")
                self._roles[number] = Role(evidence.role, (evidence, *role.evidence))

    def _from_collaborators(self, number: int) -> list[Evidence]:
        names = self.collaborators(number)
        if not names:
            return self._from_siblings(number)
        working = [m for m in self.symbols.types[number].members if m.kind == "method" and not is_accessor(m)]
        strength = SHAPE + 3 if working else WEAK_SHAPE
        return [Evidence("service", strength, f"works with {', '.join(names[:3])}")]

    def collaborators(self, number: int) -> tuple[str, ...]:
        """Simple names, sorted, of the service-like types that a class holds in fields, or makes where fields have no types."""
        found = {text for text, target in self._field_types.get(number, ()) if self._is_collaborator(target, number)}
        members = self.symbols.types[number].members if number >= 0 else ()
        if any(m.kind == "field" and not m.is_static and not m.type for m in members):  # what they hold, no type says
            found |= {self.symbols.types[each].name for _, each in self._creations.get(number, ()) if self._is_collaborator(each, number)}
        return tuple(sorted(found))

    def _from_siblings(self, number: int) -> list[Evidence]:
        """A class that stands beside services, behind the same abstraction, is one of them, if it is nothing more special."""
        if any(each.role in ("repository", "gateway") for each in self._evidence[number]):
            return []
        for base in self.ancestors(number)[1:]:
            siblings = [each for each in self.implementers.get(base, ()) if each != number]
            if self._roles[base].name == "abstraction" and siblings and all(
                self._roles[each].name in SERVICE_LIKE for each in siblings
            ):
                name = self.symbols.types[base].name
                return [Evidence("service", SHAPE + 1, f"implements {name}, as services do")]
        return []

    def _is_collaborator(self, target: int, number: int) -> bool:
        """Whether a field's type is service-like, or an abstraction that mostly is, and the class calls it."""
        if target < 0 or target == number or (number, target) not in self._called:
            return False
        if self._roles[target].name == "abstraction":
            implementers = self.implementers.get(target, ())
            serving = sum(1 for each in implementers if self._roles[each].name in SERVICE_LIKE)
            return 2 * serving >= len(implementers)
        return self._roles[target].name in SERVICE_LIKE

    def _works(self, number: int) -> bool:
        """Whether a class is, by its shape or better, one that does work for others."""
        return self._roles[number].name in ("service", "gateway", "repository") and self._roles[number].evidence[0].strength >= SHAPE

    def _fallback(self, number: int) -> Role:
        """A class that nothing spoke for: by whether it has state of its own."""
        declared = self.symbols.types[number]
        fields = [m for m in declared.members if m.kind == "field" and not m.is_static]
        made = sorted({self.symbols.types[t].name for _, t in self._creations.get(number, ()) if t != number and self._works(t)})
        if declared.kind == "anonymous":
            evidence = Evidence("part", WEAK_SHAPE, "is an anonymous class")
        elif made and any(m.kind == "method" and not is_accessor(m) for m in declared.members):
            evidence = Evidence("service", WEAK_SHAPE, f"makes itself {', '.join(made[:3])}")
        elif fields:
            evidence = Evidence("entity", WEAK_SHAPE, "works on its own fields, without collaborators or effects")
        elif any(m.kind == "method" for m in declared.members):
            evidence = Evidence("algorithm", WEAK_SHAPE, "behaviour without state, collaborators or effects")
        else:
            evidence = Evidence("value", WEAK_SHAPE, "declares nothing of its own")
        return Role(evidence.role, (evidence, *self._roles[number].evidence))
