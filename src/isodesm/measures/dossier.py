"""All that is to be known of one class before anybody touches it."""

from __future__ import annotations

import re
from collections import Counter, defaultdict

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.shared.findings import LEVELS, Diagnosis, Finding
from isodesm.facts import typetext
from isodesm.inference.evidence import SERVICE_LIKE
from isodesm.inference.injection import Injection
from isodesm.inference.resolution import How
from isodesm.linking.bonds import ASKED, KIND_NUMBER
from isodesm.linking.symbols import simple_name
from isodesm.measures.churn import Churn, Partner
from isodesm.measures.makers import Maker, makers_of
from isodesm.measures.member_use import MemberUse, caller_kind, member_use
from isodesm.measures.narrower_role import narrower_role
from isodesm.measures.one_more import places_of_siblings
from isodesm.measures.ranking import RankedClass, Ranking
from isodesm.measures.splits import Split, splits_of
from isodesm.measures.testable import Obstacle, Testing, logic_of
from isodesm.queries.object_tree import ObjectNode, object_tree


def counted(count: int, one: str, many: str = "") -> str:
    """A number with its noun."""
    return f"{count} {one if count == 1 else many or one + 's'}"


USES = frozenset((*(KIND_NUMBER[kind] for kind in ("call", "static-call", "static-field", "lookup")), ASKED))


class Place(msgspec.Struct, frozen=True):
    """A class and a place in it; `detail` is what stands there: arguments, a parameter, a type."""

    name: str
    member: str
    file: str
    line: int
    detail: str = ""


class Need(msgspec.Struct, frozen=True):
    """A parameter of the constructor, and what serves it as far as that is known."""

    name: str
    type: str
    served_by: str
    how: str


class LockedEffect(msgspec.Struct, frozen=True):
    """An effect that no test can keep out, with the shortest chain that shows it."""

    effect: str
    chain: tuple[str, ...]


class Abstraction(msgspec.Struct, frozen=True):
    """An abstraction of the class, who else implements it, and how many classes use the class through it."""

    name: str
    implementers: tuple[str, ...]
    users: int


class UsedMember(msgspec.Struct, frozen=True):
    """A member and the classes that use it, most first; `calls` counts the places by the kind of who calls: `boundary`,
    `service`, `test`, `other`."""

    name: str
    users: tuple[str, ...]
    calls: dict[str, int] = {}


class Test(msgspec.Struct, frozen=True):
    """A test that touches the class: directly, or by way of another one."""

    name: str
    directly: bool


class Dossier(msgspec.Struct, frozen=True):
    """What `about` says of a class; `plan` are titles of the steps that planning would take with it."""

    name: str
    kind: str
    file: str
    line: int
    role: str
    role_evidence: tuple[str, ...]
    narrower: str
    """A narrower word than the role, with its reason behind a colon; '' where none is shown to fit."""
    layer: str
    layer_evidence: str
    measures: RankedClass | None
    constructor: str
    needs: tuple[Need, ...]
    made_by: tuple[Maker, ...]
    """Who makes its objects: hosts, containers, code, tests."""
    heirs: tuple[str, ...]
    """For an interface or abstract class, the classes below it."""
    siblings: tuple[Place, ...]
    """Where those are created or registered: what one more of them touches; `detail` says which."""
    created_by: tuple[Place, ...]
    handed_to: tuple[Place, ...]
    creates: tuple[Place, ...]
    looks_up: tuple[Place, ...]
    objects: ObjectNode
    locked: tuple[LockedEffect, ...]
    logic: int
    """Branches that a test could try; 0 for what nobody writes a test of its own for."""
    obstacles: tuple[Obstacle, ...]
    """What keeps a test from having it alone, with nothing but values and test doubles."""
    abstractions: tuple[Abstraction, ...]
    members: tuple[UsedMember, ...]
    splits: tuple[Split, ...]
    tests: tuple[Test, ...]
    partners: tuple[Partner, ...]
    findings: tuple[Finding, ...]
    """Those of the class and those about it, the gravest first."""
    plan: tuple[str, ...] = ()
    worth: str = ""
    """For a service with one member and one user, what speaks for it."""
    asked_member: MemberUse | None = None


