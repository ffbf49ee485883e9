"""Every pattern that the program keeps takes time in proportion to the text, whatever the text is."""

from __future__ import annotations

import importlib
import itertools
import math
import pkgutil
import random
import re
import unittest
from collections.abc import Iterator
from pathlib import Path
from typing import Any, NamedTuple

import isodesm
from tests.regex_steps import Steps, TooManySteps
from tests.support import part_of

SMALL, MORE, STEEP = 20, 4, 2.0
"""Characters of the texts that are tried, how much longer the second of each is, and how many times more steps than in
proportion the longer one may take before it is looked at closely."""
LONG, LONGER, STEEPEST = 300, 4, 1.5
"""The same of the closer look, which sees past what is only looked for in a stretch of some hundred characters."""
WIDE, WIDER, WIDEST = 2_500, 3, 1.7
"""The same of the last look, past stretches of two thousand."""
LOOKED_AT, MOST = 2, 5_000_000
"""Texts of a pattern that are looked at closely, those over which it is steepest; the steps that none may take."""
TRIED = re.compile(r"\b(_*[A-Z][A-Z_0-9]*)\b(?:\[[^\]]*\])?\.(?:search|finditer|findall|sub|subn|split)\(")
"""A pattern that is looked for anywhere in a text, and not only at one place."""
SOURCE = Path(isodesm.__file__).parent
WINDOWED = {"_FALLBACK": 200}
"""Patterns that are only looked for in so many characters."""


class Kept(NamedTuple):
    """A pattern that a module keeps, be it inside another value; `anywhere` says that it is looked for all over a text."""

    pattern: re.Pattern[Any]
    name: str
    anywhere: bool


def patterns() -> list[Kept]:
    """All patterns of the program, each once."""
    found: dict[re.Pattern[Any], Kept] = {}

    def collect(value: object, name: str, tried: frozenset[str], depth: int = 0) -> None:
        if isinstance(value, re.Pattern):
            anywhere = depth > 0 or name in tried or (value in found and found[value].anywhere)
            found[value] = Kept(value, name, anywhere)
        elif isinstance(value, tuple | list | frozenset) and depth < 3:
            for each in value:
                collect(each, name, tried, depth + 1)
        elif isinstance(value, dict) and depth < 3:
            for each in value.values():
                collect(each, name, tried, depth + 1)
        elif hasattr(value, "__struct_fields__") and not isinstance(value, type):
            for each in value.__struct_fields__:
                collect(getattr(value, each), name, tried, depth + 1)

    for each in pkgutil.walk_packages(isodesm.__path__, "isodesm."):
        if ".samples" not in each.name and not each.name.endswith("__main__"):
            module = importlib.import_module(each.name)
            tried = frozenset(TRIED.findall(Path(str(module.__file__)).read_text(encoding="utf-8")))
            for name, value in list(vars(module).items()):
                collect(value, name, tried)
    return list(found.values())


def is_bounded(pattern: re.Pattern[Any]) -> bool:
    """Whether nothing in a pattern is repeated without end: then it looks no further than so many characters."""
    written = pattern.pattern if isinstance(pattern.pattern, str) else pattern.pattern.decode("latin-1")
    plain = re.sub(r"\[\^?\]?[^\]]*\]", "c", re.sub(r"\\.", "c", written))
    return re.search(r"[*+]|\{\d*,\}", plain) is None


def units(pattern: re.Pattern[Any]) -> list[str]:
    """Pieces of text that a pattern may have trouble with: its own signs and words, and what fits most classes."""
    written = pattern.pattern if isinstance(pattern.pattern, str) else pattern.pattern.decode("latin-1")
    signs = set(re.findall(r"\\?([^\w\s\\()\[\]{}|*+?^$.])", written)) | set(re.findall(r"\\([()\[\]{}|*+?^$.\\])", written))
    words = re.findall(r"(?<![\\\w])[A-Za-z_]{2,}", re.sub(r"\(\?P[<=]\w+", "", written))
    return [*sorted({"a", "1", " ", "\n"} | signs)[:14], *sorted(set(words))[:5]]


