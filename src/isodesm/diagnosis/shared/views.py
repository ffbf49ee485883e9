"""Which classes are parts of a toolkit that shows things."""

from __future__ import annotations

from isodesm.diagnosis.shared.reporting import Report
from isodesm.linking.bonds import KIND_NUMBER

DRAWN = frozenset(KIND_NUMBER[kind] for kind in ("extends", "implements", "field", "parameter", "return", "creation"))


def is_view(report: Report, number: int, *, itself: bool = False) -> bool:
    """Whether a class is a visual part of a toolkit, or (unless it is asked of the class `itself`) builds on one."""
    catalogues, language = report.symbols.catalogues, report.symbols.files[report.symbols.file_of[number]].language
    if itself:
        return catalogues.is_view_part(report.symbols.names[number], language)
    roles = report.codebase.roles
    line = roles.ancestors(number)
    names = [report.symbols.names[each] for each in line] + [
        base for each in line for base in roles.external_bases.get(each, ())
    ]
    return any(catalogues.is_view_part(name, language) for name in names)


def works_on_screen(report: Report, number: int) -> bool:
    """Whether a class has to do with what is drawn: it takes, keeps, makes or extends parts of a toolkit."""
    table, externals = report.codebase.bonds, report.codebase.bonds.externals.strings
    language = report.symbols.files[report.symbols.file_of[number]].language
    outside = (-1 - table.target[row] for row in table.rows_of_source(number) if table.kind[row] in DRAWN)
    return any(
        0 <= each < len(externals) and report.symbols.catalogues.is_view_part(externals[each], language) for each in outside
    )
