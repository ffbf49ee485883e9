"""What speaks against a step: its files, as they were and as they would be, read with the reader of the tree."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import lru_cache
from pathlib import PurePosixPath
from typing import Any, NamedTuple

from isodesm.facts.languages import dialect_of
from isodesm.facts.parsing import errors_in, parse, raw, spoilt
from isodesm.facts.reader import read_file
from isodesm.planning.model.step import Written
from isodesm.planning.verification.conservation import changed_acts, lost
from isodesm.planning.verification.declarations import faults
from isodesm.planning.verification.names import hiding_names, late_names, unknown_names
from isodesm.planning.verification.python_scopes import compiles, unbound_names

KEPT = 64
"""Texts of which it is kept how they read."""
_SELF = re.compile(r"^[ \t]*((?:this\.|self\.|\$this->)?[$\w]+)[ \t]*=[ \t]*\1[ \t]*;?[ \t]*$", re.MULTILINE)
"""Something that is given to itself."""
_IDLE = re.compile(r"^[ \t]*((?:this\.|self\.|\$this->)?\$?[A-Za-z_]\w*)[ \t]*;[ \t]*$", re.MULTILINE)
"""A statement that only names something."""
_STATEMENTS = frozenset("break continue return throw yield debugger default fallthrough".split())


class Objection(NamedTuple):
    """Why a step is not offered: which check it fails, and in words what is wrong."""

    check: str
    reason: str


def objections(
    changed: Sequence[Written],
    may_go: Iterable[str] | None,
    known: Mapping[str, frozenset[str]],
    may_come: Iterable[str] = (),
) -> Iterator[Objection]:
    """What speaks against a step, gravest first.

    `may_go` are the words that it takes away by intent (None: it takes declarations away, so that words say nothing), `known`
    the simple names of the tree's types with the packages that declare them, `may_come` what stands for what is handed in.
    """
    for each in changed:
        yield from _parses(each)
        yield from _compiles(each)
    inlined: set[str] = set()
    for each in changed:
        before, old_sites = _read(each.language, each.path, each.before) if each.before else (None, None)
        after, new_sites = _read(each.language, each.path, each.after)
        if old_sites is not None:  # a variable that is gone has given way to its value
            still = {local.name for local in new_sites.locals}
            gone_with = [local for local in old_sites.locals if local.name not in still]
            inlined |= {word for local in gone_with for word in (local.name, local.type)}
            hidden = hiding_names(each.language, each.before, before, after, {local.name for local in old_sites.locals})
            yield from (Objection("names", said) for said in hidden)
            if may_go is not None:
                acts = changed_acts(old_sites, new_sites, each.before, [*may_go, *inlined, *may_come])
                yield from (Objection("conservation", f"`{act}` would be {how} in `{_short(each)}`") for how, act in acts)
        old = set(faults(before)) if before is not None else set()
        idle = Counter(_idle(each.before))
        bare = Counter(_idle(each.after)) if each.language in ("java", "csharp", "php") else Counter()
        for name, count in bare.items():
            if count > idle[name]:
                yield Objection("moment", f"a call would become the bare value `{name}`")
        kept = Counter(_SELF.findall(each.before.decode("utf-8", "replace")))
        for name, count in Counter(_SELF.findall(each.after.decode("utf-8", "replace"))).items():
            if count > kept[name]:
                yield Objection("moment", f"`{name}` would be assigned to itself: it is made anew there")
        yield from (Objection("declarations", said) for said in faults(after) if said not in old)
        late = set(late_names(each.language, each.before, before)) if before is not None else set()
        yield from (Objection("names", said) for said in late_names(each.language, each.after, after) if said not in late)
        yield from (
            Objection("names", f"`{name}` would be named in `{_short(each)}`, which does not know it")
            for name in unknown_names(each.language, each.before, each.after, before, after, known)
        )
    if may_go is not None and (
        gone := lost([(each.before, each.after) for each in changed if each.before], [*may_go, *inlined])
    ):
        listed = ", ".join(f"`{word}`" for word in gone[:4])
        yield Objection("conservation", f"{listed} would be lost from the code")


def _idle(text: bytes) -> list[str]:
    return [each for each in _IDLE.findall(text.decode("utf-8", "replace")) if each not in _STATEMENTS]


def _short(each: Written) -> str:
    return each.path.rpartition("/")[2]


def _parses(each: Written) -> Iterator[Objection]:
    before = _spoilt(each.language, each.path, each.before) if each.before else (0, 0)
    if any(now > then for now, then in zip(_spoilt(each.language, each.path, each.after), before, strict=True)):
        yield Objection("syntax", f"`{_short(each)}` would not parse any more")


def _compiles(each: Written) -> Iterator[Objection]:
    """What the language's own compiler finds that it did not find before."""
    if each.language != "python":
        return
    if compiles(each.before) and not compiles(each.after):
        yield Objection("syntax", f"`{_short(each)}` would not compile any more")
        return
    before, after = unbound_names(each.before), unbound_names(each.after)
    for name in sorted((after or frozenset()) - (before or frozenset())) if before is not None else ():
        yield Objection("names", f"`{name}` would be named in `{_short(each)}`, which does not know it there")


_read = lru_cache(maxsize=KEPT)(read_file)
"""What one step writes is what the next one begins with, so that most texts are asked for twice."""


@lru_cache(maxsize=KEPT)
def _spoilt(language: str, path: str, text: bytes) -> tuple[int, int]:
    """What does not parse: in the best reading, and the number of errors in the text as it stands."""
    suffix = PurePosixPath(path).suffix
    best: Any = parse(dialect_of(language), suffix, text)[0]
    return spoilt(best), errors_in(raw(language, suffix, text))
