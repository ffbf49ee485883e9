"""Names as code writes them: what a type is called in a file, what it must import, and which it has for something else."""

from __future__ import annotations

import posixpath
import re
from collections import defaultdict
from collections.abc import Iterable, Iterator
from pathlib import PurePosixPath

from isodesm.codebase.model import Codebase
from isodesm.facts.records import FileFacts, Import
from isodesm.linking.bonds import UNKNOWN
from isodesm.linking.remembering import remembered
from isodesm.planning.language import language_named
from isodesm.planning.model.code import Need
from isodesm.reading.modules import without_suffix

GIVEN_TYPES = frozenset("string number boolean unknown any void never undefined null object symbol bigint typeof".split())
"""Names of types that no module has to import."""
EVERYTHING = "*"
"""Name of a need that is all of a package or namespace."""
_ALIAS = re.compile(rb"^export\s+(?:declare\s+)?type\s+(\w+)", re.MULTILINE)
_DEFAULT = re.compile(rb"^export\s+default\s+(?:abstract\s+)?(?:class\s+|function\s+)?(\w+)\b(?!\()", re.MULTILINE)
_NAMED = re.compile(rb"^export\s+(?:declare\s+)?(?:abstract\s+)?(?:class|interface|function|const|enum)\s+(\w+)", re.MULTILINE)
_TAKES = re.compile(r"(?:\([^()]*+\)|\b\w++)\s*+(?::[^=():]++)?+=>|\blambda\b[^:]*+:|\([^()]*+\)\s*+->|\b\w++\s*+->(?!\w)")
"""What a function without a name takes."""
_NAME = re.compile(r"(?<![\w.$>\"'\\])([A-Za-z_]\w*)")


def home_of(codebase: Codebase, number: int) -> str:
    """The package, namespace or module that a type is imported from; a module of a path begins with a slash."""
    symbols = codebase.symbols
    declared, file = symbols.types[number], symbols.files[symbols.file_of[number]]
    style = symbols.dialect(number)
    if style.style != "modules":
        return declared.space if style.style == "namespaces" else file.package
    return home_of_file(codebase, symbols.file_of[number])


def home_of_file(codebase: Codebase, file: int) -> str:
    """The module that a file is, as others import it."""
    facts = codebase.symbols.files[file]
    modules = codebase.symbols.modules[facts.language]
    return _imported_as(codebase).get(file, modules.names[file]) if modules.dotted else f"/{modules.names[file]}"


@remembered
def _imported_as(codebase: Codebase) -> dict[int, str]:
    """File to the longest dotted name under which others import it: in folders that are no packages, only they tell where
    the root is."""
    found: dict[int, str] = {}
    for number, facts in enumerate(codebase.symbols.files):
        modules = codebase.symbols.modules.get(facts.language)
        if modules is None or not modules.dotted:
            continue
        for each in facts.imports:
            if "." in each.name and not each.name.startswith("."):
                file = modules.find(each.name, number, facts.path)
                if file >= 0 and len(each.name) > len(max(found.get(file, ""), modules.names[file], key=len)):
                    found[file] = each.name
    return found


def need_of_type(codebase: Codebase, number: int) -> Need:
    """What must be imported to name a type: of one inside another the outer."""
    symbols = codebase.symbols
    name = symbols.types[number].path.partition(".")[0]
    return Need(name, home_of(codebase, number), member=_handed_out_as(codebase, symbols.file_of[number], name))


@remembered
def _types_inside(codebase: Codebase) -> dict[int, dict[str, str]]:
    """Classes to the types inside them: by the name that the class itself has for each, as others name it."""
    symbols, found = codebase.symbols, defaultdict[int, dict[str, str]](dict)
    for number, declared in enumerate(symbols.types):
        if declared.outer >= 0 and declared.name:
            found[symbols.outer(number)][declared.name] = declared.path
    return dict(found)


def as_others_name(codebase: Codebase, number: int, text: str) -> str:
    """The text of types as a class has it, with those inside the class named as others have to."""
    inner = _types_inside(codebase).get(number, {})
    return re.sub(r"(?<![\w.])[A-Za-z_]\w*+", lambda found: inner.get(found[0], found[0]), text) if inner else text


def is_bound(codebase: Codebase, file: int, need: Need) -> bool:
    """Whether a file can write a name already."""
    facts = codebase.symbols.files[file]
    style = codebase.symbols.dialect(codebase.symbols.first[file]).style if facts.types else "modules"
    if _is_imported(facts, need.name):
        return True
    if style == "modules":
        return home_of_file(codebase, file) == need.home
    if need.member:  # goes by another name where it lives
        return False
    spaces = {facts.package, *(declared.space for declared in facts.types)}
    if style == "namespaces" and language_named(facts.language).namespaces_nest:
        around = {space[:at] for space in spaces for at in (*(m.start() for m in re.finditer(r"\.", space)), len(space))}
        return need.home in around or not need.home or any(each.name == need.home and each.wildcard for each in facts.imports)
    implicit = codebase.symbols.catalogues.of(facts.language).implicit.package
    return (
        need.home in spaces
        or (bool(need.home) and need.home == implicit)
        or any(each.name == need.home and each.wildcard for each in facts.imports)
    )


