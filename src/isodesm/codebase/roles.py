"""What each class is for, with the evidence that spoke for it and against it.

Strength of evidence: settings, then annotations, then bases, then shape, then names. The strongest decides;
names and folders only break ties.
"""

from __future__ import annotations

import fnmatch
from collections import defaultdict
from functools import cached_property

import msgspec

from isodesm.catalogue import Catalogue, catalogue_of, is_value, shared_catalogue
from isodesm.codebase.bonds import KIND_NUMBER, BondTable
from isodesm.codebase.effects import Effects
from isodesm.codebase.names import UNKNOWN
from isodesm.codebase.symbols import Symbols
from isodesm.facts import typetext
from isodesm.facts.records import DeclaredType, Member
from isodesm.settings import Settings

SERVICE_LIKE = frozenset(("service", "gateway", "repository", "presentation", "factory"))
DATA = frozenset(("entity", "value"))
SETTING, ANNOTATION, BASE, SHAPE, WEAK_SHAPE, NAME = 100, 80, 70, 50, 30, 10

SMALL_BODY = 3
"""Statements up to which a method without decisions counts as plain: it hands data in, out or on."""
PLAIN_SHARE = 0.75
"""Share of plain methods from which a class with fields counts as data."""

_OBJECT_METHODS = frozenset("equals hashCode toString compareTo clone finalize compare readObject writeObject".split())
_ACCESSOR = ("get", "set", "is", "has", "with", "add", "remove", "of", "from", "to", "as", "copy", "put", "clear", "size")
DEVICE_EFFECTS = frozenset(("network", "process", "gui"))
STORAGE_EFFECTS = frozenset(("database", "file"))


class Evidence(msgspec.Struct, frozen=True):
    """One thing that speaks for a role."""

    role: str
    strength: int
    reason: str


class Role(msgspec.Struct, frozen=True):
    """The role of a class and all evidence, strongest first; what names another role spoke against."""

    name: str
    evidence: tuple[Evidence, ...]


