"""Names that a step writes into a file and that the file does not know."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Mapping

from isodesm.facts import noise
from isodesm.facts.records import FileFacts
from isodesm.planning.language.base import Language
from isodesm.planning.text.type_aliases import aliases_in
from isodesm.planning.verification.conservation import GRAMMAR
from isodesm.planning.wording import faults as fault

_NAME = re.compile(r"[A-Z]\w*")
_QUOTED = re.compile(r"(?::|->|\|)\s*[\"']([A-Z]\w*)")
_STRINGS = re.compile(
    noise.any_of(
        noise.BLOCK,
        noise.TRIPLE,
        noise.TRIPLE_SINGLE,
        noise.QUOTED,
        noise.SINGLE,
        noise.BACKTICKED,
        noise.HASH,
        noise.SLASHES,
    ),
    re.DOTALL,
)


def unknown_names(
    language: Language, old: bytes, new: bytes, before: FileFacts | None, after: FileFacts, known: Mapping[str, frozenset[str]]
) -> Iterator[str]:
    """Types that are named after a step and not before it, that the codebase declares elsewhere, and that the file neither
    declares nor imports.

    `known` has the simple names of the types with the packages or namespaces that they are declared in.
    """
    own_package = language.knows_own_package
    if language.type_names is None or (not own_package and any(each.wildcard for each in after.imports)):
        return
    bound, earlier = _bound(language, new, after), set(_named(language, old))
    spaces = _spaces(language, after) if own_package else frozenset()
    for name in dict.fromkeys(_named(language, new)):
        if name in earlier or name in bound or name in GRAMMAR or name not in known:
            continue
        inside_another = not known[name] and before is None  # a new file has no bases that it could have it from
        if not own_package or inside_another or (known[name] and known[name].isdisjoint(spaces)):
            yield name


def _bound(language: Language, text: bytes, facts: FileFacts) -> set[str]:
    """The names that a file imports or declares."""
    found = {
        part for each in facts.imports for part in (each.alias or each.member or each.name.rpartition(".")[2], each.member)
    }
    for each in facts.types:
        found |= {each.name, *_words(each.generics), *(member.name for member in each.members)}
        found |= {word for member in each.members for word in _words(member.generics)}
    return found | language.builtin_names | (set(aliases_in(text)) if language.type_aliases else set())


def _words(text: str) -> list[str]:
    return re.findall(r"\w+", text)


def hiding_names(language: Language, old: bytes, before: FileFacts, after: FileFacts, local: Collection[str]) -> Iterator[str]:
    """New members that hide what a class called by the same bare name before, be it inherited or of a class around it."""
    if not language.knows_own_package:  # elsewhere members are asked for by `this`
        return
    known = {each.path: each for each in before.types if each.kind != "anonymous"}
    for declared in after.types:
        earlier = known.get(declared.path)
        if earlier is None or declared.kind in ("module", "anonymous"):
            continue
        own = {member.name for member in earlier.members}
        own |= {parameter.name for member in earlier.members for parameter in member.parameters}
        added = {member.name for member in declared.members if member.kind == "field"} - own - set(local)
        text = _plain(old[slice(*earlier.body)]) if added else ""
        for name in sorted(added):
            if re.search(rf"(?<![\w.@]){re.escape(name)}\b(?!\s*[(:\w])", text):
                yield fault.hidden(name, declared.name)


def _spaces(language: Language, facts: FileFacts) -> frozenset[str]:
    """The packages and namespaces whose types a file knows: its own, those around them, and those it imports as a whole."""
    own = {facts.package, *(each.space for each in facts.types)}
    around = {".".join(parts[:end]) for each in own for parts in [each.split(".")] for end in range(len(parts) + 1)}
    imported = {each.name.removesuffix(".*") for each in facts.imports}
    return frozenset(around | imported if language.namespaces_nest else own | imported)


def late_names(language: Language, new: bytes, after: FileFacts) -> Iterator[str]:
    """Classes that the heads of functions name before they are declared, where names in heads are looked up at once."""
    if not language.heads_looked_up_at_once or re.search(rb"^from __future__ import .*\bannotations\b", new, re.MULTILINE):
        return
    starts = {each.name: each.place.start for each in after.types if each.kind == "class" and each.outer < 0}
    for declared in after.types:
        for member in declared.members:
            for each in member.parameters:
                for name in _NAME.findall(_plain(each.type.encode())):
                    itself = name == declared.path.partition(".")[0]  # which is there once all of it has been read
                    if itself or starts.get(name, -1) > member.place.start:
                        yield fault.late(declared.name, member.name, name)


def _named(language: Language, text: bytes) -> list[str]:
    plain = language.type_names.findall(_plain(text)) if language.type_names is not None else []
    return [*plain, *_QUOTED.findall(text.decode("utf-8", "replace"))] if language.types_in_quotes else plain


def _plain(text: bytes) -> str:
    return _STRINGS.sub(" ", text.decode("utf-8", "replace"))
