"""Bonds between layers that point the wrong way, or reach past the layer between."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Iterator

from isodesm.diagnosis.shared.findings import HARD_KINDS, Finding
from isodesm.diagnosis.shared.reporting import Report, Words
from isodesm.diagnosis.shared.views import works_on_screen
from isodesm.inference.evidence import SERVICE_LIKE
from isodesm.inference.layers import Layers
from isodesm.linking.bonds import KIND_NUMBER, KINDS

FEW = 0.1
"""Share of the pairs of classes between two layers that may go one way for that to be against the way of the others."""
HARD = frozenset(KIND_NUMBER[kind] for kind in ("creation", "static-call", "static-field", "lookup"))
NAMED = 3
"""Classes that a note names."""
STARTS = frozenset(("composition-root", "test"))


def outward_dependencies(report: Report) -> Iterator[Finding]:
    """`outward-dependency`: one finding for each pair of classes, at the first bond."""
    layers = report.codebase.layers
    if not layers.layers:
        return
    if not layers.told:
        yield from _proposed(report, layers)
        return
    for source, target, rows in _pairs(report, lambda source, target: bool(layers.outward(source, target))):
        if target in report.codebase.locators or (
            report.symbols.is_module(target) and not report.codebase.effects.of_type(target)
        ):
            continue  # each lookup through a locator is reported as such, and pure functions bind nobody
        crossing = layers.outward(source, target)
        inner, _, outer = crossing.partition("→")
        name, other = report.name(source), report.name(target)
        hard = _hard_count(report, rows)
        yield report.finding(
            "outward-dependency",
            "error",
            source,
            report.at_row(rows[0]),
            Words(
                f"`{name}` of the layer {inner} knows `{other}` of the outer layer {outer}.",
                f"{_count(rows)}; a change in {outer} can break {inner}, and {inner} can't be used or tested without it.",
                f"Declare what `{name}` needs as an interface in {inner}, and let `{other}` implement it."
                if report.codebase.roles.name(target) in SERVICE_LIKE
                else f"Move `{other}` inwards, or translate it where {outer} calls {inner}.",
            ),
            member=report.codebase.bonds.text_of("member", rows[0]),
            target=target,
            crossing=crossing,
            why=[f"crosses {crossing}", f"{len(rows)}-bonds", *([f"{hard}-hard"] if hard else [])],
            row=rows[0],
        )


def _proposed(report: Report, layers: Layers) -> Iterator[Finding]:
    """A note for each class and layer that goes against the way nearly all others go, where nobody has said what the layers
    are; of classes alone whose package plainly belongs to one."""
    against = _against(report, layers)
    found: dict[tuple[int, str], list[tuple[int, int]]] = defaultdict(list)
    for source, target, rows in _pairs(report, lambda source, target: layers.outward(source, target) in against):
        if not {source, target} <= layers.sure_types or report.symbols.is_module(target):
            continue
        if not _is_on_screen(report, source):  # a visual part, wherever it lies, is no proof against its package
            found[source, layers.outward(source, target)].append((target, rows[0]))
    for (source, crossing), known in sorted(found.items()):
        target, row = known[0]
        inner, _, outer = crossing.partition("→")
        names = ", ".join(f"`{report.name(each)}`" for each, _ in known[:NAMED])
        more = f" and {len(known) - NAMED} more" if len(known) > NAMED else ""
        yield report.finding(
            "outward-dependency",
            "note",
            source,
            report.at_row(row),
            Words(
                f"`{report.name(source)}`, which belongs to {inner}, knows {names}{more} of {outer}.",
                f"{against[crossing]} of the pairs of classes between the two go the other way. The layers are a proposal.",
                "`isodesm layers` says why they are these; `isodesm layers --write` puts them into the settings, for you to "
                "correct.",
            ),
            member=report.codebase.bonds.text_of("member", row),
            target=target,
            key=crossing,
            why=[f"crosses {crossing}", f"{len(known)}-classes"],
            related=[report.at_row(each).related(f"knows `{report.name(number)}` here") for number, each in known[1:]],
            row=row,
        )


def _is_on_screen(report: Report, number: int) -> bool:
    """Whether a class, or one around it, has to do with what is drawn."""
    while number >= 0:
        if report.codebase.roles.name(number) == "presentation" or works_on_screen(report, number):
            return True
        number = report.symbols.outer(number)
    return False


def _against(report: Report, layers: Layers) -> dict[str, str]:
    """`inner→outer` that few pairs of classes go, to the share of those between the two layers that go the other way."""
    going: Counter[tuple[int, int]] = Counter()
    for source, target in report.between_layers():
        if layers.of_type[source] >= 0 <= layers.of_type[target] and {source, target} <= layers.sure_types:
            going[layers.of_type[source], layers.of_type[target]] += 1
    found = {}
    for (one, other), count in sorted(going.items()):
        back = going[other, one]
        if layers.layers[other].ring > layers.layers[one].ring and count <= FEW * (count + back):
            found[f"{layers.layers[one].name}→{layers.layers[other].name}"] = f"{back:,} of {count + back:,}"
    return found


def layer_skips(report: Report) -> Iterator[Finding]:
    """`layer-skip`: one finding for each pair of classes, at the first bond."""
    codebase = report.codebase
    layers = codebase.layers
    if not layers.told:
        return  # which layer is reached past hangs on the order, which is a guess

    def skips(source: int, target: int) -> bool:
        worker = codebase.roles.name(target) in SERVICE_LIKE or codebase.roles.name(target) == "abstraction"
        return worker and bool(layers.skipped(source, target))

    for source, target, rows in _pairs(report, skips):
        skipped, hard = layers.skipped(source, target), _hard_count(report, rows)
        here, there = layers.name(source), layers.name(target)
        yield report.finding(
            "layer-skip",
            "warning" if hard else "note",
            source,
            report.at_row(rows[0]),
            Words(
                f"`{report.name(source)}` ({here}) reaches past {skipped} to `{report.name(target)}` ({there}).",
                f"{_count(rows)}; rules that live in {skipped} are passed by here, and {here} has to change with {there}.",
                f"Give {skipped} a member that does this, and call that.",
            ),
            member=codebase.bonds.text_of("member", rows[0]),
            target=target,
            row=rows[0],
            why=[f"skips {skipped}", f"{len(rows)}-bonds", *([f"{hard}-hard"] if hard else [])],
        )


def _pairs(report: Report, wanted: Callable[[int, int], bool]) -> Iterator[tuple[int, int, list[int]]]:
    """(source, target, rows) of production classes whose bonds are wanted, in order of numbers; rows in order of place."""
    table, roles = report.codebase.bonds, report.codebase.roles
    for (source, target), rows in report.between_layers().items():
        starts = roles.name(source) in STARTS or roles.name(target) == "test"
        if not starts and report.is_production(source) and wanted(source, target):
            yield source, target, sorted(rows, key=lambda row: (table.file[row], table.line[row], table.column[row]))


def _hard_count(report: Report, rows: list[int]) -> int:
    return sum(1 for row in rows if report.codebase.bonds.kind[row] in HARD)


def _count(rows: list[int]) -> str:
    return "It does so in one place" if len(rows) == 1 else f"It does so in {len(rows)} places"


def matrix(report: Report, findings: Iterable[Finding]) -> dict[tuple[str, str], tuple[int, int]]:
    """(layer, layer) to the number of bonds from the one to the other, and of hard-bond findings among them; production code
    only."""
    table, layers = report.codebase.bonds, report.codebase.layers
    total: Counter[tuple[str, str]] = Counter()
    hard = Counter(
        (each.layer, layers.name(each.target_number))
        for each in findings
        if each.kind in HARD_KINDS and each.level != "note" and each.target_number >= 0
    )
    production = [report.is_production(number) for number in range(len(report.symbols))]
    names = [layers.name(number) for number in range(len(report.symbols))]
    for kind, source, target in zip(table.kind, table.source, table.target, strict=True):
        if kind >= len(KINDS) or target < 0 or source == target or not (production[source] and production[target]):
            continue
        pair = (names[source], names[target])
        if pair[0] and pair[1]:
            total[pair] += 1
    return {pair: (count, hard[pair]) for pair, count in sorted(total.items())}