def _is_imported(facts: FileFacts, name: str) -> bool:
    """Whether a file imports something by a name; in languages with imports in functions, for all of it."""
    here = language_named(facts.language).imports_run_modules
    bound = (each for each in facts.imports if each.alias == name and not each.wildcard and not each.exported)
    return any(not here or each.within == (0, 0) for each in bound)


def knows_names(codebase: Codebase, file: int, text: str) -> bool:
    """Whether a file of modules has all names in the text of a type, which another may have written."""
    facts = codebase.symbols.files[file]
    known = {each.alias for each in facts.imports} | {each.name for each in facts.types} | GIVEN_TYPES
    known |= language_named(facts.language).builtin_names
    named = re.findall(r"(?<![\w.])[A-Za-z_]\w*", typetext_free(text))
    return codebase.symbols.dialect(codebase.symbols.first[file]).style != "modules" or known.issuperset(named)


def clash_in(codebase: Codebase, file: int, needs: Iterable[Need]) -> str:
    """A name that a file would have to import and has for something else already; '' for none."""
    facts = codebase.symbols.files[file]
    bound = {each.alias for each in facts.imports if not each.wildcard and each.within == (0, 0)}
    for need in needs:
        if need.home and need.name in bound and not _is_same(codebase, file, need):
            return need.name
        if need.home and need.name not in bound and _means_another(codebase, file, need):
            return need.name
    return ""


def _means_another(codebase: Codebase, file: int, need: Need) -> bool:
    """Whether a file names a type of the tree by the name of a need without importing it: as one of its own package."""
    if need.name == EVERYTHING or codebase.symbols.dialect(codebase.symbols.first[file]).style == "modules":
        return False
    resolved = codebase.hierarchy.file(file).resolve(need.name, 0, -1)
    if resolved < 0 or home_of(codebase, resolved) == need.home:
        return False
    return re.search(rb"(?<![\w.$])" + re.escape(need.name.encode()) + rb"\b", codebase.text(file)) is not None


def _is_same(codebase: Codebase, file: int, need: Need) -> bool:
    """Whether a name that a file has bound is that of a need, as far as can be seen: over modules that hand it on, too."""
    resolved = codebase.hierarchy.file(file).resolve(need.name, 0, -1)
    own = _need(codebase, file, 0, need.name)
    if own is not None and own.home == need.home:
        return True
    if resolved >= 0:
        return home_of(codebase, resolved) == need.home
    dialect = codebase.symbols.dialect(codebase.symbols.first[file])
    if dialect.style == "modules":
        return need.home.split(".")[0] not in {name.split(".")[0] for name in _homes(codebase)} or need.whole
    return codebase.target_name(resolved) == f"{need.home}{dialect.separator}{need.name}"


@remembered
def _homes(codebase: Codebase) -> frozenset[str]:
    """Modules and packages of the tree."""
    return frozenset(home_of_file(codebase, file) for file in range(len(codebase.symbols.files)))


def with_names(text: str, names: dict[str, str]) -> str:
    """Code with some names in the place of others; '' where it does not have all of them, or one with more in front."""
    found = {name: re.findall(rf"(\\?)\b{re.escape(name)}\b", text) for name in names}
    if any(not each or "\\" in each for each in found.values()):
        return ""
    return re.sub("|".join(rf"\b{re.escape(name)}\b" for name in names), lambda each: names[each[0]], text)


def needs_of_text(codebase: Codebase, file: int, local: int, text: str) -> tuple[Need, ...]:
    """What another file must import to hold an expression or type text of this one, in order of name."""
    plain = typetext_free(text)
    own = {name for found in _TAKES.finditer(plain) for name in _taken_by(found[0])}
    names = [each for each in dict.fromkeys(_NAME.findall(plain)) if each not in own]
    return tuple(sorted({need for name in names for need in _needs(codebase, file, local, name)}))


def _taken_by(head: str) -> Iterator[str]:
    """What the parameters of a function without a name are called, their types left out."""
    listed = head[head.find("(") + 1 : head.rfind(")")] if "(" in head else head.removeprefix("lambda").rstrip("->=: ")
    for part in listed.split(","):
        named = re.search(r"\b(\w++)\??\s*+(?:[:=].*)?$", part.strip())
        if named is not None:
            yield named[1]


def settled_needs(named: Iterable[Need], known: Iterable[Need]) -> list[Need]:
    """Needs that were read off a text, those of a name as others that are `known` have it: of what is new, no text says where
    it lives."""
    homes = {each.name: each for each in known if each.name != EVERYTHING}
    return list(dict.fromkeys(homes.get(each.name, each) for each in named))