class Roles:
    """Roles of all types, by number: `roles[number]`."""

    def __init__(self, symbols: Symbols, bonds: BondTable, effects: Effects, settings: Settings) -> None:
        self.symbols, self.bonds, self.effects, self.settings = symbols, bonds, effects, settings
        self._ancestors: dict[int, tuple[int, ...]] = {}
        self._others: dict[int, tuple[int, ...]] = {}
        self._evidence: list[list[Evidence]] = [self._standing_evidence(number) for number in range(len(symbols))]
        self._roles = [_decide(found) for found in self._evidence]
        self._settle_collaborators()

    def __getitem__(self, number: int) -> Role:
        return self._roles[number]

    def name(self, number: int) -> str:
        return self._roles[number].name

    # --- what bonds say -------------------------------------------------------------------

    @cached_property
    def external_bases(self) -> dict[int, list[str]]:
        """External types that each type extends or implements itself."""
        found: dict[int, list[str]] = defaultdict(list)
        wanted = (KIND_NUMBER["extends"], KIND_NUMBER["implements"])
        for kind, source, target in zip(self.bonds.kind, self.bonds.source, self.bonds.target, strict=True):
            if kind in wanted and target < 0 and target != UNKNOWN:
                found[source].append(self.bonds.external(target))
        return found

    @cached_property
    def tree_bases(self) -> dict[int, list[int]]:
        """Types of the tree that each type extends or implements itself."""
        found: dict[int, list[int]] = defaultdict(list)
        wanted = (KIND_NUMBER["extends"], KIND_NUMBER["implements"])
        for kind, source, target in zip(self.bonds.kind, self.bonds.source, self.bonds.target, strict=True):
            if kind in wanted and target >= 0:
                found[source].append(target)
        return found

    @cached_property
    def implementers(self) -> dict[int, list[int]]:
        """Types that extend or implement each type, over any number of steps, sorted."""
        found: dict[int, set[int]] = defaultdict(set)
        for number in self.tree_bases:
            for base in self.ancestors(number)[1:]:
                found[base].add(number)
        return {base: sorted(below) for base, below in found.items()}

    def ancestors(self, number: int) -> tuple[int, ...]:
        """A type and all it inherits from in the tree, nearest first."""
        found = self._ancestors.get(number)
        if found is None:
            seen = {number: None}
            waiting = [number]
            for each in waiting:
                for base in self.tree_bases.get(each, ()):
                    if base not in seen:
                        seen[base] = None
                        waiting.append(base)
            found = self._ancestors[number] = tuple(seen)
        return found

    def other_implementations(self, number: int) -> tuple[int, ...]:
        """Production classes, sorted, that implement an abstraction which a class implements too."""
        found = self._others.get(number)
        if found is None:
            family: set[int] = set()
            for base in self.ancestors(number)[1:]:
                if self.symbols.types[base].is_abstract:
                    family.update(self.implementers.get(base, ()))
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
    def _creators(self) -> dict[int, int]:
        """How many creations of types of the tree each class holds."""
        found: dict[int, int] = defaultdict(int)
        creation = KIND_NUMBER["creation"]
        for kind, source, target in zip(self.bonds.kind, self.bonds.source, self.bonds.target, strict=True):
            if kind == creation and target >= 0:
                found[source] += 1
        return found

    # --- evidence that needs no other role ------------------------------------------------

    def _standing_evidence(self, number: int) -> list[Evidence]:
        declared = self.symbols.types[number]
        facts = self.symbols.files[self.symbols.file_of[number]]
        catalogue = catalogue_of(facts.language)
        found: list[Evidence] = []
        for pattern, role in self.settings.roles.items():
            if fnmatch.fnmatchcase(self.symbols.names[number], pattern):
                found.append(Evidence(role, SETTING, f"setting for `{pattern}`"))
        found += _from_annotations(declared, catalogue)
        found += self._from_bases(number, catalogue)
        if _is_test_path(facts.path):
            found.append(Evidence("test", ANNOTATION + 5, "lies in a test folder"))
        found += self._from_shape(number, declared)
        found += _from_name(declared.name)
        return found

    def _from_bases(self, number: int, catalogue: Catalogue) -> list[Evidence]:
        found = []
        own = self.symbols.names[number]
        if is_value(own, self.symbols.files[self.symbols.file_of[number]].language):
            found.append(Evidence("value", BASE - 1, "is a standard value"))
        for each in self.ancestors(number):
            for base in (self.symbols.names[each], *self.external_bases.get(each, ())):
                for role, patterns in catalogue.roles.bases.items():
                    if base in patterns:
                        found.append(Evidence(role, BASE, f"extends {base}" if base != own else f"is {base}"))
                simple = base.rpartition(".")[2]
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
        methods = [member for member in declared.members if member.kind == "method"]
        fields = [member for member in declared.members if member.kind in ("field", "component") and not member.is_static]
        found = []
        if any(_is_start(member) for member in methods):
            working = [member for member in methods if not member.is_static and not _is_plain(member)]
            if len(working) <= 3:
                found.append(Evidence("composition-root", SHAPE + 5, "holds the program's start"))
        effects = {use.effect for use in self.effects.used.get(number, ())}
        if declared.kind == "enum":
            found.append(Evidence("value", SHAPE - 5 if effects else SHAPE + 1, "is an enum"))
        if declared.kind == "record":
            found.append(Evidence("value", SHAPE - 5 if effects else SHAPE + 1, "is a record"))
        if methods and not fields and all(member.is_static for member in methods):
            found.append(Evidence("utility", SHAPE, "has static members only"))
        found += self._effect_evidence(number, methods, effects)
        found += self._data_evidence(number, declared, fields, methods, effects)
        if self._makes_things(number, declared, methods):
            found.append(Evidence("factory", SHAPE + 2, "its methods create what they return"))
        return found

    def _effect_evidence(self, number: int, methods: list[Member], effects: set[str]) -> list[Evidence]:
        """Touching a store or device is what a class is for when most of its working methods do; else it is by the way."""
        if not effects or all(member.is_static for member in methods):
            return []
        found = [Evidence("service", WEAK_SHAPE, "has effects")]
        working = sum(1 for member in methods if not _is_accessor(member)) or 1
        for role, sort in (("repository", STORAGE_EFFECTS), ("gateway", DEVICE_EFFECTS)):
            touched = {self.bonds.source_member[use.row] for use in self.effects.used[number] if use.effect in sort}
            if touched:
                strength = (SHAPE + 4 if 2 * len(touched) > working else WEAK_SHAPE + 5) + (role == "gateway")
                found.append(Evidence(role, strength, f"touches {', '.join(sorted(effects & sort))}"))
        return found

    def _data_evidence(
        self, number: int, declared: DeclaredType, fields: list[Member], methods: list[Member], effects: set[str]
    ) -> list[Evidence]:
        """Data has fields, and methods that hand them in and out or compute from them."""
        instance = [member for member in methods if not member.is_static]
        if effects or (not fields and not self.tree_bases.get(number)):
            return []
        plain = [member for member in instance if _is_plain(member)]
        frozen = fields and all("final" in member.modifiers.words for member in fields)
        if fields and len(plain) >= PLAIN_SHARE * len(instance):
            role = "value" if frozen else "entity"
            return [Evidence(role, SHAPE, f"{len(fields)} fields, {len(plain)} of {len(instance)} methods are plain")]
        return []

    def _makes_things(self, number: int, declared: DeclaredType, methods: list[Member]) -> bool:
        """Whether most public methods return something of the tree, and the class creates about as many things."""
        public = [member for member in methods if not member.is_private]
        if not public or declared.name == "" or self._creators.get(number, 0) < len(public):
            return False
        making = [
            member for member in public
            if member.type and member.type not in ("void", declared.name) and member.statements <= 6
            and (member.name.startswith(("create", "make", "new", "build")))
        ]  # fmt: skip
        return len(making) * 2 > len(public)

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
                role = _decide(found)
                if role.name != self._roles[number].name:
                    changed = True
                self._roles[number] = role
            if not changed:
                break
            undecided = [number for number in undecided if self._roles[number].name != "service"]
        for number in range(len(self._roles)):
            if self._roles[number].name == "":
                self._roles[number] = self._fallback(number)

    def _from_collaborators(self, number: int) -> list[Evidence]:
        names = self.collaborators(number)
        if not names:
            return self._from_siblings(number)
        working = [m for m in self.symbols.types[number].members if m.kind == "method" and not _is_accessor(m)]
        strength = SHAPE + 3 if working else WEAK_SHAPE
        return [Evidence("service", strength, f"works with {', '.join(names[:3])}")]

    def collaborators(self, number: int) -> tuple[str, ...]:
        """Simple names, sorted, of the service-like types that a class holds in fields."""
        fields = self._field_types.get(number, ())
        return tuple(sorted({text for text, target in fields if self._is_collaborator(target, number)}))

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
        if target < 0 or target == number:
            return False
        if self._roles[target].name == "abstraction":
            implementers = self.implementers.get(target, ())
            return any(self._roles[each].name in SERVICE_LIKE for each in implementers) or (
                not implementers and len(self.symbols.types[target].members) > 1
            )
        return self._roles[target].name in SERVICE_LIKE

    def _fallback(self, number: int) -> Role:
        """A class that nothing spoke for: by whether it has state of its own."""
        declared = self.symbols.types[number]
        fields = [m for m in declared.members if m.kind == "field" and not m.is_static]
        if declared.kind == "anonymous":
            evidence = Evidence("part", WEAK_SHAPE, "is an anonymous class")
        elif fields:
            evidence = Evidence("entity", WEAK_SHAPE, "works on its own fields, without collaborators or effects")
        elif any(m.kind == "method" for m in declared.members):
            evidence = Evidence("algorithm", WEAK_SHAPE, "behaviour without state, collaborators or effects")
        else:
            evidence = Evidence("value", WEAK_SHAPE, "declares nothing of its own")
        return Role(evidence.role, (evidence, *self._roles[number].evidence))


