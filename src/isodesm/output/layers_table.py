"""`layers` for people: the layers and what lies in them, the matrix of bonds between them, and what points the wrong way."""

from __future__ import annotations

from collections import Counter, defaultdict

from rich.console import Console
from rich.table import Table
from rich.text import Text

from isodesm.codebase.overview import Overview
from isodesm.inference.layers.model import OPEN, SURE, PackageLayer
from isodesm.output.terminal import LEVEL_STYLE, QUIET, STRONG, header
from isodesm.output.text import counted, cut_front, printable
from isodesm.queries.layer_report import LayerReport, LayerRow

CLASSES_SHOWN = 6
"""Classes, or packages, of a layer that are named; `--top 0` names all."""
NO_LAYERS = "No layers"
PROPOSED = (
    "No settings name the layers: this is a proposal, from names, from what the classes do, and from who knows whom. "
    "It counts in no strain; `isodesm layers --write` puts it into the settings, for you to correct."
)


def print_layers(console: Console, overview: Overview, report: LayerReport, root: str, *, top: int) -> None:
    """Print the layers; `top` limits the wrong-way bonds, and with 0 every class is named."""
    header(console, overview, root)
    if not report.layers:
        console.print(
            Text(f"\n{NO_LAYERS}: {counted(report.unplaced, 'class', 'classes')} in one package or folder.", "yellow")
        )
        console.print(
            "`isodesm setup` writes a settings file in which you can name yours. Everything that needs no layers works without."
        )
        return
    if not report.told:
        console.print(Text(f"\n{PROPOSED}", "yellow"))
        _print_proposal(console, report, everything=not top)
        _print_matrix(console, report)
        _print_wrong_way(console, report, top)
        return
    for layer in report.layers:
        _print_layer(console, layer, everything=not top)
    if report.unplaced:
        console.print(Text(f"\n{counted(report.unplaced, 'class belongs', 'classes belong')} to no layer", QUIET))
    console.print(Text(f"\nOrder, outermost first: {report.order}", QUIET))
    _print_matrix(console, report)
    _print_wrong_way(console, report, top)


def _print_proposal(console: Console, report: LayerReport, *, everything: bool) -> None:
    """Each layer with the packages that are proposed for it, how sure that is, and why; open ones at the end."""
    for layer in report.layers:
        found = [each for each in report.packages if each.layer == layer.name and each.certainty != OPEN]
        placed = sum(each.classes for each in found)
        by_role = max(len(layer.classes) - placed, 0)
        console.print(
            Text.assemble(
                (f"\n{layer.name}", STRONG),
                (f"  {counted(len(layer.classes), 'class', 'classes')}", QUIET),
                (f", {f'{by_role:,} of them' if found else 'each'} by their own role" if by_role else "", QUIET),
            )
        )
        _print_packages(console, found, everything=everything)
    if open_ones := [each for each in report.packages if each.certainty == OPEN]:
        console.print(Text.assemble(("\nopen", STRONG), ("  too little speaks for one layer rather than another", QUIET)))
        _print_packages(console, open_ones, everything=everything, nearest=True)
    console.print(Text(f"\nOrder, outermost first: {report.order}", QUIET))


def _print_packages(console: Console, packages: list[PackageLayer], *, everything: bool, nearest: bool = False) -> None:
    shown = packages if everything else packages[:CLASSES_SHOWN]
    width = min(max((len(each.name) for each in shown), default=1), 44)
    for each in shown:
        certainty = f"{each.layer}?" if nearest else each.certainty
        console.print(
            Text.assemble(
                (f"  {certainty:{16 if nearest else 7}}", "" if each.certainty == SURE else QUIET),
                f"{cut_front(printable(each.name) or '.', width):{width}}",
                (f"{each.classes:6,}  {printable('; '.join(each.reasons))}", QUIET),
            ),
            overflow="ellipsis",
            no_wrap=True,
        )
    if len(packages) > len(shown):
        console.print(Text(f"  … and {len(packages) - len(shown)} more packages; --top 0 shows all", QUIET))


