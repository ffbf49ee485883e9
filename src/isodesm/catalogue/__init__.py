"""Data about public APIs, per language: which have an effect, which are plain values, which are containers.

One TOML file a language under `data/`; nothing here knows anything of the code that is read.
"""

from __future__ import annotations

from functools import cache, lru_cache
from importlib.resources import files

import msgspec


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


class RegistrationRules(msgspec.Struct, frozen=True, rename="kebab", forbid_unknown_fields=True):
    """How a container is told what serves what: `singleton`, `scoped`, `transient` or '' by the words that say so.

    `calls` register, and give the usual lifetime; `instances` are those of them that take an object; of the calls chained to them, `implementations` and `abstractions` name
    types; `lifetimes` are words of calls, annotations and arguments; `annotations` make the class they are on a service,
    `methods` the result of a method; `metadata` gives the list entries of an annotation, in which
    `metadata-implementations` are the keys of what serves.
    """

    calls: dict[str, str] = {}
    instances: tuple[str, ...] = ()
    implementations: tuple[str, ...] = ()
    abstractions: tuple[str, ...] = ()
    lifetimes: dict[str, str] = {}
    annotations: dict[str, str] = {}
    methods: dict[str, str] = {}
    metadata: dict[str, tuple[str, ...]] = {}
    metadata_implementations: tuple[str, ...] = ()

    @property
    def is_empty(self) -> bool:
        return not (self.calls or self.annotations or self.methods or self.metadata)


class Catalogue(msgspec.Struct, frozen=True, rename="kebab", forbid_unknown_fields=True):
    """The catalogue of one language, as its file spells it."""

    implicit: Implicit = Implicit()
    elements: dict[str, int] = {}
    effects: dict[str, dict[str, tuple[str, ...]]] = {}
    effect_calls: dict[str, tuple[str, ...]] = {}
    values: Listed = Listed()
    cross_cutting: Listed = Listed()
    roles: RoleRules = RoleRules()
    injection: Injection = Injection()
    registrations: RegistrationRules = RegistrationRules()
    lookups: dict[str, tuple[str, ...]] = {}
    callbacks: Listed = Listed()
    view_parts: Listed = Listed()


class LayerEntry(msgspec.Struct, frozen=True):
    """A usual layer: its distance from the core and the folder names, separated by white space, that speak for it."""

    name: str
    ring: int
    segments: str


class Tests(msgspec.Struct, frozen=True):
    """Folder names, separated by white space, that hold tests."""

    segments: str = ""


class BuildFiles(msgspec.Struct, frozen=True):
    """Names and suffixes, separated by white space, of files that build a project."""

    names: str = ""
    suffixes: str = ""


class NamedSo(msgspec.Struct, frozen=True):
    """Name suffixes, separated by white space."""

    suffixes: str = ""


class SharedCatalogue(msgspec.Struct, frozen=True, rename="kebab", forbid_unknown_fields=True):
    """What holds in every language."""

    layers: tuple[LayerEntry, ...]
    suffixes: dict[str, str]
    tests: Tests
    build_files: BuildFiles
    cross_cutting: NamedSo


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


@cache
def known_types(language: str) -> frozenset[str]:
    """Every external type that the catalogue names in full, so that a wildcard import can be settled."""
    catalogue = catalogue_of(language)
    found = {name for table in catalogue.effects.values() for name in table}
    found |= {name for name in catalogue.values.types.split() if not name.endswith("*")}
    found |= {name for bases in catalogue.roles.bases.values() for name in bases}
    found |= set(catalogue.lookups) | set(catalogue.callbacks.types.split())
    found |= {member.rpartition(".")[0] for member in catalogue.cross_cutting.members.split()}
    found |= {call.rpartition(".")[0] for calls in catalogue.effect_calls.values() for call in calls}
    found |= {f"{catalogue.implicit.package}.{name}" for name in catalogue.implicit.names.split()}
    return frozenset(found)


@cache
def built_in_functions(language: str) -> frozenset[str]:
    """Functions without an import that have an effect or are locators."""
    catalogue = catalogue_of(language)
    package = catalogue.implicit.package
    tables = [*catalogue.effects.values(), catalogue.lookups]
    return frozenset(name for table in tables for name in table.get(package, ()))


@cache
def _listed(language: str, table: str) -> frozenset[str]:
    return frozenset(getattr(catalogue_of(language), table).types.split())


@lru_cache(maxsize=100_000)
def is_value(name: str, language: str, *, whole_packages: bool = True) -> bool:
    """Whether a qualified name, or its whole package, is listed as a standard value, in the tree or not."""
    listed = _listed(language, "values")
    return _holds(listed, name) if whole_packages else name in listed


@lru_cache(maxsize=100_000)
def is_view_part(name: str, language: str) -> bool:
    """Whether a qualified name, or its whole package, is listed as a visual part, in the tree or not."""
    return _holds(_listed(language, "view_parts"), name)


def _holds(names: frozenset[str], name: str) -> bool:
    if name in names:
        return True
    end = max(name.rfind(sign) for sign in ".\\#")
    return end >= 0 and f"{name[: end + 1]}*" in names
