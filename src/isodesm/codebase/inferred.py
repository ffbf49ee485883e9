"""What is inferred of a linked tree before anything is judged: effects, roles, look-ups, layers, registrations."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property, lru_cache
from typing import NamedTuple

from isodesm.codebase.background_inference import Beside
from isodesm.codebase.size_limited_cache import bounded
from isodesm.facts.definitions import Definition
from isodesm.facts.packing import unpack_sites
from isodesm.facts.records import FileSites, Local
from isodesm.inference.bases import Bases
from isodesm.inference.effects import Effects
from isodesm.inference.injection import Injections
from isodesm.inference.layers import Layers, find_layers
from isodesm.inference.locators import find_locators, offers_in
from isodesm.inference.lookups import add_lookups
from isodesm.inference.own_changes import OwnChanges
from isodesm.inference.programs import Programs
from isodesm.inference.registrations import Registration, Told, find_registrations
from isodesm.inference.registrations.families import Families
from isodesm.inference.roles import Roles
from isodesm.inference.shared_state import SharedState
from isodesm.inference.state_uses import Gathering, Uses
from isodesm.inference.texts import find_texts
from isodesm.inference.wiring import Wiring
from isodesm.linking.bonds import BondTable
from isodesm.linking.hierarchy import Hierarchy
from isodesm.linking.symbols import Symbols
from isodesm.reading.files import worker_count
from isodesm.settings import Settings

KEPT_TEXT, KEPT_UNPACKED = 24_000_000, 64
"""Bytes of text that are kept at hand, and files whose sites are, which take ten times as much."""


class Read(NamedTuple):
    """What is known of a tree that was read and linked."""

    symbols: Symbols
    packed_sites: list[bytes]
    bonds: BondTable
    definitions: tuple[Definition, ...]
    settings: Settings


class Inferred:
    """Conclusions about a tree. Adds the rows of look-ups to its bonds; `read_text` gives the text of a file."""

    def __init__(self, read: Read, read_text: Callable[[int], bytes]) -> None:
        symbols, packed_sites, bonds, self.definitions, self.settings = read
        self.symbols, self.packed_sites, self.bonds = symbols, packed_sites, bonds
        linked_rows = len(bonds)
        self.content: Callable[[int], FileSites] = lru_cache(maxsize=KEPT_UNPACKED)(
            lambda file: unpack_sites(packed_sites[file])
        )
        self.keep_locals(KEPT_UNPACKED)
        self.text: Callable[[int], bytes] = bounded(read_text, len, KEPT_TEXT)
        bases = Bases(symbols, bonds)
        self.shared = SharedState(symbols, bonds, bases, self.text)
        self.own_changes = OwnChanges(symbols, bases, self.text)
        told = Told(self.hierarchy, self.content, self.text, self.families)
        self.beside = Beside(told, Gathering(symbols, bonds, self.shared, bases, self.content, self.text))
        with self.beside.found(worker_count(self.settings.workers), linked_rows):
            self.text_lookups = find_texts(symbols, bonds, self.content, self.text)
            self.effects = Effects(symbols, bonds, self.shared, self.content, self.text_lookups.types)
            makers = {each.factory.rpartition("::")[0].lstrip("\\") for each in self.definitions}
            self.roles = Roles(symbols, bonds, self.effects, self.settings, makers)
            self.locators = find_locators(symbols, bonds, self.roles, self.content, self.text)
            add_lookups(symbols, bonds, self.roles.bases, self.locators, self.content, lambda: self.hierarchy, self.definitions)

    def keep_locals(self, files: int) -> None:
        """Keep the variables of so many files at hand, by name and in source order."""
        self.locals_named: Callable[[int], dict[str, list[Local]]] = lru_cache(maxsize=files)(self._locals_named)

    def _locals_named(self, file: int) -> dict[str, list[Local]]:
        found: dict[str, list[Local]] = {}
        for each in self.content(file).locals:
            found.setdefault(each.name, []).append(each)
        return found

    @cached_property
    def layers(self) -> Layers:
        """The layers, from settings or names."""
        return find_layers(self.symbols, self.bonds, self.roles, self.effects, self.settings)

    @cached_property
    def hierarchy(self) -> Hierarchy:
        """Names, bases and members, for questions that bonds don't answer."""
        return Hierarchy(self.symbols, self.bonds.externals)

    @cached_property
    def wiring(self) -> Wiring:
        """What containers make of the registrations."""
        injections = Injections(self.hierarchy, self.roles)
        told = self.registrations
        return Wiring(self.symbols, injections, told, self.definitions, self.programs, self.families, self.text)

    @cached_property
    def families(self) -> Families:
        """Which families of containers the tree uses."""
        return Families(self.symbols, self.text)

    @cached_property
    def programs(self) -> Programs:
        """The programs of the tree."""
        roles = [self.roles.name(number) for number in range(len(self.symbols))]
        starts = (number for number, role in enumerate(roles) if role == "composition-root")
        tests = (number for number, role in enumerate(roles) if role == "test")
        return Programs(self.symbols, self.bonds, self.symbols.projects.folders, starts, tests)

    @cached_property
    def registrations(self) -> tuple[Registration, ...]:
        """What containers are told, in code and in definition files."""
        offers = offers_in(self.bonds, self.locators)
        return find_registrations(self.beside.told, self.definitions, offers, self.beside.packed_told)

    @cached_property
    def state_uses(self) -> Uses:
        """All uses of shared states."""
        return self.beside.uses()
