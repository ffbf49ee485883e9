"""Which file a module name means, for the languages whose files are modules."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import PurePosixPath

from isodesm.facts.languages import dialect_of
from isodesm.facts.records import FileFacts
from isodesm.reading.projects import Projects

INDEX_NAMES = ("__init__", "index")
"""File names that stand for the folder they lie in."""


def without_suffix(path: str) -> str:
    """A path without the suffix that makes it source: `a/b.ts` gives `a/b`."""
    folder, slash, name = path.rpartition("/")
    return folder + slash + name.rpartition(".")[0]


class Modules:
    """The modules of one language. `names[file]` is a file's module name as it goes into qualified names."""

    def __init__(self, language: str, files: Iterable[tuple[int, FileFacts]], projects: Projects) -> None:
        self.projects = projects
        self.dotted = dialect_of(language).dotted_modules
        self.by_path: dict[str, int] = {}
        """Path without suffix, and for an index file its folder, to file number."""
        self.folders: set[str] = set()
        self.names: dict[int, str] = {}
        self.by_name: dict[str, list[int]] = {}
        self._tops: dict[int, str] = {}
        self._found: dict[tuple[str, str], int] = {}
        numbered = sorted(files, key=lambda each: (each[1].path.endswith((".js", ".jsx", ".mjs", ".cjs")), each[0]))
        for number, facts in numbered:  # of two files that differ in suffix, the typed one is the module
            path = without_suffix(facts.path)
            self.by_path.setdefault(path, number)
            folder, _, name = path.rpartition("/")
            if name in INDEX_NAMES:
                self.by_path.setdefault(folder, number)
            self.folders.update(str(each) for each in PurePosixPath(facts.path).parents)
        for number, facts in numbered:
            self._name(number, without_suffix(facts.path))

    def _name(self, number: int, path: str) -> None:
        folder, _, name = path.rpartition("/")
        if not self.dotted:
            self.names[number], self._tops[number] = path, folder
            return
        parts = [] if name == "__init__" else [name]
        while folder and f"{folder}/__init__" in self.by_path:
            folder, _, last = folder.rpartition("/")
            parts.insert(0, last)
        if not folder and (not parts or len(parts) == path.count("/") + (name != "__init__")):
            parts = [*self.projects.package_above, *parts]  # the root is a package itself
        self.names[number] = ".".join(parts) or name
        self._tops[number] = folder
        self.by_name.setdefault(self.names[number], []).append(number)

    def find(self, name: str, asker: int, path: str) -> int:
        """The file that module `name` means in file number `asker` at `path`; -1 for one outside the tree."""
        key = (name, path.rpartition("/")[0])
        found = self._found.get(key)
        if found is None:
            found = self._found[key] = self._dotted(name, asker, path) if self.dotted else self._by_path(name, path)
        return found

    def below(self, file: int, name: str, path: str) -> int:
        """The submodule `name` of a package that is the file at `path`; -1 for none."""
        folder, _, stem = without_suffix(path).rpartition("/")
        return self.by_path.get(_join(folder, name), -1) if self.dotted and stem in INDEX_NAMES else -1

    # --- dotted names -------------------------------------------------------------------------

    def _dotted(self, name: str, asker: int, path: str) -> int:
        if name.startswith("."):
            rest = name.lstrip(".")
            folder = path.rpartition("/")[0]
            for _ in range(len(name) - len(rest) - 1):
                folder = folder.rpartition("/")[0]
            return self.by_path.get(_join(folder, rest.replace(".", "/")), -1)
        below = name.replace(".", "/")
        folder = self._tops[asker]
        while True:  # beside the top folder of the asker's package, then in the folders above
            if (found := self.by_path.get(_join(folder, below), -1)) >= 0:
                return found
            if not folder:
                break
            folder = folder.rpartition("/")[0]
        named = self.by_name.get(name, [])
        return named[0] if named else -1

    def is_folder(self, name: str, asker: int) -> bool:
        """Whether a dotted name means a folder of the tree that holds modules without being a package itself."""
        below = name.replace(".", "/")
        folder = self._tops[asker]
        while True:
            if _join(folder, below) in self.folders:
                return True
            if not folder:
                return False
            folder = folder.rpartition("/")[0]

    # --- paths --------------------------------------------------------------------------------

    def _by_path(self, name: str, path: str) -> int:
        folder = path.rpartition("/")[0]
        if name.startswith("."):
            return self._file_at(_normal(_join(folder, name)))
        for candidate in self.projects.candidates(name, folder):
            if (found := self._file_at(candidate)) >= 0:
                return found
        return -1

    def _file_at(self, path: str) -> int:
        for each in (path, without_suffix(path) if path.endswith((".js", ".mjs", ".cjs", ".jsx", ".ts", ".tsx")) else path):
            if (found := self.by_path.get(each, -1)) >= 0:
                return found
        return -1


def _join(folder: str, name: str) -> str:
    return f"{folder}/{name}".strip("/") if folder else name.strip("/")


def _normal(path: str) -> str:
    """A path without `.` and `..` segments."""
    parts: list[str] = []
    for part in path.split("/"):
        if part == ".." and parts:
            parts.pop()
        elif part not in ("", ".", ".."):
            parts.append(part)
    return "/".join(parts)
