"""What speaks for the role of a class without knowing the role of any other."""

from __future__ import annotations

import fnmatch
from collections import defaultdict
from functools import cached_property

from isodesm.catalogue import Catalogue, shared_catalogue
from isodesm.facts import typetext
from isodesm.facts.records import DeclaredType, Member
from isodesm.inference.effect_kinds import SEVERE
from isodesm.inference.effects import Effects
from isodesm.inference.evidence import (
    ANNOTATION,
    BASE,
    SETTING,
    SHAPE,
    WEAK_SHAPE,
    Evidence,
    from_annotations,
    from_name,
    is_accessor,
    is_field,
    is_method,
    is_open,
    is_plain,
    is_start,
    is_test_path,
)
from isodesm.linking.bonds import KIND_NUMBER, STATE, BondTable
from isodesm.linking.remembering import remembered
from isodesm.linking.symbols import Symbols, simple_name
from isodesm.settings import Settings

PLAIN_SHARE = 0.75
"""Share of plain methods from which a class with fields counts as data."""

TELLING_EFFECTS = SEVERE | {"thread"}
"""Effects that say what a class is for; a clock, a console or a setting is read by the way, by data too."""

STARTING_MODULES = frozenset(("main", "__main__", "bootstrap", "program", "Program", "startup", "wsgi", "asgi", "manage"))
"""Names of modules that start a program."""
VIEW_BASES = tuple(shared_catalogue().view_bases.suffixes.split())
VIEW_MODELS = tuple(shared_catalogue().view_models.suffixes.split())
"""Ends of the names of what a toolkit shows, and what it tells: who extends that is no view."""
READING = 1 / 5
"""Share of its methods that must read the request, so that answering requests is what a class is for."""
READS_REQUEST, TAKES_REQUEST, HAS_EFFECTS = "reads the request", "takes the request", "has effects"
ANSWERING = frozenset(("controllers", "controller", "endpoints", "servlets", "handlers"))
"""Folders of what answers requests."""
REQUEST_VARIABLES = frozenset(("$_GET", "$_POST", "$_REQUEST", "$_COOKIE", "$_FILES"))
"""Global variables that hold what somebody asked for: who reads them answers requests."""
DEVICE_EFFECTS = frozenset(("network", "process"))
STORAGE_EFFECTS = frozenset(("database", "file"))


