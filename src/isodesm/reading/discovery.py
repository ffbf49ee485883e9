"""Finds the source files of a tree, and counts what it leaves out and why."""

from __future__ import annotations

import os
import posixpath
import stat
from collections import Counter
from pathlib import Path

import msgspec

from isodesm.catalogue import shared_catalogue
from isodesm.disk.opening import LARGEST_RULES, NotPlain, read_plain, real_name, text_name
from isodesm.facts.definitions import SUFFIXES as DATA_SUFFIXES
from isodesm.facts.languages import LANGUAGES, dialect_of, language_by_suffix, not_source_names
from isodesm.facts.records import Trouble
from isodesm.reading.modules import without_suffix
from isodesm.reading.patterns import Patterns
from isodesm.reading.projects import BUILT_FOLDERS, PROJECT_NAMES, PROJECT_SUFFIXES
from isodesm.settings import Settings

ALWAYS_LEFT_OUT = frozenset(("node_modules", "__pycache__", "site-packages", "bower_components"))
"""Folder names that never hold the project's own source."""

BESIDE_A_BUILD_FILE = frozenset(("build", "target", "out", "bin", "obj", "dist", "vendor", "third_party", "third-party"))
"""Folder names that hold output or other people's code, but only next to a build file: elsewhere they are packages."""

DEPENDENCIES = frozenset(("vendor", "vendors", "third_party", "third-party", "thirdparty", "jspm_packages"))
"""Folder names that hold other people's code wherever they lie, unless source of a language of packages lies in them."""
LARGEST_MAP = 20_000_000
"""Bytes of a source map that is looked into."""
PACKAGED = (".java", ".cs", "__init__.py")

MOST_FAULTS = 20
"""Lines of one ignore file that are named because they can't be used."""
GENERATED_FOLDERS = frozenset(("generated", "generated-sources", "generated-test-sources", "__generated__"))


class SourceFile(msgspec.Struct, frozen=True, order=True, gc=False):
    """A file to read: `path` relative to the root, with `/`; `size` in bytes; the `digest` of its content where that is known,
    or whatever has been said in its place, which is none of any content."""

    path: str
    language: str
    size: int
    digest: str = ""


class Discovery(msgspec.Struct, frozen=True):
    """What a tree holds: files in order of path, project files, files of data that may define services, counts of what was
    left out by reason, trouble met, and the folders that are built as a project."""

    files: tuple[SourceFile, ...]
    projects: tuple[str, ...]
    data: tuple[str, ...]
    left_out: dict[str, int]
    trouble: tuple[Trouble, ...]
    manifests: tuple[str, ...] = ()


