"""What a name means in a file, by each language's own rules: one module a style of finding names."""

from __future__ import annotations

from isodesm.facts.languages import dialect_of
from isodesm.linking.bonds import Names
from isodesm.linking.hierarchy import Hierarchy
from isodesm.linking.naming.module_names import ModuleNames
from isodesm.linking.naming.names import FileNames
from isodesm.linking.naming.namespace_names import NamespaceNames
from isodesm.linking.naming.package_names import PackageNames
from isodesm.linking.symbols import Symbols

STYLES: dict[str, type[FileNames]] = {"packages": PackageNames, "namespaces": NamespaceNames, "modules": ModuleNames}


def names_of_file(hierarchy: Hierarchy, number: int) -> FileNames:
    """The names of one file, by the style of its language."""
    return STYLES[dialect_of(hierarchy.symbols.files[number].language).style](hierarchy, number)


def hierarchy_of(symbols: Symbols, externals: Names) -> Hierarchy:
    """The hierarchy of a tree, in which the names of each file are found by the style of its language."""
    return Hierarchy(symbols, externals, names_of_file)
