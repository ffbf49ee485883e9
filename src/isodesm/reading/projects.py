"""Project files that say where module names lead: path aliases, base folders, and the packages of a workspace."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import msgspec

from isodesm.catalogue import catalogue_of
from isodesm.disk.opening import read_plain
from isodesm.facts.languages import LANGUAGES, dialect_of
from isodesm.facts.records import Trouble

PROJECT_NAMES = ("tsconfig.json", "jsconfig.json", "package.json", "tsconfig.base.json")
BUILT_FOLDERS = ("dist/types", "dist/esm", "dist/cjs", "dist", "lib/esm", "lib", "build", "out")
"""Where a package keeps what was built from `src`."""

PROJECT_SUFFIXES = (".csproj", "Directory.Build.props")
"""Ends of the names of project files that say which namespaces are known everywhere."""
LARGEST = 5_000_000
"""Bytes of the largest project file that is read."""
MOST_EXTENDED = 50
"""Files that one project file may extend, over any number of steps."""
_IMPLICIT = re.compile(r"<ImplicitUsings>\s*(?:enable|true)\s*</ImplicitUsings>", re.IGNORECASE)
_USING = re.compile(r"<Using\s+Include\s*=\s*\"([\w.]+)\"\s*/?>")
_REMOVED = re.compile(r"<Using\s+Remove\s*=\s*\"([\w.]+)\"")
_SDK = re.compile(r"<Project(?:[^>S]|S(?!dk\s*+=)){0,2000}+Sdk\s*+=\s*+\"([\w.]++)")

_REMARKS = re.compile(r'("(?>(?:[^"\\]|\\.)*)(?:"|$))|//[^\n]*|/\*(?>(?:[^*]|\*(?!/))*)(?:\*/|$)', re.DOTALL)
_COMMAS = re.compile(r'("(?>(?:[^"\\]|\\.)*)(?:"|$))|,(?>\s*)(?=[}\]])', re.DOTALL)
"""What is not in plain JSON; texts are matched first, so that nothing is found inside them. Each character is looked at a
fixed number of times."""


def read_lenient(content: bytes) -> Any:
    """JSON with remarks and trailing commas; ValueError for what is none even so."""
    text = content.decode("utf-8-sig", "replace")
    text = _REMARKS.sub(lambda found: found[1] or " ", text)
    text = _COMMAS.sub(lambda found: found[1] or "", text)
    return msgspec.json.decode(text.encode())


class Projects:
    """The project files of a tree. `candidates` says which paths a module name may mean."""

    def __init__(self, root: Path = Path(), paths: Iterable[str] = (), folders: Iterable[str] = ()) -> None:
        self.root = root
        self.folders = tuple(folders)
        """Folders with a file that says how a project is built."""
        self.trouble: list[Trouble] = []
        self.packages: dict[str, str] = {}
        """Name of a package in the tree to its folder."""
        self.package_above = package_above(root) if root is not None else ()
        """Names of the packages that the root itself lies in, outermost first, the root's own among them."""
        self.usings: list[tuple[str, str]] = []
        """(folder, namespace) of what a project file makes known to all files below it."""
        self._entries: dict[str, list[str]] = {}
        self._aliases: dict[str, list[tuple[str, list[str]]]] = {}
        """Folder of a project file to its (pattern, targets) pairs, targets relative to the root."""
        self._nearest: dict[str, list[tuple[str, list[str]]]] = {}
        for path in sorted(paths):
            folder, _, name = path.rpartition("/")
            if name.endswith(PROJECT_SUFFIXES):
                self.usings += [(folder, each) for each in self._usings_of(path)]
                continue
            content = self._read(path)
            if isinstance(content, dict):
                if name == "package.json":
                    self._add_package(folder, content)
                elif name != "tsconfig.base.json":
                    self._aliases[folder] = self._paths_of(folder, content, {path})

    def _read(self, path: str) -> Any:
        try:
            return read_lenient(read_plain(self.root / path, LARGEST))
        except RecursionError:
            reason = "it is nested too deeply"
        except (OSError, ValueError, msgspec.DecodeError) as error:
            reason = f"it can't be read as JSON: {getattr(error, 'strerror', '') or error}"
        self.trouble.append(Trouble(path=path, reason=f"is not used, {reason}"))
        return None

    def _usings_of(self, path: str) -> list[str]:
        """Namespaces that a project file makes known everywhere: those it names, and if it says so those of its kind."""
        try:
            text = read_plain(self.root / path, LARGEST).decode("utf-8-sig", "replace")
        except OSError as error:
            self.trouble.append(Trouble(path=path, reason=f"is not used, it can't be read: {error.strerror}"))
            return []
        found = _USING.findall(text)
        if _IMPLICIT.search(text):
            known = next(catalogue_of(each).implicit_usings for each in LANGUAGES if dialect_of(each).project_usings)
            kind = _SDK.search(text)
            found += known.get("all", ())
            found += known.get(kind.group(1), ()) if kind else ()
        removed = set(_REMOVED.findall(text))
        return [each for each in dict.fromkeys(found) if each not in removed]

    def _add_package(self, folder: str, content: dict[str, Any]) -> None:
        name = content.get("name")
        if not isinstance(name, str):
            return
        self.packages[name] = folder
        entries = [content.get(key) for key in ("source", "types", "typings", "module", "main")]
        self._entries[name] = [each for each in entries if isinstance(each, str)]

    def _paths_of(self, folder: str, content: dict[str, Any], seen: set[str]) -> list[tuple[str, list[str]]]:
        """The aliases of a project file, and those of the files it extends behind them, each but once."""
        options = content.get("compilerOptions")
        options = options if isinstance(options, dict) else {}
        base = options.get("baseUrl")
        home = posixpath.normpath(posixpath.join(folder, base)) if isinstance(base, str) else folder
        found = []
        paths = options.get("paths")
        for pattern, targets in paths.items() if isinstance(paths, dict) else ():
            if isinstance(targets, list):
                found.append((pattern, [_inside(posixpath.join(home, each)) for each in targets if isinstance(each, str)]))
        if isinstance(base, str):
            found.append(("*", [_inside(f"{home}/*")]))
        extended = content.get("extends")
        for each in [extended] if isinstance(extended, str) else extended if isinstance(extended, list) else ():
            if isinstance(each, str) and each.startswith("."):
                path = _inside(posixpath.join(folder, each if each.endswith(".json") else f"{each}.json"))
                if path in seen or len(seen) > MOST_EXTENDED:
                    continue
                seen.add(path)
                above = self._read(path) if self.root and (self.root / path).is_file() else None
                if isinstance(above, dict):
                    found += self._paths_of(path.rpartition("/")[0], above, seen)
        return found

    def candidates(self, name: str, folder: str) -> list[str]:
        """Paths, relative to the root and without suffix, that a module name used in `folder` may mean."""
        found = []
        for pattern, targets in self._aliases_for(folder):
            head, star, tail = pattern.partition("*")
            if star and name.startswith(head) and name.endswith(tail) and len(name) >= len(head) + len(tail):
                middle = name[len(head) : len(name) - len(tail) or None]
                found += [target.replace("*", middle) for target in targets]
            elif name == pattern:
                found += targets
        for package in (name, *_heads(name)):
            if package in self.packages:
                found += self._in_package(package, name[len(package) + 1 :])
                break
        return found

    def _in_package(self, package: str, rest: str) -> list[str]:
        folder = self.packages[package]
        if rest:
            return [_inside(f"{folder}/{each}") for each in (f"src/{rest}", rest, *_sources(rest))]
        found = [f"{folder}/src/index", f"{folder}/index", f"{folder}/src/main"]
        for entry in self._entries[package]:
            plain = re.sub(r"(\.d)?\.[cm]?[jt]sx?$", "", entry)
            found += [f"{folder}/{each}" for each in (*_sources(plain), plain)]
        return [_inside(each) for each in found]

    def _aliases_for(self, folder: str) -> list[tuple[str, list[str]]]:
        found = self._nearest.get(folder)
        if found is None:
            if folder in self._aliases:
                found = self._aliases[folder]
            else:
                found = self._aliases_for(folder.rpartition("/")[0]) if folder else []
            self._nearest[folder] = found
        return found


def package_above(root: Path) -> tuple[str, ...]:
    """The packages that a folder lies in, going up for as long as each folder is one."""
    parts: list[str] = []
    folder = root.resolve()
    while (folder / "__init__.py").is_file() and folder.name:
        parts.insert(0, folder.name)
        folder = folder.parent
    return tuple(parts)


def _sources(path: str) -> list[str]:
    """Where the source of a built file may lie."""
    path = path.removeprefix("./")
    return [f"src/{path[len(built) + 1 :]}" for built in BUILT_FOLDERS if path.startswith(f"{built}/")]


def _heads(name: str) -> list[str]:
    """`@a/b/c/d` gives `@a/b/c` and `@a/b`."""
    parts = name.split("/")
    return ["/".join(parts[:end]) for end in range(len(parts) - 1, 0, -1)]


def _inside(path: str) -> str:
    """A path made plain; one that leads out of the tree is cut off at the root."""
    plain = posixpath.normpath(path)
    return "" if plain == "." else plain.lstrip("./")
