"""Follows the calls from an entry point: through the layers, over what is bound behind each abstraction, to the effects."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from functools import cached_property
from typing import NamedTuple

import msgspec

from isodesm.codebase.class_lookup import find_class
from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import HARD_KINDS, Diagnosis
from isodesm.errors import UsageError
from isodesm.facts import typetext
from isodesm.inference.evidence import DATA
from isodesm.inference.resolution import Answer, How
from isodesm.inference.use_graph import INSTANCE
from isodesm.linking.bonds import ASKED, CONTEXTS, DEFAULTS, KIND_NUMBER, OWN_CALL
from isodesm.queries.entries import Entry
from isodesm.queries.run_later import handed_over, task_of

MOST_HOPS = 400
"""Hops of one trace; more would be read by nobody."""
FOLLOWED = (KIND_NUMBER["call"], KIND_NUMBER["static-call"], KIND_NUMBER["creation"], KIND_NUMBER["lookup"], OWN_CALL, ASKED)
_INNER = {KIND_NUMBER[kind]: rank for rank, kind in enumerate(("static-call", "static-field", "creation", "lookup"), 1)}
"""Of two calls that begin at one place the inner one runs first: what is fetched or made, before what is called on it."""
QUIET_ROLES = frozenset((*DATA, "exception", "part"))
"""Roles whose members are not followed: data is handed about, and does nothing."""


class Hop(msgspec.Struct, frozen=True):
    """One call on the way.

    `declared` is the type it is made on, `class_name` the one that runs behind it and `bound` how that is known: `itself`,
    `registered`, `default` (where nothing else is handed in), `only implementation`, `chosen`, `alternatives`, `ambiguous` or
    `several` (then not followed, `candidates` names them), `effect` for an API. `registered_in` and `registered_line` are
    the place of the registration. `hard` is the kind of hard bond over which it goes, `crossing` `here→there` where it leaves
    a layer. `cut` says why it is not followed further: `again`, `depth`, `most`.
    """

    declared: str
    class_name: str
    member: str
    file: str
    line: int
    bound: str
    layer: str = ""
    crossing: str = ""
    hard: str = ""
    returns: str = ""
    effect: str = ""
    cut: str = ""
    candidates: tuple[str, ...] = ()
    hops: tuple[Hop, ...] = ()
    registered_in: str = ""
    registered_line: int = 0


class Behind(NamedTuple):
    """What runs behind a type: the class (-1: not known), how that is known, candidates, and where it is registered."""

    number: int
    bound: str
    candidates: tuple[str, ...] = ()
    at: tuple[str, int] = ("", 0)


def _as_registered(answer: Answer) -> Behind:
    registration = answer.services[-1].registration
    return Behind(answer.chosen, "registered", (), (registration.file, registration.line))


class Trace(msgspec.Struct, frozen=True):
    """The way from an entry point; `hidden` counts calls on data and helpers that lead to nothing worth a line, `idle` are
    abstractions for which an implementation was chosen, and of which nothing on the way is asked."""

    start: Hop
    hidden: int
    idle: tuple[str, ...] = ()


def find_member(codebase: Codebase, name: str) -> tuple[int, int]:
    """The type and member index that `CLASS.METHOD` means; UsageError with what there is otherwise."""
    owner, _, member = name.replace("::", ".").rpartition(".")
    if not owner:
        raise UsageError(
            f"Name a class and a method, as in `Class.{member}`; without a name, `isodesm trace` lists the entry points."
        )
    number = find_class(codebase.overview, owner)
    for each in codebase.roles.ancestors(number):
        for index, declared in codebase.symbols.members(each).get(member, ()):
            if declared.kind == "method" and declared.body != (0, 0):
                return each, index
    methods = sorted({each.name for each in codebase.symbols.types[number].members if each.kind == "method"})
    raise UsageError(
        f"`{codebase.symbols.names[number]}` has no method `{member}` with a body. It has: {', '.join(methods[:12]) or 'none'}."
    )


def members_to_choose(codebase: Codebase, name: str) -> tuple[Entry, ...]:
    """The members of the class that `name` means from which a trace can begin, its own first; none if it means no class."""
    try:
        number = find_class(codebase.overview, name)
    except UsageError:
        if "." in name.replace("::", "."):
            return ()
        raise
    symbols, found, seen = codebase.symbols, [], set()
    for each in codebase.roles.ancestors(number):
        for index, member in enumerate(symbols.types[each].members):
            if member.kind in ("method", "property") and member.body != (0, 0) and member.name not in seen:
                seen.add(member.name)
                part, _ = symbols.origin(each, index)
                why = "of its own" if each == number else f"of {symbols.types[each].name}"
                found.append(Entry(symbols.names[number], member.name, symbols.path(part), member.place.line, why, each, index))
    return tuple(found)


def read_choices(codebase: Codebase, given: tuple[str, ...]) -> dict[int, int]:
    """What `ABSTRACTION=IMPLEMENTATION` choices mean. UsageError for what is no such pair."""
    chosen = {}
    for text in given:
        one, sign, other = text.partition("=")
        if not sign:
            raise UsageError(f"--bind takes ABSTRACTION=IMPLEMENTATION, not `{text}`.")
        abstraction, implementation = find_class(codebase.overview, one), find_class(codebase.overview, other)
        if abstraction not in codebase.roles.ancestors(implementation):
            raise UsageError(
                f"`{codebase.symbols.names[implementation]}` does not implement `{codebase.symbols.names[abstraction]}`."
            )
        chosen[abstraction] = implementation
    return chosen


def trace(
    codebase: Codebase, diagnosis: Diagnosis, start: tuple[int, int], chosen: dict[int, int] | None = None, depth: int = 12
) -> Trace:
    """The trace from a member, over at most `depth` hops between classes."""
    return _Tracer(codebase, diagnosis, chosen or {}, depth).run(start)


class _Tracer:
    def __init__(self, codebase: Codebase, diagnosis: Diagnosis, chosen: dict[int, int], depth: int) -> None:
        self.codebase, self.symbols, self.roles, self.table = codebase, codebase.symbols, codebase.roles, codebase.bonds
        self.chosen, self.depth = chosen, depth
        self.hard = {each.row: each.kind for each in diagnosis.places if each.kind in HARD_KINDS and each.row >= 0}
        self.effects = {use.row: use for uses in codebase.effects.used.values() for use in uses}
        self.done: set[tuple[int, int]] = set()
        self.asked: set[int] = set()
        """The chosen abstractions that something was asked of."""
        self.count = self.hidden = 0

    def run(self, start: tuple[int, int]) -> Trace:
        number, index = start
        member = self.symbols.types[number].members[index]
        self.done.add(start)
        hop = Hop(
            declared="",
            class_name=self.symbols.names[number],
            member=member.name,
            file=self.symbols.path(self.symbols.origin(number, index)[0]),
            line=member.place.line,
            bound="start",
            layer=self.codebase.layers.name(number),
            returns=member.type,
            hops=tuple(self._from(start, {number: number}, self.depth)),
        )
        idle = tuple(self.symbols.names[each] for each in self.chosen if each not in self.asked)
        return Trace(hop, self.hidden, idle)

    @cached_property
    def _rows(self) -> dict[tuple[int, int], list[int]]:
        """(type, member) to the rows of what it calls, in order of place."""
        found: dict[tuple[int, int], list[int]] = defaultdict(list)
        for row, (kind, source, member) in enumerate(
            zip(self.table.kind, self.table.source, self.table.source_member, strict=True)
        ):
            if kind in FOLLOWED or row in self.effects:
                found[source, member].append(row)
        for rows in found.values():
            rows.sort(
                key=lambda row: (
                    self.table.file[row],
                    self.table.line[row],
                    self.table.column[row],
                    -_INNER.get(self.table.kind[row], 0),
                )
            )
        return found

    def _from(self, node: tuple[int, int], running: dict[int, int], left: int) -> Iterator[Hop]:
        """The hops out of a member; `running` maps each class of the line that runs to the class it runs as."""
        looked_up = {self.table.site[row] for row in self._rows.get(node, ()) if self.table.kind[row] == KIND_NUMBER["lookup"]}
        for row in self._rows.get(node, ()):
            if self.count >= MOST_HOPS:
                return
            if self.table.site[row] in looked_up and self.table.kind[row] != KIND_NUMBER["lookup"]:
                continue
            hop = self._hop(row, node, running, left)
            if hop is not None:
                yield hop
        for given in handed_over(self.codebase, node):
            runs = self._declared(running.get(node[0], node[0]), given.name)
            yield from self._later(runs, running, (given.file, given.line), left)

    def _later(self, runs: tuple[int, int] | None, running: dict[int, int], place: tuple[int, int], left: int) -> Iterator[Hop]:
        """The hop to a member that others run, if it leads anywhere."""
        if runs is None or runs in self.done or left <= 0:
            return
        self.done.add(runs)
        self.count += 1
        owner = running.get(runs[0], runs[0])
        hops = tuple(self._from(runs, {**running, runs[0]: owner}, left))
        if not hops:
            self.count -= 1
            return
        named = self.symbols.names[owner]
        yield Hop(
            declared=named,
            class_name=named,
            member=self.symbols.types[runs[0]].members[runs[1]].name,
            file=self.symbols.files[place[0]].path,
            line=place[1],
            bound="run later",
            layer=self.codebase.layers.name(owner),
            hops=hops,
        )

    def _hop(self, row: int, node: tuple[int, int], running: dict[int, int], left: int) -> Hop | None:
        target, kind = self.table.target[row], self.table.kind[row]
        if row in self.effects:
            self.count += 1
            use = self.effects[row]
            made = self._made(row, node, self.codebase.target_name(target), use.api, "effect")
            return msgspec.structs.replace(made, effect=use.effect)
        if target < 0:
            return None
        if kind == KIND_NUMBER["creation"]:
            return self._creation(row, node, target, left)
        name = self.table.text_of("callee", row)
        if kind != KIND_NUMBER["lookup"] and self._is_quiet(target, self._declared(target, name)):
            self.hidden += 1
            return None
        if kind == KIND_NUMBER["lookup"]:
            self.count += 1
            return self._made(row, node, self.symbols.names[target], name, "looked up")
        if kind == OWN_CALL and target in self.roles.ancestors(running.get(node[0], node[0])):
            target = running.get(node[0], node[0])  # an own member may be one that the class which runs has overridden
            behind = Behind(target, "itself")
        else:
            behind = self._behind(target, running.get(node[0], node[0]), self.table.file[row])
        following = self._declared(behind.number, name) if behind.number >= 0 else None
        if following is None and not behind.candidates:
            self.hidden += 1
            return None
        return self._call(row, node, target, behind, following, left)

    def _call(
        self,
        row: int,
        node: tuple[int, int],
        target: int,
        found: Behind,
        following: tuple[int, int] | None,
        left: int,
    ) -> Hop | None:
        """The hop of a call of a member, followed as far as that makes sense."""
        name, behind, candidates = self.table.text_of("callee", row), found.number, found.candidates
        before = self.count
        self.count += 1
        cut = ""
        hops: tuple[Hop, ...] = ()
        if following is not None:
            own = behind == node[0]
            if following in self.done:
                cut = "again"
            elif left <= 0 and not own:
                cut = "depth"
            else:
                self.done.add(following)
                hops = tuple(self._from(following, {following[0]: behind, behind: behind}, left if own else left - 1))
        worth = bool(hops or candidates or cut == "depth" or row in self.hard) or self._is_worker(behind)
        if not worth or (behind == node[0] and not hops):
            self.count = before
            self.hidden += 1
            return None
        member = self.symbols.types[following[0]].members[following[1]] if following else None
        declared, number = self.symbols.names[target], behind if behind >= 0 else target
        return msgspec.structs.replace(
            self._made(row, node, declared, name, found.bound, number),
            class_name=(self.symbols.names[behind] if behind >= 0 else "") or declared,
            registered_in=found.at[0],
            registered_line=found.at[1],
            returns=member.type if member else "",
            cut=cut,
            candidates=candidates,
            hops=hops,
        )

    def _creation(self, row: int, node: tuple[int, int], target: int, left: int) -> Hop | None:
        """A creation: what construction does counts when it reaches anything, or the bond is a hard one."""
        if row not in self.hard and self._is_quiet(target, (target, INSTANCE)):
            self.hidden += 1
            return None
        before = self.count
        self.count += 1
        hops: list[Hop] = []
        for index, member in enumerate(self.symbols.types[target].members):
            built = member.kind in ("constructor", "instance", "field") and not member.is_static
            if built and (target, index) not in self.done and left > 0:
                self.done.add((target, index))
                hops += self._from((target, index), {target: target}, left - 1)
        if task := task_of(self.codebase, target):
            place = (self.table.file[row], self.table.line[row])
            hops += self._later(self._declared(target, task), {target: target}, place, left - 1)
        if not hops and row not in self.hard:
            self.count = before
            self.hidden += 1
            return None
        made = self._made(row, node, self.symbols.names[target], "new", "itself", target)
        return msgspec.structs.replace(made, hops=tuple(hops))

    def _made(self, row: int, node: tuple[int, int], declared: str, member: str, bound: str, number: int = -1) -> Hop:
        """A hop that leads no further, as far as `number` is the class behind it."""
        layers = self.codebase.layers
        here, there = layers.name(node[0]), layers.name(number) if number >= 0 else ""
        return Hop(
            declared=declared,
            class_name=declared,
            member=member,
            file=self.symbols.files[self.table.file[row]].path,
            line=self.table.line[row],
            bound=bound,
            layer=there,
            crossing=f"{here}→{there}" if here and there and here != there else "",
            hard=self.hard.get(row, ""),
        )

    def _is_quiet(self, number: int, node: tuple[int, int] | None) -> bool:
        """Whether what is called of a type leads nowhere: of data, unless a container is told of it or it has an effect."""
        if self.roles.name(number) not in QUIET_ROLES or number in self.codebase.wiring.by_implementation:
            return False
        return node is None or not self.codebase.effects.of_node(node)

    def _is_worker(self, number: int) -> bool:
        return number >= 0 and self.roles.name(number) in ("service", "gateway", "repository", "presentation")

    def _behind(self, target: int, running: int, file: int) -> Behind:
        """The class that runs behind a type, as the class that runs is handed it."""
        if target in self.chosen:
            self.asked.add(target)
            return Behind(self.chosen[target], "chosen")
        wiring = self.codebase.wiring
        if (served := wiring.behind_facade(target)) is not None and served.chosen >= 0:
            return _as_registered(served)
        if not self.symbols.types[target].is_abstract:
            return Behind(target, "itself")
        given = (*wiring.handed_to(running), *wiring.handed_to_methods(running))
        needs = [each for each in given if each.target == target]
        answer = wiring.answer(needs[0]) if len(needs) == 1 else wiring.answer_to(target, file)
        if answer.how == How.REGISTERED and answer.chosen >= 0:
            return _as_registered(answer)
        if answer.chosen >= 0:
            return Behind(answer.chosen, "only implementation")
        if not answer.services and (default := self._default_of(running, target)) >= 0:
            return Behind(default, "default")
        names = tuple(self.symbols.names[each] for each in answer.candidates if each >= 0)
        how = answer.how if answer.how in (How.ALTERNATIVES, How.AMBIGUOUS) else "several" if names else "unknown"
        return Behind(-1, how, names or ("nothing in this tree",))

    def _default_of(self, running: int, target: int) -> int:
        """The class that stands in for a parameter of a type where nothing is handed in; -1 if there is none, or several."""
        found = {
            self.table.target[row]
            for index, member in enumerate(self.symbols.types[running].members)
            if member.kind == "constructor"
            for row in self._rows.get((running, index), ())
            if self.table.kind[row] == KIND_NUMBER["creation"]
            and CONTEXTS[self.table.context[row]] in DEFAULTS
            and target in self.roles.ancestors(self.table.target[row])
        }
        return found.pop() if len(found) == 1 else -1

    def _declared(self, number: int, name: str) -> tuple[int, int] | None:
        """The nearest member of that name with a body in the line of a type."""
        for each in self.roles.ancestors(number):
            for index, member in self.symbols.members(each).get(name, ()):
                if member.kind in ("method", "property") and member.body != (0, 0):
                    return each, index
        return None


def shown_type(text: str) -> str:
    """A return type in short: its head, '' for none."""
    head = typetext.head(text) if text else ""
    return "" if head in ("void", "None", "Void") else head
