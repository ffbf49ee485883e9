"""Whether the modules that a step imports names from hand these out."""

from __future__ import annotations

import posixpath
from collections.abc import Iterator, Mapping, Sequence

from isodesm.codebase.model import Codebase
from isodesm.facts.records import Import
from isodesm.planning.language import language_named
from isodesm.planning.model.step import Written
from isodesm.planning.verification.reading import read
from isodesm.planning.wording import faults as fault
from isodesm.reading.modules import without_suffix


class HandedOut:
    """The modules of the tree as the steps so far leave them. A value."""

    def __init__(self, codebase: Codebase, texts: Mapping[str, Written]) -> None:
        self.codebase, self.texts = codebase, texts

    def after(self, changed: Sequence[Written]) -> HandedOut:
        """With some files written."""
        return HandedOut(self.codebase, {**self.texts, **{each.path: each for each in changed}})

    def objections(self, changed: Sequence[Written]) -> Iterator[str]:
        """Names that would be taken out of modules which have none of that name, in words."""
        now = self.after(changed)
        for each in changed:
            language = language_named(each.language)
            before = set(read(each.language, each.path, each.before)[0].imports) if each.before else set()
            known = {(given.name, given.member) for given in before}
            for given in read(each.language, each.path, each.after)[0].imports:
                if given.member in ("", "default") or (given.name, given.member) in known or given.wildcard:
                    continue
                text = now.text_of(given, each)
                if text is not None and not language.hands_out(text, given.member):
                    yield fault.not_handed_out(given.member, given.name, each.short)

    def text_of(self, given: Import, written: Written) -> bytes | None:
        """What stands in the module that an import names by its path; None for one outside the tree."""
        if not given.name.startswith("./") and not given.name.startswith("../"):
            return None
        at = posixpath.normpath(posixpath.join(posixpath.dirname(written.path), given.name))
        for path, each in self.texts.items():
            if at in (path, without_suffix(path)) or without_suffix(at) == without_suffix(path):
                return each.after
        modules = self.codebase.symbols.modules.get(written.language)
        file = modules.by_path.get(at, modules.by_path.get(without_suffix(at), -1)) if modules is not None else -1
        return self.codebase.text(file) if file >= 0 else None