class _Search:
    """One walk; fills `files`, `left_out` and `trouble`."""

    def __init__(self, root: Path, settings: Settings) -> None:
        self.root, self.settings = root, settings
        self.files: list[SourceFile] = []
        build = shared_catalogue().build_files
        self.build_files, self.build_suffixes = frozenset(build.names.split()), tuple(build.suffixes.split())
        self.projects: list[str] = []
        manifests = shared_catalogue().manifests
        self.manifest_names, self.manifest_suffixes = frozenset(manifests.names.split()), tuple(manifests.suffixes.split())
        self.manifests: list[str] = []
        self.data: list[str] = []
        self.left_out: Counter[str] = Counter()
        self.trouble: list[Trouble] = []
        self.suffixes = {
            suffix: language
            for suffix, language in language_by_suffix().items()
            if not settings.languages or language in settings.languages
        }
        self.include = Patterns(settings.include)
        self.exclude = Patterns(settings.exclude)

    def walk(self, folder: str, ignores: tuple[tuple[str, Patterns], ...]) -> None:
        """Look through `folder` (relative, '' for the root) and below; without recursion, trees may be deep."""
        waiting = [(folder, ignores)]
        while waiting:
            folder, ignores = waiting.pop()
            try:
                with os.scandir(self.root / real_name(folder)) as listing:
                    entries = sorted(listing, key=lambda entry: entry.name)
            except OSError as error:
                self.trouble.append(Trouble(path=folder or ".", reason=f"can't be listed: {error.strerror}"))
                continue
            names = {entry.name for entry in entries}
            if ".gitignore" in names and (spec := self._read_ignores(f"{folder}/.gitignore".lstrip("/"))):
                ignores = (*ignores, (folder, spec))
            if any(name in self.manifest_names or name.endswith(self.manifest_suffixes) for name in names):
                self.manifests.append(folder)
            built = any(name in self.build_files or name.endswith(self.build_suffixes) for name in names)
            below = [
                (path, ignores)
                for entry in entries
                if (path := self._visit(entry, f"{folder}/{text_name(entry.name)}".lstrip("/"), ignores, built))
            ]
            waiting += reversed(below)

    def _read_ignores(self, path: str) -> Patterns | None:
        try:
            if os.path.islink(self.root / real_name(path)):
                raise NotPlain("is a link, which git does not follow, either")
            text = read_plain(self.root / real_name(path), LARGEST_RULES).decode("utf-8-sig", "replace")
        except OSError as error:
            self.trouble.append(Trouble(path=path, reason=f"ignore rules not used: {error.strerror or error}"))
            return None
        found = Patterns(text.split("\n"))
        self.trouble += [Trouble(path=path, line=each.line, reason=each.reason) for each in found.faults[:MOST_FAULTS]]
        return found

    def _visit(self, entry: os.DirEntry[str], path: str, ignores: tuple[tuple[str, Patterns], ...], built: bool) -> str:
        """Take note of a file; for a folder to look into, return its path, else ''."""
        try:
            if entry.is_symlink():
                if os.path.splitext(path)[1] in self.suffixes or entry.is_dir():
                    self.left_out["symbolic link"] += 1
                return ""
            if entry.is_dir(follow_symlinks=False):
                return self._visit_folder(entry.name, path, ignores, built)
        except OSError as error:
            self.trouble.append(Trouble(path=path, reason=f"can't be looked at: {error.strerror}"))
            return ""
        if entry.name in PROJECT_NAMES or entry.name.endswith(PROJECT_SUFFIXES):
            self.projects.append(path)
        suffix = os.path.splitext(entry.name)[1]
        if suffix in DATA_SUFFIXES and entry.is_file(follow_symlinks=False) and not _is_ignored(path, ignores):
            self.data.append(path)
        language = self.suffixes.get(suffix)
        if language and not entry.name.endswith(not_source_names()):
            self._visit_file(entry, path, language, ignores)
        return ""

    def _visit_folder(self, name: str, path: str, ignores: tuple[tuple[str, Patterns], ...], built: bool) -> str:
        reason = ""
        if name.startswith(".") or name in ALWAYS_LEFT_OUT:
            reason = "hidden or tool folder"
        elif built and name in BESIDE_A_BUILD_FILE:
            reason = "build or vendored folder"
        elif name in DEPENDENCIES and not self._holds_packages(path):
            reason = "build or vendored folder"
        elif name in GENERATED_FOLDERS:
            reason = "generated folder"
        elif _is_ignored(path + "/", ignores):
            reason = "ignored folder"
        elif self.exclude.mean(path + "/"):
            reason = "excluded by settings"
        if reason:
            self.left_out[reason] += 1
        return "" if reason else path

    def _holds_packages(self, path: str) -> bool:
        """Whether a folder with the name of one for dependencies is a package of the program."""
        try:
            with os.scandir(self.root / real_name(path)) as listing:
                return any(entry.name.endswith(PACKAGED) for entry in listing)
        except OSError:
            return False

    def _visit_file(self, entry: os.DirEntry[str], path: str, language: str, ignores: tuple[tuple[str, Patterns], ...]) -> None:
        state = entry.stat(follow_symlinks=False)
        if not stat.S_ISREG(state.st_mode):
            self.trouble.append(Trouble(path=path, reason="is not a regular file; left out"))
        elif state.st_size > self.settings.largest_file:
            size, limit = state.st_size / 1e6, self.settings.largest_file / 1e6
            reason = f"is {size:.1f} MB, over the limit of {limit:.1f} MB (setting `largest-file`); left out"
            self.trouble.append(Trouble(path=path, reason=reason))
        elif _is_ignored(path, ignores):
            self.left_out["ignored file"] += 1
        elif self.exclude.mean(path) or (self.include and not self.include.mean(path)):
            self.left_out["excluded by settings"] += 1
        else:
            self.files.append(SourceFile(path=path, language=language, size=state.st_size))


