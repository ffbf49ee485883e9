"""Data about public APIs, per language: which have an effect, which are plain values, which are containers.

One TOML file a language under `data/`; nothing here knows anything of the code that is read.
"""

from __future__ import annotations

from functools import cache, lru_cache, reduce
from importlib.resources import files
from typing import Any

import msgspec

from isodesm.catalogue.containers import ContainerRules


class Implicit(msgspec.Struct, frozen=True):
    """Names that need no import: the package they live in and the names, separated by white space."""

    package: str = ""
    names: str = ""


class Listed(msgspec.Struct, frozen=True):
    """Names separated by white space; `x.*` stands for all of package `x`."""

    types: str = ""
    members: str = ""


class RoleRules(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What speaks for a role: annotations by simple name, bases by qualified name, imports by prefix."""

    annotations: dict[str, tuple[str, ...]] = {}
    bases: dict[str, tuple[str, ...]] = {}
    imports: dict[str, tuple[str, ...]] = {}


class Injection(msgspec.Struct, frozen=True):
    """Annotations that mark what a container fills in."""

    annotations: tuple[str, ...] = ()


class EntryRules(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Where hosts enter a program: marks of functions and methods with what they say, bases by simple name with the members
    that are run, and names of functions of a module."""

    marks: dict[str, str] = {}
    bases: dict[str, tuple[str, ...]] = {}
    functions: tuple[str, ...] = ()


class Handlers(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What handles errors for all boundary classes: annotations by simple name, bases by qualified name, calls by method
    name."""

    annotations: tuple[str, ...] = ()
    bases: tuple[str, ...] = ()
    names: tuple[str, ...] = ()
    """Simple names of classes that a host calls for each error."""
    calls: tuple[str, ...] = ()


class StandIn(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a class can be handed in the place of an API with an effect.

    `name` and `type` are those of the parameter, `supply` the expression that gives the real thing, `use` what the use of the
    API becomes, with `{field}` and `{arguments}`; `imports` are qualified names that the type needs.
    """

    name: str
    type: str
    supply: str
    use: str
    imports: tuple[str, ...] = ()


class LightUses(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Members with an effect that is felt only where they are used, as `Type.member`, separated by white space.

    `timers` put off a call, `drawing` builds visual elements; what only asks (`probes`) is known by the name of the member.
    """

    timers: str = ""
    drawing: str = ""
    replaced: str = ""
    """Effects that the usual test runners of a language stand something in for by themselves."""


class Replacing(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Functions by which tests put something else in the place of what code looks up: `path` take where it is as a text,
    `member` an object or module and the name in it."""

    path: tuple[str, ...] = ()
    member: tuple[str, ...] = ()


class LevelRule(msgspec.Struct, frozen=True):
    """Where a project file says the level of the language: dotted `keys` of one in JSON, or `patterns` whose group is the
    constraint; `signs` are patterns that show a level by themselves."""

    keys: tuple[str, ...] = ()
    patterns: tuple[str, ...] = ()
    signs: dict[str, str] = {}


class Given(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What members of APIs, separated by white space, do when their arguments match a pattern; '' for nothing."""

    members: str
    arguments: str
    effect: str


class Catalogue(msgspec.Struct, frozen=True, rename="kebab", forbid_unknown_fields=True):
    """The catalogue of one language, as its file spells it."""

    implicit: Implicit = Implicit()
    implicit_usings: dict[str, tuple[str, ...]] = {}
    """Kind of project to the namespaces that all its files know where it says so; `all` for those of every kind."""
    elements: dict[str, int] = {}
    effects: dict[str, dict[str, tuple[str, ...]]] = {}
    effect_calls: dict[str, tuple[str, ...]] = {}
    given: tuple[Given, ...] = ()
    """Effects that what is passed decides, the first that matches in front."""
    quiet: dict[str, str] = {}
    """Why parts of the platform have no effect, to their names, in which `*` stands for anything."""
    unmistakable: dict[str, str] = {}
    """Method to the external class that alone has one of that name, for calls on what nobody knows the type of."""
    values: Listed = Listed()
    cross_cutting: Listed = Listed()
    light: LightUses = LightUses()
    roles: RoleRules = RoleRules()
    narrower: RoleRules = RoleRules()
    """Marks and bases of what runs by itself, is told of events, or is sent."""
    injection: Injection = Injection()
    registrations: ContainerRules = ContainerRules()
    """What holds beside all containers: a user's own words."""
    containers: dict[str, ContainerRules] = {}
    """A family of containers by a name that says how it is told."""
    host_made: Listed = Listed()
    """Bases of what a host makes itself, without arguments."""
    handed_out: dict[str, str] = {}
    """What hosts and libraries hand out as, to its type: the last words of a dotted chain whose own type is not known."""
    lookups: dict[str, tuple[str, ...]] = {}
    adapted: Listed = Listed()
    """Bases of interfaces that are called like a function to have an object found that serves them."""
    callbacks: Listed = Listed()
    view_parts: Listed = Listed()
    pictures: Listed = Listed()
    """Visual parts that others read and write, too: to have one makes no view."""
    boundary: Listed = Listed()
    """Types of the transport and presentation side, which a service should not know."""
    error_handlers: Handlers = Handlers()
    entries: EntryRules = EntryRules()
    tasks: dict[str, str] = {}
    """Bases, by simple name, of what a thread, a pool or a timer runs, to the member that it calls."""
    replaced_by_tests: Replacing = Replacing()
    levels: dict[str, LevelRule] = {}
    """By the name of a project file, the one that is asked first in front."""
    stand_ins: dict[str, StandIn] = {}
    results: dict[str, str] = {}
    """By the qualified name of a member outside the tree, the type that it gives, where code need not write that."""
    by_reference: str = ""
    """Functions that hand something back through what is passed to them."""
    """By the qualified name of a member, or of a class that is created."""


class LayerEntry(msgspec.Struct, frozen=True):
    """A usual layer: its distance from the core, and folder names, separated by white space: `segments` that speak for it, and
    `hints` that may, and mean other things elsewhere."""

    name: str
    ring: int
    segments: str
    hints: str = ""


class Tests(msgspec.Struct, frozen=True):
    """Folder names, separated by white space, that hold tests, and a pattern of the names of files that are tests."""

    segments: str = ""
    files: str = "(?!)"


class Folders(msgspec.Struct, frozen=True):
    """Folder names, separated by white space."""

    segments: str = ""


class BuildFiles(msgspec.Struct, frozen=True):
    """Names and suffixes, separated by white space, of files that build a project."""

    names: str = ""
    suffixes: str = ""


class NamedSo(msgspec.Struct, frozen=True):
    """Name suffixes, separated by white space."""

    suffixes: str = ""


class NamedBy(msgspec.Struct, frozen=True):
    """A regular expression that names match."""

    pattern: str = "(?!)"


class TextLookups(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Names of functions that look texts up, and a pattern for what the bodies of others call."""

    members: str
    apis: str


class SharedCatalogue(msgspec.Struct, frozen=True, rename="kebab", forbid_unknown_fields=True):
    """What holds in every language."""

    layers: tuple[LayerEntry, ...]
    contracts: Folders
    """Folders of interfaces."""
    suffixes: dict[str, str]
    narrower: dict[str, str]
    """Ends of names that go with a narrower word for a class, and are no proof of it."""
    tests: Tests
    build_files: BuildFiles
    manifests: BuildFiles
    """Those of them that make the folder they are in a project of its own."""
    cross_cutting: NamedSo
    texts: TextLookups
    probes: NamedBy
    view_bases: NamedSo
    view_models: NamedSo
    """What toolkits show and tell, which classes of the domain may extend."""


@cache
def shared_catalogue() -> SharedCatalogue:
    """The catalogue of names that mean the same in all languages."""
    content = files(__package__).joinpath("data", "shared.toml").read_bytes()
    return msgspec.toml.decode(content, type=SharedCatalogue)


@cache
def catalogue_of(language: str) -> Catalogue:
    """The catalogue of a language."""
    content = files(__package__).joinpath("data", f"{language}.toml").read_bytes()
    return msgspec.toml.decode(content, type=Catalogue)


class Catalogues:
    """The catalogues of all languages, with a user's own entries of the same form, and what is often asked of them.

    One object goes with one codebase; nothing is shared between two that were read with different entries.
    """

    def __init__(self, own: dict[str, Catalogue] | None = None) -> None:
        self._own = own or {}
        self.of = cache(self._merged)
        """Language to its catalogue."""
        self.known_types = cache(self._known_types)
        self.built_in_functions = cache(self._built_in_functions)
        self.counted = cache(self._counted_members)
        self.registering = cache(self._registering)
        """Language to the words of all its containers in one."""
        self.is_value = lru_cache(maxsize=100_000)(self._is_value)
        self.is_view_part = lru_cache(maxsize=100_000)(self._is_view_part)
        self._listed = cache(self._names_listed)

    def _merged(self, language: str) -> Catalogue:
        shipped, own = catalogue_of(language), self._own.get(language)
        return shipped if own is None else _joined(shipped, own)

    def _known_types(self, language: str) -> frozenset[str]:
        """Every external type that the catalogue names in full, so that a wildcard import can be settled."""
        catalogue = self.of(language)
        found = {name for table in catalogue.effects.values() for name in table}
        found |= {name for name in catalogue.values.types.split() if not name.endswith("*")}
        found |= {name for bases in catalogue.roles.bases.values() for name in bases}
        found |= set(catalogue.lookups) | set(catalogue.callbacks.types.split())
        found |= {name for name in catalogue.boundary.types.split() if not name.endswith("*")}
        found |= {member.rpartition(".")[0] for member in catalogue.cross_cutting.members.split()}
        found |= {call.rpartition(".")[0] for calls in catalogue.effect_calls.values() for call in calls}
        found |= {f"{catalogue.implicit.package}.{name}" for name in catalogue.implicit.names.split()}
        return frozenset(found)

    def _built_in_functions(self, language: str) -> frozenset[str]:
        """Functions without an import that have an effect or are locators."""
        catalogue = self.of(language)
        package = catalogue.implicit.package
        tables = [*catalogue.effects.values(), catalogue.lookups]
        return frozenset(name.partition("/")[0] for table in tables for name in table.get(package, ()))

    def _counted_members(self, language: str) -> frozenset[str]:
        """Members that have an effect with one argument at most."""
        tables = self.of(language).effects.values()
        return frozenset(
            name.removesuffix("/1") for table in tables for names in table.values() for name in names if name.endswith("/1")
        )

    def _registering(self, language: str) -> ContainerRules:
        catalogue = self.of(language)
        return reduce(_joined, catalogue.containers.values(), catalogue.registrations)

    def _names_listed(self, language: str, table: str) -> frozenset[str]:
        return frozenset(getattr(self.of(language), table).types.split())

    def _is_value(self, name: str, language: str, whole_packages: bool = True) -> bool:
        """Whether a qualified name, or its whole package, is listed as a standard value, in the tree or not."""
        listed = self._listed(language, "values")
        return _holds(listed, name) if whole_packages else name in listed

    def _is_view_part(self, name: str, language: str) -> bool:
        """Whether a qualified name, or its whole package, is listed as a visual part, in the tree or not."""
        return _holds(self._listed(language, "view_parts"), name)

    def is_widget(self, name: str, language: str) -> bool:
        """Whether a qualified name is a visual part that only a view puts together, and neither a picture nor a value."""
        pictures = self._listed(language, "pictures")
        return self.is_view_part(name, language) and not _holds(pictures, name) and not self.is_value(name, language)

    def is_host_made(self, name: str, language: str) -> bool:
        """Whether a host makes by itself what has a base of that qualified name."""
        return _holds(self._listed(language, "host_made"), name)

    def is_boundary(self, name: str, language: str) -> bool:
        """Whether a qualified name, or its whole package, belongs to the transport or presentation side."""
        return _holds(self._listed(language, "boundary"), name)


def _holds(names: frozenset[str], name: str) -> bool:
    """Whether a list has a name, or a package above it as `package.*`."""
    if name in names:
        return True
    end = max(name.rfind(sign) for sign in ".\\#")
    return end >= 0 and f"{name[: end + 1]}*" in names


def _joined(shipped: Any, own: Any) -> Any:
    """Two entries of one form made one: tables key by key, lists one after the other, words set over what was there."""
    if isinstance(shipped, msgspec.Struct):
        names = shipped.__struct_fields__  # `fields` would resolve all annotations each time
        listed = isinstance(shipped, (Listed, Implicit, LightUses))
        return type(shipped)(
            **{
                name: f"{getattr(shipped, name)} {getattr(own, name)}".strip()
                if listed and name != "package"
                else _joined(getattr(shipped, name), getattr(own, name))
                for name in names
            }
        )
    if isinstance(shipped, dict):
        both = {key: _joined(value, own[key]) if key in own else value for key, value in shipped.items()}
        return both | {key: value for key, value in own.items() if key not in shipped}
    if isinstance(shipped, tuple):
        return (*shipped, *(each for each in own if each not in shipped))
    return own or shipped
