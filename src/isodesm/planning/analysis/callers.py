"""Whether the callers of a constructor can all change together with it."""

from __future__ import annotations

from isodesm.planning.analysis.sources import Sources
from isodesm.planning.analysis.visibility import is_named_elsewhere


def must_keep_constructor(sources: Sources, number: int, *, served: bool = False) -> bool:
    """Whether callers can't all change in the same step: some are no composition root, or a subclass or host calls.

    A host that is a container needs no old constructor where it can serve what the new one takes (`served`).
    """
    creators = sources.creators.get(number, ())
    constructor = sources.constructor(number)
    optional = constructor is not None and any(each.default or each.variadic for each in constructor.parameters)
    optional = optional and not sources.language(number).overloads or has_default_fields(sources, number)
    return (
        sources.inherited(number) is not None
        or sources.has_several_constructors(number)
        or (not creators and not served)
        or any(not each.root for each in creators)
        or bool(sources.subclasses(number))
        or optional
        or (not sources.language(number).overloads and is_named_elsewhere(sources, number))
    )


def has_default_fields(sources: Sources, number: int) -> bool:
    """Whether a class made of its fields has some with a default, behind which none without can stand."""
    text = sources.codebase.text(sources.symbols.file_of[number])
    fields = [
        m
        for each in sources.codebase.roles.ancestors(number)
        for m in sources.symbols.types[each].members
        if m.kind == "field" and m.whole != (0, 0)
    ]
    return sources.is_made_of_fields(number) and any(b"=" in text[slice(*each.whole)] for each in fields)
