"""The `Codebase`: everything that is known of a tree before anything is judged."""

from __future__ import annotations

import gc
import hashlib
from collections import Counter, defaultdict
from collections.abc import Callable
from functools import cached_property, lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from isodesm.catalogue import Catalogues
from isodesm.codebase.beside import Beside
from isodesm.codebase.bounded import bounded
from isodesm.codebase.overview import Overview, Shown
from isodesm.disk.opening import NotPlain, read_plain
from isodesm.errors import NothingToRead, TreeChanged, UsageError
from isodesm.facts.definitions import LARGEST, Definition, may_define, read_definitions
from isodesm.facts.languages import language_by_suffix
from isodesm.facts.packing import unpack_sites
from isodesm.facts.records import DeclaredType, FileSites, Local, Trouble, digest_of
from isodesm.inference.bases import Bases
from isodesm.inference.effects import Effects
from isodesm.inference.injection import Injections
from isodesm.inference.layers import Layers, find_layers
from isodesm.inference.locators import find_locators, offers_in
from isodesm.inference.lookups import add_lookups
from isodesm.inference.own_changes import OwnChanges
from isodesm.inference.programs import Programs
from isodesm.inference.registering import Registration, Told, find_registrations
from isodesm.inference.registering.families import Families
from isodesm.inference.roles import Roles
from isodesm.inference.shared_state import SharedState
from isodesm.inference.state_uses import Gathering, Uses
from isodesm.inference.texts import find_texts
from isodesm.inference.wiring import Wiring
from isodesm.linking.bonds import AMBIGUOUS, CONTEXTS, KINDS, Bond, BondTable
from isodesm.linking.hierarchy import Hierarchy
from isodesm.linking.link import limit_of, link_files
from isodesm.linking.naming import hierarchy_of
from isodesm.linking.relink import Linked, relinked_from, shown
from isodesm.linking.symbols import Symbols
from isodesm.reading.cache import Cache
from isodesm.reading.discovery import discover
from isodesm.reading.files import ReadFile, collector_paused, read_files, worker_count
from isodesm.reading.projects import Projects
from isodesm.settings import Settings

if TYPE_CHECKING:
    from isodesm.reading.replay import Replay

Progress = Callable[[str, int, int], None]
"""Told what is being done, and how much of how much is done."""


KEPT_TEXT, KEPT_UNPACKED = 24_000_000, 64
"""Bytes of text that are kept at hand, and files whose sites are, which take ten times as much."""
MOST_BEHIND = 40
"""Files that may have changed since the bonds were kept last, before they are kept anew."""


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
        self.is_linked_again = False
        """Whether some files have changed since the bonds of the others were kept: then somebody is editing."""
        self.root, self.settings, self.symbols, self.bonds = root, settings, symbols, bonds
        self.trouble, self.left_out = beside.trouble, beside.left_out
        self.packed_sites = packed_sites
        self.linked_rows = len(bonds)
        """Rows that come of linking; those of look-ups are added to them."""
        self.texts = beside.texts
        self._as_read = frozenset(self.__dict__)
        self._infer()
        self._inferred = frozenset(self.__dict__) - self._as_read

    def _infer(self) -> None:
        """All that is inferred from the start, and the rows that come of it."""
        symbols, packed_sites = self.symbols, self.packed_sites
        bonds = self.bonds = self.bonds if len(self.bonds) == self.linked_rows else self.bonds.beginning(self.linked_rows)
        self.content: Callable[[int], FileSites] = lru_cache(maxsize=KEPT_UNPACKED)(
            lambda file: unpack_sites(packed_sites[file])
        )
        self.locals_named: Callable[[int], dict[str, list[Local]]] = lru_cache(maxsize=KEPT_UNPACKED)(self._locals_named)
        """The variables of a file by name, in source order."""
        self.text: Callable[[int], bytes] = bounded(self._read_text, len, KEPT_TEXT)
        bases = Bases(symbols, bonds)
        self.shared = SharedState(symbols, bonds, bases, self.text)
        self.own_changes = OwnChanges(symbols, bases, self.text)
        """State that outlives its users, and who touches it."""
        told = Told(self.hierarchy, self.content, self.text, self.families)
        self.beside = Beside(told, Gathering(symbols, bonds, self.shared, bases, self.content, self.text))
        with self.beside.found(worker_count(self.settings.workers), self.linked_rows):
            self.text_lookups = find_texts(symbols, bonds, self.content, self.text)
            self.effects = Effects(symbols, bonds, self.shared, self.content, self.text_lookups.types)
            makers = {each.factory.rpartition("::")[0].lstrip("\\") for each in self.definitions}
            self.roles = Roles(symbols, bonds, self.effects, self.settings, makers)
            self.locators = find_locators(symbols, bonds, self.roles, self.content, self.text)
            add_lookups(symbols, bonds, self.roles.bases, self.locators, self.content, lambda: self.hierarchy)

    def let_go(self) -> None:
        """Forget what was inferred, and what was kept at hand; whoever asks for it has it worked out once more."""
        for name in set(self.__dict__) - self._as_read - {"_as_read", "_inferred"}:
            del self.__dict__[name]
        self.bonds.forget_rows()
        self.symbols.forget_members()
        gc.unfreeze()
        gc.collect()  # most of it speaks of each other
        gc.freeze()

    def __getattr__(self, name: str) -> Any:
        if name not in self.__dict__.get("_inferred", ()):
            raise AttributeError(f"{type(self).__name__!r} object has no attribute {name!r}")
        self._infer()
        return self.__dict__[name]

    @cached_property
    def layers(self) -> Layers:
        """The layers, from settings or names."""
        return find_layers(self.symbols, self.bonds, self.roles, self.settings)

    @cached_property
    def hierarchy(self) -> Hierarchy:
        """Names, bases and members, for questions that bonds don't answer."""
        return hierarchy_of(self.symbols, self.bonds.externals)

    @cached_property
    def wiring(self) -> Wiring:
        """What containers make of the registrations."""
        injections = Injections(self.hierarchy, self.roles)
        told = self.registrations
        return Wiring(self.symbols, injections, told, self.definitions, self.programs, self.families, self.text)

    @cached_property
    def families(self) -> Families:
        """Which families of containers the tree uses."""
        return Families(self.symbols)

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

    def _locals_named(self, file: int) -> dict[str, list[Local]]:
        found: dict[str, list[Local]] = {}
        for each in self.content(file).locals:
            found.setdefault(each.name, []).append(each)
        return found

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


