"""Answers of a run that was interrupted, kept until one over the same trees comes to its end."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from pathlib import Path

import msgspec

from isodesm import __version__
from isodesm.disk.own import drop_folder, keep
from isodesm.fleet.answers import Asked, TreeAnswer


class Kept:
    """The answers of a run over some trees, by what was asked."""

    def __init__(self, cache: Path, requests: Sequence[Asked]) -> None:
        whole = msgspec.msgpack.encode((__version__, [msgspec.structs.replace(each, files=None) for each in requests]))
        self.folder = cache / "fleet" / hashlib.blake2b(whole, digest_size=16).hexdigest()

    def found(self) -> dict[str, TreeAnswer]:
        """Tree to its answer, as far as they were kept and can be read."""
        known = {}
        for path in sorted(self.folder.glob("*.answer")) if self.folder.is_dir() else ():
            try:
                made = msgspec.msgpack.decode(path.read_bytes(), type=TreeAnswer)
            except (OSError, msgspec.DecodeError):
                continue
            known[made.name] = made
        return known

    def keep(self, answer: TreeAnswer) -> None:
        """Keep one; what can't be written is worked out again."""
        name = hashlib.blake2b(answer.name.encode("utf-8", "surrogateescape"), digest_size=16).hexdigest()
        try:
            keep(self.folder / f"{name}.answer", msgspec.msgpack.encode(answer))
        except OSError:
            return

    def forget(self) -> None:
        """The run came to its end."""
        drop_folder(self.folder)