def _print_layer(console: Console, layer: LayerRow, *, everything: bool) -> None:
    roles = Counter(each.role for each in layer.classes)
    shown = ", ".join(f"{count} {role}" for role, count in roles.most_common(5))
    console.print(
        Text.assemble((f"\n{layer.name}", STRONG), (f"  {counted(len(layer.classes), 'class', 'classes')} · {shown}", QUIET))
    )
    by_evidence: dict[str, list[str]] = defaultdict(list)
    for each in layer.classes:
        by_evidence[each.evidence].append(each.name)
    order = sorted(by_evidence, key=lambda each: (-len(by_evidence[each]), each))
    for evidence in order if everything else order[:CLASSES_SHOWN]:
        names = by_evidence[evidence]
        simple = [name.replace("\\", ".").replace("#", ".").rpartition(".")[2] for name in names]
        listed = ", ".join(simple if everything else simple[:CLASSES_SHOWN])
        more = "" if everything or len(names) <= CLASSES_SHOWN else f" … {len(names)} in all"
        line = Text.assemble((f"  {printable(evidence)}: ", QUIET), printable(listed) + more)
        console.print(line)
    if not everything and len(order) > CLASSES_SHOWN:
        console.print(Text(f"  … and {len(order) - CLASSES_SHOWN} more folders; --top 0 shows all", QUIET))


def _print_matrix(console: Console, report: LayerReport) -> None:
    """Bonds from the layer of the row to that of the column, `total (hard)`; outward ones marked."""
    found = {(each.source, each.target): each for each in report.crossings}
    names = [layer.name for layer in report.layers]
    table = Table(box=None, pad_edge=False, padding=(0, 2, 0, 0))
    table.add_column("bonds from ↓ to →", header_style=STRONG, no_wrap=True)
    for name in names:
        table.add_column(name, justify="right", header_style=QUIET, no_wrap=True)
    for one in names:
        cells = []
        for other in names:
            each = found.get((one, other))
            if each is None:
                cells.append(Text("·", QUIET))
                continue
            text = f"{each.bonds:,}" + (f" ({each.hard:,} hard)" if each.hard else "")
            cells.append(Text(f"↑ {text}" if each.outward else text, "red" if each.outward else QUIET if one == other else ""))
        table.add_row(one, *cells)
    console.print()
    console.print(table)
    console.print(Text("↑ points outwards, the wrong way", QUIET))


def _print_wrong_way(console: Console, report: LayerReport, top: int) -> None:
    findings = report.wrong_way
    outward = sum(each.bonds for each in report.crossings if each.outward)
    if not findings and outward and not report.told:
        console.print(
            Text(
                f"\n{counted(outward, 'bond points', 'bonds point')} outwards, and none is a finding: by a proposal only what "
                "goes against nearly all others is noted, between packages that plainly belong to their layers.",
                QUIET,
            )
        )
        return
    if not findings and outward:
        console.print(
            Text(
                f"\n{counted(outward, 'bond points', 'bonds point')} outwards, and none is a finding: they start where the "
                "program is put together, or lead to functions without effects or to look-ups that `scan` reports as such.",
                QUIET,
            )
        )
        return
    if not findings:
        console.print(Text("\nNo bond points the wrong way.", "green"))
        return
    console.print(Text(f"\n{counted(len(findings), 'finding')} about bonds between layers", STRONG))
    for each in findings[:top] if top else findings:
        place = f"{printable(each.file)}:{each.line}"
        console.print(
            Text.assemble(
                (f"  {each.level:8}", LEVEL_STYLE[each.level]),
                f"{each.kind}  ",
                (cut_front(place, max(console.width - 40, 30)), QUIET),
            )
        )
        console.print(Text(f"    {printable(each.message)}"))
    if top and len(findings) > top:
        console.print(Text(f"  … and {len(findings) - top} more; --top 0 shows all", QUIET))
