"""Names and folders that promise another role than the class has."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator
from functools import cached_property
from typing import NamedTuple

from isodesm.diagnosis.shared.findings import Finding
from isodesm.diagnosis.shared.reporting import Report, Words
from isodesm.diagnosis.shared.views import is_view
from isodesm.facts.records import DeclaredType
from isodesm.inference.evidence import ANNOTATION, BASE, NAME, SERVICE_LIKE, SHAPE, Evidence, is_field, is_method, is_plain
from isodesm.inference.local_evidence import STORAGE_EFFECTS
from isodesm.linking.bonds import KIND_NUMBER, KINDS

PROMISES = {
    "Controller": "presentation",
    "Servlet": "presentation",
    "Repository": "repository",
    "Dao": "repository",
    "DAO": "repository",
    "Service": "service",
    "Manager": "service",
    "Helper": "service",
    "Calculator": "service",
    "Exception": "exception",
    "Dto": "value",
    "DTO": "value",
    "Utils": "utility",
    "Util": "utility",
}
"""Suffixes that mean one role everywhere, and which."""
FOLDERS = {
    "controllers": "presentation",
    "controller": "presentation",
    "repositories": "repository",
    "repository": "repository",
    "services": "service",
    "service": "service",
}
"""Folders that mean one role everywhere, and which."""
KEPT_BY = {
    "presentation": frozenset(("presentation", "composition-root", "factory", "test")),
    "repository": frozenset(("repository", "gateway", "abstraction", "factory", "test", "composition-root")),
    "service": frozenset(
        ("service", "gateway", "presentation", "factory", "utility", "algorithm", "composition-root", "test", "entity", "value")
    ),
    "exception": frozenset(("exception", "test")),
    "value": frozenset(("value", "entity", "test", "presentation")),
    "utility": frozenset(("utility", "algorithm", "factory", "value", "test", "composition-root")),
}
"""What a class may be that makes a promise: the role itself and those that only refine it."""
WORDS = {
    "presentation": "controller",
    "repository": "repository",
    "service": "service",
    "exception": "error",
    "value": "value",
    "utility": "helper",
}
ASKED = frozenset(("request", "req", "res", "response", "frame", "ctx", "context", "event", "input", "args", "argv"))
"""Names of parameters of members that answer requests."""
LEAST_ALIKE = 3
"""Classes of a folder with the same suffix from which that suffix is the folder's own habit."""


class Odd(NamedTuple):
    """What a class is in the place of what its name, or its folder, promises: in a word, and why."""

    promised: str
    role: str
    word: str
    reason: str
    folder: str = ""


def misleading_names(report: Report) -> Iterator[Finding]:
    """`misleading-name`: a suffix, or a folder, that means one role everywhere, with a class that plainly has another."""
    found = _Names(report)
    for number, declared in enumerate(report.symbols.types):
        if declared.kind not in ("class", "record", "struct") or declared.is_abstract or not report.is_production(number):
            continue
        odd = found.by_name(number, declared) or found.by_folder(number, declared)
        if odd is not None:
            yield _finding(report, number, odd, found.home_of(odd.role))


def _finding(report: Report, number: int, odd: Odd, home: str) -> Finding:
    name, where = report.name(number), f"lies in `{odd.folder}`" if odd.folder else f"is named as {_a(WORDS[odd.promised])}"
    elsewhere = home if home != _folder(report, number) else ""
    if odd.folder:
        remedy = (
            f"Move it into `{elsewhere}`, where others of its kind are." if elsewhere else f"Move it out of `{odd.folder}`."
        )
    else:
        there = f", and put it into `{elsewhere}`, where others of its kind are" if elsewhere else ""
        remedy = f"Rename it after what it does{there}; or move what makes it {_a(odd.word)} elsewhere."
    return report.finding(
        "misleading-name",
        "note",
        number,
        report.at_type(number),
        Words(
            f"`{name}` {where}, but is {_a(odd.word)}: {odd.reason}.",
            f"Whoever looks for {_a(WORDS[odd.promised])} opens this first, and who looks for {_a(odd.word)} does not find it.",
            remedy,
        ),
        why=[f"named-{odd.promised}" if not odd.folder else f"placed-{odd.promised}", f"is-{odd.role}"],
    )


def _a(word: str) -> str:
    return f"{'an' if word[0] in 'aeio' else 'a'} {word}"


