"""Objects that stand for a static class already, as an earlier step or a person wrote them: so that no second one is made."""

from __future__ import annotations

from isodesm.linking.bonds import KIND_NUMBER
from isodesm.planning.analysis.names_in_code import need_of_type
from isodesm.planning.analysis.sources import Sources
from isodesm.planning.model.abstraction import Abstraction

_ASKED = frozenset(KIND_NUMBER[each] for each in ("static-call", "static-field"))


def existing_adapters(sources: Sources, target: int, name: str) -> list[int]:
    """Classes of a name, or of that name and a number, that can be made from nothing and only pass on to a type's members."""
    symbols = sources.symbols
    return [
        number
        for number, declared in enumerate(symbols.types)
        if declared.kind == "class"
        and declared.outer < 0
        and declared.name.rstrip("0123456789") == name.rstrip("0123456789")
        and sources.language(number) == sources.language(target)
        and all(member.kind == "method" and not member.is_static for member in declared.members)
        and sources.codebase.roles.name(number) != "test"
    ]


def existing_abstraction(sources: Sources, target: int, adapter: int) -> Abstraction | None:
    """The interface of a class that only passes on, with the members that go to the one of the same name; None where it has
    not one interface, or does anything else."""
    codebase, symbols = sources.codebase, sources.symbols
    table = codebase.bonds
    line = codebase.roles.ancestors(target)
    passed: dict[str, set[str]] = {}
    for row in table.rows_of_source(adapter):
        if table.kind[row] not in _ASKED or table.source_member[row] < 0:
            continue
        if table.target[row] not in line:
            return None
        member = symbols.types[adapter].members[table.source_member[row]]
        passed.setdefault(member.name, set()).add(table.text_of("callee", row).lstrip("$"))
    bases = codebase.roles.ancestors(adapter)[1:]
    if len(bases) != 1 or symbols.types[bases[0]].kind != "interface" or symbols.types[bases[0]].generics:
        return None
    declared = {member.name for member in symbols.types[bases[0]].members}
    members = tuple(
        (each, member)
        for each in line
        for member in symbols.types[each].members
        if (name := member.name.lstrip("$")) in declared and passed.get(name) == {name}
    )
    need = need_of_type(codebase, bases[0])
    return Abstraction(
        symbols.types[bases[0]].path, need.home, bases[0], bases[0], members, path=sources.path(bases[0]), member=need.member
    )
