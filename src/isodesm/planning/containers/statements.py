"""The statements in which code tells a container what serves what."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from isodesm.inference.resolution import Service

if TYPE_CHECKING:
    from isodesm.planning.analysis.sources import Sources

STATEMENT_NODES = ("expression_statement", "local_variable_declaration", "lexical_declaration")


def statement_at(syntax: Any, line: int, column: int) -> Any:
    """The statement that holds a place, given by line and column from 1 on; None where none does."""
    return syntax.around(line, column, STATEMENT_NODES)


def statement_of(sources: Sources, service: Service) -> tuple[int, Any, Any] | None:
    """File, syntax and node of the statement that registers a service; None where there is none."""
    given, file = service.registration, sources.codebase.wiring.file_of(service)
    if file < 0:
        return None
    syntax = sources.syntax(file)
    statement = statement_at(syntax, given.line, given.column)
    return (file, syntax, statement) if statement is not None else None