def _no_progress(what: str, done: int, total: int) -> None:
    return None


def read(
    path: str | Path, settings: Settings | None = None, progress: Progress = _no_progress, replay: Replay | None = None
) -> Codebase:
    """Read and link the tree (or single file) at `path`; `replay` knows what was found there, and may know what was linked.

    Raises UsageError where there is no such path, NothingToRead where it holds no source file.
    """
    root = Path(path)
    settings = settings or Settings()
    if not root.exists():
        raise UsageError(f"There is no such file or folder: {path}. Name the folder that holds the source.")
    discovery = replay.found if replay is not None else discover(root, settings)
    if not discovery.files:
        raise NothingToRead(_nothing_found(path, discovery.left_out, discovery.trouble))
    folder = root if root.is_dir() else root.parent
    trouble, facts, packed = list(discovery.trouble), [], []
    workers = worker_count(settings.workers)
    total = len(discovery.files)
    cache = Cache(Path(settings.cache_folder), settings.cache_limit) if settings.cache_folder else None
    with collector_paused():
        for result in read_files(
            folder, discovery.files, workers, lambda done: progress("reading", done, total), cache, settings.seconds_per_file
        ):
            if isinstance(result, ReadFile):
                facts.append(result.facts)
                packed.append(result.sites)
                trouble += result.facts.trouble
            else:
                trouble.append(result)
        if cache is not None:
            cache.close()
        projects = Projects(folder, discovery.projects, discovery.manifests)
        trouble += projects.trouble
        symbols = Symbols(facts, projects, Catalogues(settings.catalogue))
        gc.freeze()
        progress("linking", 0, total)
        bonds, unlinked, again = _linked(symbols, packed, workers, settings.seconds_per_file, replay)
        trouble += unlinked
        definitions, unread = _read_definitions(folder, discovery.data)
        trouble += unread
        progress("judging", 0, total)
        codebase = Codebase(
            folder,
            settings,
            symbols,
            packed,
            bonds,
            BesideSource(tuple(sorted(trouble, key=lambda each: (each.path, each.line))), discovery.left_out, definitions),
        )
        codebase.is_linked_again = again
        codebase.remarks = (cache.remark,) if cache is not None and cache.remark else ()
    progress("done", total, total)
    return codebase


def _linked(
    symbols: Symbols, packed: list[bytes], workers: int, seconds: float, replay: Replay | None
) -> tuple[BondTable, list[Trouble], bool]:
    """The bonds, of files that are as they were from where they were kept, as far as others show the same to them; and whether
    some others have changed."""
    from isodesm.reading.replay import LARGEST_ANSWER

    same = replay is not None and replay.stands(symbols.files)
    kept = replay.find("bonds", Linked, of_tree=False) if replay is not None and same else None
    again = relinked_from(symbols, packed, kept, limit_of(seconds)) if kept is not None else None
    if again is not None and len(again.changed) <= MOST_BEHIND:
        return again.table, again.trouble, bool(again.changed)
    table, trouble = again[:2] if again is not None else link_files(symbols, packed, workers, seconds)
    if replay is not None and same and table.size <= LARGEST_ANSWER:  # a packed copy of a larger one would only be thrown away
        replay.keep("bonds", Linked(table.pack(), trouble, shown(symbols.files)), of_tree=False)
    return table, trouble, False


def _read_definitions(folder: Path, paths: tuple[str, ...]) -> tuple[tuple[Definition, ...], list[Trouble]]:
    """The services that definition files declare; files of data that define none are passed over without a word."""
    found: list[Definition] = []
    trouble: list[Trouble] = []
    for path in paths:
        try:
            content = read_plain(folder / path, LARGEST)
        except NotPlain:
            continue
        except OSError as error:
            trouble.append(Trouble(path=path, reason=f"can't be read: {error.strerror}"))
            continue
        if may_define(content):
            defined, unread = read_definitions(path, content)
            found += defined
            trouble += unread
    return tuple(found), trouble


def _nothing_found(path: str | Path, left_out: dict[str, int], trouble: tuple[Trouble, ...]) -> str:
    suffixes = ", ".join(sorted(language_by_suffix()))
    message = f"No source file to read in {path} (looked for {suffixes})."
    if left_out:
        message += " Left out: " + ", ".join(f"{count} × {reason}" for reason, count in left_out.items()) + "."
    for each in trouble:
        message += f"\n  {each.path} {each.reason}"
    return message
