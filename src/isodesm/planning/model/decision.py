"""What a class decides on the spot, and the places where it does."""

from __future__ import annotations

import msgspec

from isodesm.diagnosis.shared.findings import Finding
from isodesm.facts.records import Member, Site


class Spot(msgspec.Struct, frozen=True, kw_only=True):
    """One expression: its site and file, the member it stands in (None: the head of a class), and the row of its bond."""

    site: Site
    file: int
    member: Member | None
    row: int

    @property
    def span(self) -> tuple[int, int]:
        return self.site.place.start, self.site.place.end


class Place(Spot, frozen=True, kw_only=True):
    """One expression of a decision, with its finding; of a finding with several places each has its own row.

    `field` is what the value is kept in ('' for none). `nested` are findings inside the expression, which go where it goes.
    """

    finding: Finding
    field: str
    nested: tuple[Finding, ...] = ()


class Decision(msgspec.Struct, frozen=True):
    """One class (`source`) deciding on one thing: a `target` of the tree (-1: outside), by a kind of finding."""

    source: int
    target: int
    kind: str
    name: str
    """Qualified name of the target."""
    places: tuple[Place, ...]

    def __hash__(self) -> int:
        """Of what tells decisions apart in nearly all cases: one may have thousands of places."""
        first = self.places[0].row if self.places else -1
        return hash((self.source, self.target, self.kind, self.name, len(self.places), first))

    @property
    def findings(self) -> tuple[Finding, ...]:
        """All findings that go with the decision, each once."""
        return tuple({each.id: each for place in self.places for each in (place.finding, *place.nested)}.values())
