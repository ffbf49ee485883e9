"""Bonds of declarations: bases, types of members and locals; and the rows that all bonds of a file go to."""

from __future__ import annotations

from typing import NamedTuple

from isodesm.facts import typetext
from isodesm.facts.records import DeclaredType, FileSites, Local, Member
from isodesm.linking.bonds import AMBIGUOUS, CONTEXT_NUMBER, KIND_NUMBER, UNKNOWN, BondTable
from isodesm.linking.hierarchy import Hierarchy
from isodesm.linking.member_values import FIELD_KINDS, Scope
from isodesm.linking.symbols import simple_name
from isodesm.linking.values import FileValues

INIT, STATIC, MODULE = "<init>", "<static>", "<module>"


class Use(NamedTuple):
    """What is known of the site of a bond: the member that is asked for, what happens to the value, flags, and the site."""

    callee: str = ""
    context: str = ""
    flags: int = 0
    site: int = -1


PLAIN = Use()
"""Of a bond without a site."""


class DeclarationLinks:
    """Adds the bonds of one file's declarations to its rows."""

    def __init__(self, hierarchy: Hierarchy, table: BondTable, number: int, content: FileSites) -> None:
        self.hierarchy, self.table, self.number = hierarchy, table, number
        self.symbols = hierarchy.symbols
        self.facts = self.symbols.files[number]
        self.first = self.symbols.first[number]
        self.values = FileValues(hierarchy, number, content)
        self.content = content
        self.rows: list[tuple[int, ...]] = []
        self._owners: dict[tuple[int, int], tuple[int, int, int]] = {}

    # --- rows -----------------------------------------------------------------------------

    def owner(self, local: int, member: int) -> tuple[int, int, int]:
        """The innermost named type around a place, the index of its member there, and the number of that member's name.

        Anonymous types are looked through, to the member that they are written in.
        """
        found = self._owners.get((local, member))
        if found is None:
            inner, inside = local, member
            while self.facts.types[inner].kind == "anonymous" and self.facts.types[inner].outer >= 0:
                inside = self.facts.types[inner].outer_member
                inner = self.facts.types[inner].outer
            declared = self.facts.types[inner]
            name = shown_member(declared, declared.members[inside] if inside >= 0 else None)
            number = self.first + inner
            inside = self.symbols.member_of_whole(number, inside)
            found = self._owners[local, member] = (self.values.names.type_number(inner), inside, self.table.names.number(name))
        return found

    def add(
        self,
        kind: str | int,
        target: int,
        text: str,
        place: tuple[int, int],
        home: tuple[int, int],
        use: Use = PLAIN,
    ) -> None:
        """Note one bond of a member, by its type and place in that; nothing where the target is unknown."""
        if target == UNKNOWN:
            return
        source, source_member, member_name = self.owner(*home)
        names = self.table.names
        simple = simple_name(text)
        if self.hierarchy.guesses and (self.number, simple) in self.hierarchy.guesses:
            use = use._replace(flags=use.flags | AMBIGUOUS)
        self.rows.append(
            (
                source,
                self.values.names.type_number(home[0]),
                target,
                kind if isinstance(kind, int) else KIND_NUMBER[kind],
                self.number,
                *place,
                member_name,
                source_member,
                names.number(use.callee),
                names.number(simple),
                CONTEXT_NUMBER[use.context],
                use.flags,
                use.site,
            )
        )

    def _types_in(self, kind: str, text: str, place: tuple[int, int], scope: Scope) -> None:
        """A bond of `kind` to the type that a text names first, and `generic` ones to those inside it."""
        for position, name in enumerate(typetext.names(text)):
            target = self.values.names.resolve(name, scope.local, scope.member)
            if target != UNKNOWN and not (scope.local >= 0 and target == self.values.names.type_number(scope.local)):
                self.add("generic" if position else kind, target, name, place, self._home(scope))

    def _home(self, scope: Scope) -> tuple[int, int]:
        return scope.local, scope.member

    # --- declarations ---------------------------------------------------------------------

    def _link_declaration(self, index: int, declared: DeclaredType) -> None:
        place = (declared.place.line, declared.place.column)
        outer = Scope(self.number, declared.outer, declared.outer_member)
        for kind, texts in (("extends", declared.extends), ("implements", declared.implements)):
            if declared.kind == "anonymous":
                continue  # its creation says the same
            for text in texts:
                self._link_base(kind, text, place, index, outer)
        for position, member in enumerate(declared.members):
            self._link_member(index, position, member)

    def _link_base(self, kind: str, text: str, place: tuple[int, int], index: int, outer: Scope) -> None:
        for position, name in enumerate(typetext.names(text)):
            if position:
                target = self.values.names.resolve(name, index)
            else:
                target = self.values.names.resolve_base(name, index)
            self.add("generic" if position else kind, target, name, place, (index, -1))

    def _link_member(self, index: int, position: int, member: Member) -> None:
        scope = Scope(self.number, index, position)
        place = (member.place.line, member.place.column)
        if member.kind in FIELD_KINDS and member.kind != "constant":
            self._types_in("field", member.type, place, scope)
        elif member.kind == "method" and member.type:
            self._types_in("return", member.type, place, scope)
        for parameter in member.parameters:
            self._types_in("parameter", parameter.type, place, scope)
        for text in member.throws:
            self._types_in("throws", text, place, scope)

    def _link_local(self, local: Local) -> None:
        """Bonds to the written type of a local variable or handled error."""
        if local.owner < 0:
            return
        kind, place = "catch" if local.kind == "caught" else "local", (local.line, local.column)
        for part in local.type.split("|") if "|" in local.type else (local.type,):
            self._types_in(kind, part.strip(), place, Scope(self.number, local.owner, local.member))


def shown_member(declared: DeclaredType, member: Member | None) -> str:
    """The name a member goes by in bonds: methods by their own, what runs at construction or class loading by a mark."""
    if declared.kind in ("module", "namespace") and (member is None or member.kind != "method"):
        return MODULE
    if member is None or member.kind in ("static", "constant"):
        return STATIC
    if member.kind in ("method", "property"):
        return member.name
    if member.kind in ("field", "component") and (member.is_static or declared.kind in ("interface", "annotation")):
        return STATIC
    return INIT
