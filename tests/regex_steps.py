"""Counts the steps that a backtracking search takes: the same on every machine, however busy it is.

The tree of a pattern comes from the standard library's own parser, and is walked as its engine walks it, without the short cuts
by which that engine leaves out places where nothing can begin.
"""

from __future__ import annotations

import re
import sys
from collections.abc import Callable, Sequence
from re import _constants as sre  # type: ignore[attr-defined]
from re import _parser  # type: ignore[attr-defined]
from typing import Any

sys.setrecursionlimit(1_000_000)
Then = Callable[[int], bool]
Match = Callable[[int, Then], bool]
SPACES, LINE_END = frozenset(map(ord, " \t\n\r\f\v")), 10


class TooManySteps(Exception):
    """More steps than were asked for."""


class Steps:
    """The steps of one pattern over texts. `count` is reset by each search."""

    def __init__(self, pattern: re.Pattern[Any]) -> None:
        parsed = _parser.parse(pattern.pattern, pattern.flags & ~re.DEBUG)
        self.pattern, self._flags = pattern, pattern.flags
        self.count, self._most = 0, 0
        self._text: Sequence[int] = ()
        self._groups: dict[int, tuple[int, int]] = {}
        self._whole = self._sequence(parsed)

    def search(self, text: str | bytes, *, anywhere: bool, most: int = 50_000_000) -> int:
        """The steps that matching takes, or with `anywhere` finding all matches; TooManySteps beyond `most`."""
        self._text = text if isinstance(text, bytes) else [ord(char) for char in text]
        self.count, self._most = 0, most
        at = 0
        while at <= len(self._text):
            self._step()
            end = self._end_from(at)
            at = end if end is not None and end > at else at + 1
            if not anywhere:
                break
        return self.count

    def match_end(self, text: str | bytes) -> int | None:
        """Where a match from the beginning ends; None where there is none."""
        self._text = text if isinstance(text, bytes) else [ord(char) for char in text]
        self.count, self._most = 0, 50_000_000
        return self._end_from(0)

    def _end_from(self, at: int) -> int | None:
        self._groups.clear()
        end: list[int] = []
        return end[0] if self._whole(at, lambda stop: not end.append(stop)) else None

    def _step(self) -> None:
        self.count += 1
        if self.count > self._most:
            raise TooManySteps

    # --- one node after the other ----------------------------------------------------------

    def _sequence(self, nodes: Any) -> Match:
        matches = [self._node(*node) for node in nodes]
        if not matches:
            return lambda at, then: then(at)

        def run(index: int, at: int, then: Then) -> bool:
            if index == len(matches) - 1:
                return matches[index](at, then)
            return matches[index](at, lambda stop: run(index + 1, stop, then))

        return lambda at, then: run(0, at, then)

    def _node(self, kind: Any, given: Any) -> Match:
        if (single := self._single(kind, given)) is not None:

            def one(at: int, then: Then) -> bool:
                self._step()
                return at < len(self._text) and single(self._text[at]) and then(at + 1)

            return one
        name = str(kind).lower()
        if name in ("max_repeat", "min_repeat", "possessive_repeat"):
            return self._repeat(name, *given)
        return getattr(self, f"_{name}")(given)  # type: ignore[no-any-return]

    def _single(self, kind: Any, given: Any) -> Callable[[int], bool] | None:
        """Whether one character fits, for nodes that are about one; remembered by character."""
        if kind not in (sre.LITERAL, sre.NOT_LITERAL, sre.ANY, sre.IN):
            return None
        known: dict[int, bool] = {}

        def fits(char: int) -> bool:
            if char not in known:
                cases = {char}
                if self._flags & re.IGNORECASE:
                    cases |= {ord(other) for other in (chr(char).lower(), chr(char).upper()) if len(other) == 1}
                known[char] = any(self._fits(kind, given, each) for each in cases)
            return known[char]

        return fits

    def _fits(self, kind: Any, given: Any, char: int) -> bool:
        if kind == sre.LITERAL:
            return char == given
        if kind == sre.NOT_LITERAL:
            return char != given
        if kind == sre.ANY:
            return bool(self._flags & re.DOTALL) or char != LINE_END
        if kind == sre.RANGE:
            return given[0] <= char <= given[1]
        if kind == sre.CATEGORY:
            name = str(given).lower()
            tests = {"digit": chr(char).isdigit(), "space": char in SPACES, "word": chr(char).isalnum() or char == 95}
            return tests[name.rpartition("_")[2]] != ("_not_" in name)
        negated = bool(given) and given[0][0] == sre.NEGATE
        return negated != any(self._fits(*each, char) for each in given[negated:])

    def _repeat(self, name: str, least: int, most: Any, nodes: Any) -> Match:
        most = sys.maxsize if most == sre.MAXREPEAT else most
        single = self._single(*nodes[0]) if len(nodes) == 1 else None
        if single is not None:
            return self._run_of_one(name, least, most, single)
        inner = self._sequence(nodes)

        def greedy(at: int, then: Then, count: int) -> bool:
            self._step()
            if count < most and inner(at, lambda stop: (stop != at or count < least) and greedy(stop, then, count + 1)):
                return True
            return count >= least and then(at)

        def lazy(at: int, then: Then, count: int) -> bool:
            self._step()
            if count >= least and then(at):
                return True
            return count < most and inner(at, lambda stop: (stop != at or count < least) and lazy(stop, then, count + 1))

        if name == "min_repeat":
            return lambda at, then: lazy(at, then, 0)
        if name == "max_repeat":
            return lambda at, then: greedy(at, then, 0)
        return self._once(lambda at, then: greedy(at, then, 0))

    def _run_of_one(self, name: str, least: int, most: int, single: Callable[[int], bool]) -> Match:
        def length(at: int) -> int:
            count = 0
            while count < most and at + count < len(self._text) and single(self._text[at + count]):
                count += 1
                self._step()
            return count

        def run(at: int, then: Then) -> bool:
            longest = length(at) if name != "min_repeat" else 0
            if name == "possessive_repeat":
                return longest >= least and then(at + longest)
            if name == "max_repeat":
                for count in range(longest, least - 1, -1):
                    self._step()
                    if then(at + count):
                        return True
                return False
            count = 0
            while True:
                self._step()
                if count >= least and then(at + count):
                    return True
                if count >= most or at + count >= len(self._text) or not single(self._text[at + count]):
                    return False
                count += 1

        return run

    def _once(self, inner: Match) -> Match:
        """What is not tried again once it has matched."""

        def run(at: int, then: Then) -> bool:
            found: list[int] = []
            return inner(at, lambda stop: not found.append(stop)) and then(found[0])

        return run

    # --- by name, as the parser calls them -------------------------------------------------

    def _atomic_group(self, nodes: Any) -> Match:
        return self._once(self._sequence(nodes))

    def _subpattern(self, given: Any) -> Match:
        group, _, _, nodes = given
        inner = self._sequence(nodes)
        if group is None:
            return inner

        def run(at: int, then: Then) -> bool:
            def closed(stop: int) -> bool:
                before = self._groups.get(group)
                self._groups[group] = (at, stop)
                if then(stop):
                    return True
                if before is None:
                    self._groups.pop(group, None)
                else:
                    self._groups[group] = before
                return False

            return inner(at, closed)

        return run

    def _branch(self, given: Any) -> Match:
        ways = [self._sequence(nodes) for nodes in given[1]]

        def run(at: int, then: Then) -> bool:
            for way in ways:
                self._step()
                if way(at, then):
                    return True
            return False

        return run

    def _assert(self, given: Any, wanted: bool = True) -> Match:
        direction, nodes = given
        inner, width = self._sequence(nodes), nodes.getwidth()[0]

        def run(at: int, then: Then) -> bool:
            start = at if direction > 0 else at - width
            return (start >= 0 and inner(start, lambda stop: True)) == wanted and then(at)

        return run

    def _assert_not(self, given: Any) -> Match:
        return self._assert(given, wanted=False)

    def _groupref(self, group: int) -> Match:
        def run(at: int, then: Then) -> bool:
            if group not in self._groups:
                return False
            start, stop = self._groups[group]
            for offset in range(stop - start):
                self._step()
                if at + offset >= len(self._text) or self._text[at + offset] != self._text[start + offset]:
                    return False
            return then(at + stop - start)

        return run

    def _at(self, where: Any) -> Match:
        name = str(where).lower()

        def is_word(at: int) -> bool:
            return 0 <= at < len(self._text) and (chr(self._text[at]).isalnum() or self._text[at] == 95)

        def holds(at: int) -> bool:
            if "boundary" in name:
                return (is_word(at - 1) != is_word(at)) != ("non_boundary" in name)
            if name == "at_end_string":
                return at == len(self._text)
            if "end" in name:
                last = at == len(self._text) or (at == len(self._text) - 1 and self._text[at] == LINE_END)
                return last or (bool(self._flags & re.MULTILINE) and self._text[at] == LINE_END)
            return at == 0 or (bool(self._flags & re.MULTILINE) and name == "at_beginning" and self._text[at - 1] == LINE_END)

        return lambda at, then: holds(at) and then(at)
