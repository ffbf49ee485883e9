"""`wiring` for people: registrations by layer, what breaks at start-up, and the tree of objects below a class."""

from __future__ import annotations

from collections import Counter

from rich.console import Console
from rich.padding import Padding
from rich.table import Table
from rich.text import Text
from rich.tree import Tree

from isodesm.codebase.overview import Overview
from isodesm.diagnosis.shared.findings import Finding
from isodesm.output.terminal import LEVEL_STYLE, QUIET, STRONG, header
from isodesm.output.text import counted, cut_front, printable
from isodesm.queries.object_tree import ObjectNode
from isodesm.queries.wiring_report import Wired, WiringReport

FEW = 4
"""Names of a list that are shown."""
MOST_OF_A_CONDITION = 40
"""Characters of a condition that are shown."""
NOT_FOLLOWED = "can't be followed; what it registers is not known, so nothing is called missing"
LIFETIME_STYLE = {"singleton": "blue", "scoped": "magenta", "transient": "yellow", "": "dim"}


def print_wiring(console: Console, overview: Overview, report: WiringReport, root: str, *, top: int) -> None:
    """Print the wiring; `top` limits the registrations and problems shown (0: all)."""
    header(console, overview, root)
    if not report.registrations and not report.rules:
        console.print(
            Text(
                "\nNo registrations were found: no container is told what serves what, or in a way that is not known.", "yellow"
            )
        )
        starts = [each.name for each in overview.shown if each.role == "composition-root"]
        shown = ", ".join(starts[:4]) + (" …" if len(starts) > 4 else "")
        console.print(
            f"Objects are put together by hand{f', in {shown}' if starts else ''}. `--root CLASS` shows what it takes "
            f"to have one of a class."
        )
    elif report.registrations:
        _print_registrations(console, report, top)
    _print_rules(console, report, top)
    _print_findings(console, report.problems, "What breaks, or surprises", top)
    _print_findings(console, report.by_hand, "Managed classes that are created by hand", top)
    if report.registrations and not report.problems:
        console.print(Text("\nNothing was found among the registrations that does not fit.", "green"))
    unused = [each for each in report.registrations if not each.used]
    if unused:
        console.print(Text(f"\n{counted(len(unused), 'registration')} that nothing asks for", STRONG))
        for each in unused[:top] if top else unused:
            console.print(
                Text.assemble(f"  {printable(_short(each.abstraction))}  ", (f"{printable(each.file)}:{each.line}", QUIET))
            )
    if report.tree is not None:
        console.print()
        console.print(tree_of(report.tree))


def _print_registrations(console: Console, report: WiringReport, top: int) -> None:
    counts = Counter(each.lifetime or "no lifetime" for each in report.registrations)
    words = ", ".join(f"{count} {name}" for name, count in sorted(counts.items()))
    console.print(Text.assemble((f"\n{counted(len(report.registrations), 'registration')}", STRONG), (f"  {words}", QUIET)))
    for program, rows in _by_program(report):
        if program:
            console.print(Text.assemble("\n", (program, STRONG), (f"  {counted(len(rows), 'registration')}", QUIET)))
        _print_rows(console, rows, top)


def _by_program(report: WiringReport) -> list[tuple[str, list[Wired]]]:
    """The registrations of each program, and those that belong to all; one group without a name where there is one program."""
    if not report.programs:
        return [("", list(report.registrations))]
    groups = [
        (f"program {printable(name or '.')}", [each for each in report.registrations if each.programs == (name,)])
        for name in report.programs
    ]
    shared = [each for each in report.registrations if len(each.programs) != 1]
    return [(name, rows) for name, rows in (*groups, ("in several programs, or in all", shared)) if rows]