def _is_ignored(path: str, ignores: tuple[tuple[str, Patterns], ...]) -> bool:
    """Whether the ignore files above `path` leave it out; the innermost that says anything decides."""
    for base, spec in reversed(ignores):
        if (said := spec.says(path[len(base) + 1 :] if base else path)) is not None:
            return said
    return False


def discover(root: Path, settings: Settings) -> Discovery:
    """The source files under `root` (a folder, or a single file), links not followed."""
    search = _Search(root if root.is_dir() else root.parent, settings)
    if root.is_dir():
        search.walk("", ())
    else:
        language = search.suffixes.get(root.suffix)
        if language and stat.S_ISREG(root.stat().st_mode):
            search.files.append(SourceFile(path=root.name, language=language, size=root.stat().st_size))
    files = _not_compiled(search)
    return Discovery(
        files=tuple(sorted(files)),
        projects=tuple(search.projects),
        data=tuple(sorted(search.data)),
        left_out=dict(sorted(search.left_out.items())),
        trouble=tuple(sorted(search.trouble, key=lambda each: (each.path, each.line))),
        manifests=tuple(sorted(search.manifests)),
    )


def _not_compiled(search: _Search) -> list[SourceFile]:
    """The files without scripts that were compiled from source in the tree; those are counted."""
    compiled = {each: dialect_of(each).compiled_suffixes for each in LANGUAGES}
    scripts = tuple(suffix for suffixes in compiled.values() for suffix in suffixes)
    alike = [file.path for file in search.files if compiled[file.language]]
    stems = {without_suffix(path) for path in alike if not path.endswith(scripts)}
    every = {without_suffix(path) for path in alike}
    kept = []
    for file in search.files:
        if file.path.endswith(scripts) and _is_compiled(search.root, file.path, stems, every):
            search.left_out["compiled from source in the tree"] += 1
        else:
            kept.append(file)
    return kept


def _is_compiled(root: Path, path: str, typed: set[str], every: set[str]) -> bool:
    """Whether a script was made from a typed file beside it, from one in the `src` beside the folder for output, or from what
    its source map names."""
    stem = without_suffix(path)
    if stem in typed:
        return True
    for built in BUILT_FOLDERS:
        head, found, rest = f"/{stem}".partition(f"/{built}/")
        if found and f"{head}/src/{rest}".lstrip("/") in every:
            return True
    return _mapped(root, path, typed)


def _mapped(root: Path, path: str, typed: set[str]) -> bool:
    """Whether the source map beside a script names typed source that is in the tree."""
    beside = root / f"{path}.map"
    try:
        if not typed or not beside.is_file():
            return False
        content = msgspec.json.decode(read_plain(beside, LARGEST_MAP))
        sources = content.get("sources", ()) if isinstance(content, dict) else ()
    except (OSError, ValueError, RecursionError, msgspec.DecodeError):
        return False
    folder = posixpath.dirname(path)
    plain = (posixpath.normpath(posixpath.join(folder, each)) for each in sources if isinstance(each, str))
    return any(without_suffix(each) in typed for each in plain)
