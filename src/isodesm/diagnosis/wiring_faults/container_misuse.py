"""Containers in the wrong hands: handed in to be asked, or passed by when their classes are created."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator

from isodesm.diagnosis.shared.findings import Finding
from isodesm.diagnosis.shared.reporting import Report, Words
from isodesm.linking.bonds import KIND_NUMBER


def injected_containers(report: Report) -> Iterator[Finding]:
    """`injected-container`: one finding for each class and container, at the first parameter or field of its type."""
    codebase, symbols, table = report.codebase, report.symbols, report.codebase.bonds
    containers = _containers(report)
    looked_up = Counter(table.source[row] for row in table.rows_of_kind("lookup"))
    wanted, seen = (KIND_NUMBER["parameter"], KIND_NUMBER["field"]), set()
    rows = sorted(
        (row for row, kind in enumerate(table.kind) if kind in wanted and table.target[row] in containers),
        key=lambda row: (table.file[row], table.kind[row] != KIND_NUMBER["parameter"], table.line[row], table.column[row]),
    )
    for row in rows:
        source, target = table.source[row], table.target[row]
        role = codebase.roles.name(source)
        if (source, target) in seen or not report.is_production(source) or symbols.is_module(source) or role == "abstraction":
            continue
        if target >= 0 and (source == target or symbols.outer(source) == target):
            continue
        seen.add((source, target))
        name, container, count = report.name(source), codebase.target_name(target), looked_up[source]
        short = container.replace("#", ".").replace("\\", ".").rpartition(".")[2]
        if not count and (target >= 0 or not _asks(report, source, target)):
            continue
        yield report.finding(
            "injected-container",
            "warning",
            source,
            report.at_row(row),
            Words(
                f"`{name}` is handed the container `{short}`.",
                f"What it really needs shows nowhere{f', but in the {count} lookups in its code' if count > 1 else ''}; a "
                f"test has to fill a container first.",
                f"Hand `{name}` what it asks `{short}` for, and leave the container to the composition root.",
            ),
            member=table.text_of("member", row),
            target=max(target, -1),
            target_name=container,
            why=[f"{count}-lookups"] if count else [],
            excuse="composition-root"
            if role == "composition-root"
            else "factory"
            if role == "factory" or _is_own_kind(report, source, target)
            else "",
            row=row,
        )


def _asks(report: Report, source: int, target: int) -> bool:
    """Whether a class calls anything on a target."""
    table, call = report.codebase.bonds, KIND_NUMBER["call"]
    return any(table.kind[row] == call and table.target[row] == target for row in table.rows_of_source(source))


def _containers(report: Report) -> frozenset[int]:
    """Types that things are looked up in: catalogued ones, by number of the external name, and home-made ones."""
    externals = report.codebase.bonds.externals
    found = {number for number, locator in report.codebase.locators.items() if locator.is_open}
    for language in sorted({facts.language for facts in report.symbols.files}):
        catalogue = report.symbols.catalogues.of(language)
        names = set(catalogue.lookups) - {catalogue.implicit.package}
        found.update(-1 - number for number, name in enumerate(externals.strings) if name in names)
    return frozenset(found)


def _is_own_kind(report: Report, source: int, target: int) -> bool:
    """A container that wraps another, or adds to it, knows it by trade."""
    return target >= 0 and target in report.codebase.roles.ancestors(source)


def bypassed_injections(report: Report) -> Iterator[Finding]:
    """`bypassed-injection`: a class with members that a container fills in is created by hand."""
    codebase, table = report.codebase, report.codebase.bonds
    wiring = codebase.wiring
    waiting: dict[int, tuple] = {}
    for row in table.rows_of_kind("creation"):
        source, target = table.source[row], table.target[row]
        if target < 0 or not report.is_production(source):
            continue
        if target not in waiting:
            waiting[target] = tuple(each for each in wiring.filled_in(target) if not each.default)
        unset = waiting[target]
        if not unset or (codebase.roles.name(source) == "presentation" and codebase.roles.name(target) == "presentation"):
            continue
        if _is_filled_in(report, row):
            continue
        root = codebase.roles.name(source) == "composition-root"
        if root and not _variable_of(report, row):
            continue  # it may be filled in where it is handed to
        names = ", ".join(f"`{each.name}`" for each in unset[:3])
        yield report.finding(
            "bypassed-injection",
            "error",
            source,
            report.at_row(row),
            Words(
                f"`{report.name(source)}` creates `{report.name(target)}` by hand.",
                f"A container would have filled in {names}; made so, they stay unset until something fails.",
                f"Let the container make `{report.name(target)}` and hand it in, or give it a constructor that takes {names}.",
            ),
            member=table.text_of("member", row),
            target=target,
            why=[f"{len(unset)}-unset"],
            related=[report.at_injection(unset[0]).related("is filled in by the container only")],
            row=row,
            excuse=_excuse(report, source, target),
        )


def _is_filled_in(report: Report, row: int) -> bool:
    """Whether the member that creates an object has a container fill it in afterwards."""
    table, symbols = report.codebase.bonds, report.symbols
    file = table.file[row]
    fills = symbols.catalogues.registering(symbols.files[file].language).fills
    if not fills or table.site[row] < 0:
        return False
    sites = report.codebase.content(file).sites
    made, kept = sites[table.site[row]], _variable_of(report, row)
    return any(
        each.kind == "call"
        and each.name in fills
        and (each.type, each.member) == (made.type, made.member)
        and each.place.end > made.place.start
        and (not kept or kept in re.findall(r"\w+", each.arguments))
        for each in sites
    )


def _variable_of(report: Report, row: int) -> str:
    """The variable that what is created is kept in; '' where it is not, or where that can't be seen."""
    table = report.codebase.bonds
    content = report.codebase.content(table.file[row])
    site = content.sites[table.site[row]]
    before = report.codebase.text(table.file[row])[max(site.place.start - 120, 0) : site.place.start]
    found = re.search(rb"\$?(\w+)\s*=\s*(?:new\s+)?$", before)
    return found[1].decode() if found else ""


def _excuse(report: Report, source: int, target: int) -> str:
    role = report.codebase.roles.name(source)
    return "factory" if role == "factory" or source == target else ""
