"""The `Codebase`: everything that is known of a tree before anything is judged."""

from __future__ import annotations

import gc
import hashlib
from collections import Counter, defaultdict
from collections.abc import Callable
from copy import copy
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from isodesm.codebase.background_inference import Beside
from isodesm.codebase.inferred import Inferred, Read
from isodesm.codebase.overview import Overview, Shown
from isodesm.disk.opening import LARGEST_SOURCE, read_plain
from isodesm.errors import TreeChanged
from isodesm.facts.definitions import Definition
from isodesm.facts.records import DeclaredType, FileSites, Local, Trouble, digest_of
from isodesm.inference.effects import Effects
from isodesm.inference.layers import Layers
from isodesm.inference.locators import Locator
from isodesm.inference.own_changes import OwnChanges
from isodesm.inference.programs import Programs
from isodesm.inference.registrations import Registration
from isodesm.inference.registrations.families import Families
from isodesm.inference.roles import Roles
from isodesm.inference.shared_state import SharedState
from isodesm.inference.state_uses import Uses
from isodesm.inference.texts import Texts
from isodesm.inference.wiring import Wiring
from isodesm.linking.bonds import AMBIGUOUS, CONTEXTS, KINDS, Bond, BondTable
from isodesm.linking.hierarchy import Hierarchy
from isodesm.linking.symbols import Symbols
from isodesm.settings import Settings

if TYPE_CHECKING:
    pass


class BesideSource(NamedTuple):
    """What comes of reading beside facts: what could not be read, what was not meant to be, services that definition files
    declare, and texts that are other than those on disk."""

    trouble: tuple[Trouble, ...]
    left_out: dict[str, int]
    definitions: tuple[Definition, ...] = ()
    texts: dict[str, bytes] = {}