def make_dossier(
    codebase: Codebase, diagnosis: Diagnosis, ranking: Ranking, churn: Churn, number: int, member: str = ""
) -> Dossier:
    """The dossier of the class `number`, with what a change of one `member` touches if one is asked for."""
    maker = _Maker(codebase, number)
    made = maker.dossier(diagnosis, ranking, churn)
    asked = member_use(codebase, number, member) if member else None
    return msgspec.structs.replace(made, worth=maker.worth(made), asked_member=asked)


class _Maker:
    def __init__(self, codebase: Codebase, number: int) -> None:
        self.codebase, self.symbols, self.roles, self.number = codebase, codebase.symbols, codebase.roles, number
        self.table, self.declared = codebase.bonds, codebase.symbols.types[number]
        self.rows_in = [row for row, target in enumerate(self.table.target) if target == number]
        self.rows_out = [row for row, source in enumerate(self.table.source) if source == number]

    def dossier(self, diagnosis: Diagnosis, ranking: Ranking, churn: Churn) -> Dossier:
        number, role = self.number, self.roles[self.number]
        narrower = narrower_role(self.codebase, number)
        used = self._users()
        return Dossier(
            name=self.symbols.names[number],
            kind=self.declared.kind,
            file=self.symbols.path(number),
            line=self.declared.place.line,
            role=role.name,
            role_evidence=tuple(f"{each.role}: {each.reason}" for each in role.evidence[:6]),
            narrower=f"{narrower.name}: {narrower.reason}" if narrower else "",
            layer=self.codebase.layers.name(number),
            layer_evidence=self.codebase.layers.evidence[number],
            measures=next((row for row in ranking.classes if row.number == number), None),
            constructor=self._constructor(),
            needs=self._needs(),
            made_by=makers_of(self.codebase, number),
            heirs=self._heirs(),
            siblings=self._siblings(),
            created_by=self._created_by(),
            handed_to=self._handed_to(),
            creates=self._outgoing("creation"),
            looks_up=self._outgoing("lookup"),
            objects=object_tree(self.codebase, number),
            locked=tuple(
                LockedEffect(each, self.codebase.effects.chain_of_type(number, each))
                for each in self.codebase.effects.of_type(number)
            ),
            logic=logic_of(self.codebase, number),
            obstacles=Testing(self.codebase, diagnosis).of(number).against,
            abstractions=self._abstractions(),
            members=tuple(
                UsedMember(name, tuple(sorted(users)), calls)
                for name, (users, calls) in sorted(used.items(), key=lambda item: (-len(item[1][0]), item[0]))
            ),
            splits=splits_of({name: users for name, (users, _) in used.items() if users}),
            tests=self._tests(),
            partners=churn.partners(self.symbols.file_of[number]),
            findings=tuple(
                sorted(
                    (each for each in diagnosis.findings if number in (each.source_number, each.target_number)),
                    key=lambda each: LEVELS.index(each.level),  # the order of places among equals
                )
            ),
        )

    def _name(self, number: int) -> str:
        return self.symbols.names[number]

    def _is_test(self, number: int) -> bool:
        return self.roles.name(number) == "test"

    # --- construction ---------------------------------------------------------------------

    def _constructor(self) -> str:
        """The head of the constructor that a container would call, as written."""
        given = self.codebase.wiring.injections.of_constructor(self.number)
        if not given:
            return ""
        owner, index = given[0].owner, given[0].member
        part, _ = self.symbols.origin(owner, index)
        member = self.symbols.types[owner].members[index]
        text = self.codebase.text(self.symbols.file_of[part])
        end = member.body[0] if member.body[0] > member.place.start else member.place.end
        head = " ".join(text[member.place.start : end].decode("utf-8", "replace").split())
        if member.body == (0, 0) and "(" in head:  # beside the name of the class, whose body follows
            head = head[: typetext.closing_bracket(head, head.index("(")) + 1]
        return head.rstrip("{:= ")

    def _needs(self) -> tuple[Need, ...]:
        return tuple(Need(each.name, each.text, *self._served(each)) for each in self.codebase.wiring.handed_to(self.number))

    def _served(self, injection: Injection) -> tuple[str, str]:
        """Who serves a need, and how that is known: the answer that the wiring gives everywhere."""
        answer = self.codebase.wiring.answer(injection)
        if answer.how == How.OUTSIDE:
            member = self.symbols.types[injection.owner].members[injection.member]
            default = member.parameters[injection.parameter].default if injection.parameter >= 0 else ""
            made = re.fullmatch(r"(?:new\s+)?[A-Z]\w*\(.{0,60}\)", default)
            return "", f"where nothing is handed in: {default}" if made else "a value, or from outside the tree"
        chosen = self._name(answer.chosen) if answer.chosen >= 0 else ""
        if answer.how == How.REGISTERED:
            return chosen, f"registered, {answer.services[-1].lifetime or 'no lifetime'}"
        names = ", ".join(self.symbols.types[each].name for each in answer.candidates if each >= 0)
        said = {
            "as it is": "as it is, unregistered",
            "only implementation": "the only implementation",
            "alternatives": f"alternatives: {names}",
            "all": f"all of {counted(len(answer.services), 'registration')}",
            "ambiguous": f"ambiguous: {names}, and nothing decides",
            "several": f"{len(answer.candidates)} implementations",
            "none": "no implementations",
        }
        return chosen, said[answer.how]

    def _created_by(self) -> tuple[Place, ...]:
        creation = KIND_NUMBER["creation"]
        return tuple(
            self._place(row, self.table.source[row], self._arguments(row))
            for row in self.rows_in
            if self.table.kind[row] == creation
        )

    def _arguments(self, row: int) -> str:
        site = self.table.site[row]
        return f"({self.codebase.content(self.table.file[row]).sites[site].arguments})" if site >= 0 else ""

    def _place(self, row: int, shown: int, detail: str) -> Place:
        file = self.symbols.files[self.table.file[row]].path
        name = self._name(shown) if shown >= 0 else self.table.external(shown)
        return Place(name, self.table.text_of("member", row), file, self.table.line[row], detail)

    def _handed_to(self) -> tuple[Place, ...]:
        """Classes that are handed one, as itself or as one of its abstractions."""
        line = {
            each for each in self.roles.ancestors(self.number) if each == self.number or self.symbols.types[each].is_abstract
        }
        found = []
        for other in range(len(self.symbols)):
            if other == self.number or not self.symbols.is_shown(other):
                continue
            for each in (*self.codebase.wiring.handed_to(other), *self.codebase.wiring.handed_to_methods(other)):
                if each.target in line and each.owner == other:
                    member = self.symbols.types[other].members[each.member]
                    found.append(
                        Place(
                            self._name(other),
                            each.name,
                            self.symbols.path(other),
                            member.place.line,
                            f"as {self.symbols.types[each.target].name}",
                        )
                    )
        return tuple(found)

    def _outgoing(self, kind: str) -> tuple[Place, ...]:
        """What it creates or looks up, data and errors aside."""
        wanted = KIND_NUMBER[kind]
        light = ("entity", "value", "exception", "part")
        rows = [row for row in self.rows_out if self.table.kind[row] == wanted]
        return tuple(
            self._place(row, self.table.target[row], self._arguments(row))
            for row in rows
            if (self.table.target[row] >= 0 and self.roles.name(self.table.target[row]) not in light)
            or kind == "lookup"
            or self._has_effect(row)
        )

    def _has_effect(self, row: int) -> bool:
        return any(use.row == row for use in self.codebase.effects.used.get(self.number, ()))

    # --- use ------------------------------------------------------------------------------

    def _users(self) -> dict[str, tuple[set[str], dict[str, int]]]:
        """Member to the production classes that use it, on the class itself or on an abstraction of it that declares it, and
        the number of places by kind of caller."""
        found: dict[str, set[str]] = defaultdict(set)
        calls: dict[str, Counter[str]] = defaultdict(Counter)
        own = {member.name for member in self.declared.members if member.kind != "constructor" and not member.is_private}
        line = {each for each in self.roles.ancestors(self.number)}
        for source, target, kind, callee in zip(
            self.table.source, self.table.target, self.table.kind, self.table.callee, strict=True
        ):
            if kind in USES and target in line and source not in line and (name := self.table.names.strings[callee]) in own:
                calls[name][caller_kind(self.roles.name(source))] += 1
                if not self._is_test(source):
                    found[name].add(self._name(source))
        return {name: (found[name], dict(sorted(calls[name].items()))) for name in calls}

    def _heirs(self) -> tuple[str, ...]:
        """The classes below an interface or abstract class."""
        if not self.declared.is_abstract:
            return ()
        return tuple(self._name(each) for each in self.roles.implementers.get(self.number, ()) if self.symbols.is_shown(each))

    def _siblings(self) -> tuple[Place, ...]:
        found = places_of_siblings(self.codebase, self.number)
        return tuple(Place(who, "", file, line, f"{how} {', '.join(names)}") for who, file, line, names, how in found)

    def worth(self, dossier: Dossier) -> str:
        """What speaks for a service with one member and one user, if it is one."""
        own = [each for each in self.declared.members if each.kind == "method" and not each.is_private]
        users = {user for each in dossier.members for user in each.users}
        hosted = any(each.by == "host" for each in dossier.made_by)
        if self.roles.name(self.number) not in SERVICE_LIKE or hosted or len(own) != 1 or len(users) > 1:
            return ""
        for_it = [
            f"{counted(sum(each.directly for each in dossier.tests), 'test')} of its own" if dossier.tests else "",
            f"it keeps {', '.join(each.effect for each in dossier.locked)} apart" if dossier.locked else "",
            "others stand in for it" if any(each.implementers for each in dossier.abstractions) else "",
        ]
        user = f"one user (`{simple_name(next(iter(users)))}`)" if users else "no user"
        said = "; ".join(filter(None, for_it))
        return f"one member and {user}; " + (
            f"for it speaks: {said}"
            if said
            else "nothing was found that speaks for it: no test of its own, no effect that it keeps apart"
        )

    def _abstractions(self) -> tuple[Abstraction, ...]:
        found = []
        users: Counter[int] = Counter()
        seen: set[tuple[int, int]] = set()
        line = self.roles.ancestors(self.number)[1:]
        for source, target, kind in zip(self.table.source, self.table.target, self.table.kind, strict=True):
            if kind in USES and target in line and (source, target) not in seen:
                seen.add((source, target))
                users[target] += 1
        for base in line:
            if self.symbols.types[base].is_abstract:
                below = [self._name(each) for each in self.roles.implementers.get(base, ()) if each != self.number]
                found.append(Abstraction(self._name(base), tuple(below), users[base]))
        return tuple(found)

    def _tests(self) -> tuple[Test, ...]:
        """Tests that name the class, and tests that name a class which does."""
        direct = {self.table.source[row] for row in self.rows_in if self._is_test(self.table.source[row])}
        neighbours = {self.table.source[row] for row in self.rows_in} - direct
        indirect = {
            source
            for source, target in zip(self.table.source, self.table.target, strict=True)
            if target in neighbours and self._is_test(source)
        } - direct
        named = [(number, True) for number in direct] + [(number, False) for number in indirect]
        return tuple(
            Test(self._name(number), directly)
            for number, directly in sorted(named, key=lambda each: (not each[1], self._name(each[0])))
        )
