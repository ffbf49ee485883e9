"""What a module does while it is loaded: which modules it imports then, and which names it has for type checkers only."""

from __future__ import annotations

import ast
from collections import Counter
from collections.abc import Iterator
from functools import lru_cache

from isodesm.planning.model.code import Loading

_FUNCTIONS = (ast.FunctionDef, ast.AsyncFunctionDef, ast.Lambda)


@lru_cache(maxsize=2048)
def loading_of(text: bytes) -> Loading:
    """What a module does while it is loaded; nothing for one that does not compile."""
    try:
        tree = ast.parse(text)
    except (SyntaxError, ValueError, RecursionError):
        return Loading(frozenset())
    run: set[tuple[str, str]] = set()
    checked: set[str] = set()
    bound: set[str] = set()
    for node, for_checkers in _run(tree.body, for_checkers=False):
        if isinstance(node, (ast.Import, ast.ImportFrom)):
            names = {(each.asname or each.name).partition(".")[0] for each in node.names}
            if for_checkers:
                checked |= names
            else:
                bound |= names
                run |= set(_modules(node))
        elif isinstance(node, (ast.ClassDef, ast.FunctionDef, ast.AsyncFunctionDef)):
            (checked if for_checkers else bound).add(node.name)
        elif isinstance(node, ast.Assign):
            (checked if for_checkers else bound).update(each.id for each in node.targets if isinstance(each, ast.Name))
    late = ("__future__", "annotations") in run
    only = checked - bound
    asked = _Asked(only, late=late)
    asked.visit(tree)
    return Loading(frozenset(run), frozenset(only), dict(asked.counts), frozenset(_annotated(tree)))


def _run(body: list[ast.stmt], *, for_checkers: bool) -> Iterator[tuple[ast.stmt, bool]]:
    """The statements that run while a module is loaded, in bodies of classes, too, and whether only a checker goes there."""
    for node in body:
        yield node, for_checkers
        if isinstance(node, ast.If):
            only = _asks_for_checkers(node.test)
            yield from _run(node.body, for_checkers=for_checkers or only)
            yield from _run(node.orelse, for_checkers=for_checkers)
        elif not isinstance(node, _FUNCTIONS):
            for part in ("body", "orelse", "finalbody"):
                yield from _run(getattr(node, part, []), for_checkers=for_checkers)
            for handler in getattr(node, "handlers", []):
                yield from _run(handler.body, for_checkers=for_checkers)


def _asks_for_checkers(test: ast.expr) -> bool:
    return (isinstance(test, ast.Name) and test.id == "TYPE_CHECKING") or (
        isinstance(test, ast.Attribute) and test.attr == "TYPE_CHECKING"
    )


def _modules(node: ast.Import | ast.ImportFrom) -> Iterator[tuple[str, str]]:
    if isinstance(node, ast.Import):
        yield from ((each.name, "") for each in node.names)
        return
    module = "." * node.level + (node.module or "")
    yield from ((module, each.name) for each in node.names)


def _imported(function: ast.AST) -> Iterator[str]:
    """The names that a function imports for itself."""
    for node in ast.walk(function):
        if isinstance(node, (ast.Import, ast.ImportFrom)):
            yield from ((each.asname or each.name).partition(".")[0] for each in node.names)


class _Asked(ast.NodeVisitor):
    """Counts how often code asks for some names as it runs."""

    def __init__(self, names: frozenset[str] | set[str], *, late: bool) -> None:
        self.names, self.late = frozenset(names), late
        self.counts: Counter[str] = Counter()

    def visit_Name(self, node: ast.Name) -> None:
        """A name."""
        if node.id in self.names and isinstance(node.ctx, ast.Load):
            self.counts[node.id] += 1

    def visit_FunctionDef(self, node: ast.FunctionDef | ast.AsyncFunctionDef) -> None:
        """A function, which may have names of its own, and whose head is worked out where it stands, if at all."""
        for each in (*node.decorator_list, *node.args.defaults, *(one for one in node.args.kw_defaults if one is not None)):
            self.visit(each)
        given = (*node.args.posonlyargs, *node.args.args, *node.args.kwonlyargs, node.args.vararg, node.args.kwarg)
        for said in () if self.late else (*(one.annotation for one in given if one is not None), node.returns):
            if said is not None:
                self.visit(said)
        known, own = self.names, {one.arg for one in given if one is not None} | set(_imported(node))
        self.names = known - own
        for statement in node.body:
            self.visit(statement)
        self.names = known

    visit_AsyncFunctionDef = visit_FunctionDef

    def visit_AnnAssign(self, node: ast.AnnAssign) -> None:
        """A variable with its type, which counts for a class or module only."""
        if not self.late:
            self.visit(node.annotation)
        if node.value is not None:
            self.visit(node.value)


def _annotated(tree: ast.Module) -> Iterator[str]:
    """The names in annotations, those in texts apart."""
    for node in ast.walk(tree):
        found = [getattr(node, "annotation", None), getattr(node, "returns", None)]
        for each in found:
            if isinstance(each, ast.expr):
                yield from (name.id for name in ast.walk(each) if isinstance(name, ast.Name))
