"""Whether a file may name the types, and make the objects, that a step lets it: where some are known to their package only."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence

from isodesm.codebase.model import Codebase
from isodesm.facts.records import DeclaredType, FileFacts, FileSites
from isodesm.linking.remembering import remembered
from isodesm.planning.language import language_named
from isodesm.planning.model.step import Written
from isodesm.planning.verification.reading import read
from isodesm.planning.wording import faults as fault


def hidden(codebase: Codebase, changed: Sequence[Written]) -> Iterator[str]:
    """Types that would be imported, and constructors that would be called, where they are not visible, in words."""
    for each in changed:
        if language_named(each.language).types_hidden_within != "package":
            continue
        facts, sites = read(each.language, each.path, each.after)
        before = read(each.language, each.path, each.before) if each.before else None
        imported = {given.name for given in before[0].imports} if before is not None else set()
        for given in facts.imports:
            if given.name not in imported and _is_hidden(codebase, facts, given.name):
                yield fault.not_visible(given.name.rpartition(".")[2], each.short)
        known = _made(before[0], before[1]) if before is not None else Counter()
        for name, count in sorted(_made(facts, sites).items()):
            if count > known[name] and _is_closed(codebase, facts, name):
                yield fault.not_visible(name.rpartition(".")[2], each.short)


def _made(facts: FileFacts, sites: FileSites) -> Counter[str]:
    """Qualified names of what a file makes, as far as its imports and its package tell, to how often."""
    imported = {each.alias: each.name for each in facts.imports if each.alias}
    heads = (site.text.partition("<")[0] for site in sites.sites if site.kind == "creation")
    return Counter(imported.get(head, f"{facts.package}.{head}") for head in heads if head)


def _declared(codebase: Codebase, facts: FileFacts, name: str) -> DeclaredType | None:
    """The type of the tree by a qualified name; None for another, and for one of the file's own package."""
    found = codebase.symbols.by_language[facts.language].get(name, ())
    if len(found) != 1 or codebase.symbols.files[codebase.symbols.file_of[found[0]]].package == facts.package:
        return None
    return codebase.symbols.types[found[0]]


def _is_hidden(codebase: Codebase, facts: FileFacts, name: str) -> bool:
    declared = _declared(codebase, facts, name)
    return declared is not None and declared.outer < 0 and "public" not in declared.modifiers.words


def _is_closed(codebase: Codebase, facts: FileFacts, name: str) -> bool:
    declared = _declared(codebase, facts, name)
    own = [each for each in declared.members if each.kind == "constructor"] if declared is not None else []
    return bool(own) and not any("public" in each.modifiers.words for each in own)


def ambiguous(codebase: Codebase, changed: Sequence[Written]) -> Iterator[str]:
    """Names that would mean one of two types, for a namespace more is imported as a whole, in words."""
    for each in changed:
        if language_named(each.language).imports_by != "namespace" or not each.before:
            continue
        before, after = (read(each.language, each.path, text)[0] for text in (each.before, each.after))
        spaces = {given.name for given in before.imports if given.wildcard}
        new = {given.name for given in after.imports if given.wildcard} - spaces
        known = _types_in(codebase, each.language)
        for space in sorted(new):
            both = {name for other in spaces | new - {space} for name in known.get(other, set()) & known.get(space, set())}
            for name in sorted(both):
                if re.search(rb"(?<![\w.])" + re.escape(name.encode()) + rb"\b", each.before):
                    yield fault.ambiguous(name, each.short)


@remembered
def _types_in(codebase: Codebase, language: str) -> dict[str, set[str]]:
    """The simple names of types by the namespace that they are declared in."""
    found: dict[str, set[str]] = defaultdict(set)
    for facts in codebase.symbols.files:
        for declared in facts.types if facts.language == language else ():
            if declared.outer < 0 and declared.space:
                found[declared.space].add(declared.name)
    return found
