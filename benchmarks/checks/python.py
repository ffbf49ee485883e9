"""`python.py ROOT [PACKAGE ...] [--stand-ins] [--gives NAME] [--begins-with MODULE]`: what is amiss in Python, a line each.

Three kinds: what does not compile; names that nothing defines, as pyflakes sees them; and modules that do not import, each
tried first thing in a process of its own, so that rings of imports show whichever module comes first. With `--stand-ins`,
libraries are stood in for by classes that can be extended, called, compared and given to decorators, so that an application
imports without them; names that end in `Meta` are metaclasses.

Without PACKAGE, all packages at the top of ROOT. `--gives` are names that the program puts among the built-in ones;
`--begins-with` what it imports before anything else.
"""

from __future__ import annotations

import argparse
import ast
import builtins
import importlib
import importlib.abc
import importlib.machinery
import os
import sys
import types
import warnings
from collections.abc import Collection, Iterator, Sequence
from pathlib import Path

from pyflakes import checker, messages

KEPT = (
    messages.UndefinedName,
    messages.UndefinedExport,
    messages.UndefinedLocal,
    messages.DuplicateArgument,
    messages.RedefinedWhileUnused,
)
LEFT = {"tests", "testing", "test", "__pycache__", "node_modules"}
"""Folders whose modules nobody imports but a runner of tests."""


def _nothing(*_: object, **__: object) -> None:
    return None


class StandIn(type):
    """The kind of all stand-ins: a class that has every attribute, and takes part in most expressions."""

    def __getattr__(cls, name: str) -> object:
        if name.startswith("__") and name.endswith("__"):
            raise AttributeError(name)
        made = type(name, (type,), {}) if name.endswith("Meta") else StandIn(name, (), _members(cls))
        setattr(cls, name, made)
        return made

    def __or__(cls, other: object) -> object:
        return cls

    def __ror__(cls, other: object) -> object:
        return cls

    def __getitem__(cls, key: object) -> object:
        return cls

    def __iter__(cls) -> Iterator[object]:
        return iter(())

    def __len__(cls) -> int:
        return 0

    def __contains__(cls, item: object) -> bool:
        return False

    def __bool__(cls) -> bool:
        return True

    def __index__(cls) -> int:
        return 0


def _decorated(function: object) -> object:
    """What a decorator of a library gives: the function, with what goes on for one that has become a property."""
    if isinstance(function, types.FunctionType):
        for name in ("getter", "setter", "deleter", "register"):
            setattr(function, name, _decorated)
    return function


def _members(owner: type) -> dict[str, object]:
    """What an object of a stand-in can be asked."""

    def member(self: object, name: str) -> object:
        if name.startswith("__"):
            raise AttributeError(name)
        return getattr(owner, name)

    return {
        "__init__": _nothing,
        "__call__": lambda self, function=None, *_, **__: _decorated(function),
        "__getattr__": member,
        "__iter__": lambda self: iter(()),
        "__enter__": lambda self: self,
        "__exit__": _nothing,
        "__or__": lambda self, other: self,
        "__getitem__": lambda self, key: self,
        "__index__": lambda self: 0,
    }


def _operators() -> None:
    """Let stand-ins be added, compared and so on, as constants of libraries are."""
    for name in ("add", "sub", "mul", "mod", "and", "xor", "lshift", "rshift", "truediv", "floordiv"):
        for side in ("", "r"):
            setattr(StandIn, f"__{side}{name}__", lambda cls, other: other if isinstance(other, str) else cls)
    for name in ("lt", "le", "gt", "ge"):
        setattr(StandIn, f"__{name}__", lambda cls, other: False)


class StandInModule(types.ModuleType):
    """A module of a library: everything that is asked of it is a stand-in."""

    __path__: list[str] = []
    __version__ = "999.0"  # new enough for whoever asks
    __file__ = "library.py"

    def __getattr__(self, name: str) -> object:
        if name.startswith("__") and name.endswith("__"):
            raise AttributeError(name)
        made = getattr(StandIn("library", (), {}), name)
        setattr(self, name, made)
        return made


