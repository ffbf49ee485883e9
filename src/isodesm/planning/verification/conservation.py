"""What a step may not lose: every word and value of the code that it rewrites stands somewhere after it as before."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

from isodesm.facts import noise
from isodesm.facts.records import FileSites, Site
from isodesm.facts.typetext import split_top

_REMARKS = re.compile(rb"/\*.*?\*/|//[^\n]*|(?<![\w\"'])#(?!\[)[^\n]*", re.DOTALL)
_WORDS = re.compile(noise.any_of(noise.QUOTED, noise.SINGLE, r"[^\W\d]\w*+", r"\d[\w.]*+").encode(), re.DOTALL)
_IMPORTS = re.compile(rb"^[ \t]*(?:import|using|use|from)\s[^(\n]*?[;\n]", re.MULTILINE)
"""Lines that only say where names come from: those that lack one are told by the check of names."""
GRAMMAR = frozenset(
    "new this self static final readonly public private protected internal package import use using from as var let const val "
    "override virtual sealed abstract await async return is not None null nil cls base super parent def function fn lambda "
    "class throws unsafe global and or if else __init__ __construct".split()
)
"""Words that come and go with the form of the code."""


def lost(files: Sequence[tuple[bytes, bytes]], may_go: Iterable[str]) -> list[str]:
    """Words and values that stand less often in all files after a step than before it, but for those that may go, in order."""
    named = [word for each in may_go for word in re.findall(r"\w+", each)]
    allowed = GRAMMAR.union(named, (each.lstrip("_") for each in named))
    before: Counter[str] = Counter()
    after: Counter[str] = Counter()
    for old, new in files:
        before.update(_words(_IMPORTS.sub(b"", old)))
        after.update(_words(_IMPORTS.sub(b"", new)))
    return [
        word for word in before if after[word] < before[word] and not allowed.issuperset(re.findall(r"\w+", word) or [word])
    ]


def _words(text: bytes) -> list[str]:
    return [each.decode("utf-8", "replace").lstrip("_") or "_" for each in _WORDS.findall(_REMARKS.sub(b" ", text))]


class Act(NamedTuple):
    """Something that code does: a creation, a call, a throw or an assignment; `owner` is what it is done to, with how many
    `arguments`."""

    kind: str
    owner: str
    name: str
    arguments: int

    def __str__(self) -> str:
        called = ".".join(each for each in (self.owner, self.name) if each)
        return called if self.kind in ("throw", "assignment") else f"{called}(…{self.arguments})"


_OWN = re.compile(r"^(?:\$?this|self)(?:\.|->|$)")
_ACTS = frozenset(("creation", "call", "throw", "assignment"))


def changed_acts(old: FileSites, new: FileSites, text: bytes, may_go: Iterable[str]) -> Iterator[tuple[str, Act]]:
    """Acts that a file does less often after a step (`lost`) or more often (`added`), but for those about what may go, for
    those that name something new to the file, whose `text` it was, and for those that only take more arguments."""
    allowed = set(GRAMMAR).union(*(re.findall(r"\w+", each) for each in may_go))
    before, after = (Counter(_act(site) for site in each.sites if site.kind in _ACTS) for each in (old, new))
    gone, come = before - after, after - before
    known = set(_words(text))
    for act in gone:
        taking_more = sum(count for other, count in come.items() if _is_same(act, other) and other.arguments >= act.arguments)
        if not _is_about(act, allowed) and gone[act] > taking_more:
            yield "lost", act
    for act in come:
        taking_less = sum(count for other, count in gone.items() if _is_same(act, other) and other.arguments <= act.arguments)
        if not _is_about(act, allowed) and not _is_new(act, known) and come[act] > taking_less:
            yield "added", act


def _is_same(act: Act, other: Act) -> bool:
    return (act.kind, act.name) == (other.kind, other.name)


def _act(site: Site) -> Act:
    arguments = site.arguments.strip()
    named = site.name if site.kind == "call" else _OWN.sub("", site.text)
    owner = _OWN.sub("", site.text) if site.kind == "call" else ""
    return Act(site.kind, owner, named, len(split_top(arguments)) if arguments else 0)


def _is_about(act: Act, words: set[str]) -> bool:
    named = re.findall(r"\w+", f"{act.owner} {act.name}")
    return not named or any(each in words or each.lstrip("_") in words for each in named)


def _is_new(act: Act, known: set[str]) -> bool:
    return any(each.lstrip("_") not in known for each in re.findall(r"\w+", f"{act.owner} {act.name}"))
