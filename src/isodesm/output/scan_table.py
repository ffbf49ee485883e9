"""`scan` for people: findings grouped by class, worst first, then the summary and what was excused."""

from __future__ import annotations

from collections import Counter, defaultdict
from itertools import groupby

from rich.console import Console
from rich.padding import Padding
from rich.table import Table
from rich.text import Text

from isodesm.codebase.overview import Overview, Shown
from isodesm.diagnosis.shared.findings import EXCUSES, HARD_KINDS, KINDS, LEVELS, UNKNOWN, Diagnosis, Finding
from isodesm.linking.symbols import simple_name
from isodesm.measures.strain import measure_strain
from isodesm.output.shape import View
from isodesm.output.terminal import LEVEL_STYLE, QUIET, STRONG, header
from isodesm.output.text import counted, cut_front, number_of, printable

OTHER_GRAVITY = {"error": 4.0, "warning": 1.0}
"""What a finding that is no hard bond adds to the own strain of its class when the worst are to come first."""
RELATED_SHOWN = 3
MOST_LINES = 8
"""Findings of a class that are shown by a line each."""
UNUSED_SHOWN = 8


def print_scan(console: Console, overview: Overview, diagnosis: Diagnosis, root: str, view: View) -> None:
    """Print a scan: the summary, then the classes that bear most, a line a finding; in full the classes come first."""
    header(console, overview, root)
    classes: dict[int, list[Finding]] = defaultdict(list)
    for finding in diagnosis.findings:
        classes[finding.source_number].append(finding)
    order = _gravest_first(overview, diagnosis, classes)
    if not view.full:
        _print_summary(console, overview, diagnosis)
    known = {each.number: each for each in overview.shown}
    for number, own in order[: view.top] if view.top else order:
        first = classes[number][0]
        shown = known.get(number, Shown(number, first.source, "", first.file, "", ""))
        (_print_class if view.full else _print_briefly)(console, shown, classes[number], own, view.base)
    if view.top and len(order) > view.top:
        hidden = counted(len(order) - view.top, "more class", "more classes")
        console.print(Text(f"\n… and {hidden} with findings; --top 0 shows all", QUIET))
    if order and not view.full:
        console.print(
            Text("\n--full shows the source, why it matters, and what would loosen it; --class NAME for one class", QUIET)
        )
    if view.excused:
        _print_excused(console, diagnosis.proven)
    if view.unknown:
        _print_excused(console, diagnosis.unknown)
    if view.full:
        _print_summary(console, overview, diagnosis)


def _gravest_first(overview: Overview, diagnosis: Diagnosis, classes: dict[int, list[Finding]]) -> list[tuple[int, float]]:
    """Classes with their own strain, by that and by what else is wrong with them."""
    strains = measure_strain(diagnosis.places, overview.strain)
    own = {number: strains[number].own_total if number in strains else 0.0 for number in classes}

    def gravity(number: int) -> tuple[float, int, str]:
        others = sum(OTHER_GRAVITY.get(each.level, 0.0) for each in classes[number] if each.kind not in HARD_KINDS)
        return -own[number] - others, -len(classes[number]), classes[number][0].source

    return [(number, own[number]) for number in sorted(classes, key=gravity)]


def _print_briefly(console: Console, shown: Shown, findings: list[Finding], own: float, base: str) -> None:
    """A class with a line for each finding: where it is, what it is, and on what."""
    _print_title(console, shown, findings[0], own)
    ordered = sorted(findings, key=lambda each: LEVELS.index(each.level))
    for finding in ordered[:MOST_LINES]:
        line = Text("  ")
        line.append(f"{finding.level:7}", LEVEL_STYLE[finding.level])
        target = f" ⇒ {printable(simple_name(finding.target))}" if finding.target else ""
        line.append(f" {finding.kind}{target}{f' ×{finding.places}' if finding.places > 1 else ''}  ")
        place = f"{base}{printable(finding.file)}:{finding.line}:{finding.column}"  # whole, so that it can be opened
        if len(line) + len(place) > console.width:
            console.print(line)
            line = Text("          ")
        line.append(place, QUIET)
        console.print(line, soft_wrap=True)
    if len(ordered) > MOST_LINES:
        console.print(Text(f"  … and {len(ordered) - MOST_LINES} more of this class", QUIET))


def _print_title(console: Console, shown: Shown, first: Finding, own: float) -> None:
    title = Text("\n")
    title.append(cut_front(first.source, console.width), STRONG)
    console.print(title)
    facts = [shown.role, first.layer, f"own strain {number_of(own)}" if own else "", printable(shown.path)]
    line = Text("  " + " · ".join(each for each in facts if each), QUIET)
    line.truncate(console.width, overflow="ellipsis")
    console.print(line)


def _print_class(console: Console, shown: Shown, findings: list[Finding], own: float, base: str) -> None:
    _print_title(console, shown, findings[0], own)
    for finding in sorted(findings, key=lambda each: LEVELS.index(each.level)):  # the order of places among equals
        _print_finding(console, finding, shown.path)