class _Names:
    """Holds names and folders against what classes do."""

    def __init__(self, report: Report) -> None:
        self.report, self.codebase, self.symbols, self.roles = report, report.codebase, report.symbols, report.codebase.roles

    def by_name(self, number: int, declared: DeclaredType) -> Odd | None:
        """By the end of its name."""
        suffix = next((each for each in PROMISES if declared.name.endswith(each) and declared.name != each), "")
        if not suffix or self._habits[_folder(self.report, number), suffix] >= LEAST_ALIKE:
            return None
        return self._odd(number, declared, PROMISES[suffix])

    def by_folder(self, number: int, declared: DeclaredType) -> Odd | None:
        """By the folder right around it, where the name does not say the same and nothing in the folder works with it."""
        folder = _folder(self.report, number).rpartition("/")[2]
        promised = FOLDERS.get(folder.lower(), "")
        kept = any(declared.name.endswith(each) and PROMISES[each] == promised for each in PROMISES)
        if not promised or kept or self._helps_neighbours(number):
            return None
        answers = self._answers(number)
        if promised != "presentation" and answers is not None and not self._stands_alone(number):
            return Odd(promised, "presentation", "controller", answers.reason, folder)
        if folder.lower() == "controllers" and answers is None and self._is_plain_rule(number, declared):
            return Odd(promised, "service", "rule", "it computes, and nothing in it answers requests", folder)
        return None

    def home_of(self, role: str) -> str:
        """The folder that most classes of a role lie in."""
        return self._homes.get(role, "")

    # --- what it is -----------------------------------------------------------------------

    def _odd(self, number: int, declared: DeclaredType, promised: str) -> Odd | None:
        role = self.roles[number]
        if promised in ("service", "repository", "utility") and (answers := self._answers(number)) is not None:
            return Odd(promised, "presentation", "controller", answers.reason)
        if promised == "presentation" and any(each.role == promised and each.strength > NAME for each in role.evidence):
            return None
        if promised == "repository" and self._computes(number, declared) and not self._stores(number, declared):
            return Odd(promised, "service", "rule", "it computes, and nothing in it or with it keeps anything")
        if promised == "service" and (keeps := self._only_stores(number, declared)):
            return Odd(promised, "repository", "repository", keeps)
        if promised == "repository" and role.name == "service":
            return None
        strong = [
            each for each in role.evidence if each.strength > SHAPE or (each.role == "utility" and each.strength == SHAPE)
        ]
        if strong and role.name != promised and strong[0].role not in ("presentation", "exception", "repository"):
            actual = strong[0].role
            if promised == "utility" and strong[0].strength >= ANNOTATION:
                return None  # a container makes it, and it may help all the same
            return None if actual in KEPT_BY[promised] else Odd(promised, actual, actual, strong[0].reason)
        return self._idle_controller(number, declared)

    def _idle_controller(self, number: int, declared: DeclaredType) -> Odd | None:
        """A class named as a controller that lies elsewhere and answers nothing."""
        layer = self.codebase.layers.name(number)
        if not declared.name.endswith("Controller") or self._asked(declared) or layer in ("", "presentation", "shared"):
            return None
        weak = next((each for each in self.roles[number].evidence if each.strength > NAME), None)
        word = weak.role if weak else "service"
        reason = f"{self.codebase.layers.evidence[number]}, and nothing in it answers requests"
        return None if word in KEPT_BY["presentation"] else Odd("presentation", word, word, reason)

    def _asked(self, declared: DeclaredType) -> bool:
        names = (each.name.lower().lstrip("$_") for member in declared.members for each in member.parameters)
        return any(name in ASKED for name in names)

    def _answers(self, number: int) -> Evidence | None:
        """The mark or base by which a host calls it for requests; views are none."""
        if is_view(self.report, number):
            return None
        found = (each for each in self.roles[number].evidence if each.role == "presentation")
        return next((each for each in found if each.strength in (ANNOTATION, BASE)), None)

    def _computes(self, number: int, declared: DeclaredType) -> bool:
        """Whether it decides or reckons by itself: a method that does more than hand something on."""
        methods = [m for m in declared.members if is_method(m) and not m.is_static and m.body != (0, 0)]
        return bool(methods) and any(m.branches > 0 or not is_plain(m) for m in methods)

    def _is_plain_rule(self, number: int, declared: DeclaredType) -> bool:
        """Whether it computes and is nothing else: without bases, marks, effects, and parameters that requests come by."""
        bound = self.roles.external_bases.get(number) or len(self.roles.ancestors(number)) > 1 or declared.modifiers.annotations
        if bound or "controller" in declared.name.lower() or self.codebase.effects.used.get(number):
            return False
        return not self._asked(declared) and any(is_method(m) and (m.branches or m.statements > 1) for m in declared.members)

    def _stores(self, number: int, declared: DeclaredType) -> bool:
        """Whether anything in it may keep something: an effect, a field, or something of unknown kind that it names."""
        effects = {use.effect for use in self.codebase.effects.used.get(number, ())}
        if effects & (STORAGE_EFFECTS | {"network"}) or any(is_field(m) and not m.is_static for m in declared.members):
            return True
        if self.roles.external_bases.get(number) or len(self.roles.ancestors(number)) > 1:
            return True
        table = self.codebase.bonds
        language = self.symbols.files[self.symbols.file_of[number]].language
        naming = (KIND_NUMBER["annotation"], KIND_NUMBER["throws"], KIND_NUMBER["catch"])
        for row in table.rows_of_source(number):
            if table.kind[row] >= len(KINDS) or table.kind[row] in naming:
                continue
            target = table.target[row]
            name = self.codebase.target_name(target)
            if target >= 0 and self.roles.name(target) in SERVICE_LIKE | {"abstraction", "utility"}:
                return True
            if target < 0 and name and not self.symbols.catalogues.is_value(name, language):
                return True
        return False

    def _only_stores(self, number: int, declared: DeclaredType) -> str:
        """Why a class named as a service is one that stores: a mark says so, and it decides nothing."""
        marks = [each for each in self.roles[number].evidence if each.role == "repository" and each.strength >= BASE]
        methods = [m for m in declared.members if is_method(m)]
        return f"{marks[0].reason}, and it decides nothing" if marks and not any(m.branches for m in methods) else ""

    # --- what lies around it --------------------------------------------------------------

    def _stands_alone(self, number: int) -> bool:
        """Whether its folder holds answering classes only, so that this is its meaning here."""
        folder = _folder(self.report, number)
        return all(self._answers(each) is not None for each in self._in_folder[folder])

    def _helps_neighbours(self, number: int) -> bool:
        """Whether classes of its folder work with it."""
        table, folder = self.codebase.bonds, _folder(self.report, number)
        return any(
            _folder(self.report, table.source[row]) == folder and table.source[row] != number
            for row in self._rows_on.get(number, ())
        )

    @cached_property
    def _rows_on(self) -> dict[int, list[int]]:
        found: dict[int, list[int]] = defaultdict(list)
        table = self.codebase.bonds
        for row, (kind, target) in enumerate(zip(table.kind, table.target, strict=True)):
            if kind < len(KINDS) and target >= 0:
                found[target].append(row)
        return found

    @cached_property
    def _in_folder(self) -> dict[str, list[int]]:
        found: dict[str, list[int]] = defaultdict(list)
        for number in range(len(self.symbols)):
            if self.report.is_production(number) and not self.symbols.is_module(number):
                found[_folder(self.report, number)].append(number)
        return found

    @cached_property
    def _homes(self) -> dict[str, str]:
        """Role to the folder that most classes of it lie in, by more than their names."""
        counts: dict[str, Counter[str]] = defaultdict(Counter)
        for folder, numbers in self._in_folder.items():
            for number in numbers:
                role = self.roles[number]
                if role.evidence and role.evidence[0].strength > NAME:
                    counts[role.name][folder] += 1
        return {role: min(found, key=lambda each: (-found[each], each)) for role, found in counts.items()}

    @cached_property
    def _habits(self) -> Counter[tuple[str, str]]:
        """(folder, suffix) to how many classes there have it."""
        found: dict[tuple[str, str], set[int]] = defaultdict(set)
        for number, declared in enumerate(self.symbols.types):
            for suffix in PROMISES:
                if declared.name.endswith(suffix):
                    found[_folder(self.report, number), suffix].add(number)
        return Counter({key: len(numbers) for key, numbers in found.items()})


def _folder(report: Report, number: int) -> str:
    return report.symbols.path(number).rpartition("/")[0]