def _print_rows(console: Console, registrations: list[Wired], top: int) -> None:
    table, room = Table(box=None, pad_edge=False, padding=(0, 2, 0, 0)), max((console.width - 30) // 3, 20)
    for head in ("layer", "abstraction", "served by", "lifetime", "where"):
        table.add_column(head, header_style=QUIET, no_wrap=head != "abstraction", overflow="fold", max_width=room)
    rows = sorted(registrations, key=lambda each: (each.layer or "~", each.abstraction, each.file, each.line))
    for each in rows[:top] if top else rows:
        table.add_row(
            Text(each.layer or "–", "" if each.layer else QUIET),
            Text.assemble(cut_front(_named(each), room), (f"\n  {said}" if (said := _special(each)) else "", "cyan")),
            _served(each, room),
            Text(each.lifetime or "–", LIFETIME_STYLE.get(each.lifetime, "")),
            Text(cut_front(f"{printable(each.file)}:{each.line}", room), QUIET),
        )
    console.print(table)
    if top and len(rows) > top:
        console.print(Text(f"… and {len(rows) - top} more; --top 0 shows all", QUIET))


def _named(each: Wired) -> str:
    """What is served: a key as it is, a type by its simple name."""
    return printable(each.key) if each.key == each.abstraction and each.key else _short(each.abstraction)


def _special(each: Wired) -> str:
    """What sets a registration apart from a plain one."""
    orders = {"first": "unless there is one already", "list": "one of a list", "replaces": "takes the place of another"}
    said = (
        f"key {printable(each.key)}" if each.key not in ("", each.abstraction) else "",
        f"if {_cut(printable(each.condition))}" if each.condition else "",
        orders.get(each.order, ""),
        "alias" if each.alias else "",
        f"one of {', '.join(map(_short, each.made))}" if each.made else "",
        f"only for {_short(each.only_for)}" if each.only_for else "",
        "around another" if each.wraps else "",
        "handed in through a stand-in" if each.stand_in else "",
    )
    return " · ".join(filter(None, said))


def _cut(text: str) -> str:
    return text if len(text) <= MOST_OF_A_CONDITION else f"{text[: MOST_OF_A_CONDITION - 1]}…"


def _print_rules(console: Console, report: WiringReport, top: int) -> None:
    """The rules by which classes are registered, and what they match."""
    if not report.rules:
        return
    console.print(Text(f"\n{counted(len(report.rules), 'rule')} that register classes", STRONG))
    for each in report.rules[:top] if top else report.rules:
        console.print(Text.assemble(f"  {printable(each.text)}  ", (f"{printable(each.file)}:{each.line}", QUIET)))
        names = ", ".join(map(_short, each.matches[:FEW])) + (" …" if len(each.matches) > FEW else "")
        said = f"matches {counted(len(each.matches), 'class', 'classes')}: {names}" if each.followed else NOT_FOLLOWED
        console.print(Padding(Text(said, QUIET if each.followed else "yellow"), (0, 0, 0, 4), expand=False))


def _served(each: Wired, room: int) -> Text:
    if not each.implementation:
        return Text("an object, or a function", QUIET)
    return (
        Text("itself", QUIET) if each.implementation == each.abstraction else Text(cut_front(_short(each.implementation), room))
    )


def _short(name: str) -> str:
    return (
        printable(name.replace("\\", ".").replace("#", ".").rpartition(".")[2])
        if "/" not in name or "#" in name
        else printable(name)
    )


def _print_findings(console: Console, findings: tuple[Finding, ...], title: str, top: int) -> None:
    if not findings:
        return
    console.print(Text(f"\n{title}", STRONG))
    for each in findings[:top] if top else findings:
        place = cut_front(f"{printable(each.file)}:{each.line}", max(console.width - 44, 24))
        console.print(Text.assemble((f"  {each.level:8}", LEVEL_STYLE[each.level]), f"{each.kind}  ", (place, QUIET)))
        console.print(Padding(Text(f"{printable(each.message)} {printable(each.reason)}"), (0, 0, 0, 4), expand=False))
        console.print(Padding(Text(f"→ {printable(each.remedy)}", "green"), (0, 0, 0, 4), expand=False))
    if top and len(findings) > top:
        console.print(Text(f"  … and {len(findings) - top} more; --top 0 shows all", QUIET))


def tree_of(node: ObjectNode) -> Tree:
    """The tree of objects below a class, to be printed."""
    tree = Tree(_label(node), guide_style=QUIET)
    _grow(tree, node)
    return tree


def _grow(tree: Tree, node: ObjectNode) -> None:
    for child in node.children:
        _grow(tree.add(_label(child)), child)


def _label(node: ObjectNode) -> Text:
    label = Text(
        _short(node.name), STRONG if node.how == "root" else "red" if node.how in ("creates", "unknown", "ambiguous") else ""
    )
    if node.wanted and node.wanted != _short(node.name):
        label.append(f" as {printable(node.wanted)}", QUIET)
    if node.how != "root":
        label.append(f"  {node.how}", QUIET)
    if node.lifetime:
        label.append(f" · {node.lifetime}", LIFETIME_STYLE.get(node.lifetime, ""))
    if node.candidates:
        label.append(f"  one of {', '.join(map(_short, node.candidates[:FEW]))}", "yellow")
    if node.file:
        label.append(f"  {cut_front(printable(node.file), 36)}:{node.line}", QUIET)
    return label
