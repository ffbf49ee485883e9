"""The tree of objects that it takes to have one of a class."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from functools import cached_property

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.chains import AT_CONSTRUCTION
from isodesm.diagnosis.shared.reporting import Report
from isodesm.inference.evidence import DATA
from isodesm.inference.injection import Injection
from isodesm.inference.resolution import How

MOST_NODES = 400
"""Objects of a tree that are shown; more are cut, and said to be."""


class ObjectNode(msgspec.Struct, frozen=True):
    """An object of the tree: its class, how it comes to be there, and what it needs.

    `how`: `root`, `registered`, `alternatives` (candidates named), `only implementation`, `takes` (a class as it is),
    `creates`, `ambiguous`, `unknown`, `again` (shown above). `file` and `line` are those of the registration, or of the
    creation.
    """

    name: str
    wanted: str
    how: str
    lifetime: str
    children: tuple[ObjectNode, ...] = ()
    file: str = ""
    line: int = 0
    candidates: tuple[str, ...] = ()


def object_tree(codebase: Codebase, root: int) -> ObjectNode:
    """The objects that it takes to have one of a class: what it is handed, and what it creates at construction."""
    return _Tree(codebase).node(root, "", "root")


class _Tree:
    """The objects that must be there to have one of a class."""

    def __init__(self, codebase: Codebase) -> None:
        self.codebase, self.report, self.count = codebase, Report(codebase), 0
        self._shown: set[int] = set()

    def node(self, number: int, wanted: str, how: str, lifetime: str = "", at: tuple[str, int] = ("", 0)) -> ObjectNode:
        """The node of a class, with what it needs below it unless that is shown already."""
        name = self.codebase.symbols.names[number]
        self.count += 1
        if number in self._shown:
            return ObjectNode(name, wanted, "again", lifetime, (), *at)
        self._shown.add(number)
        below = tuple(self._children(number)) if self.count < MOST_NODES else ()
        return ObjectNode(name, wanted, how, lifetime, below, *at)

    def _children(self, number: int) -> Iterator[ObjectNode]:
        for each in self.codebase.wiring.handed_to(number):
            if node := self._handed_in(each):
                yield node
        yield from self._created(number)

    def _handed_in(self, each: Injection) -> ObjectNode | None:
        """The node of a need; None for a value."""
        wiring, roles = self.codebase.wiring, self.codebase.roles
        answer = wiring.answer(each)
        known = each.target >= 0 and (roles.name(each.target) == "abstraction" or wiring.injections.is_service(each.target))
        if not answer.services and not known:
            return None
        wanted = self.report.name(each.target) if each.target >= 0 else each.key
        names = self.codebase.symbols.names
        if answer.services:
            last = answer.services[-1]
            at = (last.registration.file, last.registration.line)
            if answer.chosen >= 0:
                return self.node(answer.chosen, wanted, "registered", last.lifetime, at)
            behind = answer.candidates or tuple(dict.fromkeys(each.implementation for each in answer.services))
            candidates = tuple(names[n] for n in behind if n >= 0)
            shown = last.registration.abstraction if each.target < 0 else names[each.target]
            how = answer.how if len(candidates) > 1 else "registered"
            return ObjectNode(shown, wanted, how, last.lifetime, (), *at, candidates)
        if answer.chosen >= 0:
            return self.node(answer.chosen, wanted, "takes" if answer.how == How.AS_IT_IS else "only implementation")
        candidates = tuple(names[n] for n in answer.candidates)
        how = "ambiguous" if answer.how == How.AMBIGUOUS else "unknown"
        return ObjectNode(names[each.target], wanted, how, "", (), "", 0, candidates)

    def _created(self, number: int) -> Iterator[ObjectNode]:
        """What the class creates at construction, data aside."""
        table = self.codebase.bonds
        made: dict[int, int] = {}
        for row in self._rows_by_source.get(number, ()):
            target = table.target[row]
            plain = self.codebase.roles.name(target) in (*DATA, "exception") if target >= 0 else True
            if table.context[row] in AT_CONSTRUCTION and not plain:
                made.setdefault(target, row)
        for target, row in made.items():
            yield self.node(target, "", "creates", "", (self.codebase.symbols.files[table.file[row]].path, table.line[row]))

    @cached_property
    def _rows_by_source(self) -> dict[int, list[int]]:
        """Class to the rows of its creations."""
        found: dict[int, list[int]] = defaultdict(list)
        for row in self.codebase.bonds.rows_of_kind("creation"):
            found[self.codebase.bonds.source[row]].append(row)
        return found