def _print_finding(console: Console, finding: Finding, home: str) -> None:
    """One finding; the file is named where it is not the one of the class."""
    head = Text()
    head.append(f"{finding.line:>6}  ", QUIET)
    head.append(finding.level, LEVEL_STYLE[finding.level])
    head.append(f"  {finding.kind}")
    if finding.file != home:
        head.append(f"  in {printable(finding.file)}", QUIET)
    console.print(head)
    for line in _marked_source(finding, console.width - 10):
        console.print(Padding(line, (0, 0, 0, 8), expand=False), no_wrap=True, crop=True)
    console.print(Padding(Text(f"{printable(finding.message)} {printable(finding.reason)}"), (0, 0, 0, 8), expand=False))
    console.print(Padding(Text(f"→ {printable(finding.remedy)}", "green"), (0, 0, 0, 8), expand=False))
    for each in finding.related[:RELATED_SHOWN]:
        console.print(
            Padding(Text(f"{printable(each.file)}:{each.line}  {printable(each.message)}", QUIET), (0, 0, 0, 8), expand=False)
        )
    if more := len(finding.related) - RELATED_SHOWN:
        if more > 0:
            console.print(
                Padding(Text(f"… and {counted(more, 'more place', 'more places')}", QUIET), (0, 0, 0, 8), expand=False)
            )
    if finding.why:
        console.print(Padding(Text("  ".join(finding.why), QUIET), (0, 0, 0, 8), expand=False))


def _marked_source(finding: Finding, width: int) -> list[Text]:
    """The source line and a line of marks under the span; cut at the front where the span would not show."""
    start, stop = finding.column - 1, finding.end_column - 1
    before = printable(finding.snippet[:start]).lstrip()
    span, after = printable(finding.snippet[start:stop]), printable(finding.snippet[stop:])
    if len(before) + min(len(span), 20) > width:
        before = "…" + before[len(before) - max(width // 2, 1) :]
    room = max(width - len(before), 1)
    source = Text(before)
    source.append(span[:room], STRONG)
    source.append(after[: max(room - len(span), 0)])
    marks = Text(" " * len(before) + "~" * max(min(len(span), room), 1), LEVEL_STYLE[finding.level])
    return [source, marks]


def _in_numbers(counts: dict[str, int]) -> str:
    return ", ".join(f"{name} {count:,}" for name, count in counts.items())


def _print_excused(console: Console, excused: tuple[Finding, ...]) -> None:
    ordered = sorted(excused, key=lambda each: (each.excuse, each.file, each.line, each.column))
    for excuse, group in groupby(ordered, key=lambda each: each.excuse):
        head = excuse if excuse in UNKNOWN else f"excused as {excuse}"
        console.print(Text.assemble(f"\n{head}", ("  " + EXCUSES[excuse], QUIET)))
        for finding in group:
            line = Text(f"  {printable(finding.file)}:{finding.line}  ", QUIET)
            line.append(printable(finding.snippet.strip()), "")
            line.truncate(console.width, overflow="ellipsis")
            console.print(line, no_wrap=True)


def _print_summary(console: Console, overview: Overview, diagnosis: Diagnosis) -> None:
    kinds = [kind for kind in KINDS if any(finding.kind == kind for finding in diagnosis.findings)]
    console.print()
    console.print(_summary(diagnosis, kinds) if kinds else Text("Nothing that needs a look.", "green"))
    if overview.layers and kinds:
        layers = Counter(finding.layer or "no layer" for finding in diagnosis.findings)
        console.print(Text("\nby layer: " + ", ".join(f"{name} {count:,}" for name, count in layers.most_common()), QUIET))
    excuses, unknown = diagnosis.counts
    if excuses:
        said = f"\n{counted(sum(excuses.values()), 'place')} of the same shape excused: {_in_numbers(excuses)}"
        console.print(Text(said, QUIET))
        console.print(Text("--excused lists them; `isodesm explain NAME` says what a kind or an excuse means", QUIET))
    if unknown:
        number = counted(sum(unknown.values()), "place")
        console.print(Text(f"{number} of which nobody can tell: {_in_numbers(unknown)}; --unknown lists them", QUIET))
    for each in diagnosis.unused_acceptances[:UNUSED_SHOWN]:
        place = f"{printable(each.file)}:{each.line}" if each.line else each.file
        console.print(Text(f"not needed: {place} {printable(each.message)}", "yellow"))
    if (hidden := len(diagnosis.unused_acceptances) - UNUSED_SHOWN) > 0:
        console.print(Text(f"… and {hidden} more acceptances that nothing needs", "yellow"))


def _summary(diagnosis: Diagnosis, kinds: list[str]) -> Table:
    """Findings of each kind by their level."""
    table = Table(box=None, pad_edge=False, padding=(0, 2, 0, 0))
    table.add_column(counted(len(diagnosis.findings), "finding"), style="", header_style=STRONG, no_wrap=True)
    for level in LEVELS:
        table.add_column(level, justify="right", header_style=LEVEL_STYLE[level])
    table.add_column("places", justify="right", header_style=QUIET, style=QUIET)
    for kind in kinds:
        alike = [finding for finding in diagnosis.findings if finding.kind == kind]
        counts = [sum(1 for finding in alike if finding.level == level) for level in LEVELS]
        table.add_row(kind, *(str(count) if count else "·" for count in (*counts, sum(each.places for each in alike))))
    return table
