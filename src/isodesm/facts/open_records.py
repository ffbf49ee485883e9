"""Types and members while they are being read; closing one makes the immutable record."""

from __future__ import annotations

from typing import Any

from isodesm.facts.records import DeclaredType, Member, Modifiers, Parameter, Place


class MemberDraft:
    """A member being read. `parameters` fill up as they are met."""

    def __init__(self, kind: str, name: str, place: Place, index: int, **facts: Any) -> None:
        self.kind, self.name, self.place, self.index = kind, name, place, index
        self.facts = facts
        self.parameters: list[Parameter] = []
        self.statements = self.branches = 0
        self.head = (0, 0)
        """Bytes of the list of its parameters, where the grammar tells."""
        self.took_self = False
        """Whether the parameter that stands for the object itself has been read."""

    def has_body_after(self, offset: int) -> bool:
        """Whether `offset` lies in front of a body, so in the head of a method, or in one."""
        return self.kind in ("method", "constructor", "property") and offset < self.facts["body"][1]

    def close(self) -> Member:
        return Member(
            kind=self.kind,
            name=self.name,
            place=self.place,
            parameters=tuple(self.parameters),
            statements=self.statements,
            branches=self.branches,
            **self.facts,
        )


class TypeDraft:
    """A declared type being read."""

    def __init__(self, kind: str, name: str, path: str, place: Place, index: int, **facts: Any) -> None:
        self.kind, self.name, self.path, self.place, self.index = kind, name, path, place, index
        self.facts = facts
        self.members: list[MemberDraft] = []
        self.components: list[Parameter] = []
        self._fields: dict[str, MemberDraft] = {}
        self._looked_at = 0

    def field_named(self, name: str) -> MemberDraft | None:
        """The first field or property of a name read so far."""
        for member in self.members[self._looked_at :]:
            if member.kind in ("field", "property"):
                self._fields.setdefault(member.name, member)
        self._looked_at = len(self.members)
        return self._fields.get(name)

    def close(self) -> DeclaredType:
        members = [member.close() for member in self.members]
        if self.kind == "record" or self.components:
            members += self._header_members(members)
        return DeclaredType(
            kind=self.kind, name=self.name, path=self.path, place=self.place, members=tuple(members), **self.facts
        )

    def _header_members(self, members: list[Member]) -> list[Member]:
        """The fields that a record header declares, and its constructor where none is written out."""
        private = Modifiers(words=("private", "final"))
        found = [
            Member(kind="component", name=each.name, place=self.place, type=each.type, modifiers=private)
            for each in self.components
        ]
        if not any(member.kind == "constructor" for member in members):
            words = Modifiers(words=("public",))
            found.append(
                Member(kind="constructor", name=self.name, place=self.place, modifiers=words, parameters=tuple(self.components))
            )
        return found
