"""Which finding of one state is which of another, whatever became of lines, files and names.

In rounds, from sure to likely, each on what the rounds before it left: the same id; the same class, kind and target; the same
in a class that was renamed or moved; the same member and target with code alike, in another class (one that was split); the
same line of code, elsewhere in its file; the same knot, told by another of its bonds.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Hashable, Iterable, Mapping
from difflib import SequenceMatcher
from itertools import product

from isodesm.drifting.mark import Mark, MarkedClass, MarkedFinding
from isodesm.linking.symbols import simple_name

LEAST_ALIKE = 0.7
"""Likeness of two lines of code from which a finding in another class is taken for the same."""
LEAST_ALIKE_IN_FILE = 0.95
"""The same, in another member and class of the same file: a line that was put into a function, say."""
KNOTS = frozenset(("dependency-cycle",))
"""Kinds that name one of several bonds that make them: when that bond goes, another stands for the same knot."""
LEAST_SHARED, LEAST_SHARED_BY_NAME = 0.6, 0.3
"""Share of members that a class keeps under another name, and one that keeps its name or its file's history."""
LEAST_MEMBERS = 2
MEMBER_DIGITS = 4
MOST_COMPARED = 20_000
"""Pairs of findings with one key that are compared by their code; of more, those in order are taken for each other."""

Pair = tuple[MarkedFinding, MarkedFinding]


def matched(old: Mark, new: Mark, renamed_files: Mapping[str, str]) -> tuple[list[Pair], dict[str, str]]:
    """The findings that are the same in two states, and the classes of the old one to their names in the new one, where
    those differ. `renamed_files` maps paths as they were to paths as they are."""
    names = renamed_classes(old, new, renamed_files)

    def named(name: str) -> str:
        return names.get(name, name)

    rounds: list[tuple[Callable[[MarkedFinding], Hashable], Callable[[MarkedFinding], Hashable], float]] = [
        (_as_it_is, _as_it_is, 0.0),
        (
            lambda each: (each.kind, named(each.source), each.member, named(each.target)),
            lambda each: (each.kind, each.source, each.member, each.target),
            0.0,
        ),
        (
            lambda each: (each.kind, named(each.source), named(each.target)),
            lambda each: (each.kind, each.source, each.target),
            0.0,
        ),
        (
            lambda each: (each.kind, each.member, named(each.target)),
            lambda each: (each.kind, each.member, each.target),
            LEAST_ALIKE,
        ),
        (
            lambda each: (each.kind, renamed_files.get(each.file, each.file), named(each.target)),
            lambda each: (each.kind, each.file, each.target),
            LEAST_ALIKE_IN_FILE,
        ),
    ]
    for one, other in product(("source", "target"), repeat=2):
        rounds.append((_of_knot(one, named), _of_knot(other, str), 0.0))
    left, right, pairs = list(old.findings), list(new.findings), []
    for of_old, of_new, least in rounds:
        found = list(_paired(left, right, of_old, of_new, least))
        pairs += found
        gone, come = {id(one) for one, _ in found}, {id(other) for _, other in found}
        left = [each for each in left if id(each) not in gone]
        right = [each for each in right if id(each) not in come]
    return pairs, names


def _as_it_is(each: MarkedFinding) -> Hashable:
    """The id with the names that it is made from: in a mark that somebody edited they need not agree."""
    return each.id, each.kind, each.source, each.member, each.target


def _of_knot(end: str, named: Callable[[str], str]) -> Callable[[MarkedFinding], Hashable]:
    """The class at one end of the bond that a knot is told by; of what is no knot, something that equals nothing else's."""
    return lambda each: (each.kind, named(getattr(each, end))) if each.kind in KNOTS else id(each)


