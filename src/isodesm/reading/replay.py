"""Answers given before, by everything they were made from: where no file has changed, nothing need be worked out again."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Iterable
from functools import cache
from pathlib import Path
from typing import Any

import msgspec

import isodesm
from isodesm.disk.opening import read_plain
from isodesm.facts.records import FileFacts, digest_of
from isodesm.reading.cache import Cache
from isodesm.reading.discovery import discover
from isodesm.reading.projects import package_above
from isodesm.settings import Settings

LARGEST_ANSWER = 60_000_000
"""Bytes beyond which an answer is not kept: making it anew costs less than it takes up."""


@cache
def program_version() -> bytes:
    """A digest of the whole program with its data, so that no answer outlives a change of what gives it."""
    package, paths = os.path.dirname(isodesm.__file__), []
    for folder, below, names in os.walk(package):  # every command pays for this
        below[:] = (name for name in below if name != "samples")
        paths += [os.path.join(folder, name) for name in names if name.endswith((".py", ".scm", ".toml"))]
    digest = hashlib.blake2b(digest_size=16)
    for path in sorted(paths):
        digest.update(path.removeprefix(package).encode("utf-8", "surrogateescape"))
        with open(path, "rb") as content:
            digest.update(content.read())
    return digest.digest()


class Replay:
    """What was worked out before over one tree with its settings, looked for with `find` and kept with `keep`.

    A `shape` says what was asked; the same one always means the same type.
    """

    def __init__(self, root: Path, settings: Settings) -> None:
        self.root, self.folder, self.limit = root, Path(settings.cache_folder), settings.cache_limit
        digest = hashlib.blake2b(digest_size=20)
        digest.update(program_version())
        digest.update(root.resolve().name.encode("utf-8", "surrogateescape"))
        digest.update(msgspec.msgpack.encode(settings.of_results()))
        digest.update("\0".join(package_above(root if root.is_dir() else root.parent)).encode("utf-8", "surrogateescape"))
        found = discover(root, settings)
        self.digests: dict[str, str] = {}
        """File to the digest of its content, as the facts of a file have it."""
        digest.update(msgspec.msgpack.encode((found.left_out, found.trouble, found.manifests)))
        self._note(digest, found.projects)
        self._frame = digest.digest()
        self._note(digest, (*(file.path for file in found.files), *found.data))
        self._tree = digest.digest()
        files = (msgspec.structs.replace(each, digest=self.digests[each.path]) for each in found.files)
        self.found = msgspec.structs.replace(found, files=tuple(files))
        """What the tree holds, each source file with the digest of what it held then."""

    def _note(self, digest: Any, paths: Iterable[str]) -> None:
        for path in paths:
            self.digests[path] = self._digest_of(path)
            digest.update(f"{path}\0{self.digests[path]}\0".encode("utf-8", "surrogateescape"))

    def _digest_of(self, path: str) -> str:
        try:
            content = read_plain(self.root / path)
        except OSError as error:
            return str(error)
        return digest_of(content)

    @property
    def frame(self) -> bytes:
        """A digest of what is read besides source and definition files, and of what shapes results."""
        return self._frame

    @property
    def tree(self) -> str:
        """A digest of all that is read, with the settings and this program, in hexadecimal digits."""
        return self._tree.hex()

    def stands(self, files: Iterable[FileFacts]) -> bool:
        """Whether files were read as they had been found: a tree may change in between."""
        return all(self.digests.get(each.path) == each.digest for each in files)

    def _key(self, shape: object, of_tree: bool) -> bytes:
        found = self._tree if of_tree else self._frame
        return hashlib.blake2b(found + repr(shape).encode("utf-8", "surrogateescape"), digest_size=20).digest()

    def find(self, shape: object, kind: type[Any], *, of_tree: bool = True) -> Any | None:
        """What was kept, None if there is nothing; not `of_tree` what was kept last, whatever source files were like then."""
        cache = Cache(self.folder, self.limit)
        content = cache.answer(self._key(shape, of_tree))
        cache.close(evict=False)
        try:
            return msgspec.msgpack.decode(content, type=kind) if content else None
        except msgspec.DecodeError:
            return None

    def keep(self, shape: object, answer: Any, *, of_tree: bool = True) -> None:
        """Keep something for the next time, unless it is very large."""
        content = msgspec.msgpack.encode(answer)
        if len(content) <= LARGEST_ANSWER:
            cache = Cache(self.folder, self.limit)
            cache.keep_answer(self._key(shape, of_tree), content)
            cache.close()
