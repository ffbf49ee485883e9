"""How strongly each class is coupled, how large it is, and where it stands: the numbers of one class in a row.

Fan-in and fan-out are afferent and efferent coupling, and instability, abstractness and the distance from the main
sequence go with them: the design-quality metrics of 1994, here per class, the last two per package. Coupling between
objects is that of the class-metrics suite of the same year.
"""

from __future__ import annotations

from collections import defaultdict

import msgspec

from isodesm.codebase.model import Codebase
from isodesm.diagnosis.hard_bonds.usage import Usage
from isodesm.diagnosis.shared.chains import Chains
from isodesm.inference.layers.packages import package_of
from isodesm.linking.bonds import KIND_NUMBER
from isodesm.measures.graph import ClassGraph
from isodesm.measures.reach import measure_reach

CONCRETE = frozenset(KIND_NUMBER[kind] for kind in ("creation", "static-call", "static-field"))
"""Bonds whose places have to change before another implementation can be used there."""
VISIBLE = frozenset(("method", "property", "field", "component", "constant"))
"""Kinds of member that others can use."""
CALLS = frozenset(KIND_NUMBER[kind] for kind in ("call", "static-call", "static-field", "lookup"))


class Coupling(msgspec.Struct, frozen=True):
    """Counts for one class; see `docs/measures.md` for each."""

    fan_in: int = 0
    fan_out: int = 0
    external: int = 0
    coupled: int = 0
    reach: int = 0
    knot: int = 0
    """Classes of the dependency cycle that it is in; 0 for none."""
    chain_depth: int = 0
    chain_count: int = 0
    places: int = 0
    """Production places that create it."""
    others: int = 0
    """Other implementations of what it implements."""
    to_extend: int = 0
    """Files that must change before another implementation can be used everywhere."""
    members: int = 0
    """Members that others can see."""
    members_used: int = 0
    lines: int = 0
    statements: int = 0
    abstractness: float = 0.0
    distance: float = 0.0

    @property
    def instability(self) -> float:
        """`out / (in + out)`, from 0 (only used) to 1 (only uses); 0 where there is neither."""
        return instability(self.fan_in, self.fan_out)


def instability(fan_in: int, fan_out: int) -> float:
    """Share of the bonds that point outwards; 0 where there are none."""
    return fan_out / (fan_in + fan_out) if fan_in + fan_out else 0.0


def measure_coupling(codebase: Codebase, graph: ClassGraph | None = None) -> list[Coupling]:
    """The numbers of every type, in order of type numbers."""
    graph = graph or ClassGraph(codebase)
    reach, (labels, sizes) = measure_reach(graph), graph.knots
    usage, chains = Usage(codebase), Chains(codebase)
    to_extend, used = _files_to_extend(codebase), _members_used(codebase)
    packages = _packages(codebase, graph)
    columns = [each.tolist() for each in (graph.fan_in, graph.fan_out, graph.external, graph.coupled, reach)]
    found = []
    for number, (fan_in, fan_out, external, coupled, dependents) in enumerate(zip(*columns, strict=True)):
        declared = codebase.symbols.types[number]
        size = int(sizes[labels[number]])
        abstractness, distance = packages[_package(codebase, number)]
        found.append(
            Coupling(
                fan_in=fan_in,
                fan_out=fan_out,
                external=external,
                coupled=coupled,
                reach=dependents,
                knot=size if size > 1 else 0,
                chain_depth=chains.depth(number),
                chain_count=len(chains.below(number)),
                places=usage.places.get(number, 0),
                others=len(codebase.roles.other_implementations(number)),
                to_extend=len(to_extend.get(number, ())),
                members=len(
                    visible := {each.name for each in declared.members if each.kind in VISIBLE and not each.is_private}
                ),
                members_used=len(visible & used.get(number, set())),
                lines=_lines(codebase, number),
                statements=sum(member.statements for member in declared.members),
                abstractness=abstractness,
                distance=distance,
            )
        )
    return found


def _files_to_extend(codebase: Codebase) -> dict[int, set[int]]:
    """Type to the production files that name it as a concrete class."""
    table, roles = codebase.bonds, codebase.roles
    found: dict[int, set[int]] = defaultdict(set)
    for kind, source, target, file in zip(table.kind, table.source, table.target, table.file, strict=True):
        if kind in CONCRETE and target >= 0 and file != codebase.symbols.file_of[target] and roles.name(source) != "test":
            found[target].add(file)
    return found


def _members_used(codebase: Codebase) -> dict[int, set[str]]:
    """Type to the names of its members that other types use."""
    table = codebase.bonds
    found: dict[int, set[str]] = defaultdict(set)
    for kind, source, target, callee in zip(table.kind, table.source, table.target, table.callee, strict=True):
        if kind in CALLS and target >= 0 and source != target:
            found[target].add(table.names.strings[callee])
    return found


def _lines(codebase: Codebase, number: int) -> int:
    """Lines of the declaration, all parts of it; of a module, those of its file."""
    symbols = codebase.symbols
    if symbols.is_module(number):
        return symbols.files[symbols.file_of[number]].lines
    total = 0
    for part in symbols.parts.get(number, (number,)):
        file = symbols.file_of[part]
        place = symbols.files[file].types[part - symbols.first[file]].place
        total += codebase.text(file).count(b"\n", place.start, place.end) + 1
    return total


def _package(codebase: Codebase, number: int) -> str:
    return package_of(codebase.symbols, codebase.symbols.file_of[number])


def _packages(codebase: Codebase, graph: ClassGraph) -> dict[str, tuple[float, float]]:
    """Package to its abstractness and its distance from the main sequence, |abstractness + instability − 1|."""
    types: dict[str, list[bool]] = defaultdict(list)
    for number, declared in enumerate(codebase.symbols.types):
        types[_package(codebase, number)].append(declared.is_abstract)
    fans: dict[str, list[int]] = defaultdict(lambda: [0, 0])
    seen: set[tuple[int, str]] = set()
    for source, target in graph.pairs.tolist():
        here, there = _package(codebase, source), _package(codebase, target)
        if here == there:
            continue
        if (source, there) not in seen:
            seen.add((source, there))
            fans[here][1] += 1
        fans[there][0] += 1
    found = {}
    for package, abstract in types.items():
        share = sum(abstract) / len(abstract)
        found[package] = (round(share, 3), round(abs(share + instability(*fans[package]) - 1), 3))
    return found
