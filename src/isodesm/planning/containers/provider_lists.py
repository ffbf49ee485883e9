"""How containers are told that go by classes: a further entry in the list of providers that has others, or a statement that
binds a class to itself."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, NamedTuple

from isodesm.inference.resolution import Service
from isodesm.planning.model.amendment import Amendment
from isodesm.planning.text.insertions import FIELDS

if TYPE_CHECKING:
    from isodesm.planning.state.context import PlanContext


class ListEdit(NamedTuple):
    """A further entry of a list: the file, and what comes into it."""

    file: int
    amendment: Amendment


def in_list(context: PlanContext, source: int, target: int, models: list[Service]) -> ListEdit | None:
    """The class in the one list of providers from which what `source` takes is made; None where there is no such list, or
    several. `models` are registrations that say no more than what serves what."""
    places = {
        (each.registration.file, each.registration.scope)
        for each in context.codebase.wiring.by_implementation.get(source, ())
        if each.registration.how == "metadata" and not context.codebase.wiring.is_of_test(each)
    }
    if len(places) != 1:
        return None
    path, scope = places.pop()
    own = [
        each
        for each in models
        if (each.registration.file, each.registration.scope) == (path, scope)
        and each.registration.how == "metadata"
        and each.abstraction == each.implementation
    ]
    file = context.codebase.wiring.file_numbers.get(path, -1)
    entry = _entry(context, file, own[-1]) if own and file >= 0 else None
    if entry is None:
        return None
    syntax, name = context.sources.syntax(file), context.symbols.types[target].path
    lead = syntax.separator(entry, entry.parent)
    said = f"provides `{context.name(target)}`, as `{context.name(own[-1].implementation)}` is"
    return ListEdit(file, Amendment(entry.end_byte, entry.end_byte, FIELDS, lead + name, said))


def _entry(context: PlanContext, file: int, service: Service) -> Any:
    """The node of an entry that is a bare class in a list; None where it is written otherwise."""
    given = service.registration
    node = context.sources.syntax(file).around(given.line, given.column, ("identifier",))
    return node if node is not None and node.parent.type == "array" else None