def texts(pattern: re.Pattern[Any]) -> Iterator[tuple[str, str]]:
    """What a text begins with, and what it goes on with."""
    known = units(pattern)
    yield from (("", each) for each in known)
    for one, other in itertools.permutations(known, 2):
        yield "", one + other
        yield one, other
        yield one + other, " "


def steps(counter: Steps, lead: str, unit: str, size: int, anywhere: bool) -> int:
    """The steps over a text of some size, which nothing follows that fits; MOST where there are more."""
    whole = (lead + unit * (size // len(unit)))[:size] + "\0"
    is_text = isinstance(counter.pattern.pattern, str)
    try:
        return counter.search(whole if is_text else whole.encode(), anywhere=anywhere, most=MOST)
    except TooManySteps:
        return MOST


def steepness(counter: Steps, lead: str, unit: str, anywhere: bool, size: int, more: int) -> float:
    """How much faster than the text the steps grow: 1 for steps in proportion, `more` where they grow by the
    square, infinity where there are too many."""
    long = steps(counter, lead, unit, size * more, anywhere)
    if long < 2 * size * more:  # hardly more than a step a character
        return 0.0
    return math.inf if long >= MOST else long / steps(counter, lead, unit, size, anywhere) / more


def steep(pattern: re.Pattern[Any], anywhere: bool) -> tuple[float, str, str]:
    """How steep a pattern is at most, and with what text: the first one that is too steep at a closer look."""
    counter, worst = Steps(pattern), (0.0, "", "")
    first = []
    for lead, unit in texts(pattern):
        first.append((steepness(counter, lead, unit, anywhere, SMALL, MORE), lead, unit))
        if first[-1][0] == math.inf:
            return first[-1]
    for _, lead, unit in sorted((each for each in first if each[0] >= STEEP), reverse=True)[:LOOKED_AT]:
        worst = max(worst, (steepness(counter, lead, unit, anywhere, LONG, LONGER), lead, unit))
        if worst[0] == math.inf:
            return worst
    if worst[0] > STEEPEST and (last := steepness(counter, *worst[1:], anywhere, WIDE, WIDER)) < WIDEST:
        return min(last, STEEPEST), *worst[1:]
    return worst


class LinearTest(unittest.TestCase):
    @part_of("fuzz")
    def test_patterns(self) -> None:
        for pattern, name, anywhere in patterns():
            if is_bounded(pattern):
                continue
            with self.subTest(pattern=name):
                if name in WINDOWED:
                    counter = Steps(pattern)
                    most = max(steps(counter, *each, WINDOWED[name], anywhere) for each in texts(pattern))
                    self.assertLess(most, MOST, pattern.pattern)
                    continue
                found, lead, unit = steep(pattern, anywhere)
                self.assertLessEqual(found, STEEPEST, (lead, unit, pattern.pattern))

    def test_this_shows_what_is_not_linear(self) -> None:
        for written in (r"(?:a|a)*b", r"\s*x"):
            with self.subTest(pattern=written):
                self.assertGreater(steep(re.compile(written, re.DOTALL), True)[0], STEEPEST)

    def test_steps_are_those_of_the_engine(self) -> None:
        """The walk finds what the engine finds, over texts of each pattern's own words."""
        chance = random.Random(3)
        for pattern, name, _ in patterns():
            counter, known = Steps(pattern), units(pattern)
            for _ in range(20):
                text = "".join(chance.choice(known) for _ in range(8))
                given: Any = text if isinstance(pattern.pattern, str) else text.encode()
                found = pattern.match(given)
                with self.subTest(pattern=name, text=text):
                    self.assertEqual(counter.match_end(given), found.end() if found else None)


if __name__ == "__main__":
    unittest.main()
