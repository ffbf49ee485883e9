"""`trace` for people: a tree of calls, each with its place, what runs behind it, the layers it crosses and what is hard."""

from __future__ import annotations

from rich.console import Console
from rich.table import Table
from rich.text import Text
from rich.tree import Tree

from isodesm.codebase.overview import Overview
from isodesm.output.about_table import simple
from isodesm.output.terminal import QUIET, STRONG, header
from isodesm.output.text import counted, cut_front, printable
from isodesm.queries.entries import Entry
from isodesm.queries.trace import Hop, Trace, shown_type


def print_trace(console: Console, overview: Overview, found: Trace, root: str) -> None:
    """Print a trace with what its marks mean."""
    header(console, overview, root)
    start = found.start
    tree = Tree(
        Text.assemble(
            (f"{simple(start.class_name)}.{printable(start.member)}", STRONG),
            (f"  {start.layer}" if start.layer else "", QUIET),
            (f"  {printable(start.file)}:{start.line}", QUIET),
        ),
        guide_style=QUIET,
    )
    for hop in start.hops:
        _grow(tree, hop)
    console.print()
    console.print(tree)
    if not start.hops:
        console.print(Text("Nothing further: no call of another class of this tree, and no effect.", QUIET))
    console.print(Text("\n! a hard bond, which no test gets round · → another layer · ⇒ what comes back", QUIET))
    if found.idle:
        names = ", ".join(f"`{simple(printable(each))}`" for each in found.idle)
        console.print(Text(f"--bind changed nothing for {names}: nothing on this way is asked of it", "yellow"))
    if found.hidden:
        console.print(
            Text(f"{counted(found.hidden, 'call')} on data and helpers, which lead nowhere further, not shown", QUIET)
        )


def _grow(tree: Tree, hop: Hop) -> None:
    branch = tree.add(_label(hop))
    for each in hop.hops:
        _grow(branch, each)


def _label(hop: Hop) -> Text:
    if hop.effect:
        return Text.assemble(
            ("⚡ " if not hop.hard else "! ", "red"),
            (printable(hop.member), "red"),
            f"  {hop.effect}",
            (f"  {_place(hop)}", QUIET),
        )
    label = Text()
    label.append("! " if hop.hard else "", "bold red")
    label.append(f"{simple(hop.class_name)}.{printable(hop.member)}", STRONG if not hop.cut else "")
    if hop.class_name != hop.declared:
        label.append(f" as {simple(hop.declared)}", QUIET)
    if hop.bound == "registered" and hop.registered_in:
        label.append(f" (registered {cut_front(printable(hop.registered_in), 28)}:{hop.registered_line})", QUIET)
    elif hop.bound not in ("itself", "start", "effect"):
        label.append(f" ({hop.bound})", QUIET)
    if hop.returns and (back := shown_type(hop.returns)):
        label.append(f" ⇒ {printable(back)}", "")
    if hop.crossing:
        label.append(f"  {hop.crossing}", "blue")
    if hop.hard:
        label.append(f"  {hop.hard}", "red")
    label.append(f"  {_place(hop)}", QUIET)
    if hop.candidates:
        label.append(
            f"  one of {', '.join(map(simple, hop.candidates[:5]))}"
            + ("; choose with --bind" if hop.bound != "unknown" else ""),
            "yellow",
        )
    if hop.cut:
        label.append({"again": "  shown above", "depth": "  … --depth shows more"}[hop.cut], QUIET)
    return label


def _place(hop: Hop) -> str:
    return f"{cut_front(printable(hop.file), 28)}:{hop.line}"


def print_entries(console: Console, overview: Overview, entries: tuple[Entry, ...], root: str, *, top: int) -> None:
    """Print the entry points, to choose one from."""
    header(console, overview, root)
    if not entries:
        console.print(
            Text(
                "\nNo entry point was recognised: no main, handler, command or job. Name a member: isodesm trace CLASS.METHOD",
                "yellow",
            )
        )
        return
    table = Table(box=None, pad_edge=False, padding=(0, 2, 0, 0), header_style=QUIET)
    own = {each.number for each in entries if each.why == "of its own"}
    first = "member" if own else "entry point"
    for head in (first, "" if own else "why", "where"):
        table.add_column(head, no_wrap=head == first, overflow="fold")
    for each in entries[:top] if top else entries:
        table.add_row(
            f"{simple(each.name)}.{printable(each.member)}",
            Text(each.why, QUIET),
            Text(cut_front(f"{printable(each.file)}:{each.line}", max(console.width - 64, 24)), QUIET),
        )
    console.print()
    console.print(table)
    if top and len(entries) > top:
        console.print(Text(f"… and {len(entries) - top} more; --top 0 shows all", QUIET))
    shown = entries[0]
    console.print(Text(f"\nisodesm trace {simple(shown.name)}.{printable(shown.member)} follows the first", QUIET))
