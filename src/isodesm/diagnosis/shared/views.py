"""Which classes are parts of a toolkit that shows things."""

from __future__ import annotations

from isodesm.diagnosis.shared.reporting import Report


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