class StandingEvidence:
    """Evidence from settings, annotations, bases, shape, effects and names, by type number."""

    def __init__(self, symbols: Symbols, bonds: BondTable, effects: Effects, settings: Settings) -> None:
        self.symbols, self.bonds, self.effects, self.settings = symbols, bonds, effects, settings
        self.bases = effects.bases
        self.ancestors = self.bases.ancestors
        """A type and all it inherits from in the tree, nearest first."""

    @property
    def external_bases(self) -> dict[int, list[str]]:
        """External types that each type extends or implements itself."""
        return self.bases.external

    @cached_property
    def _creations(self) -> dict[int, list[tuple[int, int]]]:
        """Type to the (member, target) of every creation of a type of the tree in it."""
        found: dict[int, list[tuple[int, int]]] = defaultdict(list)
        creation, table = KIND_NUMBER["creation"], self.bonds
        for kind, source, member, target in zip(table.kind, table.source, table.source_member, table.target, strict=True):
            if kind == creation and target >= 0:
                found[source].append((member, target))
        return found

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
        above: list[str] = []
        for each in self.ancestors(number):
            outside = self.external_bases.get(each, ())
            above += outside
            for base in (self.symbols.names[each], *outside):
                for role in self._roles_of_base(base, language):
                    found.append(Evidence(role, BASE, f"extends {base}" if base != own else f"is {base}"))
                if base != own and self._is_standard_value(base, language) and _adds_little(self.symbols.types[number]):
                    found.append(Evidence("value", SHAPE + 1, f"extends the standard value {base}"))
                simple = simple_name(base)
                if base != own and simple.endswith(("Exception", "Error")) and self.symbols.types[number].kind == "class":
                    found.append(Evidence("exception", BASE, f"extends {base}"))
        is_view, is_value = self.symbols.catalogues.is_view_part, self.symbols.catalogues.is_value
        shown = (
            is_view(base, language) and not is_value(base, language) and not simple_name(base).endswith(VIEW_MODELS)
            for base in above
        )
        if any(simple_name(base).endswith(VIEW_BASES) for base in above) or any(shown):
            found.append(Evidence("presentation", ANNOTATION + 2, "extends a visual element"))
        found += self._from_imports(self.symbols.file_of[number])
        return found

    @remembered
    def _from_imports(self, file: int) -> tuple[Evidence, ...]:
        """What the imports of a file say of all its types."""
        facts = self.symbols.files[file]
        prefixes = self.symbols.catalogues.of(facts.language).roles.imports.get("test", ())
        names = [each.name for each in facts.imports if each.name.startswith(tuple(prefixes))]
        used = (prefix for prefix in prefixes if any(name.startswith(prefix) for name in names))
        return tuple(Evidence("test", ANNOTATION, f"imports {prefix}") for prefix in used)

    @remembered
    def _roles_of_base(self, base: str, language: str) -> tuple[str, ...]:
        """The roles that the catalogue knows the heirs of a class to have."""
        return tuple(role for role, known in self.symbols.catalogues.of(language).roles.bases.items() if base in known)

    @remembered
    def _is_standard_value(self, base: str, language: str) -> bool:
        return self.symbols.catalogues.is_value(base, language, whole_packages=False)

    def _from_shape(self, number: int, declared: DeclaredType) -> list[Evidence]:
        if declared.kind in ("interface", "annotation"):
            role = "abstraction" if declared.kind == "interface" else "value"
            return [Evidence(role, SHAPE, f"is an {declared.kind}")]
        if self.symbols.is_module(number):
            return self._from_module(declared)
        if declared.is_abstract and _only_declares(declared):
            return [Evidence("abstraction", SHAPE, "is an abstract class that only declares")]
        methods = [member for member in declared.members if is_method(member)]
        fields = [member for member in declared.members if is_field(member) and not member.is_static]
        used = self.effects.used.get(number, ())
        effects = {use.effect for use in used if use.sort != "timer"} & TELLING_EFFECTS
        found = self._from_kind(declared, methods, fields, effects)
        found += self._effect_evidence(number, methods, effects)
        found += self._data_evidence(number, declared, fields, methods, effects)
        if self._draws(number, methods):
            found.append(Evidence("presentation", SHAPE + 6, "draws on the screen"))
        if number in self._takers_of_requests and self._is_called_for_requests(number, declared):
            found.append(Evidence("presentation", SHAPE + 7, TAKES_REQUEST))
        if number in self._readers_of_requests:
            found.append(Evidence("presentation", SHAPE + 6, READS_REQUEST))
        if self._makes_things(number, declared, methods):
            found.append(Evidence("factory", SHAPE + 2, "its methods create what they return"))
        return found

    def _from_kind(
        self, declared: DeclaredType, methods: list[Member], fields: list[Member], effects: set[str]
    ) -> list[Evidence]:
        """What a type is declared as, and whether it starts the program or has no objects."""
        found = []
        if any(map(is_start, methods)):
            working = [member for member in methods if not member.is_static and not is_plain(member)]
            if len(working) <= 1:
                found.append(Evidence("composition-root", SHAPE + 7, "holds the program's start"))
        if declared.kind in ("enum", "record"):
            article = "an" if declared.kind == "enum" else "a"
            found.append(Evidence("value", SHAPE - 5 if effects else SHAPE + 1, f"is {article} {declared.kind}"))
        if methods and not fields and all(member.is_static for member in methods):
            found.append(Evidence("utility", SHAPE, "has static members only"))
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
        found = [Evidence("service", WEAK_SHAPE, HAS_EFFECTS)]
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
        drawing = [self.bonds.source_member[use.row] for use in uses if use.effect == "gui"]
        if len(drawing) < 2 or 2 * len(drawing) <= sum(1 for use in uses if use.effect in TELLING_EFFECTS):
            return False
        return 2 * len(set(drawing)) >= self._working(number)  # a worker that asks or tells somebody now and then is none

    @cached_property
    def _readers_of_requests(self) -> frozenset[int]:
        names = {-1 - number for number, name in enumerate(self.bonds.externals.strings) if name in REQUEST_VARIABLES}
        if not names:
            return frozenset()
        rows = zip(self.bonds.kind, self.bonds.source, self.bonds.source_member, self.bonds.target, strict=True)
        readers: dict[int, set[int]] = defaultdict(set)
        for kind, source, member, target in rows:
            if kind == STATE and target in names:
                readers[source].add(member)
        return frozenset(number for number, members in readers.items() if len(members) >= READING * self._working(number))

    @cached_property
    def _takers_of_requests(self) -> frozenset[int]:
        """Types with a public method that takes a type of the transport."""
        table, symbols, externals = self.bonds, self.symbols, self.bonds.externals.strings
        found = set()
        for row in table.rows_of_kind("parameter"):
            source, outside = table.source[row], -1 - table.target[row]
            if source in found or not 0 <= outside < len(externals) or table.source_member[row] < 0:
                continue
            member = symbols.types[source].members[table.source_member[row]]
            language = symbols.files[symbols.file_of[source]].language
            if (
                member.kind == "method"
                and not member.is_private
                and symbols.catalogues.is_boundary(externals[outside], language)
            ):
                found.add(source)
        return frozenset(found)

    def _is_called_for_requests(self, number: int, declared: DeclaredType) -> bool:
        """Whether the name of a class, or of its folder, says that it answers: a service that takes a request leaks it."""
        folders = self.symbols.path(number).lower().split("/")[:-1]
        answers = any(each.role == "presentation" for each in from_name(declared.name))
        return answers or any(folder in ANSWERING for folder in folders[-2:])

    def _working(self, number: int) -> int:
        """The number of methods of a class that are more than accessors."""
        return sum(1 for m in self.symbols.types[number].members if is_method(m) and not is_accessor(m))

    def _data_evidence(
        self, number: int, declared: DeclaredType, fields: list[Member], methods: list[Member], effects: set[str]
    ) -> list[Evidence]:
        """Data has fields, and methods that hand them in and out or compute from them."""
        instance = [member for member in methods if not member.is_static]
        if effects or (not fields and not self.bases.in_tree.get(number)) or is_open(declared):
            return []
        plain = [member for member in instance if is_plain(member)]
        frozen = fields and all("final" in member.modifiers.words for member in fields)
        if fields and len(plain) >= PLAIN_SHARE * len(instance):
            role = "value" if frozen else "entity"
            return [Evidence(role, SHAPE, f"{len(fields)} fields, {len(plain)} of {len(instance)} methods are plain")]
        return []

    def _makes_things(self, number: int, declared: DeclaredType, methods: list[Member]) -> bool:
        """Whether most of the methods that are no accessors create, and return, something of the tree."""
        working = [
            m
            for m in methods
            if not m.is_private and m.body != (0, 0) and not (is_accessor(m) and m.name.startswith(("get", "is")))
        ]
        if len(working) < 2 and not declared.name.endswith(tuple(shared_catalogue().suffixes["factory"].split())):
            return False
        created: dict[int, set[str]] = defaultdict(set)
        at_work = {id(m) for m in working}
        for member, target in dict.fromkeys(self._creations.get(number, ())):
            if number not in self.ancestors(target):  # its own named constructors make no factory of a class
                created[member].update(self.symbols.types[each].name for each in self.ancestors(target))
        making = [
            m
            for index, m in enumerate(declared.members)
            if id(m) in at_work and m.statements <= 8 and simple_name(typetext.head(m.type)) in created.get(index, ())
        ]
        return 2 * len(making) > len(working) and bool(making)


def _adds_little(declared: DeclaredType) -> bool:
    """Whether what a class does beyond its base is plain: a service that tells others of its events extends a standard class,
    too."""
    methods = [member for member in declared.members if is_method(member) and not member.is_static]
    return sum(map(is_plain, methods)) >= PLAIN_SHARE * len(methods)


def _only_declares(declared: DeclaredType) -> bool:
    """Whether a class has methods, none of which does anything, and no state: an interface by another word."""
    methods = [member for member in declared.members if is_method(member) and not member.is_static]
    return bool(methods) and all(member.body == (0, 0) for member in methods) and not any(map(is_field, declared.members))