class Codebase:
    """A tree that was read and linked.

    `symbols` holds the declared types under numbers, `bonds` what they depend on, `roles`, `layers` and `effects`
    what was inferred. `trouble` lists what could not be read, `left_out` counts what was not meant to be.
    """

    def __init__(
        self,
        root: Path,
        settings: Settings,
        symbols: Symbols,
        packed_sites: list[bytes],
        bonds: BondTable,
        beside: BesideSource,
    ) -> None:
        self.definitions = beside.definitions
        self.remarks: tuple[str, ...] = ()
        """What is to be said to who waits, and is no part of any result."""
        self.written: dict[str, bytes] = {}
        """Path to the bytes of what steps would write, in the place of what is on disk."""
        self.is_linked_again = False
        """Whether some files have changed since the bonds of the others were kept: then somebody is editing."""
        self.root, self.settings, self.symbols, self.bonds = root, settings, symbols, bonds
        self.trouble, self.left_out = beside.trouble, beside.left_out
        self.packed_sites = packed_sites
        self.linked_rows = len(bonds)
        """Rows that come of linking; those of look-ups are added to them."""
        self.texts = beside.texts
        self._inferred: Inferred | None = None
        _ = self.inferred

    @property
    def inferred(self) -> Inferred:
        """All that is inferred, with the rows that come of it; worked out once more where it was let go."""
        if self._inferred is None:
            if len(self.bonds) != self.linked_rows:
                self.bonds = self.bonds.beginning(self.linked_rows)
            read = Read(self.symbols, self.packed_sites, self.bonds, self.definitions, self.settings)
            self._inferred = Inferred(read, self._read_text)
        return self._inferred

    def with_inferred(self, inferred: Inferred) -> Codebase:
        """The same code with other conclusions, and the types and bonds that these were drawn from."""
        found = copy(self)
        found._inferred, found.symbols, found.bonds, found.packed_sites = (
            inferred,
            inferred.symbols,
            inferred.bonds,
            inferred.packed_sites,
        )
        return found

    def let_go(self) -> None:
        """Forget what was inferred, and what was kept at hand; whoever asks for it has it worked out once more."""
        self._inferred = None
        self.__dict__.pop("overview", None)
        self.bonds.forget_rows()
        self.symbols.forget_members()
        gc.unfreeze()
        gc.collect()  # most of it speaks of each other
        gc.freeze()

    @property
    def content(self) -> Callable[[int], FileSites]:
        """The sites of a file, unpacked."""
        return self.inferred.content

    @property
    def locals_named(self) -> Callable[[int], dict[str, list[Local]]]:
        """The variables of a file by name, in source order."""
        return self.inferred.locals_named

    @property
    def text(self) -> Callable[[int], bytes]:
        """The text of a file in UTF-8."""
        return self.inferred.text

    @property
    def shared(self) -> SharedState:
        """State that outlives its users, and who touches it."""
        return self.inferred.shared

    @property
    def own_changes(self) -> OwnChanges:
        """What objects change of themselves."""
        return self.inferred.own_changes

    @property
    def beside(self) -> Beside:
        """What is worked out beside, while something else is."""
        return self.inferred.beside

    @property
    def text_lookups(self) -> Texts:
        """Look-ups by a text."""
        return self.inferred.text_lookups

    @property
    def effects(self) -> Effects:
        """What members do beyond their own object."""
        return self.inferred.effects

    @property
    def roles(self) -> Roles:
        """What each type is for."""
        return self.inferred.roles

    @property
    def locators(self) -> dict[int, Locator]:
        """Members that hand services out by type or key."""
        return self.inferred.locators

    @property
    def layers(self) -> Layers:
        """The layers, from settings or names."""
        return self.inferred.layers

    @property
    def hierarchy(self) -> Hierarchy:
        """Names, bases and members, for questions that bonds don't answer."""
        return self.inferred.hierarchy

    @property
    def wiring(self) -> Wiring:
        """What containers make of the registrations."""
        return self.inferred.wiring

    @property
    def families(self) -> Families:
        """Which families of containers the tree uses."""
        return self.inferred.families

    @property
    def programs(self) -> Programs:
        """The programs of the tree."""
        return self.inferred.programs

    @property
    def registrations(self) -> tuple[Registration, ...]:
        """What containers are told, in code and in definition files."""
        return self.inferred.registrations

    @property
    def state_uses(self) -> Uses:
        """All uses of shared states."""
        return self.inferred.state_uses

    def prepare(self) -> None:
        """Work out what many questions share, so that forked workers find it ready."""
        _ = (
            self.layers,
            self.wiring.by_implementation,
            self.roles.implementers,
            self.roles.external_bases,
            self.roles.bases.in_tree,
        )

    @property
    def class_count(self) -> int:
        """Declared types that stand for themselves: modules, anonymous types and parts of others are left out."""
        symbols = self.symbols
        return sum(1 for number in range(len(symbols)) if symbols.is_shown(number) and not symbols.is_module(number))

    def bases_by_type(self) -> dict[int, list[str]]:
        """Type to the qualified names of what it extends and implements itself, as far as they are known."""
        table, wanted = self.bonds, (KINDS.index("extends"), KINDS.index("implements"))
        found: dict[int, list[str]] = defaultdict(list)
        for kind, source, target in zip(table.kind, table.source, table.target, strict=True):
            if kind in wanted:
                found[source].append(self.target_name(target))
        return found

    @cached_property
    def overview(self) -> Overview:
        """The tree in numbers and names."""
        symbols = self.symbols
        return Overview(
            languages=dict(sorted(Counter(facts.language for facts in symbols.files).items())),
            lines=sum(facts.lines for facts in symbols.files),
            classes=self.class_count,
            layers=tuple(layer.name for layer in self.layers.layers),
            left_out=self.left_out,
            trouble=self.trouble,
            settings=self.settings.of_results(),
            strain=self.settings.strain,
            shown=tuple(
                Shown(
                    number=number,
                    name=symbols.names[number],
                    simple=symbols.types[number].name,
                    path=symbols.path(number),
                    role=self.roles.name(number),
                    layer=self.layers.name(number),
                    members="" if symbols.is_module(number) else _known_by(symbols.types[number]),
                )
                for number in range(len(symbols))
                if symbols.is_shown(number)
            ),
        )

    def _read_text(self, file: int) -> bytes:
        """The UTF-8 text of a file as its facts count it; TreeChanged if it is another one meanwhile."""
        from isodesm.facts.reader import as_utf8

        facts = self.symbols.files[file]
        if facts.path in self.texts:
            return self.texts[facts.path]
        try:
            content = read_plain(self.root / facts.path)
        except OSError as error:
            raise TreeChanged(facts.path, error.strerror or str(error)) from None
        if digest_of(content) != facts.digest:
            raise TreeChanged(facts.path, "its content is another by now")
        return as_utf8(facts.path, content)[0]

    def read_file(self, path: str, largest: int = LARGEST_SOURCE) -> bytes:
        """The bytes of any file of the tree as steps would leave it. OSError where it can't be read."""
        return self.written[path] if path in self.written else read_plain(self.root / path, largest)

    def has_file(self, path: str) -> bool:
        """Whether there is such a file, or steps would write one."""
        return path in self.written or (self.root / path).exists()

    def target_name(self, target: int) -> str:
        """The qualified name of a bond's target, in the tree or not."""
        return self.symbols.names[target] if target >= 0 else self.bonds.external(target)

    def bond(self, row: int) -> Bond:
        """One row of the bond table with its names."""
        table = self.bonds
        target = table.target[row]
        return Bond(
            source=self.symbols.names[table.source[row]],
            member=table.text_of("member", row),
            kind=KINDS[table.kind[row]],
            target=self.target_name(target),
            target_member=table.target_member(row),
            external=target < 0,
            ambiguous=bool(table.flags[row] & AMBIGUOUS),
            text=table.text_of("text", row),
            context=CONTEXTS[table.context[row]],
            file=self.symbols.files[table.file[row]].path,
            line=table.line[row],
            column=table.column[row],
        )

    def rows_in_order(self) -> list[int]:
        """Rows of all bonds by file, line, column and kind; calls inside a class, which are no bonds, left out."""
        table = self.bonds
        found: list[int] = []
        for file in range(len(self.symbols.files)):  # rows are mostly in order of file, but need not be
            rows = [row for row in table.rows_of_file(file) if table.kind[row] < len(KINDS)]
            rows.sort(key=lambda row: (table.line[row], table.column[row], table.kind[row]))
            found += rows
        return found


def _known_by(declared: DeclaredType) -> str:
    names = sorted({member.name for member in declared.members if member.kind != "constructor"})
    return "".join(hashlib.blake2b(name.encode("utf-8", "replace"), digest_size=2).hexdigest() for name in names)
