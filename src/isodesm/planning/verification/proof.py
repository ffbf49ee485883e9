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
from isodesm.planning.language import language_named
from isodesm.planning.language.python_scopes import compiles, unbound_names
from isodesm.planning.model.step import Written
from isodesm.planning.verification.conservation import changed_acts, lost
from isodesm.planning.verification.declarations import faults
from isodesm.planning.verification.names import hiding_names, late_names, unknown_names
from isodesm.planning.verification.reading import KEPT, read
from isodesm.planning.wording import faults as fault

_SELF = re.compile(r"^[ \t]*((?:this\.|self\.|\$this->)?[$\w]+)[ \t]*=[ \t]*\1[ \t]*;?[ \t]*$", re.MULTILINE)
"""Something that is given to itself."""
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
    the simple names of the types with the packages that declare them, `may_come` what stands for what is injected.
    """
    for each in changed:
        yield from _parses(each)
        yield from _compiles(each)
    inlined: set[str] = set()
    for each in changed:
        file = _Read(each)
        inlined |= file.gone_with_locals()
        yield from file.hides()
        if may_go is not None:
            yield from file.acts([*may_go, *inlined, *may_come])
        yield from file.idles()
        yield from file.declares()
        yield from file.names(known)
    if may_go is not None:
        pairs = [(each.before, each.after) for each in changed if each.before]
        if gone := lost(pairs, [*may_go, *inlined]):
            yield Objection("conservation", fault.lost(gone[:4]))


class _Read:
    """One file that a step changes, read before and after it."""

    def __init__(self, written: Written) -> None:
        self.written, self.language = written, language_named(written.language)
        self.old = read(written.language, written.path, written.before) if written.before else None
        self.new = read(written.language, written.path, written.after)

    def gone_with_locals(self) -> set[str]:
        """Words that go with a variable that has given way to its value."""
        if self.old is None:
            return set()
        still = {local.name for local in self.new[1].locals}
        gone = [local for local in self.old[1].locals if local.name not in still]
        return {word for local in gone for word in (local.name, local.type)}

    def hides(self) -> Iterator[Objection]:
        """New members that hide what code meant."""
        if self.old is not None:
            local = {each.name for each in self.old[1].locals}
            found = hiding_names(self.language, self.written.before, self.old[0], self.new[0], local)
            yield from (Objection("names", said) for said in found)

    def acts(self, may_go: list[str]) -> Iterator[Objection]:
        """What the code does more or less often."""
        if self.old is not None:
            for how, act in changed_acts(self.old[1], self.new[1], self.written.before, may_go):
                yield Objection("conservation", fault.act(str(act), how, self.written.short))

    def idles(self) -> Iterator[Objection]:
        """Statements that lost what they did."""
        before, after = self.written.before, self.written.after
        if self.language.bare_value is not None:
            idle = Counter(_idle(self.language.bare_value, before))
            for name, count in Counter(_idle(self.language.bare_value, after)).items():
                if count > idle[name]:
                    yield Objection("moment", fault.bare(name))
        kept = Counter(_SELF.findall(before.decode("utf-8", "replace")))
        for name, count in Counter(_SELF.findall(after.decode("utf-8", "replace"))).items():
            if count > kept[name]:
                yield Objection("moment", fault.assigned_to_itself(name))

    def declares(self) -> Iterator[Objection]:
        """Declarations that the language does not take."""
        old = set(faults(self.old[0])) if self.old is not None else set()
        yield from (Objection("declarations", said) for said in faults(self.new[0]) if said not in old)

    def names(self, known: Mapping[str, frozenset[str]]) -> Iterator[Objection]:
        """Names that the file does not know, or not yet."""
        before, after = self.written.before, self.written.after
        facts = self.old[0] if self.old is not None else None
        late = set(late_names(self.language, before, facts)) if facts is not None else set()
        found = (each for each in late_names(self.language, after, self.new[0]) if each not in late)
        yield from (Objection("names", said) for said in found)
        for name in unknown_names(self.language, before, after, facts, self.new[0], known):
            yield Objection("names", fault.unknown(name, self.written.short))


def _idle(pattern: re.Pattern[str], text: bytes) -> list[str]:
    return [each for each in pattern.findall(text.decode("utf-8", "replace")) if each not in _STATEMENTS]


def _parses(each: Written) -> Iterator[Objection]:
    before = _spoilt(each.language, each.path, each.before) if each.before else (0, 0)
    if any(now > then for now, then in zip(_spoilt(each.language, each.path, each.after), before, strict=True)):
        yield Objection("syntax", fault.unparsed(each.short))


def _compiles(each: Written) -> Iterator[Objection]:
    """What the language's own compiler finds that it did not find before."""
    if not language_named(each.language).compiles_here:
        return
    if compiles(each.before) and not compiles(each.after):
        yield Objection("syntax", fault.uncompiled(each.short))
        return
    before, after = unbound_names(each.before), unbound_names(each.after)
    for name in sorted((after or frozenset()) - (before or frozenset())) if before is not None else ():
        yield Objection("names", fault.unbound(name, each.short))


@lru_cache(maxsize=KEPT)
def _spoilt(language: str, path: str, text: bytes) -> tuple[int, int]:
    """What does not parse: in the best reading, and the number of errors in the text as it stands."""
    suffix = PurePosixPath(path).suffix
    best: Any = parse(dialect_of(language), suffix, text)[0]
    return spoilt(best), errors_in(raw(language, suffix, text))
