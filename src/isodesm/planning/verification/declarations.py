"""Declarations that a language does not take: two of one name, a type that is its own base."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from isodesm.facts import typetext
from isodesm.facts.records import DeclaredType, FileFacts
from isodesm.planning.language import language_named
from isodesm.planning.language.base import Language
from isodesm.planning.wording import faults as fault


def faults(facts: FileFacts) -> Iterator[str]:
    """What is wrong with the declarations of a file, in words."""
    for declared in facts.types:
        if declared.kind == "module":
            continue
        name = declared.name
        yield from (fault.twice(name, each) for each in _twice(declared, language_named(facts.language)))
        for member in declared.members:
            names = Counter(each.name for each in member.parameters if each.name not in ("", "_"))
            yield from (fault.two_parameters(name, member.name, each) for each, count in names.items() if count > 1)
        bases = [typetext.head(each) for each in (*declared.extends, *declared.implements)]
        yield from (fault.own_base(name) for each in bases if each in (name, declared.path))
        yield from (fault.base_twice(name, each) for each, count in Counter(bases).items() if count > 1 and each)


def _twice(declared: DeclaredType, language: Language) -> Iterator[str]:
    """Names of members that stand twice, and signatures where methods may share a name."""
    found: Counter[str] = Counter()
    for member in declared.members:
        if member.kind in ("field", "property", "constant") and "static" not in member.modifiers.words:
            accessor = next((word for word in ("get", "set") if word in member.modifiers.words), "")
            found[f"{accessor} {member.name}".strip()] += 1
        elif member.kind in ("method", "constructor"):
            if language.overloads:
                found[f"{member.name}({', '.join(' '.join(each.type.split()) for each in member.parameters)})"] += 1
            elif member.body != (0, 0) and language.methods_unique:
                found[f"{member.name}()"] += 1
    yield from (name for name, count in found.items() if count > 1)
