"""What a step would change of how modules are loaded: circles of imports, and names that are there for type checkers only."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from isodesm.codebase.model import Codebase
from isodesm.planning.analysis.load_order import Graph, Homes, homes_of, load_graph, reaches
from isodesm.planning.language import language_named
from isodesm.planning.model.code import Loading
from isodesm.planning.model.step import Written
from isodesm.planning.wording import faults as fault


class Loaded:
    """Modules as the steps so far leave them: what each loads. A value; `after` gives that behind further steps."""

    def __init__(self, homes: Homes, graph: Graph) -> None:
        self.homes, self.graph = homes, graph

    def after(self, changed: Sequence[Written]) -> Loaded:
        """With some files written."""
        read = [(each.path, loading) for each in changed if (loading := _loading(each, each.after)) is not None]
        homes = self.homes
        for path, _ in read:
            homes = homes if path in homes.name_of else homes.with_file(path)
        return Loaded(homes, {**self.graph, **{path: homes.loaded(path, loading.imports) for path, loading in read}})

    def objections(self, changed: Sequence[Written]) -> Iterator[str]:
        """What speaks against writing some files, in words."""
        now = self.after(changed)
        for each in changed:
            loading = _loading(each, each.after)
            if loading is None:
                continue
            for path in sorted(set(now.graph[each.path]) - set(self.graph.get(each.path, ()))):
                if reaches(now.graph, path, {each.path}):
                    yield fault.circle(each.short, path.rpartition("/")[2])
            before = _loading(each, each.before) or Loading(frozenset())
            yield from _for_checkers(each, before, loading)


def _for_checkers(each: Written, before: Loading, after: Loading) -> Iterator[str]:
    """Names that are asked for while the program runs, more often than before, and are bound for type checkers only."""
    for name in sorted(after.asked):
        if after.asked[name] > before.asked.get(name, 0):
            yield fault.for_checkers(name, each.short)


def _loading(each: Written, text: bytes) -> Loading | None:
    return language_named(each.language).loading(text) if text else None


def first_loaded(codebase: Codebase) -> Loaded:
    """The modules as they are."""
    return Loaded(homes_of(codebase), load_graph(codebase))