class Finder(importlib.abc.MetaPathFinder, importlib.abc.Loader):
    """Finds a stand-in for all that is neither the application's nor the language's own, be it installed or not: what comes
    of it is the same on every machine."""

    def __init__(self, known: Collection[str]) -> None:
        self.known = known

    def find_spec(self, fullname: str, path: object = None, target: object = None) -> importlib.machinery.ModuleSpec | None:
        known = fullname.partition(".")[0] in self.known
        return None if known else importlib.machinery.ModuleSpec(fullname, self, is_package=True)

    def create_module(self, spec: importlib.machinery.ModuleSpec) -> types.ModuleType:
        return StandInModule(spec.name)

    def exec_module(self, module: types.ModuleType) -> None:
        return None


def sources(root: Path, package: str) -> Iterator[Path]:
    """The source files of a package, in order; for a module of one file that."""
    if (root / f"{package}.py").is_file():
        yield root / f"{package}.py"
    for path in sorted((root / package).rglob("*.py")):
        if not any(part == "__pycache__" or part.startswith(".") for part in path.relative_to(root).parts):
            yield path


def read(root: Path, path: Path, given: Sequence[str]) -> list[str]:
    """What a file says by itself: that it doesn't compile, or which names it lacks, those apart that the program `given`."""
    name, text = path.relative_to(root), path.read_bytes()
    try:
        tree = ast.parse(text)
        compile(text, str(path), "exec", dont_inherit=True)
    except (SyntaxError, ValueError) as error:
        return [f"{name}: does not compile: {error}"]
    said = checker.Checker(tree, str(path), builtins=set(given)).messages
    return [f"{name}: {each.message % each.message_args}" for each in said if isinstance(each, KEPT)]


def module_of(root: Path, path: Path) -> str:
    """The name by which a file is imported; '' for one that is run, or that only tests import."""
    parts = path.relative_to(root).with_suffix("").parts
    packages = [root.joinpath(*parts[:depth]) / "__init__.py" for depth in range(1, len(parts))]
    if parts[-1] == "__main__" or LEFT & set(parts) or not all(each.is_file() for each in packages):
        return ""
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def imports(name: str) -> str:
    """What goes wrong when a process imports a module first thing; '' for nothing."""
    read_end, write_end = os.pipe()
    child = os.fork()
    if not child:
        os.close(read_end)
        quiet = os.open(os.devnull, os.O_WRONLY)
        os.dup2(quiet, 1)
        os.dup2(quiet, 2)
        sys.argv = [name]
        said = ""
        try:
            importlib.import_module(name)
        except BaseException as error:  # a module may end the program, too
            said = f"{name} does not import: {type(error).__name__}: {str(error)[:200]}"
        os.write(write_end, said.encode())
        os._exit(0)
    os.close(write_end)
    with os.fdopen(read_end, "rb") as pipe:
        said = pipe.read().decode()
    os.waitpid(child, 0)
    return " ".join(said.split())


def packages_of(root: Path) -> list[str]:
    """The packages at the top of a tree."""
    found = sorted(path.parent.name for path in root.glob("*/__init__.py"))
    return [each for each in found if each not in LEFT]


def main() -> None:
    """Print what is amiss, a line each."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("root", type=Path)
    parser.add_argument("package", nargs="*")
    parser.add_argument("--stand-ins", action="store_true")
    parser.add_argument("--gives", action="append", default=[])
    parser.add_argument("--begins-with", action="append", default=[])
    asked = parser.parse_args()
    root = asked.root.resolve()
    packages = asked.package or packages_of(root)
    warnings.simplefilter("ignore")
    sys.dont_write_bytecode = True
    _operators()
    if asked.stand_ins:
        sys.meta_path.insert(0, Finder({*packages, *sys.stdlib_module_names}))
        sys.meta_path.append(Finder(packages))  # what the language had once
    for name in asked.gives:
        setattr(builtins, name, lambda *given, **_: given[0] if given else None)
    sys.path.insert(0, str(root))
    files = [path for package in packages for path in sources(root, package)]
    for path in files:
        for said in read(root, path, asked.gives):
            print(said)
    for name in asked.begins_with:
        try:
            importlib.import_module(name)
        except BaseException as error:  # a module may end the program, too
            print(f"{name} does not import: {type(error).__name__}: {error}")
    sys.stdout.flush()
    for name in filter(None, (module_of(root, path) for path in files)):
        if said := imports(name):
            print(said, flush=True)


if __name__ == "__main__":
    main()
