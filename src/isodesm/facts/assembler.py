"""Turns the captures of one file into records by nesting byte ranges; the same for every language.

A *head* is the capture that says which record a match makes (`type.class`, `site.call` …, see any `facts.scm`);
the other captures of the match are its *parts*. Heads are visited in source order, so a stack of what is
still open says which type, member, function, loop and site encloses each.
"""

from __future__ import annotations

from collections.abc import Callable

from isodesm.facts.nesting import Head
from isodesm.facts.open_records import MemberDraft
from isodesm.facts.packing import pack_sites
from isodesm.facts.records import DeclaredType, FileSites, Local, Site
from isodesm.facts.siting import CONTEXTS, Siting
from isodesm.facts.spans import Spans

FAMILIES = ("file", "type", "member", "count", "parameter", "local", "site")
"""Head families, in the order in which heads of the same range are visited."""
RANK = {family: rank for rank, family in enumerate(FAMILIES)}

__all__ = ["FAMILIES", "RANK", "Assembler", "Head"]


class Assembler(Siting):
    """Reads the heads of one file. Use once: `Assembler(dialect, path, text).assemble(heads)`."""

    def assemble(self, heads: list[Head]) -> tuple[DeclaredType, ...]:
        """All types that `heads` (sorted) make; rows of sites, and locals, are left in `sites` and `locals`."""
        readers: dict[str, tuple[Callable[..., None], str]] = {}
        for start, back, _, _, name, parts in heads:
            self._close_before(start)
            found = readers.get(name)
            if found is None:
                family, _, kind = name.partition(".")
                found = readers[name] = (getattr(self, f"_read_{family}"), kind)
            found[0](found[1], start, -back, parts)
        self._settle()
        return tuple(each.close() for each in self.types)

    def content(self) -> FileSites:
        """The sites and locals as records."""
        return FileSites(sites=tuple(Site(*row) for row in self.sites), locals=tuple(self.locals))

    def packed_content(self) -> bytes:
        """The same packed."""
        return pack_sites(self.sites, self.locals)

    # --- what can only be said at the end ---------------------------------------------------

    def _settle(self) -> None:
        for index, span in self._pending_receivers:
            self.sites[index][6] = self._site_of(span)
        for name, start, scope, source, kind in self._pending_locals:
            site = self._site_of(source)
            if site < 0 and (chain := self.dialect.read_chain(self._cut(*source))):
                site = self._chain_site(chain, source)
            self.locals.append(Local(name, "", start, scope, site, kind))
        self._place_annotations()
        self.locals.sort(key=lambda local: (local.start, local.end, local.name))
        self._mark_runtime_arguments()

    def _place_annotations(self) -> None:
        """What is written on a field in front of its declarator, or on a class, belongs to it."""
        claims = Spans(self._claims)
        members: dict[int, Spans[MemberDraft]] = {}
        for row in self.sites:
            at = row[2].start
            if owners := claims.around(at):
                row[3], row[4], row[8] = owners[-1], -1, "static-initializer"
            if row[4] < 0 and not self.dialect.head_is_outside:
                if row[3] not in members:
                    members[row[3]] = Spans((*each.facts["whole"], each) for each in self.types[row[3]].members)
                for member in members[row[3]].around(at):
                    if not member.has_body_after(at):
                        row[4], row[8] = member.index, CONTEXTS.get(member.kind, "method")