def _decide(found: list[Evidence]) -> Role:
    """The role with the strongest evidence; names break ties only."""
    if not found:
        return Role("", ())
    totals: dict[str, int] = defaultdict(int)
    for evidence in found:
        if evidence.strength <= NAME:
            totals[evidence.role] += evidence.strength
    ordered = sorted(found, key=lambda each: (-each.strength, -totals[each.role], each.role, each.reason))
    if ordered[0].strength <= NAME and ordered[0].role not in SERVICE_LIKE:
        return Role("", tuple(ordered))
    role = ordered[0].role
    if role == "service" and ordered[0].strength < BASE:  # the general case: a name may say which sort of service
        named = [each.role for each in ordered if each.strength <= NAME and each.role in ("presentation", "gateway", "repository")]
        role = named[0] if named else role
    return Role(role, tuple(ordered))


def _from_annotations(declared: DeclaredType, catalogue: Catalogue) -> list[Evidence]:
    found = []
    names = {annotation.name.rpartition(".")[2] for annotation in declared.modifiers.annotations}
    for role, known in catalogue.roles.annotations.items():
        for name in sorted(names.intersection(known)):
            found.append(Evidence(role, ANNOTATION, f"annotated with {name}"))
    return found


def _from_name(name: str) -> list[Evidence]:
    found = []
    for role, suffixes in shared_catalogue().suffixes.items():
        for suffix in suffixes.split():
            if name.endswith(suffix) and name != suffix:
                found.append(Evidence(role, NAME, f"is named …{suffix}"))
    return found


def _is_test_path(path: str) -> bool:
    segments = frozenset(shared_catalogue().tests.segments.split())
    return any(segment in segments for segment in path.split("/")[:-1])


def _is_start(member: Member) -> bool:
    """A program's entry: `public static void main(String[])`."""
    if member.name != "main" or not member.is_static or len(member.parameters) > 1:
        return False
    return not member.parameters or typetext.head(member.parameters[0].type) == "String"


def _is_plain(member: Member) -> bool:
    """Whether a method hands data in, out or on, without deciding much."""
    if member.name in _OBJECT_METHODS or member.body == (0, 0):
        return True
    if member.branches == 0 and member.statements <= SMALL_BODY:
        return True
    return member.name.startswith(_ACCESSOR) and member.statements <= 2 * SMALL_BODY and member.branches <= 1


def _is_accessor(member: Member) -> bool:
    """Whether a method only hands a field in or out."""
    if member.name in _OBJECT_METHODS:
        return True
    setter = member.name.startswith(("set", "with")) and len(member.parameters) == 1
    getter = member.type not in ("", "void") and not member.parameters
    return member.statements <= 1 and member.branches == 0 and (setter or getter)


