"""Answers given before, by everything they were made from: where no file has changed, nothing need be worked out again."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from functools import cache
from pathlib import Path
from typing import Any

import msgspec

import isodesm
from isodesm.reading.cache import Cache
from isodesm.reading.discovery import Discovery, discover
from isodesm.reading.opening import read_plain
from isodesm.reading.projects import package_above
from isodesm.settings import Settings

LARGEST_ANSWER = 60_000_000
"""Bytes beyond which an answer is not kept: making it anew costs less than it takes up."""


@cache
def program_version() -> bytes:
    """A digest of the whole program with its data, so that no answer outlives a change of what gives it."""
    package = Path(isodesm.__file__).parent
    digest = hashlib.blake2b(digest_size=16)
    for path in sorted(
        each for pattern in ("*.py", "*.scm", "*.toml") for each in package.rglob(pattern) if "samples" not in each.parts
    ):
        digest.update(path.relative_to(package).as_posix().encode())
        digest.update(path.read_bytes())
    return digest.digest()


class Replay:
    """The answer to one request over one tree, looked for with `find` and kept with `keep`."""

    def __init__(self, root: Path, settings: Settings, shape: bytes) -> None:
        self.root, self.folder, self.limit = root, Path(settings.cache_folder), settings.cache_limit
        digest = hashlib.blake2b(digest_size=20)
        digest.update(program_version())
        digest.update(shape)
        digest.update(msgspec.msgpack.encode(settings.of_results()))
        digest.update("\0".join(package_above(root if root.is_dir() else root.parent)).encode("utf-8", "surrogateescape"))
        self.found = discover(root, settings)
        for part in self._tree(self.found):
            digest.update(part)
        self.key = digest.digest()

    def _tree(self, found: Discovery) -> Iterator[bytes]:
        """Name and content of everything that is read, and what is said of the rest."""
        yield msgspec.msgpack.encode((found.left_out, found.trouble, found.manifests))
        for path in (*(file.path for file in found.files), *found.projects, *found.data):
            yield path.encode("utf-8", "surrogateescape")
            try:
                content = read_plain(self.root / path)
            except OSError as error:
                content = str(error).encode()
            yield len(content).to_bytes(8, "big")
            yield hashlib.blake2b(content, digest_size=20).digest()

    def find(self, kind: type[Any]) -> Any | None:
        """The answer that was kept, None if there is none."""
        cache = Cache(self.folder, self.limit)
        content = cache.answer(self.key)
        cache.close(evict=False)
        try:
            return msgspec.msgpack.decode(content, type=kind) if content else None
        except msgspec.DecodeError:
            return None

    def keep(self, answer: Any, size: int) -> None:
        """Keep an answer of about `size` bytes for the next time."""
        if size <= LARGEST_ANSWER:
            content = msgspec.msgpack.encode(answer)
            cache = Cache(self.folder, self.limit)
            cache.keep_answer(self.key, content)
            cache.close()
