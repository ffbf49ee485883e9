"""Names that a step writes into a file and that the file does not know."""

from __future__ import annotations

import builtins
import re
from collections.abc import Collection, Iterator, Mapping

from isodesm.facts import noise
from isodesm.facts.records import FileFacts
from isodesm.planning.verification.conservation import GRAMMAR

_TYPES = {
    "python": re.compile(r"(?<![\w.\"'])([A-Z]\w*)(?![\w\"'])"),
    "typescript": re.compile(r"(?<![\w.$\"'`])([A-Z]\w*)(?![\w\"'`]|\s*=>)"),
    **dict.fromkeys(("csharp", "java"), re.compile(r"(?<![\w.\"'@])([A-Z]\w*)(?!\w)")),
}
"""Names of types where they stand for themselves."""
SPACED = frozenset(("csharp", "java"))
"""Languages in which the types of a file's own packages and namespaces are known without an import."""
_ALIAS = re.compile(rb"^[ \t]*+(?:export\s++)?+(?:declare\s++)?+type\s++(\w++)", re.MULTILINE)
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
    language: str, old: bytes, new: bytes, before: FileFacts | None, after: FileFacts, known: Mapping[str, frozenset[str]]
) -> Iterator[str]:
    """Types that are named after a step and not before it, that the tree declares elsewhere, and that the file neither
    declares nor imports.

    `known` has the simple names of the tree's types with the packages or namespaces that they are declared in.
    """
    pattern = _TYPES.get(language)
    if pattern is None:
        return
    bound = {
        part for each in after.imports for part in (each.alias or each.member or each.name.rpartition(".")[2], each.member)
    }
    bound |= {part for each in after.types for part in (each.name, *re.findall(r"\w+", each.generics))}
    bound |= {
        name for each in after.types for member in each.members for name in (member.name, *re.findall(r"\w+", member.generics))
    }
    bound |= set(aliases_in(new)) if language == "typescript" else set()
    bound |= set(dir(builtins)) if language == "python" else set()
    spaces = _spaces(after) if language in SPACED else frozenset()
    wild = language not in SPACED and any(each.wildcard for each in after.imports)
    earlier = set(_named(pattern, language, old))
    for name in dict.fromkeys(_named(pattern, language, new)):
        if name in earlier or name in bound or name in GRAMMAR or name not in known or wild:
            continue
        inside_another = not known[name] and before is None  # a new file has no bases that it could have it from
        if language not in SPACED or inside_another or (known[name] and known[name].isdisjoint(spaces)):
            yield name


def hiding_names(language: str, old: bytes, before: FileFacts, after: FileFacts, local: Collection[str]) -> Iterator[str]:
    """New members that hide what a class called by the same bare name before, be it inherited or of a class around it."""
    if language not in SPACED:  # elsewhere members are asked for by `this`
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
                yield f"`{name}` means something else in `{declared.name}` already"


def aliases_in(text: bytes) -> list[str]:
    """Names that a TypeScript file gives to types which it does not declare as such."""
    return [name.decode() for name in _ALIAS.findall(text)]


def _spaces(facts: FileFacts) -> frozenset[str]:
    """The packages and namespaces whose types a file knows: its own, those around them, and those it imports as a whole."""
    own = {facts.package, *(each.space for each in facts.types)}
    around = {".".join(parts[:end]) for each in own for parts in [each.split(".")] for end in range(len(parts) + 1)}
    imported = {each.name.removesuffix(".*") for each in facts.imports}
    return frozenset(around | imported if facts.language == "csharp" else own | imported)


def late_names(language: str, new: bytes, after: FileFacts) -> Iterator[str]:
    """Classes that the heads of functions name before they are declared, where names in heads are looked up at once."""
    if language != "python" or re.search(rb"^from __future__ import .*\bannotations\b", new, re.MULTILINE):
        return
    starts = {each.name: each.place.start for each in after.types if each.kind == "class" and each.outer < 0}
    for declared in after.types:
        for member in declared.members:
            for each in member.parameters:
                for name in _NAME.findall(_plain(each.type.encode())):
                    if starts.get(name, -1) > member.place.start:
                        yield f"`{declared.name}.{member.name}` would name `{name}` before it is declared"


def _named(pattern: re.Pattern[str], language: str, text: bytes) -> list[str]:
    plain = pattern.findall(_plain(text))
    return [*plain, *_QUOTED.findall(text.decode("utf-8", "replace"))] if language == "python" else plain


def _plain(text: bytes) -> str:
    return _STRINGS.sub(" ", text.decode("utf-8", "replace"))
