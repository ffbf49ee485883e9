"""Which modules are loaded with which, in languages where an import runs another module and takes what that has by then."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Iterator, Mapping

from isodesm.codebase.model import Codebase
from isodesm.facts.records import FileFacts
from isodesm.linking.remembering import remembered
from isodesm.planning.analysis.names_in_code import home_of_file
from isodesm.planning.language import language_named
from isodesm.planning.model.code import Loading, Need

Graph = Mapping[str, Collection[str]]
"""Path of a module to those of the modules of the tree that it loads by name."""


class Homes:
    """Modules of the tree by name, those apart that steps write."""

    def __init__(self, paths: Mapping[str, str]) -> None:
        self.name_of = dict(paths)
        self.path_of = {name: path for path, name in sorted(paths.items(), reverse=True)}

    def with_file(self, path: str) -> Homes:
        """The same with a new file, whose name is that of its neighbours but for the last word."""
        folder, _, last = path.rpartition("/")
        stem = last.rpartition(".")[0]
        beside = next((each for each in sorted(self.name_of) if each.rpartition("/")[0] == folder), "")
        package = self.name_of.get(beside, "")
        if beside.rpartition("/")[2].rpartition(".")[0] != "__init__":
            package = package.rpartition(".")[0]
        return Homes({**self.name_of, path: f"{package}.{stem}" if package else stem})

    def loaded(self, path: str, imports: Iterable[tuple[str, str]]) -> frozenset[str]:
        """The modules of the tree that imports of the one at a path name, with the packages around those that are not around
        it: they run first."""
        own = self.name_of.get(path, "").split(".")
        package = own if path.endswith("/__init__.py") or path == "__init__.py" else own[:-1]
        found = set()
        for module, name in imports:
            rest = module.lstrip(".")
            dots = len(module) - len(rest)
            parts = [*package[: len(package) - dots + 1], *([rest] if rest else [])] if dots else [module]
            full = ".".join(parts)
            taken = self.path_of.get(f"{full}.{name}") if name else None
            target = taken or self.path_of.get(full)
            if target and target != path:
                found |= {target, *self._packages_of(self.name_of[target], package)}
        return frozenset(found - {path})

    def _packages_of(self, name: str, inside: list[str]) -> Iterator[str]:
        """The packages around a module, but for those that another is inside."""
        parts = name.split(".")
        for count in range(1, len(parts)):
            around = self.path_of.get(".".join(parts[:count]))
            if around and inside[:count] != parts[:count]:
                yield around


@remembered
def homes_of(codebase: Codebase) -> Homes:
    """The modules of the tree."""
    return Homes({facts.path: home_of_file(codebase, file) for file, facts in _running(codebase)})


@remembered
def load_graph(codebase: Codebase) -> Graph:
    """What each module of the tree loads."""
    homes = homes_of(codebase)
    return {facts.path: homes.loaded(facts.path, loading_in(codebase, file).imports) for file, facts in _running(codebase)}


def loading_in(codebase: Codebase, file: int) -> Loading:
    """What a module of the tree does while it is loaded; it is parsed for that only where some of it is for type checkers."""
    facts, text = codebase.symbols.files[file], codebase.text(file)
    if b"TYPE_CHECKING" in text:
        return language_named(facts.language).loading(text) or Loading(frozenset())
    return Loading(frozenset((each.name, each.member) for each in facts.imports if each.within == (0, 0)))


def _running(codebase: Codebase) -> list[tuple[int, FileFacts]]:
    numbered = enumerate(codebase.symbols.files)
    return [(file, facts) for file, facts in numbered if language_named(facts.language).imports_run_modules]


def needed_at_once(codebase: Codebase, number: int, needs: Iterable[Need]) -> tuple[set[Need], set[Need]]:
    """What a new file beside a class, which others import with that, has to import: what it may load, and what only its types
    name and would load the class, or who uses it, in a circle."""
    needs, file = set(needs), codebase.symbols.file_of[number]
    if not language_named(codebase.symbols.files[file].language).imports_run_modules:
        return needs, set()
    graph, homes, own = load_graph(codebase), homes_of(codebase), codebase.symbols.files[file].path
    around = {own, *(path for path, loaded in graph.items() if own in loaded)}
    circular = {each for each in needs if (path := homes.path_of.get(each.home)) and reaches(graph, path, around)}
    return needs - circular, circular


def imported_late(codebase: Codebase, number: int, text: str) -> str:
    """A name in an expression that only functions of the file of a class import, each for itself, and not from the language's
    own library; '' where there is none."""
    file = codebase.symbols.file_of[number]
    language = language_named(codebase.symbols.files[file].language)
    if not language.imports_run_modules:
        return ""
    inside = {each.alias: each.name for each in codebase.symbols.files[file].imports if each.within != (0, 0)}
    outside = {each.alias for each in codebase.symbols.files[file].imports if each.within == (0, 0)}
    named = (name for name in re.findall(r"[A-Za-z_]\w*", text) if name in inside and name not in outside)
    return next((name for name in named if language.import_group(inside[name], lambda _: False) != "standard"), "")


def reaches(graph: Graph, start: str, goals: Collection[str]) -> bool:
    """Whether loading one module loads one of some others."""
    seen, waiting = {start}, [start]
    while waiting:
        path = waiting.pop()
        if path in goals:
            return True
        further = set(graph.get(path, ())) - seen
        seen |= further
        waiting += sorted(further)
    return False
