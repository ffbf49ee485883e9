"""`about` for people: a class on one screen; everything with `--full`."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from rich.console import Console
from rich.table import Table
from rich.text import Text

from isodesm.codebase.overview import Overview
from isodesm.measures.dossier import Dossier, Place, UsedMember
from isodesm.measures.makers import Maker
from isodesm.measures.member_use import Affected, MemberUse
from isodesm.output.terminal import LEVEL_STYLE, QUIET, STRONG, header
from isodesm.output.text import counted, cut_front, number_of, printable
from isodesm.output.wiring_table import tree_of

FEW = 4
"""Entries of a list on one screen."""


def print_about(console: Console, overview: Overview, dossier: Dossier, root: str, *, full: bool) -> None:
    """Print what is known of a class; lists are cut unless `full`."""
    header(console, overview, root)
    if dossier.asked_member is not None:
        _Sheet(console, full).print_member(dossier, dossier.asked_member)
    else:
        _Sheet(console, full).print(dossier)


def simple(name: str) -> str:
    """The last part of a qualified name."""
    return printable(name.replace("\\", ".").replace("#", ".").rpartition(".")[2])


class _Sheet:
    def __init__(self, console: Console, full: bool) -> None:
        self.console, self.full = console, full
        self.grid = Table.grid(padding=(0, 2, 0, 0))
        self.grid.add_column(style=QUIET, no_wrap=True)
        self.grid.add_column(overflow="fold")

    def print(self, it: Dossier) -> None:
        self.console.print(
            Text.assemble(
                ("\n" + cut_front(it.name, self.console.width), STRONG),
                (f"  {it.kind} · {printable(it.file)}:{it.line}", QUIET),
            )
        )
        self._line("role", it.role or "unknown", "; ".join(it.role_evidence if self.full else it.role_evidence[:2]))
        if it.narrower:
            self._line("more exactly", *it.narrower.split(": ", 1))
        self._line("layer", it.layer or "none", it.layer_evidence)
        self._measures(it)
        self._making(it)
        self._uses(it)
        self._findings(it)
        self._list("planning would", it.plan)
        self.console.print(self.grid)

    def _making(self, it: Dossier) -> None:
        """How one comes to have such an object, and what it brings along."""
        self._line("constructor", it.constructor or "takes nothing")
        self._list(
            "needs",
            (
                f"{each.name}: {each.type}" + (f" ← {simple(each.served_by)}" if each.served_by else "") + f" ({each.how})"
                for each in it.needs
            ),
        )
        self._list("made by", map(self._maker, it.made_by), "nobody in this tree")
        self._list("handed to", (f"{simple(each.name)} {each.detail}" for each in it.handed_to))
        self._list("creates", map(self._made, it.creates))
        self._list("looks up", map(self._made, it.looks_up))
        if it.objects.children:
            self.grid.add_row("  to have one", tree_of(it.objects))
        self._list(
            "locked effects",
            (f"{each.effect}: {' → '.join(each.chain)}" for each in it.locked),
            "none: a test can keep everything out",
        )
        self._alone(it)

    def _alone(self, it: Dossier) -> None:
        """Whether a test can have the class alone, and what keeps it from that."""
        branches = counted(it.logic, "branch", "branches")
        if not it.obstacles:
            self._line("tested alone", "yes", branches if it.logic else "")
            return
        self._line("tested alone", "no", f"{branches} locked in; `isodesm plan --for {simple(it.name)}` says what it takes")

    def _uses(self, it: Dossier) -> None:
        """Who knows the class, and as what."""
        self._list("heirs", map(simple, it.heirs))
        self._list("one more touches", map(self._sibling, it.siblings))
        if it.worth:
            self._line("worth it?", it.worth)
        self._list(
            "abstractions",
            (
                f"{simple(each.name)}"
                + (f", also implemented by {', '.join(map(simple, each.implementers))}" if each.implementers else "")
                + f" ({counted(each.users, 'user')})"
                for each in it.abstractions
            ),
        )
        self._list(
            "members",
            map(self._member, it.members),
            "none is used from outside",
        )
        self._list(
            "natural splits",
            (
                f"{{{', '.join(each.members)}}} for {self._some([simple(user) for user in each.consumers])}"
                for each in it.splits
            ),
        )
        self._list(
            "tests",
            (simple(each.name) + ("" if each.directly else " (by way of another class)") for each in it.tests),
            "none touches it",
        )
        self._list(
            "changes with",
            (f"{simple(each.name) or each.file}  {each.together} commits, {each.share:.0%} of its own" for each in it.partners),
        )

    def _measures(self, it: Dossier) -> None:
        row = it.measures
        if row is None:
            return
        strain = " + ".join(f"{number_of(value)} {kind}" for kind, value in row.own.items())
        parts = " + ".join(each for each in (strain, f"{number_of(row.borne)} borne" if row.borne else "") if each)
        self._line("strain", number_of(row.strain), f"rank {row.rank}" + (f"; {parts}" if parts else ""))
        self._line(
            "coupling",
            f"in {row.fan_in}, out {row.fan_out}, reach {row.reach}, ripple {row.ripple:g}",
            (
                f"{counted(row.lines, 'line')}, {row.members_used} of {row.members} members used outside"
                + (f", {counted(row.commits, 'commit')} by {counted(row.authors, 'person', 'people')}" if row.commits else "")
            ),
        )

    def _line(self, label: str, value: str, aside: str = "") -> None:
        self.grid.add_row(f"  {label}", Text.assemble(printable(value), (f"  {printable(aside)}" if aside else "", QUIET)))

    def _list(self, label: str, entries: Iterable[str | Text], nothing: str = "", more: str = "--full shows all") -> None:
        shown = list(entries)
        if not shown:
            if nothing:
                self._line(label, nothing)
            return
        limit = len(shown) if self.full else FEW
        for index, entry in enumerate(shown[:limit]):
            self.grid.add_row(f"  {label}" if not index else "", entry if isinstance(entry, Text) else Text(printable(entry)))
        if len(shown) > limit:
            self.grid.add_row("", Text(f"… and {len(shown) - limit} more; {more}", QUIET))

    def print_member(self, it: Dossier, use: MemberUse) -> None:
        """What a change of one member touches."""
        self.console.print(Text.assemble(("\n" + cut_front(use.name, self.console.width), STRONG), (f"  {it.role}", QUIET)))
        self._line("signature", use.signature or "–")
        tests = f", {use.in_tests} of them in tests" if use.in_tests else ", none of them in tests"
        self._line("a change", f"{counted(use.places, 'place')} in {counted(use.files, 'file')}{tests}")
        self._line("callers", ", ".join(f"{count} {kind}" for kind, count in use.callers.items()) or "none")
        for what in ("declared", "overridden", "used"):
            self._list(what, map(self._touched, (each for each in use.touched if each.what == what)))
        self.console.print(self.grid)
        self.console.print(
            Text(
                "\nA new name or another signature touches these; what is found at run time by its name is not among them.",
                QUIET,
            )
        )

    def _touched(self, each: Affected) -> Text:
        where = simple(each.name) + (f".{printable(each.member)}" if not each.member.startswith("<") and each.member else "")
        return Text.assemble(where, (f"  {cut_front(each.file, 44)}:{each.line}", QUIET), (f"  {each.by}", QUIET))

    def _maker(self, each: Maker) -> Text:
        style = {"host": "blue", "container": "magenta", "code": "red", "test": "green"}[each.by]
        return Text.assemble(
            (f"{each.by:9} ", style), printable(each.what), (f"  {cut_front(each.file, 40)}:{each.line}", QUIET)
        )

    def _member(self, each: UsedMember) -> Text:
        counts = ", ".join(f"{count} {kind}" for kind, count in each.calls.items())
        users = self._some([simple(user) for user in each.users]) or "tests alone"
        return Text.assemble(f"{printable(each.name)} ← {users}", (f"  {counts}", QUIET))

    def _made(self, place: Place) -> str:
        return f"{simple(place.name)}  line {place.line}  {place.detail}"

    def _sibling(self, place: Place) -> str:
        """Who knows the classes behind an abstraction; a file of registrations by its name alone."""
        who = "" if place.name == place.file else f"{'.'.join(place.name.rsplit('.', 2)[-2:])} "
        return f"{who}{place.detail}  {place.file}:{place.line}"

    def _some(self, names: Sequence[str]) -> str:
        limit = len(names) if self.full else 3
        return ", ".join(names[:limit]) + (f" … {len(names)} in all" if len(names) > limit else "")

    def _findings(self, it: Dossier) -> None:
        self._list(
            "findings",
            (
                Text.assemble((each.level, LEVEL_STYLE[each.level]), f" {each.kind}:{each.line}  {printable(each.message)}")
                for each in it.findings
            ),
            more=f"`isodesm scan --class {simple(it.name)}` shows all",
        )
