"""What a name means in a file, by each language's own rules: one module a style of finding names."""

from __future__ import annotations

from isodesm.facts.languages import dialect_of
from isodesm.linking.naming.module_names import ModuleNames
from isodesm.linking.naming.names import FileNames, TypeTree
from isodesm.linking.naming.namespace_names import NamespaceNames
from isodesm.linking.naming.package_names import PackageNames

STYLES: dict[str, type[FileNames]] = {"packages": PackageNames, "namespaces": NamespaceNames, "modules": ModuleNames}


def names_of_file(tree: TypeTree, number: int) -> FileNames:
    """The names of one file, by the style of its language."""
    return STYLES[dialect_of(tree.symbols.files[number].language).style](tree, number)