def _paired(
    left: Iterable[MarkedFinding],
    right: Iterable[MarkedFinding],
    of_old: Callable[[MarkedFinding], Hashable],
    of_new: Callable[[MarkedFinding], Hashable],
    least: float,
) -> Iterable[Pair]:
    """Pairs with one key, those whose code is most alike first."""
    groups: dict[Hashable, tuple[list[MarkedFinding], list[MarkedFinding]]] = defaultdict(lambda: ([], []))
    for each in left:
        groups[of_old(each)][0].append(each)
    for each in right:
        if (key := of_new(each)) in groups:
            groups[key][1].append(each)
    for ones, others in groups.values():
        same = list(_of_one_code(ones, others))
        yield from same
        known = {id(each) for pair in same for each in pair}
        ones, others = ([each for each in some if id(each) not in known] for some in (ones, others))
        if len(ones) * len(others) > MOST_COMPARED:
            yield from zip(ones, others, strict=False) if not least else ()
            continue
        compared = ((alike(one.code, other.code), -i, -j) for i, one in enumerate(ones) for j, other in enumerate(others))
        ranked = sorted(compared, reverse=True)
        taken_old, taken_new = set(), set()
        for likeness, i, j in ranked:
            if likeness >= least and i not in taken_old and j not in taken_new:
                taken_old.add(i)
                taken_new.add(j)
                yield ones[-i], others[-j]


def _of_one_code(ones: Iterable[MarkedFinding], others: Iterable[MarkedFinding]) -> Iterable[Pair]:
    """Pairs whose code is the same, in order."""
    waiting: dict[str, list[MarkedFinding]] = defaultdict(list)
    for each in others:
        waiting[each.code].append(each)
    for each in ones:
        if waiting[each.code]:
            yield each, waiting[each.code].pop(0)


def alike(one: str, other: str) -> float:
    """How alike two lines of code are, from 0 to 1."""
    return 1.0 if one == other else SequenceMatcher(None, one, other, autojunk=False).ratio()


def renamed_classes(old: Mark, new: Mark, renamed_files: Mapping[str, str]) -> dict[str, str]:
    """Classes of the old state that go by another name in the new one: by their members, their simple name and their file."""
    known_old, known_new = {each.name for each in old.classes}, {each.name for each in new.classes}
    gone = [each for each in old.classes if each.name not in known_new]
    come = [each for each in new.classes if each.name not in known_old]
    said_old, said_new = _codes(old), _codes(new)
    ranked = []
    for one, other in product(gone, come):
        likeness = _likeness(one, other, renamed_files)
        if likeness or _said_alike(one, other, said_old[one.name], said_new[other.name]):
            ranked.append((-likeness, one.name, other.name))
    found: dict[str, str] = {}
    taken: set[str] = set()
    for _, was, now in sorted(ranked):
        if was not in found and now not in taken:
            found[was] = now
            taken.add(now)
    return found


def _codes(mark: Mark) -> dict[str, set[tuple[str, str, str]]]:
    """Class to the kind, member and code of the findings about what others do with it."""
    found: dict[str, set[tuple[str, str, str]]] = defaultdict(set)
    for each in mark.findings:
        found[each.target].add((each.kind, each.member, each.code))
    return found


def _said_alike(one: MarkedClass, other: MarkedClass, then: set[tuple[str, str, str]], now: set[tuple[str, str, str]]) -> bool:
    """Whether two classes have the same members, and code that used one reads the same but for the name."""
    if not one.members or one.members != other.members:
        return False
    was, name = simple_name(one.name), simple_name(other.name)
    return any((kind, member, code.replace(was, name)) in now for kind, member, code in then)


def _likeness(one: MarkedClass, other: MarkedClass, renamed_files: Mapping[str, str]) -> float:
    """How sure it is that two classes are one; 0 where they are not."""
    shared = _shared(one.members, other.members)
    same_name = simple_name(one.name) == simple_name(other.name)
    same_file = renamed_files.get(one.file, one.file) == other.file
    if same_name and (shared >= LEAST_SHARED_BY_NAME or not one.members or not other.members):
        return 2 + shared
    if same_file and shared >= LEAST_SHARED_BY_NAME:
        return 1 + shared
    return shared if shared >= LEAST_SHARED and len(one.members) >= LEAST_MEMBERS * MEMBER_DIGITS else 0.0


def _shared(one: str, other: str) -> float:
    """The share of members that two classes have in common (Jaccard index over multisets)."""
    first, second = (
        Counter(text[at : at + MEMBER_DIGITS] for at in range(0, len(text), MEMBER_DIGITS)) for text in (one, other)
    )
    union = sum((first | second).values())
    return sum((first & second).values()) / union if union else 0.0
