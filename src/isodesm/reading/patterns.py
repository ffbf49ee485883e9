"""Patterns of ignore files and settings, as git reads them, matched in time proportional to the path.

A name is matched piece by piece: what stands between two stars goes to the first place that it fits, and is never tried
again elsewhere; so does what stands between two runs of folders. A later place could only leave less for the rest.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Iterator
from typing import NamedTuple

LONGEST, MOST = 4_096, 1_000
"""Characters of a pattern, and patterns with stars or brackets of one file, that are looked at."""
_CLASSES = {
    "alnum": "0-9A-Za-z",
    "alpha": "A-Za-z",
    "blank": r" \t",
    "cntrl": r"\x00-\x1f\x7f",
    "digit": "0-9",
    "graph": r"\x21-\x7e",
    "lower": "a-z",
    "print": r"\x20-\x7e",
    "punct": r"\x21-\x2f\x3a-\x40\x5b-\x60\x7b-\x7e",
    "space": r"\t-\r ",
    "upper": "A-Z",
    "xdigit": "0-9A-Fa-f",
}
_SPECIAL = frozenset("*?[\\")
_STAR, _ANY = "*", "[^/]"


class Unreadable(ValueError):
    """A pattern that can't be read; the words say why."""


class Rule(NamedTuple):
    """A pattern: its place in its file, whether it takes back what others say, whether it is for folders alone, whether it is
    about a name or the whole path, and that name or path, or else a regular expression for it."""

    number: int
    takes_back: bool
    for_folders: bool
    of_name: bool
    plain: str
    expression: str


class Fault(NamedTuple):
    """A line that is not used, and why."""

    line: int
    reason: str


class Patterns:
    """The patterns of one file or setting, in order; the last that matches decides. `faults` are those that can't be used."""

    def __init__(self, lines: Iterable[str]) -> None:
        self.faults: list[Fault] = []
        self._plain: dict[tuple[bool, str], list[Rule]] = defaultdict(list)
        self._written: dict[bool, list[tuple[Rule, re.Pattern[str]]]] = {True: [], False: []}
        for rule in self._rules(lines):
            if not rule.expression:
                self._plain[rule.of_name, rule.plain].append(rule)
            else:
                self._written[rule.of_name].append((rule, re.compile(rule.expression, re.DOTALL)))
        self._any = {
            of_name: re.compile("|".join(dict.fromkeys(rule.expression for rule, _ in some)), re.DOTALL)
            for of_name, some in self._written.items()
            if some
        }

    def _rules(self, lines: Iterable[str]) -> Iterator[Rule]:
        written = 0
        for number, line in enumerate(lines, 1):
            odd: list[str] = []
            try:
                rule = rule_of(number, line, odd)
            except Unreadable as error:
                self.faults.append(Fault(number, f"the pattern `{line.strip()[:60]}` {error}, and is not used"))
                continue
            self.faults += [Fault(number, f"the pattern `{line.strip()[:60]}` {reason}") for reason in odd]
            written += rule is not None and bool(rule.expression)
            if written > MOST:
                self.faults.append(Fault(number, f"patterns from here on are not used, for there are more than {MOST:,}"))
                return
            if rule is not None:
                yield rule

    def __bool__(self) -> bool:
        return bool(self._plain or self._any)

    def says(self, path: str) -> bool | None:
        """Whether a path is meant, a folder's with `/` at its end; None where no pattern says anything about just that."""
        is_folder = path.endswith("/")
        whole = path.rstrip("/")
        best: Rule | None = None
        for of_name, text in ((True, whole[whole.rfind("/") + 1 :]), (False, whole)):
            found = [rule for rule in self._plain.get((of_name, text), ()) if is_folder or not rule.for_folders]
            if of_name in self._any and self._any[of_name].fullmatch(text):
                found += self._last(of_name, text, is_folder)
            best = max((*found, *((best,) if best is not None else ())), default=None, key=lambda rule: rule.number)
        return not best.takes_back if best is not None else None

    def _last(self, of_name: bool, text: str, is_folder: bool) -> list[Rule]:
        for rule, pattern in reversed(self._written[of_name]):
            if (is_folder or not rule.for_folders) and pattern.fullmatch(text):
                return [rule]
        return []

    def mean(self, path: str) -> bool:
        """Whether a path is meant, by itself or by a folder it lies in; the innermost that something is said of decides."""
        while path:
            if (said := self.says(path)) is not None:
                return said
            path = path.rstrip("/")
            path = path[: path.rfind("/") + 1]
        return False


