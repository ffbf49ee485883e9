"""Every pattern that the program keeps takes time in proportion to the text, whatever the text is."""

from __future__ import annotations

import importlib
import itertools
import pkgutil
import re
import signal
import time
import unittest
from collections.abc import Iterator
from pathlib import Path
from typing import Any, NamedTuple

import isodesm

SMALL, MORE = 320, 8
"""Characters of the texts that are tried, and how much longer the second of each is."""
SLOW = 0.0025
"""Seconds that the longer text must take for the comparison to say anything."""
ENDLESS = 0.5
"""Seconds of a text of that length that need no comparison."""
STEEPEST = 3.0
"""Times the time in proportion beyond which a text is tried at full length."""
FULL = (100_000, 1_000_000)
LONGEST = 2.0
"""Seconds that the shorter text of full length must not take."""
TRIED = re.compile(r"\b(_*[A-Z][A-Z_0-9]*)\b(?:\[[^\]]*\])?\.(?:search|finditer|findall|sub|subn|split)\(")
"""A pattern that is looked for anywhere in a text, and not only at one place."""
SOURCE = Path(isodesm.__file__).parent
WINDOWED = {"_FALLBACK": 200}
"""Patterns that are only looked for in so many characters."""


class TooLong(Exception):
    """A text took longer than any should."""


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


class LinearTest(unittest.TestCase):
    def setUp(self) -> None:
        def stop(number: int, frame: object) -> None:
            raise TooLong

        self.addCleanup(signal.signal, signal.SIGPROF, signal.signal(signal.SIGPROF, stop))

    def seconds(self, pattern: re.Pattern[Any], lead: str, unit: str, size: int, anywhere: bool, limit: float = 10.0) -> float:
        whole = (lead + unit * (size // len(unit)))[:size] + "\0"
        text: Any = whole if isinstance(pattern.pattern, str) else whole.encode()
        begin = time.perf_counter()  # time of the processor is counted in steps of some milliseconds on some systems
        signal.setitimer(signal.ITIMER_PROF, limit)
        try:
            pattern.match(text)
            if anywhere:
                for _ in pattern.finditer(text):
                    pass
        except TooLong:
            return limit
        finally:
            signal.setitimer(signal.ITIMER_PROF, 0)
        return min(time.perf_counter() - begin, limit)

    def worst(self, pattern: re.Pattern[Any], anywhere: bool) -> tuple[float, str, str]:
        """How much steeper than the length of the text the time grows at most, and with what text."""
        found = (0.0, "", "")
        for lead, unit in texts(pattern):
            long = self.seconds(pattern, lead, unit, SMALL * MORE, anywhere, ENDLESS)
            if long >= ENDLESS:
                return 2 * STEEPEST, lead, unit
            if long < SLOW:
                continue
            short, long = (
                min(self.seconds(pattern, lead, unit, size, anywhere) for _ in range(4)) for size in (SMALL, SMALL * MORE)
            )
            if long < SLOW:
                continue
            found = max(found, (long / max(short, 1e-6) / MORE, lead, unit))
            if found[0] > MORE / 2:
                break
        return found

    def test_patterns(self) -> None:
        for pattern, name, anywhere in patterns():
            if is_bounded(pattern):
                continue
            if name in WINDOWED:
                worst = max(self.seconds(pattern, *each, WINDOWED[name], anywhere) for each in texts(pattern))
                with self.subTest(pattern=name):
                    self.assertLess(worst, 0.1, pattern.pattern)
                continue
            steepness, lead, unit = self.worst(pattern, anywhere)
            if steepness < STEEPEST:
                continue
            with self.subTest(pattern=name, lead=lead, unit=unit):
                # the quickest of some tries: what else the machine does must not look like a steep pattern
                for tries in (1, 2, 4):
                    short = min(self.seconds(pattern, lead, unit, FULL[0], anywhere, LONGEST) for _ in range(tries))
                    self.assertLess(short, LONGEST, pattern.pattern)
                    long = min(self.seconds(pattern, lead, unit, FULL[1], anywhere, 5.0) for _ in range(tries))
                    if long < (most := 4 * MORE * max(short, 0.01)):
                        break
                self.assertLess(long, most, pattern.pattern)

    def test_this_shows_what_is_not_linear(self) -> None:
        for written in (r"(?:a|a)*b", r"\s*x", r'"(?:\\.|[^"])*"'):
            with self.subTest(pattern=written):
                self.assertGreater(self.worst(re.compile(written, re.DOTALL), True)[0], STEEPEST)


if __name__ == "__main__":
    unittest.main()
