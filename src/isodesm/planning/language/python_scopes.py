"""What Python's own compiler knows of a module: whether it compiles, and which names nothing in it binds."""

from __future__ import annotations

import builtins
import symtable
from collections.abc import Iterator
from functools import lru_cache

from isodesm.planning.language.python_loading import loading_of

GIVEN = frozenset(
    (*dir(builtins), "__file__", "__name__", "__path__", "__doc__", "__class__", "__annotations__", "WindowsError")
)
"""Names that a module has without binding them."""


@lru_cache(maxsize=64)
def unbound_names(text: bytes) -> frozenset[str] | None:
    """Names that functions, classes and the module itself look up in the module, and that it never binds; None for text that
    does not compile, or that takes names from everywhere."""
    try:
        table = symtable.symtable(text.decode("utf-8", "replace"), "module", "exec")
    except (SyntaxError, ValueError, RecursionError):
        return None
    bound = {each.get_name() for each in table.get_symbols() if each.is_assigned() or each.is_imported() or each.is_namespace()}
    bound |= {name for scope in _scopes(table) for name in _declared_global(scope)}
    if "*" in bound or b"import *" in text:
        return None
    asked = {
        each.get_name()
        for scope in _scopes(table)
        for each in scope.get_symbols()
        if each.is_referenced() and (each.is_global() or (scope is table and each.get_name() not in bound))
    }
    return frozenset((asked | _annotated(table, text, bound)) - bound - GIVEN)


def _annotated(table: symtable.SymbolTable, text: bytes, bound: set[str]) -> frozenset[str]:
    """Names in annotations that no class or function has for itself: where annotations are kept as texts, nothing else asks."""
    own = {name for scope in _scopes(table) if scope is not table for name in _bound_in(scope)}
    return frozenset(loading_of(text).in_annotations - own)


def _bound_in(scope: symtable.SymbolTable) -> Iterator[str]:
    yield from (
        each.get_name() for each in scope.get_symbols() if each.is_assigned() or each.is_imported() or each.is_parameter()
    )


@lru_cache(maxsize=64)
def compiles(text: bytes) -> bool:
    """Whether a module compiles under the Python that runs this program."""
    try:
        compile(text, "module", "exec", dont_inherit=True)
    except (SyntaxError, ValueError, RecursionError):
        return False
    return True


def _scopes(table: symtable.SymbolTable) -> Iterator[symtable.SymbolTable]:
    yield table
    for child in table.get_children():
        yield from _scopes(child)


def _declared_global(scope: symtable.SymbolTable) -> Iterator[str]:
    yield from (each.get_name() for each in scope.get_symbols() if each.is_declared_global() and each.is_assigned())