def rule_of(number: int, line: str, odd: list[str]) -> Rule | None:
    """The rule in a line; None where it holds none. Unreadable where nobody can say what it means; what is `odd` about it is
    added."""
    text = _without_end(line)
    if not text or text.startswith("#"):
        return None
    takes_back = text.startswith("!")
    text = text[1:] if takes_back else text
    for_folders = text.endswith("/")
    text = text[:-1] if for_folders else text
    if not text or len(text) > LONGEST:
        if text:
            raise Unreadable(f"is longer than {LONGEST:,} characters")
        return None
    of_name = "/" not in text
    if _SPECIAL.isdisjoint(text):
        plain = text.removeprefix("/")
        known = plain and not plain.startswith("/") and "//" not in plain
        return Rule(number, takes_back, for_folders, of_name, plain, "") if known else None
    segments = text.removeprefix("/").split("/")
    if not all(segments):  # no path has a name without a letter
        return None
    pieces = [[_STAR] if segment == "**" else list(_tokens(segment, odd)) for segment in segments]
    many = [segment == "**" and not of_name for segment in segments]
    if not any(many) and all(len(token) == 1 and token != _STAR for some in pieces for token in some):
        return Rule(number, takes_back, for_folders, of_name, "/".join("".join(some) for some in pieces), "")
    return Rule(number, takes_back, for_folders, of_name, "", _expression(pieces, many))


def _without_end(line: str) -> str:
    """A line without its end, and without blanks there unless a backslash keeps them."""
    text = line.rstrip("\r\n")
    while text.endswith(" ") and not (text.endswith("\\ ") and (len(text) - len(text[:-1].rstrip("\\"))) % 2 == 0):
        text = text[:-1]
    return text


def _tokens(segment: str, odd: list[str]) -> Iterator[str]:
    """A name as single characters, stars, and expressions for one character."""
    at = 0
    while at < len(segment):
        char = segment[at]
        at += 1
        if char == "\\":
            if at == len(segment):
                raise Unreadable("ends with a backslash")
            yield segment[at] if segment[at] != _STAR else re.escape(_STAR)
            at += 1
        elif char == _STAR:
            at += len(segment) - at - len(segment[at:].lstrip(_STAR))
            yield _STAR
        elif char == "?":
            yield _ANY
        elif char == "[":
            expression, at = _bracket(segment, at, odd)
            yield expression
        else:
            yield char


def _bracket(segment: str, at: int, odd: list[str]) -> tuple[str, int]:
    """The expression for what stands in brackets from a place on, and the place behind them."""
    is_not = segment[at : at + 1] in ("!", "^")
    at += is_not
    first, items = at, []
    while at < len(segment) and (segment[at] != "]" or at == first):
        if segment.startswith("[:", at) and (end := segment.find(":]", at)) > 0:
            if segment[at + 2 : end] not in _CLASSES:
                raise Unreadable(f"names a class of characters that there is not ({segment[at + 2 : end][:20]})")
            items.append(_CLASSES[segment[at + 2 : end]])
            at = end + 2
            continue
        low, at = _one(segment, at)
        high = low
        if segment[at : at + 1] == "-" and segment[at + 1 : at + 2] not in ("", "]"):
            high, at = _one(segment, at + 1)
        if low > high:
            odd.append(f"has a range from back to front ({low}-{high}), of which {low} alone counts")
            high = low
        items.append(f"{_escaped(low)}-{_escaped(high)}")
    if at >= len(segment):
        raise Unreadable("has a bracket that is not closed")
    return (f"[^/{''.join(items)}]" if is_not else f"(?!/)[{''.join(items)}]"), at + 1


def _one(segment: str, at: int) -> tuple[str, int]:
    """One character in brackets, and the place behind it."""
    at += segment[at] == "\\"
    if at >= len(segment):
        raise Unreadable("has a bracket that is not closed")
    return segment[at], at + 1


def _escaped(char: str) -> str:
    return f"\\U{ord(char):08x}"


def _expression(pieces: list[list[str]], many: list[bool]) -> str:
    """The expression for a path. Runs of names between two `**` go to the first place that they fit."""
    if all(many):
        return ".+"
    blocks: list[list[str]] = [[]]
    for tokens, is_many in zip(pieces, many, strict=True):
        if is_many:
            blocks.append([])
        else:
            blocks[-1].append(_name(tokens))
    inside = many[-1]  # all that lies in a folder
    blocks = [blocks[0], *(block for block in blocks[1:] if block)]
    head, *rest = ("/".join(block) for block in blocks)
    anywhere = "(?:[^/]+/)*?"
    if not rest:
        return head + ("/.+" if inside else "")
    *middle, last = rest
    between = "".join(f"(?>{anywhere}{block}/)" for block in middle)
    return f"{head + '/' if head else ''}{between}{anywhere}{last}{'/.+' if inside else ''}"


def _name(tokens: list[str]) -> str:
    """The expression for one name of a path."""
    parts: list[str] = [""]
    for token in tokens:
        if token == _STAR:
            parts.append("")
        else:
            parts[-1] += re.escape(token) if len(token) == 1 else token
    first, *rest = parts
    if not rest:
        return first
    *middle, last = rest
    steps = "".join(f"(?>[^/]*?{part})" for part in middle)
    return f"{first}{steps}{f'(?>[^/]*{last}(?=/|$))' if last else '[^/]*+'}"