def typetext_free(text: str) -> str:
    """Code without the contents of its strings."""
    return re.sub(r"\"(?:\\.|[^\"\\])*\"|'(?:\\.|[^'\\])*'", '""', text)


def _needs(codebase: Codebase, file: int, local: int, name: str) -> list[Need]:
    """What a name comes from; where that can't be seen, everything that the file imports as a whole from outside."""
    need = _need(codebase, file, local, name)
    if need is not None:
        return [need]
    facts = codebase.symbols.files[file]
    if len(name) < 2 or not name[0].isupper() or codebase.symbols.dialect(codebase.symbols.first[file]).style == "modules":
        return []
    if codebase.hierarchy.file(file).resolve(name, local, -1) >= 0:
        return []
    whole = [each.name for each in facts.imports if each.wildcard and not each.static]
    said = [each for each in whole if each in _imported_from(codebase, facts.language).get(name, ())]
    if len(said) == 1:
        return [Need(name, said[0])]
    return [] if any(each.split(".")[0] == name for each in whole) else [Need(EVERYTHING, each) for each in whole]


@remembered
def _imported_from(codebase: Codebase, language: str) -> dict[str, set[str]]:
    """Names to the packages that files of the tree import them from one by one."""
    found: dict[str, set[str]] = defaultdict(set)
    for facts in codebase.symbols.files:
        for each in facts.imports if facts.language == language else ():
            if not each.wildcard and not each.static:
                package, _, name = each.name.rpartition(".")
                found[name].add(package)
    return found


def _need(codebase: Codebase, file: int, local: int, name: str) -> Need | None:
    facts = codebase.symbols.files[file]
    imported = next((each for each in facts.imports if each.alias == name and not each.wildcard), None)
    if codebase.symbols.dialect(codebase.symbols.first[file]).style == "modules":
        if imported is not None:
            return _need_of_import(codebase, file, imported)
        here = any(declared.name == name and declared.outer < 0 for declared in facts.types) or any(
            member.name == name for declared in facts.types if declared.kind == "module" for member in declared.members
        )
        here = here or (language_named(facts.language).type_aliases and name in _exported_types(codebase, file))
        return Need(name, home_of_file(codebase, file), member=_handed_out_as(codebase, file, name)) if here else None
    resolved = codebase.hierarchy.file(file).resolve(name, local, -1)
    if resolved == UNKNOWN or (resolved < 0 and imported is None and not name[0].isupper()):
        return None  # what only a whole package could hold is no type by such a name
    if resolved >= 0:
        return _under_own_name(need_of_type(codebase, resolved), imported)
    separator = codebase.symbols.dialect(codebase.symbols.first[file]).separator
    home, _, last = codebase.target_name(resolved).rpartition(separator)
    return _under_own_name(Need(last, home), imported) if home or imported is not None else None


def _under_own_name(need: Need, imported: Import | None) -> Need:
    """What a file that imports something under a name of its own needs: others must do so, too, to hold the same text."""
    renamed = imported is not None and imported.alias not in ("", need.name)
    return need._replace(name=imported.alias, member=need.name) if renamed and imported is not None else need


def _handed_out_as(codebase: Codebase, file: int, name: str) -> str:
    """`default` for what a module hands out under no name; else ''."""
    if not language_named(codebase.symbols.files[file].language).default_exports:
        return ""
    return "default" if name in _defaults(codebase, file) else ""


@remembered
def _defaults(codebase: Codebase, file: int) -> frozenset[str]:
    text = codebase.text(file)
    named = {found.decode() for found in _NAMED.findall(text)}
    return frozenset(name.decode() for name in _DEFAULT.findall(text) if name.decode() not in named)


@remembered
def _exported_types(codebase: Codebase, file: int) -> frozenset[str]:
    """Names of types that a module hands out and that declare nothing which can be depended on: aliases."""
    return frozenset(name.decode() for name in _ALIAS.findall(codebase.text(file)))


def _need_of_import(codebase: Codebase, file: int, given: Import) -> Need:
    """An import of one file as another must write it: relative modules by their place in the tree."""
    name, path = given.name, PurePosixPath(codebase.symbols.files[file].path)
    if codebase.symbols.dialect(codebase.symbols.first[file]).dotted_modules:
        if name.startswith("."):
            dots = len(name) - len(name.lstrip("."))
            package = home_of_file(codebase, file).split(".")
            package = package if path.stem == "__init__" else package[:-1]
            name = ".".join([*package[: len(package) - dots + 1], *([name.lstrip(".")] if name.lstrip(".") else [])])
    elif name.startswith("."):
        found = codebase.symbols.modules[codebase.symbols.files[file].language].find(name, file, str(path))
        name = "/" + posixpath.normpath(posixpath.join(str(path.parent), name))
        if found >= 0 and without_suffix(name) == home_of_file(codebase, found):
            name = without_suffix(name)  # a path that says its suffix means the same module as one that doesn't
    other = given.member if given.alias not in ("", given.member) else ""
    return Need(given.alias or given.member, name, whole=not given.member, member=other)
